"""Reading a studio in. An archive is somebody else's file until it is wholly checked: nothing of it is kept if
anything is wrong.

Members are read by the names the format gives them and never written under names of their own; every size is bounded
before it is read, every digest checked, every row built from the columns the format has.
"""

from __future__ import annotations

import hashlib
import json
import math
import struct
import zipfile
import zlib
from collections.abc import Iterator
from dataclasses import dataclass, field
from pathlib import Path
from typing import IO, Any
from uuid import UUID
from zoneinfo import available_timezones

from config.problems import ServiceError
from config.storage import is_full, require_room
from django.conf import settings
from django.core.exceptions import ValidationError
from django.core.files.base import File
from django.db import IntegrityError, models, transaction
from django.utils import timezone
from pydantic import ValidationError as ModelError

from apps.archive.models import Restore
from apps.archive.tables import BY_NAME, FORMAT, MANIFEST, TABLES, VERSION, Table
from apps.drills.models import Drill
from apps.drills.services import tell_facts
from apps.jobs import services as jobs
from apps.people import audit
from apps.people.models import Student, Studio, User
from apps.takes import services as takes
from apps.takes.models import Take

MOST_MEMBERS = 200_000
MOST_TABLE_BYTES = 4_000_000_000
MOST_LINE_BYTES = 32_000_000
MOST_MANIFEST_BYTES = 4_000_000
MOST_RATIO = 200.0
# Recordings and results hardly get smaller by packing; tables do, and are a small part.
MOST_RATIO_OF_ALL = 20.0
DAMAGED = (
    zipfile.BadZipFile, zipfile.LargeZipFile, zlib.error, struct.error, EOFError, ValueError, OverflowError,
    RecursionError,
)  # fmt: skip
CHUNK_BYTES = 1 << 18
BAD = "archive_invalid"


def refuse(why: str) -> ServiceError:
    """The whole archive, with the reason."""
    return ServiceError(422, BAD, f"This archive cannot be read in: {why} Nothing was changed.")


@dataclass
class _Work:
    """One restore on its way."""

    archive: zipfile.ZipFile
    studio: Studio
    lead: User | None
    keys: dict[str, dict[Any, Any]] = field(default_factory=dict)
    later: list[tuple[type[models.Model], Any, str, str, Any]] = field(default_factory=list)
    stored: list[Any] = field(default_factory=list)


def restore(source: Path | IO[bytes], *, studio: Studio, lead: User | None) -> dict[str, int]:
    """Read an archive into a studio that is empty; rows by table.

    lead: who the archive's leading teacher is here; None: that account is made anew, without a password. Other
    accounts are made without passwords. Raises ServiceError: nothing was changed then.
    """
    try:
        with zipfile.ZipFile(source) as archive:
            manifest = _manifest(archive)
            work = _Work(archive, studio, lead)
            try:
                with transaction.atomic():
                    counts = _read_in(work, manifest)
            except BaseException:
                for file in work.stored:
                    takes.remove_file(file)
                raise
    except DAMAGED as error:
        raise refuse("it is damaged, or no archive at all.") from error
    except OSError as error:  # a damaged archive sends its reader to places that are not there
        if is_full(error):
            raise
        raise refuse("it is damaged, or no archive at all.") from error
    except NotImplementedError as error:  # zipfile's own word for methods it does not know
        raise refuse("it is packed in a way this program does not read.") from error
    except IntegrityError as error:
        raise refuse("its rows contradict each other, or are here already.") from error
    return counts


def _manifest(archive: zipfile.ZipFile) -> dict[str, Any]:
    members = archive.infolist()
    names = [m.filename for m in members]
    if len(members) > MOST_MEMBERS or len(set(names)) != len(names):
        raise refuse("it has too many files in it, or one twice.")
    if MANIFEST not in names:
        raise refuse("it is not an archive of a studio.")
    for member in members:
        _check_member(member)
    unpacked, packed = sum(m.file_size for m in members), sum(m.compress_size for m in members)
    if unpacked > MOST_RATIO_OF_ALL * packed + 50_000_000:
        raise refuse("it unpacks to far more than recordings and results do.")
    require_room(unpacked)
    text = _bytes(archive, MANIFEST, MOST_MANIFEST_BYTES)
    try:
        manifest = json.loads(text)
        if manifest["format"] != FORMAT:
            raise refuse("it is not an archive of a studio.")
        if manifest["version"] != VERSION:
            raise refuse(f"it is of version {manifest['version']}; this program reads version {VERSION}.")
        for name, table in BY_NAME.items():
            if table.optional and name not in manifest["tables"]:
                continue
            rows, digest = manifest["tables"][name]["rows"], manifest["tables"][name]["sha256"]
            if not (isinstance(rows, int) and isinstance(digest, str)):
                raise TypeError(name)
        if not all(isinstance(manifest["studio"][k], str) for k in ("name", "zone")):
            raise TypeError("studio")
    except (ValueError, KeyError, TypeError, AttributeError, RecursionError) as error:
        raise refuse("its manifest is not complete.") from error
    return manifest


