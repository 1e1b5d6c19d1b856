"""A studio taken out and read in again: equal, or refused as a whole."""

import hashlib
import io
import json
import struct
import zipfile
from pathlib import Path

import pytest
from apps.archive.back import restore
from apps.archive.new_studio import restore_as_new
from apps.archive.out import stream
from apps.archive.tables import MANIFEST, TABLES
from apps.bench.models import EarCheck
from apps.drills import cards
from apps.people.models import AuditEntry, Student, User
from apps.people.services import create_studio
from apps.plans import services as plans
from apps.reports import sheets
from apps.reviews import word
from apps.takes.models import Analysis, Take
from config.problems import ServiceError
from django.conf import settings as django_settings
from django.core.files.uploadedfile import SimpleUploadedFile
from django.db import models
from django.utils import timezone
from fortimetra.model.ladder import Step
from fortimetra.model.word import Mark

from tests.server.conftest import PASSWORD, client_of
from tests.server.test_access import TERMS

pytestmark = pytest.mark.django_db


@pytest.fixture
def full(few, measured, guitar, teacher, student, drill):
    """A studio with something in every table."""
    EarCheck.objects.create(student=student, kind="pitch", seed=1, started_at=timezone.now())
    user = User.objects.create_user("nele@a.example", PASSWORD, name="Nele", studio=teacher.studio, role="student")
    Student.objects.filter(pk=student.pk).update(user=user)
    student.refresh_from_db()
    word.add_mark(teacher, measured.pk, Mark(kind="comment", text="nice, – “so”"))
    found = plans.assign(teacher, student, drill, terms=TERMS, step=Step(bpm=66), pair=None)
    plans.shift(teacher, found, since=timezone.localdate(), to=None)
    plans.set_practice(user, student, minutes=[10.0] * 7, at=timezone.now().time())
    plans.log(user, student, kind="practice", day=timezone.localdate(), minutes=4, text="", assignment=found)
    plans.log(user, student, kind="discomfort", day=timezone.localdate(), minutes=None, text="wrist", assignment=None)
    from apps.plans import ladders

    ladders.set_step(teacher, found, Step(bpm=60), why="")
    sheets.make(teacher, student, since=None, paper="A4")
    cards.write(teacher, drill, section="practise", of="drill", lines=["Only here."])
    return teacher


@pytest.fixture
def archive(full):
    return b"".join(stream(full.studio))


def members(content):
    with zipfile.ZipFile(io.BytesIO(content)) as file:
        assert file.testzip() is None
        return {name: file.read(name) for name in file.namelist()}


def wipe(full):
    """Another installation: nothing of the studio is here."""
    studio = full.studio
    rows = {t.name: t.model._default_manager.filter(t.of_studio(studio)) for t in TABLES}
    for table in TABLES:
        links = [f.name for f in table.model._meta.fields if isinstance(f, models.ForeignKey) and f.null]
        if links and table.name != "students":
            rows[table.name].update(**dict.fromkeys(links))
    for table in reversed(TABLES):
        rows[table.name].delete()
    studio.delete()


def test_out_and_back_in_is_equal(full, archive, tmp_path):
    before = members(archive)
    manifest = json.loads(before[MANIFEST])
    assert [t.name for t in TABLES if not manifest["tables"][t.name]["rows"]] == []
    wipe(full)
    (tmp_path / "studio.zip").write_bytes(archive)
    lead, counts, path = restore_as_new(tmp_path / "studio.zip")
    assert (lead.email, counts["takes"], path[:7]) == ("ada@a.example", 1, "/reset/")
    assert not lead.has_usable_password()
    after = members(b"".join(stream(lead.studio)))
    again = json.loads(after.pop(MANIFEST))
    before.pop(MANIFEST)
    assert after.keys() == before.keys()
    for name in before:
        assert after[name] == before[name], name
    assert again["tables"] == manifest["tables"]
    # And it works: the sheet of the take opens, the sound is there.
    User.objects.filter(pk=lead.pk).update(is_active=True)
    take = Take.objects.get()
    client = client_of(lead)
    assert client.get(f"/api/v1/takes/{take.pk}/analysis").status_code == 200
    assert b"".join(client.get(f"/api/v1/takes/{take.pk}/original").streaming_content) == take.upload.open("rb").read()


def older(row):
    """A drill as archives had it before forms and partners."""
    return {k: v for k, v in row.items() if k not in {"form", "values", "partner"}}


