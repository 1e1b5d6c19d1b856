"""A student takes out everything about themselves, alone, and nothing of anybody else."""

import csv
import io
import json
import zipfile

import pytest
from apps.people.models import Student, User
from apps.people.services import add_student
from apps.takes.models import Take
from fortimetra import Analysis

from tests.server.conftest import PASSWORD, client_of

pytestmark = pytest.mark.django_db


@pytest.fixture
def own(teacher, student):
    user = User.objects.create_user("nele@a.example", PASSWORD, name="Nele", studio=teacher.studio, role="student")
    Student.objects.filter(pk=student.pk).update(user=user)
    return client_of(user)


def taken(browser):
    answer = browser.get("/api/v1/reports/own")
    assert answer.status_code == 200
    return zipfile.ZipFile(io.BytesIO(b"".join(answer.streaming_content)))


def rows(archive, name):
    return list(csv.DictReader(io.StringIO(archive.read(name).decode())))


def test_it_holds_recordings_results_words_plan_log_and_activity(own, client, measured, student, drill, flac, teacher):
    note = {"student_id": student.pk, "kind": "note", "text": "=1+1"}
    assert own.post("/api/v1/plans/log", json.dumps(note), content_type="application/json").status_code == 201
    plan = {"student_id": student.pk, "drill_id": drill.pk}
    made = client.post("/api/v1/plans/assignments", json.dumps(plan), content_type="application/json")
    assert made.status_code == 201, made.content
    client.get(f"/api/v1/takes/{measured.pk}/analysis")
    archive = taken(own)
    assert archive.testzip() is None
    (row,) = rows(archive, "takes.csv")
    assert row["drill"] == drill.title
    assert archive.read(row["recording"]) == flac
    results = {
        name.rsplit(" ", 1)[-1].split(".", 1)[1]: name for name in archive.namelist() if name.startswith("results/")
    }
    assert set(results) == {"json", "notes.csv", "contour.csv"}
    assert Analysis.model_validate_json(archive.read(results["json"])).summary.asked == int(row["asked"])
    assert rows(archive, "logbook.csv")[0]["text"] == "'=1+1"  # no formula in a spreadsheet
    assert rows(archive, "plan.csv")[0]["drill"] == drill.title
    assert ("Ada", "saw_take") in {(r["who"], r["did"]) for r in rows(archive, "activity.csv")}
    assert json.loads(archive.read("guitars.json")) is not None


def test_what_was_hidden_is_in_it_and_what_is_others_is_not(own, measured, teacher, drill, student):
    other = add_student(teacher, name="Ove")
    Take.objects.filter(pk=measured.pk).update(hidden_at="2026-11-01T00:00:00Z")
    theirs = Take.objects.get(pk=measured.pk)
    theirs.pk, theirs.student = "00000000-0000-4000-8000-000000000001", other
    theirs.save(force_insert=True)
    assert [r["id"] for r in rows(taken(own), "takes.csv")] == [str(measured.pk)]


def test_a_recording_that_is_gone_leaves_the_rest(own, measured):
    measured.upload.storage.delete(measured.upload.name)
    archive = taken(own)
    assert len(rows(archive, "takes.csv")) == 1
    assert not [n for n in archive.namelist() if n.startswith("recordings/")]


def test_it_is_for_students(client):
    assert client.get("/api/v1/reports/own").status_code == 403