def _check_member(member: zipfile.ZipInfo) -> None:
    name = member.filename
    if name.startswith("/") or "\\" in name or ".." in Path(name).parts or member.is_dir():
        raise refuse("it holds names that lead elsewhere.")
    if not name.startswith(("tables/", "recordings/", "results/")) and name != MANIFEST:
        raise refuse(f"it holds {name[:60]!r}, which is no part of an archive.")
    if name.startswith("recordings/") and member.file_size > settings.UPLOAD_MAX_BYTES:
        raise refuse("it holds a recording that is larger than those that are taken.")
    if member.flag_bits & 0x1:
        raise refuse("it is locked with a password.")
    if member.file_size > MOST_TABLE_BYTES or member.file_size > MOST_RATIO * max(1, member.compress_size) + 100_000:
        raise refuse("it says that it unpacks to far more than it can.")


def _bytes(archive: zipfile.ZipFile, name: str, most: int) -> bytes:
    with archive.open(name) as member:
        content = member.read(most + 1)
    if len(content) > most:
        raise refuse(f"{name} is too long.")
    return content


def _read_in(work: _Work, manifest: dict[str, Any]) -> dict[str, int]:
    studio = Studio.objects.select_for_update().get(pk=work.studio.pk)
    if Student.objects.filter(studio=studio).exists():
        raise ServiceError(
            409,
            "not_empty",
            "Archives are read into a studio without students, so that nothing is mixed. Begin with an empty one.",
        )
    Drill.objects.filter(studio=studio).update(current=None)
    Drill.objects.filter(studio=studio).delete()
    counts = {table.name: _table(work, table, manifest["tables"].get(table.name)) for table in TABLES}
    for model, pk, column, other, key in work.later:
        model._default_manager.filter(pk=pk).update(**{column: _link(work, other, key)})
    tell_facts(studio)
    Studio.objects.filter(pk=studio.pk).update(**_studio(manifest))
    # What was on its way when the archive was made is measured now.
    unfinished = Take.objects.filter(student__studio=studio, state__in=Take.UNFINISHED)
    jobs.ask_all(takes.MEASURING, list(unfinished.values_list("pk", flat=True)))
    Restore.objects.create(studio=studio, at=timezone.now(), made_by=work.lead, counts=counts)
    return counts


def _studio(manifest: dict[str, Any]) -> dict[str, str]:
    found = Studio(name=manifest["studio"]["name"], zone=manifest["studio"]["zone"])
    try:
        found.clean_fields()
    except ValidationError as error:
        raise refuse("the studio's name is not usable.") from error
    if found.zone not in available_timezones():
        raise refuse("its time zone does not exist.")
    return {"name": found.name, "zone": found.zone}


def _table(work: _Work, table: Table, said: dict[str, Any] | None) -> int:
    if said is None:
        work.keys.setdefault(table.name, {})
        return 0
    if table.member not in work.archive.namelist():
        raise refuse(f"{table.member} is missing.")
    own = work.keys.setdefault(table.name, {})
    digest, count = hashlib.sha256(), 0
    for number, line in enumerate(_lines(work.archive, table.member), 1):
        digest.update(line)
        count += 1
        _row(work, table, own, line, number)
    if digest.hexdigest() != said["sha256"] or count != said["rows"]:
        raise refuse(f"{table.member} is not as its manifest says.")
    return count


def _lines(archive: zipfile.ZipFile, name: str) -> Iterator[bytes]:
    total = 0
    with archive.open(name) as member:
        while line := member.readline(MOST_LINE_BYTES):
            total += len(line)
            if total > MOST_TABLE_BYTES or not line.endswith(b"\n"):
                raise refuse(f"{name} is too long, or cut off.")
            yield line


def _row(work: _Work, table: Table, own: dict[Any, Any], line: bytes, number: int) -> None:
    where = f"line {number} of {table.name}"
    try:
        row = json.loads(line, parse_constant=_no_constant)
    except (ValueError, RecursionError) as error:
        raise refuse(f"{where} is no JSON.") from error
    expected = {"key", *table.columns, *table.links, *table.later, *table.files}
    if isinstance(row, dict):
        row = {**table.newer, **{name: value for name, value in row.items() if name not in table.older}}
    if not isinstance(row, dict) or set(row) != expected:
        raise refuse(f"{where} does not have the columns of its table.")
    key = row["key"]
    if key in own or isinstance(key, bool) or not isinstance(key, str if table.uuid else int):
        raise refuse(f"{where} has a key that is not its own.")
    built = table.model()
    try:
        if table.uuid:
            built.pk = UUID(str(key))
        for column in table.columns:
            _fill(table, built, column, row[column])
    except (ValueError, TypeError, OverflowError, ModelError, ValidationError) as error:
        raise refuse(f"{where} has a value that cannot be.") from error
    for column, other in table.links.items():
        setattr(built, f"{column}_id", _link(work, other, row[column]))
    if table.model is User:
        own[key] = _user(work, built, where)
        return
    if hasattr(built, "studio_id"):
        built.studio_id = work.studio.pk
    files = _check_built(table, built, row, where)
    if table.model is Take and files["upload"] is not None and files["upload"].get("sha256") != row["sha256"]:
        raise refuse(f"the recording of {where} is another one.")
    for column, said in files.items():
        _store(work, built, column, said, where)
    if table.uuid and table.model._default_manager.filter(pk=built.pk).exists():
        raise refuse("recordings or sheets of it are in this installation already.")
    _insert(built)
    own[key] = built.pk
    work.later += [
        (table.model, built.pk, column, other, row[column])
        for column, other in table.later.items()
        if row[column] is not None
    ]