def test_an_archive_of_before_is_read_in_and_its_drills_are_listed(full, archive):
    def change(there):
        rows = [older(json.loads(line)) for line in there["tables/drills.jsonl"].splitlines()]
        there["tables/drills.jsonl"] = b"".join(json.dumps(row).encode() + b"\n" for row in rows)
        digest_anew(there, "drills")

    wipe(full)
    other = create_studio(name="New quay", teacher_name="Ada", email="ada@b.example", password=PASSWORD)
    restore(io.BytesIO(rewritten(archive, change)), studio=other.studio, lead=other)
    rows = client_of(other).get("/api/v1/drills").json()
    assert len(rows) == other.studio.drills.count() == 12
    assert next(r for r in rows if r["title"] == "String 3: full bend at fret 7")["frets"] == [7, 9]


def test_secrets_are_in_no_archive(full, archive):
    text = b"".join(members(archive).values())
    assert full.password.encode() not in text
    for row in full.studio.users.all():
        assert row.password.encode() not in text


def test_the_lead_reads_an_archive_into_an_empty_studio(full, archive):
    wipe(full)
    other = create_studio(name="New quay", teacher_name="Ada", email="ada@b.example", password=PASSWORD)
    client = client_of(other)
    answer = client.post("/api/v1/reports/archive", {"file": SimpleUploadedFile("studio.zip", archive)})
    assert answer.status_code == 200, answer.json()
    assert answer.json()["students"] == 1
    assert [s["name"] for s in client.get("/api/v1/students").json()] == ["Nele"]
    assert client.get("/api/v1/me").json()["studio"] == "Studio A"
    again = client.post("/api/v1/reports/archive", {"file": SimpleUploadedFile("studio.zip", archive)})
    assert (again.status_code, again.json()["code"]) == (409, "not_empty")


def test_an_archive_whose_people_are_here_already_is_refused_whole(full, archive):
    other = create_studio(name="Other", teacher_name="O", email="o@o.example", password=PASSWORD)
    drills = list(other.studio.drills.values_list("pk", flat=True))
    with pytest.raises(ServiceError) as refused:
        restore(io.BytesIO(archive), studio=other.studio, lead=other)
    assert refused.value.code == "email_taken"
    assert list(other.studio.drills.values_list("pk", flat=True)) == drills


def rewritten(content, change):
    """The archive with its members changed."""
    there = members(content)
    change(there)
    out = io.BytesIO()
    with zipfile.ZipFile(out, "w", zipfile.ZIP_DEFLATED) as file:
        for name, data in there.items():
            file.writestr(name, data)
    return out.getvalue()


def digest_anew(there, table):
    """Make the manifest fit a table that was changed."""
    manifest = json.loads(there[MANIFEST])
    manifest["tables"][table]["sha256"] = hashlib.sha256(there[f"tables/{table}.jsonl"]).hexdigest()
    there[MANIFEST] = json.dumps(manifest).encode()


def with_row(table, **values):
    """Change a table's first row, and the manifest so that it fits."""

    def change(there):
        name = f"tables/{table}.jsonl"
        lines = there[name].splitlines(keepends=True)
        row = json.loads(lines[0])
        row.update(values)
        lines[0] = json.dumps(row).encode() + b"\n"
        there[name] = b"".join(lines)
        digest_anew(there, table)

    return change


def manifest_with(**values):
    def change(there):
        there[MANIFEST] = json.dumps(json.loads(there[MANIFEST]) | values).encode()

    return change


def add(name, data=b"x"):
    return lambda there: there.update({name: data})


def spoil(prefix, data=None):
    def change(there):
        name = next(n for n in there if n.startswith(prefix))
        there[name] = there[name][:-1] + b"!" if data is None else data

    return change


