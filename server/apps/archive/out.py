"""Taking a studio out: a ZIP written as it is sent, so that its size does not matter."""

from __future__ import annotations

import hashlib
import json
import zipfile
from collections.abc import Iterator
from typing import Any

from django.core.serializers.json import DjangoJSONEncoder
from django.db import transaction
from django.db.models import Model
from django.utils import timezone
from fortimetra import __version__

from apps.archive.tables import FORMAT, MANIFEST, TABLES, VERSION, Table
from apps.people.models import Studio

CHUNK_BYTES = 1 << 18
_EPOCH = (1980, 1, 1, 0, 0, 0)


class Pipe:
    """What the ZIP is written into: whoever asks takes what has come so far."""

    def __init__(self) -> None:
        self.parts: list[bytes] = []
        self.size = 0

    def write(self, data: bytes) -> int:
        self.parts.append(bytes(data))
        self.size += len(data)
        return len(data)

    def flush(self) -> None:
        """Nothing is held back."""

    def taken(self) -> bytes:
        out = b"".join(self.parts)
        self.parts, self.size = [], 0
        return out


def stream(studio: Studio) -> Iterator[bytes]:
    """The archive in pieces. Everything in it is of one moment: the transaction it is read in."""
    pipe = Pipe()
    with transaction.atomic(), zipfile.ZipFile(pipe, "w", zipfile.ZIP_DEFLATED, allowZip64=True) as archive:  # type: ignore[call-overload]
        keys = {t.name: list(_rows(t, studio).values_list("pk", flat=True)) for t in TABLES}
        numbers = {t.name: {pk: (str(pk) if t.uuid else n) for n, pk in enumerate(keys[t.name], 1)} for t in TABLES}
        files: dict[str, dict[str, Any]] = {}
        missing: list[str] = []
        for table in TABLES:
            if table.files:
                for _ in _files(archive, table, keys[table.name], numbers, files, missing):
                    yield pipe.taken()
        manifest: dict[str, Any] = {
            "format": FORMAT,
            "version": VERSION,
            "core_version": __version__,
            "made_at": timezone.now().isoformat(),
            "studio": {"name": studio.name, "zone": studio.zone},
            "tables": {},
            "missing_files": missing,
        }
        for table in TABLES:
            digest, count = hashlib.sha256(), 0
            with archive.open(info(table.member), "w", force_zip64=True) as member:
                for line in _lines(table, keys[table.name], numbers, files):
                    member.write(line)
                    digest.update(line)
                    count += 1
                    if pipe.size > CHUNK_BYTES:
                        yield pipe.taken()
            manifest["tables"][table.name] = {"rows": count, "sha256": digest.hexdigest()}
        archive.writestr(info(MANIFEST), json.dumps(manifest, indent=1, ensure_ascii=False) + "\n")
    yield pipe.taken()


def _rows(table: Table, studio: Studio) -> Any:
    return table.model._default_manager.filter(table.of_studio(studio)).order_by("pk")


def info(name: str, *, stored: bool = False) -> zipfile.ZipInfo:
    info = zipfile.ZipInfo(name, _EPOCH)
    info.compress_type = zipfile.ZIP_STORED if stored else zipfile.ZIP_DEFLATED
    info.external_attr = 0o600 << 16
    return info


def _batches(table: Table, keys: list[Any], *columns: str) -> Iterator[Model]:
    """Rows by key, some at a time: the database's client would hold them all."""
    for start in range(0, len(keys), table.batch):
        part = keys[start : start + table.batch]
        found = table.model._default_manager.filter(pk__in=part)
        if columns:
            found = found.only("pk", *columns)
        there = {row.pk: row for row in found}
        yield from (there[pk] for pk in part if pk in there)


def _files(
    archive: zipfile.ZipFile,
    table: Table,
    keys: list[Any],
    numbers: dict[str, dict[Any, Any]],
    files: dict[str, dict[str, Any]],
    missing: list[str],
) -> Iterator[None]:
    # What recordings are made of is compressed already.
    for row in _batches(table, keys, *table.files):
        for column, pattern in table.files.items():
            name = pattern.format(key=numbers[table.name][row.pk])
            stored = getattr(row, column)
            if not stored:
                continue  # its sound was deleted, its numbers kept
            digest, size = hashlib.sha256(), 0
            try:
                source = stored.open("rb")
            except (OSError, ValueError):
                missing.append(name)
                continue
            with source, archive.open(info(name, stored=True), "w", force_zip64=True) as member:
                while chunk := source.read(CHUNK_BYTES):
                    member.write(chunk)
                    digest.update(chunk)
                    size += len(chunk)
                    yield
            files[name] = {"member": name, "sha256": digest.hexdigest(), "bytes": size}


def _lines(
    table: Table, keys: list[Any], numbers: dict[str, dict[Any, Any]], files: dict[str, dict[str, Any]]
) -> Iterator[bytes]:
    own = numbers[table.name]
    for row in _batches(table, keys):
        line: dict[str, Any] = {"key": own[row.pk]}
        line |= {name: getattr(row, name) for name in table.columns}
        for name, other in {**table.links, **table.later}.items():
            line[name] = numbers[other].get(getattr(row, f"{name}_id"))
        for name, pattern in table.files.items():
            line[name] = files.get(pattern.format(key=own[row.pk]))
        yield json.dumps(line, cls=_Encoder, ensure_ascii=False, separators=(",", ":")).encode() + b"\n"


class _Encoder(DjangoJSONEncoder):
    """Times to the microsecond: Django's own cuts them to the millisecond, and then they would not come back as they
    were.
    """

    def default(self, o: Any) -> Any:
        return o.isoformat() if hasattr(o, "isoformat") else super().default(o)