def _insert(built: models.Model) -> None:
    """Save a new row; a column that fills itself in on saving keeps what the archive says."""
    model = type(built)
    said = {f.name: getattr(built, f.name) for f in model._meta.fields if getattr(f, "auto_now_add", False)}
    built.save(force_insert=True)
    if said:
        model._default_manager.filter(pk=built.pk).update(**said)


def _no_constant(text: str) -> float:
    raise ValueError(f"{text} is no JSON")


def _fill(table: Table, built: models.Model, column: str, value: Any) -> None:
    found: Any = table.model._meta.get_field(column)
    check = table.checks.get(column)
    if check is not None and value is not None:
        check(value)
    if isinstance(found, models.FloatField) and value is not None and not math.isfinite(float(value)):
        raise ValueError(column)
    setattr(built, column, value if isinstance(found, models.JSONField) else found.to_python(value))


def _check_built(table: Table, built: models.Model, row: dict[str, Any], where: str) -> dict[str, Any]:
    """What every column must be by itself; the files a row says it has."""
    skip = {f.name for f in table.model._meta.fields if f.name not in table.columns}
    # JSON columns have been checked by what they mean; empty ones are Django's own business.
    skip |= {n for n in table.columns if isinstance(table.model._meta.get_field(n), models.JSONField)}
    try:
        built.clean_fields(exclude=skip)
    except ValidationError as error:
        nothing = all(m.code in ("blank",) for errors in error.error_dict.values() for m in errors)
        nulls_allowed = all(
            table.model._meta.get_field(n).null for n in error.error_dict if getattr(built, n, None) is None
        )
        if not (nothing and nulls_allowed):
            raise refuse(f"{where} has a value that cannot be.") from error
    return {column: row[column] for column in table.files}


def _link(work: _Work, table: str, key: Any) -> Any:
    if key is None:
        return None
    found = work.keys.get(table, {}).get(key) if isinstance(key, (int, str)) else None
    if found is None:
        raise refuse(f"a row points to one of {table} that is not there.")
    return found


def _user(work: _Work, built: Any, where: str) -> int:
    """The archive's leading teacher is who restores; others become accounts without a password."""
    if built.role not in User.Role.values:
        raise refuse(f"{where} has a role that does not exist.")
    if built.leads and work.lead is not None:
        return work.lead.pk
    built.studio_id = work.studio.pk
    built.set_unusable_password()
    try:
        built.clean_fields(exclude={"studio", "password"})
    except ValidationError as error:
        raise refuse(f"{where} has a value that cannot be.") from error
    if User.objects.filter(email__iexact=built.email).exists():
        raise ServiceError(
            409,
            "email_taken",
            f"There already is an account for {built.email} in this installation. Nothing was changed.",
        )
    _insert(built)
    return int(built.pk)


def _store(work: _Work, built: models.Model, column: str, said: Any, where: str) -> None:
    """Copy a member into the store under a name of our own, checking it on the way."""
    if said is None:
        return
    try:
        name, digest, size = said["member"], said["sha256"], said["bytes"]
        info = work.archive.getinfo(name)
    except (KeyError, TypeError) as error:
        raise refuse(f"a file of {where} is missing.") from error
    except (ValueError, AttributeError) as error:
        raise refuse(f"a file of {where} has no name.") from error
    if info.file_size != size:
        raise refuse(f"{name} is not as long as its row says.")
    target = getattr(built, column)
    with work.archive.open(info) as member:
        checked: Any = _Checked(member, digest)
        target.save("restored", File(checked, name="restored"), save=False)
        work.stored.append(target)
    if not checked.right:
        raise refuse(f"{name} is not what its row says.")


class _Checked:
    """A member that is digested while it is copied."""

    def __init__(self, member: IO[bytes], digest: str) -> None:
        self._member, self._digest, self._sum = member, digest, hashlib.sha256()
        self.size = 0

    def read(self, size: int = -1) -> bytes:
        part = self._member.read(size)
        self._sum.update(part)
        return part

    def chunks(self, chunk_size: int | None = None) -> Iterator[bytes]:
        """As storages read uploads."""
        while part := self.read(chunk_size or CHUNK_BYTES):
            yield part

    @property
    def closed(self) -> bool:
        """As files say."""
        return self._member.closed

    @property
    def right(self) -> bool:
        """Whether everything that was read is what was said."""
        return self._sum.hexdigest() == self._digest


def note(actor: User | None, studio: Studio, counts: dict[str, int]) -> None:
    """Write down that an archive was read in."""
    if actor is not None:
        audit.changed(actor, "restored", what=f"{counts['students']} students, {counts['takes']} takes")