HOSTILE = {
    "no zip": lambda a: b"Dear Ines, this is no archive.",
    "empty": lambda a: b"",
    "cut off": lambda a: a[: len(a) // 2],
    "another zip": lambda a: rewritten(a, lambda there: there.pop(MANIFEST)),
    "another format": lambda a: rewritten(a, manifest_with(format="something")),
    "a later version": lambda a: rewritten(a, manifest_with(version=2)),
    "half a manifest": lambda a: rewritten(a, manifest_with(tables={})),
    "a manifest that is no object": lambda a: rewritten(a, add(MANIFEST, b"[]")),
    "a missing table": lambda a: rewritten(a, lambda there: there.pop("tables/takes.jsonl")),
    "a path upwards": lambda a: rewritten(a, add("recordings/../../etc/passwd")),
    "an absolute path": lambda a: rewritten(a, add("/etc/passwd")),
    "something else": lambda a: rewritten(a, add("run.sh")),
    "a bomb": lambda a: rewritten(a, add("tables/bomb.jsonl", b"\0" * 60_000_000)),
    "a changed table": lambda a: rewritten(a, spoil("tables/drills")),
    "a changed recording": lambda a: rewritten(a, spoil("recordings/")),
    "a shortened recording": lambda a: rewritten(a, spoil("recordings/", b"x")),
    "a missing recording": lambda a: rewritten(a, lambda t: [t.pop(n) for n in list(t) if n.startswith("recordings/")]),
    "a foreign column": lambda a: rewritten(a, with_row("users", is_superuser=True)),
    "a wrong type": lambda a: rewritten(a, with_row("students", name=None)),
    "too long a name": lambda a: rewritten(a, with_row("students", name="x" * 500)),
    "a number that is none": lambda a: rewritten(a, with_row("takes", need="many")),
    "an infinite number": lambda a: rewritten(a, with_row("takes", need=1e999)),
    "a drill that is none": lambda a: rewritten(a, with_row("drill_versions", content={"format": "x"})),
    "a form that is none": lambda a: rewritten(a, with_row("drills", values={"fret": 7})),
    "an analysis that is none": lambda a: rewritten(a, with_row("analyses", content={})),
    "a sheet that is none": lambda a: rewritten(a, with_row("lesson_sheets", content={})),
    "a ladder that says nothing": lambda a: rewritten(a, with_row("assignments", standing={})),
    "a week of two days": lambda a: rewritten(a, with_row("practice", minutes=[10, 10])),
    "counts that are words": lambda a: rewritten(a, with_row("analyses", counts={"clean": "many"})),
    "a state that is none": lambda a: rewritten(a, with_row("takes", state="dancing")),
    "a link to nowhere": lambda a: rewritten(a, with_row("guitars", student=99)),
    "a key of another kind": lambda a: rewritten(a, with_row("takes", key=1)),
    "a file that is another's": lambda a: rewritten(
        a, with_row("takes", upload={"member": MANIFEST, "sha256": "0", "bytes": 1})
    ),
    "no json": lambda a: rewritten(a, add("tables/users.jsonl", b"hello\n")),
    "a clock that is none": lambda a: rewritten(a, manifest_with(studio={"name": "x", "zone": "Mars/Olympus"})),
}


def test_what_is_damaged_foreign_or_hostile_is_refused_whole_with_a_sentence(full, archive):
    wipe(full)
    before = {p for p in Path(django_settings.MEDIA_ROOT).rglob("*") if p.is_file()}
    other = create_studio(name="New quay", teacher_name="Ada", email="ada@b.example", password=PASSWORD)
    drills = list(other.studio.drills.values_list("pk", flat=True))
    for name, spoiled in HOSTILE.items():
        with pytest.raises(ServiceError) as refused:
            restore(io.BytesIO(spoiled(archive)), studio=other.studio, lead=other)
        assert refused.value.status in (409, 422), name
        assert refused.value.detail.endswith("Nothing was changed."), name
        assert list(other.studio.drills.values_list("pk", flat=True)) == drills, name
        assert not Take.objects.exists(), name
        assert not Student.objects.exists(), name
        assert {p for p in Path(django_settings.MEDIA_ROOT).rglob("*") if p.is_file()} == before, name
    assert restore(io.BytesIO(archive), studio=other.studio, lead=other)["takes"] == 1


def test_a_declared_size_that_lies_is_found_out(full, archive):
    # The central directory says less than is there: the bytes are counted and digested, not believed.
    wipe(full)
    at = archive.rfind(b"PK\x01\x02")
    lied = bytearray(archive)
    lied[at + 24 : at + 28] = struct.pack("<I", 3)
    other = create_studio(name="New quay", teacher_name="Ada", email="ada@b.example", password=PASSWORD)
    with pytest.raises(ServiceError):
        restore(io.BytesIO(bytes(lied)), studio=other.studio, lead=other)


def test_a_recording_that_is_gone_is_named_and_the_rest_is_taken_out(full, measured):
    measured.refresh_from_db()
    measured.upload.storage.delete(measured.upload.name)
    manifest = json.loads(members(b"".join(stream(full.studio)))[MANIFEST])
    assert manifest["missing_files"] == [f"recordings/{measured.pk}"]


def test_taking_out_is_the_leads_alone_and_is_written_down(full, client):
    answer = client.get("/api/v1/reports/archive")
    assert answer.status_code == 200
    assert members(b"".join(answer.streaming_content))
    assert AuditEntry.objects.filter(action="took_out_archive").count() == 1
    colleague = User.objects.create_user("cy@a.example", PASSWORD, name="Cy", studio=full.studio, role="teacher")
    assert client_of(colleague).get("/api/v1/reports/archive").status_code == 403


def test_results_with_a_bomb_for_curves_do_not_unpack(full, client, measured):
    import gzip

    from django.core.files.base import ContentFile

    analysis = Analysis.objects.get(pk=measured.current_id)
    analysis.curves.save("x", ContentFile(gzip.compress(b"\0" * 250_000_000, 1)))
    answer = client.get(f"/api/v1/takes/{measured.pk}/export/contour")
    assert (answer.status_code, answer.json()["code"]) == (422, "curves_invalid")
