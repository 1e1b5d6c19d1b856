"""What a student may not undo, what dies with a hand-over, and what is written down of looks."""

import datetime as dt
import json

import pytest
from apps.people import audit
from apps.people.models import AuditEntry, Student, User
from apps.reviews import word
from apps.takes.models import Take
from django.test import Client
from django.utils import timezone

from tests.server.conftest import PASSWORD, client_of

pytestmark = pytest.mark.django_db


def send(browser, method, path, body=None):
    return getattr(browser, method)(path, json.dumps(body or {}), content_type="application/json")


@pytest.fixture
def own(teacher, student):
    user = User.objects.create_user("nele@a.example", PASSWORD, name="Nele", studio=teacher.studio, role="student")
    Student.objects.filter(pk=student.pk).update(user=user)
    return client_of(user)


def test_a_student_deletes_and_measures_again_what_nobody_judged(own, measured):
    assert send(own, "post", f"/api/v1/takes/{measured.pk}/measure", {}).status_code == 200
    Take.objects.update(state="measured")
    assert own.delete(f"/api/v1/takes/{measured.pk}").status_code == 204


def test_what_the_teacher_judged_a_student_neither_measures_again_nor_deletes(own, client, measured, teacher):
    word.judge(teacher, [word.Judging(measured.pk, measured.word_version)], judged=True)
    path = f"/api/v1/takes/{measured.pk}"
    again = send(own, "post", f"{path}/measure", {})
    assert (again.status_code, again.json()["code"]) == (403, "judged")
    gone = own.delete(path)
    assert (gone.status_code, gone.json()["code"]) == (409, "teachers_words")
    assert send(client, "post", f"{path}/hide").status_code == 403
    assert send(own, "post", f"{path}/hide").status_code == 204
    assert own.get(path).status_code == 404
    assert own.get("/api/v1/takes").json() == []
    assert client.get(path).json()["hidden_at"] is not None
    assert client.delete(path).status_code == 204


def test_a_hold_the_teacher_set_is_the_teachers_to_clear(own, client, student):
    log = {"kind": "discomfort", "day": dt.date.today().isoformat(), "text": "wrist"}
    for setter, by_student in ((client, 403), (own, 204)):
        answer = send(setter, "post", "/api/v1/plans/log", {**log, "student_id": student.pk})
        assert answer.status_code == 201, answer.content
        cleared = send(own, "post", f"/api/v1/plans/hold/{student.pk}/clear")
        assert cleared.status_code == by_student
        if by_student == 403:
            assert cleared.json()["code"] == "teachers_hold"
            assert send(client, "post", f"/api/v1/plans/hold/{student.pk}/clear").status_code == 204


def test_a_calendar_address_dies_with_the_hand_over(client, student, colleague):
    made = send(client, "post", f"/api/v1/plans/feed/{student.pk}").json()
    path = made["link"].split("testserver", 1)[1]
    assert Client().get(path).status_code == 200
    handed = send(client, "post", f"/api/v1/students/{student.pk}/hand-over", {"teacher_id": colleague.pk})
    assert handed.status_code == 204
    assert Client().get(path).status_code == 404


def test_a_look_is_one_line_a_person_thing_and_day(client, measured, student, monkeypatch):
    def looks(action):
        return AuditEntry.objects.filter(action=action).count()

    for part in ("analysis", "curves", "analysis", "sound", "original", "original", "export/notes"):
        assert client.get(f"/api/v1/takes/{measured.pk}/{part}").status_code == 200
    drill = measured.drill_version.drill_id
    for _ in range(2):
        assert client.get(f"/api/v1/reports/progress?student_id={student.pk}&drill_id={drill}").status_code == 200
        assert client.get(f"/api/v1/plans/log?student_id={student.pk}").status_code == 200
    seen = ("saw_take", "heard_take", "took_out_recording", "took_out_take", "saw_progress", "saw_logbook")
    assert [looks(a) for a in seen] == [1] * 6
    tomorrow = timezone.now() + dt.timedelta(days=1)
    monkeypatch.setattr(audit.timezone, "now", lambda: tomorrow)
    client.get(f"/api/v1/takes/{measured.pk}/analysis")
    assert looks("saw_take") == 2


def test_a_days_looks_are_of_the_studios_own_day(client, measured, teacher, monkeypatch):
    teacher.studio.zone = "Pacific/Auckland"
    teacher.studio.save()
    for hour, lines in ((10, 1), (11, 2)):  # midnight in Auckland, in November, is 11 o'clock UTC
        at = dt.datetime(2026, 11, 20, hour, 30, tzinfo=dt.UTC)
        monkeypatch.setattr(audit.timezone, "now", lambda at=at: at)
        client.get(f"/api/v1/takes/{measured.pk}/analysis")
        assert AuditEntry.objects.filter(action="saw_take").count() == lines


def test_a_shared_sheet_that_is_read_is_a_line_a_day(client, student):
    made = send(client, "post", "/api/v1/reports/sheets", {"student_id": student.pk}).json()
    link = send(client, "put", f"/api/v1/reports/sheets/{made['id']}/share", {"on": True}).json()["link"]
    for _ in range(2):
        assert Client().get(link.split("testserver", 1)[1]).status_code == 200
    (entry,) = AuditEntry.objects.filter(action="read_sheet")
    assert (entry.actor_name, entry.student_id) == ("Somebody with the link", student.pk)
