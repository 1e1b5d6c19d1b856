"""Broken and hostile input: one clear sentence with a status under 500, and nothing left behind."""

import io
import json
import zipfile

import pytest
import soundfile
from apps.measuring import tasks
from apps.takes import guesses
from apps.takes.models import DrillGuess, Take
from django.core.files.uploadedfile import SimpleUploadedFile
from django.test import Client

pytestmark = pytest.mark.django_db
AUTH = "/_allauth/browser/v1"


def sentence(answer):
    assert 400 <= answer.status_code < 500, (answer.status_code, answer.content[:300])
    said = answer.json()
    assert said.get("detail") or said.get("errors"), said
    return said


@pytest.mark.parametrize(
    "path",
    [
        "/api/v1/takes/desk?offset=1" + "0" * 30,
        "/api/v1/takes/desk?limit=-1" + "0" * 30,
        "/api/v1/takes?student_id=1" + "0" * 40,
        "/api/v1/audit?limit=1" + "0" * 30,
        "/api/v1/plans/log?student_id={student}&days=1" + "0" * 30,
        "/api/v1/plans/log?student_id={student}&to=0001-01-01",
        "/api/v1/plans/log?student_id={student}&to=9999-12-31",
        "/api/v1/plans/week?student_id={student}&day=0001-01-01",
        "/api/v1/plans/week?student_id={student}&day=9999-12-31",
        "/api/v1/takes/%00",
        "/api/v1/drills/99999999999999999999999999",
    ],
)
def test_numbers_and_days_at_the_ends_of_what_there_is(client, student, path):
    answer = client.get(path.format(student=student.pk))
    assert answer.status_code < 500, answer.content[:300]
    if answer.status_code >= 400 and answer["Content-Type"].startswith("application/"):
        sentence(answer)


@pytest.mark.parametrize(
    "day", ["0001-01-01T00:00:00Z", "1969-12-31T23:00:00Z", "2999-01-01T00:00:00Z", "9999-12-31T23:59:59Z"]
)
def test_a_take_was_played_between_1970_and_next_year(client, student, drill, flac, queued, day):
    body = {
        "student_id": student.pk,
        "drill_id": drill.pk,
        "played_at": day,
        "file": SimpleUploadedFile("a.flac", flac),
    }
    said = sentence(client.post("/api/v1/takes", body))
    assert "1970" in said["detail"]
    assert not Take.objects.exists()


def test_a_form_without_its_boundary(client):
    sentence(client.generic("POST", "/api/v1/takes", b"--x\r\n", content_type="multipart/form-data"))
    sentence(client.generic("POST", "/api/v1/takes", b"", content_type="multipart/form-data; boundary="))


@pytest.mark.parametrize(
    "body",
    [
        b"[" * 100_000,
        b'{"a":' * 50_000,
        b"\xff\xfe",
        b"null",
        b"[]",
        b'"x"',
        b'{"email": {"a": [1]}}',
        b'{"email": "a\\u0000b@x.example", "password": "x"}',
    ],
)
@pytest.mark.parametrize("path", [f"{AUTH}/auth/login", f"{AUTH}/auth/password/request", "/api/v1/join/x"])
def test_json_that_is_none_or_too_deep(teacher, path, body):
    answer = Client().generic("POST", path, body, content_type="application/json")
    assert answer.status_code < 500, answer.content[:300]


@pytest.mark.parametrize("cut", [0.2, 0.5, 0.9])
@pytest.mark.parametrize("form", ["CAF", "FLAC", "WAV", "OGG"])
def test_a_damaged_recording_is_refused_with_its_reason(make_take, teacher, flac, form, cut):
    samples, rate = soundfile.read(io.BytesIO(flac))
    out = io.BytesIO()
    soundfile.write(out, samples, rate, format=form, subtype="VORBIS" if form == "OGG" else None)
    content = bytearray(out.getvalue())
    at = int(cut * len(content))
    content[at:] = content[at + 1 :] if form == "CAF" else b""
    take = make_take(bytes(content), f"take.{form.lower()}")
    tasks.measure(str(take.pk))
    take.refresh_from_db()
    assert take.state in (Take.State.REFUSED, Take.State.MEASURED)
    if take.state == Take.State.REFUSED:
        assert take.problem_detail.endswith(".")


def test_guessing_survives_any_drill_and_settles_its_row(teacher, flac, monkeypatch):
    blank = teacher.studio.drills.first()
    content = {**blank.current.content, "events": []}
    type(blank.current).objects.filter(pk=blank.current_id).update(content=content)
    row = guesses.ask(teacher, SimpleUploadedFile("a.flac", flac))
    tasks.guess(str(row.pk))
    row.refresh_from_db()
    assert row.state == DrillGuess.State.HEARD
    assert "String 3: full bend at fret 7" in {
        d.title for d in teacher.studio.drills.filter(pk__in=[pk for pk, _ in row.drills])
    }


def test_guessing_that_breaks_settles_its_row_too(teacher, flac, monkeypatch):
    def broken(*_a, **_k):
        raise RuntimeError("a fault of ours")

    monkeypatch.setattr(tasks, "guess_drill", broken)
    row = guesses.ask(teacher, SimpleUploadedFile("a.flac", flac))
    for _ in range(guesses.HEARING.most_attempts + 1):
        tasks.guess(str(row.pk))
    row.refresh_from_db()
    assert row.state != DrillGuess.State.WAITING
    assert row.problem_detail


def archive(**files):
    out = io.BytesIO()
    with zipfile.ZipFile(out, "w") as made:
        for name, content in files.items():
            made.writestr(name.replace("__", "/").replace("_json", ".json"), content)
    return out.getvalue()


@pytest.mark.parametrize(
    "content",
    [
        b"",
        b"PK\x03\x04 not a zip",
        archive(manifest_json="[" * 100_000),
        archive(manifest_json="[]"),
        archive(manifest_json=json.dumps({"format": ["fortimetra-studio"], "version": 1})),
        archive(
            manifest_json=json.dumps({"format": "fortimetra-studio", "version": 1, "files": {"../../x": "0" * 64}})
        ),
        archive(
            manifest_json=json.dumps(
                {"format": "fortimetra-studio", "version": 1, "files": {"tables/users.jsonl": "/etc/passwd"}}
            )
        ),
        archive(manifest_json=json.dumps({"format": "fortimetra-studio", "version": {"a": 1}, "files": []})),
    ],
    ids=range(8),
)
def test_an_archive_that_is_none(client, content):
    answer = client.post("/api/v1/reports/archive", {"file": SimpleUploadedFile("studio.zip", content)})
    sentence(answer)


def test_an_archive_whose_stream_is_damaged(few, client):
    whole = client.get("/api/v1/reports/archive")
    content = bytearray(b"".join(whole.streaming_content) if whole.streaming else whole.content)
    for at in range(200, len(content) - 100, max(1, len(content) // 12)):
        broken = bytearray(content)
        broken[at] ^= 0xFF
        answer = client.post("/api/v1/reports/archive", {"file": SimpleUploadedFile("studio.zip", bytes(broken))})
        # What a date in a header says is nobody's loss.
        assert answer.status_code < 500, answer.content[:300]
