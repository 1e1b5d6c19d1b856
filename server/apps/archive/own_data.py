"""Everything about one student in open formats, for themselves: a ZIP that is written as it is sent."""

from __future__ import annotations

import csv
import io
import json
import logging
import zipfile
from collections.abc import Iterator, Sequence
from pathlib import PurePath
from typing import Any

from config.problems import ServiceError
from django.core.serializers.json import DjangoJSONEncoder
from fortimetra import FortimetraError
from fortimetra.coach import step_words
from fortimetra.model import Step

from apps.archive.out import CHUNK_BYTES, Pipe, info
from apps.people.models import AuditEntry, Student, User
from apps.reviews import exports
from apps.reviews.models import WordMark
from apps.takes.models import Take

log = logging.getLogger(__name__)
RESULTS: tuple[exports.Kind, ...] = ("analysis", "notes", "contour")
READ_ME = """\
Everything Fortimetra keeps about {name}, of {at:%Y-%m-%d %H:%M} UTC.

recordings/   as they were sent; none where a recording was deleted and its numbers were kept
results/      what was measured in each: all of it (JSON, docs/formats/analysis), the notes (CSV), the pitch (CSV)
takes.csv     a line a take: when, which drill, how it went, the names of its files
marks.csv     what the teacher said of takes and notes
logbook.csv   practice, notes and discomfort that were logged
plan.csv      what was assigned, until when, and the step of its ladder
agreed.csv    who agreed to recordings, when and how, and when it was taken back
guitars.json  guitars as they were described
sheets/       lesson sheets (JSON, and the PDF where one was made)
activity.csv  who looked at, changed or took out what; sign-ins
"""


def stream(student: Student, *, at: Any) -> Iterator[bytes]:
    """The ZIP in pieces."""
    pipe = Pipe()
    with zipfile.ZipFile(pipe, "w", zipfile.ZIP_DEFLATED, allowZip64=True) as archive:  # type: ignore[call-overload]
        archive.writestr(info("README.txt"), READ_ME.format(name=student.name, at=at))
        rows = []
        for take in _takes(student):
            name = f"{take.played_at:%Y-%m-%d %H%M} {take.pk.hex[:8]}"
            recording = f"recordings/{name}{PurePath(take.original_name).suffix[:8].lower()}" if take.upload else ""
            for _ in _stored(archive, recording, take.upload) if recording else ():
                yield pipe.taken()
            results = list(_results(archive, name, take))
            rows.append(_take_row(take, recording, results))
            yield pipe.taken()
        _table(archive, "takes.csv", TAKE_COLUMNS, rows)
        _tables(archive, student)
        for sheet in student.sheets.all():
            name = f"sheets/{sheet.made_at:%Y-%m-%d} {sheet.pk.hex[:8]}"
            _json(archive, f"{name}.json", sheet.content)
            if sheet.pdf:
                for _ in _stored(archive, f"{name}.pdf", sheet.pdf):
                    yield pipe.taken()
    yield pipe.taken()


TAKE_COLUMNS = (
    "id",
    "played_at",
    "drill",
    "state",
    "asked",
    "clean",
    "not_clean",
    "unclear",
    "missed",
    "recording",
    "results",
)


def _takes(student: Student) -> Iterator[Take]:
    found = Take.objects.filter(student=student).select_related("drill_version__drill", "current").order_by("played_at")
    return found.iterator(chunk_size=20)


def _take_row(take: Take, recording: str, results: Sequence[str]) -> tuple[Any, ...]:
    counts = take.current.counts if take.current else {}
    told = (counts.get(k, "") for k in ("asked", "clean", "not_clean", "unclear", "missed"))
    return (
        take.pk,
        take.played_at.isoformat(),
        take.drill_version.drill.title,
        take.state,
        *told,
        recording,
        " ".join(results),
    )


def _results(archive: zipfile.ZipFile, name: str, take: Take) -> Iterator[str]:
    if take.current is None:
        return
    for kind in RESULTS:
        try:
            made = exports.export(take, take.current, kind)
        except (OSError, ServiceError, FortimetraError):
            log.warning("results of take %s are not readable as %s", take.pk, kind, exc_info=True)
            continue
        member = f"results/{name}.{made.ending}"
        archive.writestr(info(member), made.content)
        yield member


def _stored(archive: zipfile.ZipFile, name: str, stored: Any) -> Iterator[None]:
    try:
        source = stored.open("rb")
    except (OSError, ValueError):
        log.warning("%s is not there", stored.name)
        return
    with source, archive.open(info(name, stored=True), "w", force_zip64=True) as member:
        while chunk := source.read(CHUNK_BYTES):
            member.write(chunk)
            yield


def _tables(archive: zipfile.ZipFile, student: Student) -> None:
    marks = WordMark.objects.filter(take__student=student).select_related("made_by").order_by("made_at")
    said = [
        (m.take_id, m.made_at, _name(m.made_by), m.undone_at, json.dumps(m.content, ensure_ascii=False)) for m in marks
    ]
    _table(archive, "marks.csv", ("take", "made_at", "by", "undone_at", "says"), said)
    entries = student.log.select_related("assignment__drill", "made_by").order_by("day", "made_at")
    logged = [
        (
            e.day,
            e.kind,
            e.minutes,
            e.text,
            e.assignment.drill.title if e.assignment else "",
            _name(e.made_by),
            e.made_at,
        )
        for e in entries
    ]
    _table(archive, "logbook.csv", ("day", "kind", "minutes", "text", "drill", "by", "made_at"), logged)
    assigned = [
        (
            a.drill.title,
            a.begins,
            a.ends,
            a.ended_at,
            a.minutes,
            a.days,
            step_words(Step.model_validate(a.step)),
            a.note,
        )
        for a in student.assignments.select_related("drill").order_by("begins")
    ]
    _table(archive, "plan.csv", ("drill", "begins", "ends", "ended_at", "minutes", "days", "step", "note"), assigned)
    seen = AuditEntry.objects.filter(student=student).order_by("at", "pk")
    _table(
        archive, "activity.csv", ("at", "who", "did", "what"), [(e.at, e.actor_name, e.action, e.what) for e in seen]
    )
    agreed = [
        (c.day, c.by, c.name, c.way, c.to, _name(c.written_by), c.written_at, c.withdrawn_at, c.withdrawn_by)
        for c in student.consents.select_related("written_by")
    ]
    columns = ("day", "by", "name", "way", "to", "written_by", "written_at", "withdrawn_at", "withdrawn_by")
    _table(archive, "agreed.csv", columns, agreed)
    _json(archive, "guitars.json", [{"name": g.name, **g.description} for g in student.guitars.all()])


def _table(archive: zipfile.ZipFile, name: str, columns: Sequence[str], rows: Sequence[Sequence[Any]]) -> None:
    out = io.StringIO()
    writer = csv.writer(out)
    writer.writerow(columns)
    writer.writerows(["" if v is None else _inert(v) for v in row] for row in rows)
    archive.writestr(info(name), out.getvalue())


def _inert(value: Any) -> Any:
    """A text that a spreadsheet would take for a formula is only text."""
    text = value.isoformat() if hasattr(value, "isoformat") else value
    return f"'{text}" if isinstance(text, str) and text[:1] in "=+-@\t\r" else text


def _name(user: User | None) -> str:
    return "" if user is None else user.name


def _json(archive: zipfile.ZipFile, name: str, content: Any) -> None:
    text = json.dumps(content, cls=DjangoJSONEncoder, ensure_ascii=False, indent=1)
    archive.writestr(info(name), text + "\n")
