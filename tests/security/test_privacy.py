"""Consent to recording, and how long things are kept."""

import datetime as dt
import io
import json
import zipfile

import pytest
from apps.archive import retention
from apps.people import consents
from apps.people.consents import Given
from apps.people.models import AuditEntry, Consent, Student, User
from apps.people.services import add_student
from apps.plans.models import Assignment
from apps.takes import guests, services
from apps.takes.models import Analysis, Take
from django.core import mail
from django.core.files.uploadedfile import SimpleUploadedFile
from django.test import Client
from django.utils import timezone

from tests.server.conftest import PASSWORD, client_of
from tests.server.made import made_take

pytestmark = pytest.mark.django_db
DAY = dt.timedelta(days=1)


def send(browser, method, path, body=None):
    return getattr(browser, method)(f"/api/v1{path}", json.dumps(body or {}), content_type="application/json")


def upload(browser, student, drill, flac):
    file = SimpleUploadedFile("take.flac", flac)
    return browser.post("/api/v1/takes", {"student_id": student.pk, "drill_id": drill.pk, "file": file})


@pytest.fixture
def minor(teacher):
    """A student nobody has agreed for, with an account."""
    student = add_student(teacher, name="Ove")
    student.user = User.objects.create_user(
        "ove@a.example", PASSWORD, name="Ove", studio=teacher.studio, role="student"
    )
    student.save()
    return student


def test_nothing_is_recorded_before_somebody_agreed(client, minor, drill, flac, queued, settings):
    own = client_of(minor.user)
    for browser in (own, client):
        refused = upload(browser, minor, drill, flac)
        assert (refused.status_code, refused.json()["code"]) == (403, "no_consent")
    assert not settings.MEDIA_ROOT.exists() or not list(settings.MEDIA_ROOT.rglob("*"))
    nameless = send(own, "post", f"/students/{minor.pk}/consent", {"by": "guardian", "name": "  "})
    assert (nameless.status_code, nameless.json()["code"]) == (422, "name_missing")
    given = send(own, "post", f"/students/{minor.pk}/consent", {"by": "guardian", "name": "Runa Holt"})
    assert given.status_code == 201
    current = given.json()["current"]
    assert (current["by"], current["name"], current["way"]) == ("guardian", "Runa Holt", "page")
    assert "Ove" in current["to"]
    assert "Studio A" in current["to"]
    assert upload(own, minor, drill, flac).status_code == 201
    assert AuditEntry.objects.filter(action="gave_consent", student=minor, actor=minor.user).count() == 1


def test_a_teacher_states_for_one_and_for_several(client, teacher, minor, drill, flac, queued):
    assert not {s["name"]: s["agreed"] for s in client.get("/api/v1/students").json()}["Ove"]
    # A teacher does not agree in somebody's place on the page, but says how it was agreed.
    assert send(client, "post", f"/students/{minor.pk}/consent", {"by": "student"}).status_code == 422
    ahead = (timezone.localdate() + 2 * DAY).isoformat()
    state = {"by": "student", "way": "word"}
    assert send(client, "put", f"/students/{minor.pk}/consent", state | {"day": ahead}).status_code == 422
    kept = send(client, "put", f"/students/{minor.pk}/consent", state | {"day": "2026-03-01"}).json()["current"]
    assert (kept["day"], kept["written_by"], kept["name"]) == ("2026-03-01", "Ada", "Ove")
    more = [add_student(teacher, name=n) for n in ("Pim", "Quin")]
    body = {"by": "guardian", "way": "writing", "student_ids": [minor.pk, *(s.pk for s in more)]}
    assert send(client, "post", "/consents", body).status_code == 204
    # Who had agreed before keeps what was agreed.
    assert Consent.objects.filter(student=minor).get().by == "student"
    assert all(s["agreed"] for s in client.get("/api/v1/students").json())


def test_what_was_agreed_to_can_be_taken_back_and_the_recordings_with_it(
    client, measured, student, teacher, drill, flac
):
    user = User.objects.create_user("nele@a.example", PASSWORD, name="Nele", studio=teacher.studio, role="student")
    Student.objects.filter(pk=student.pk).update(user=user)
    own = client_of(user)
    early = own.delete(f"/api/v1/reports/students/{student.pk}/recordings")
    assert (early.status_code, early.json()["code"]) == (409, "agreed")
    after = own.delete(f"/api/v1/students/{student.pk}/consent").json()
    assert after["current"] is None
    assert after["before"][0]["withdrawn_by"] == "Nele"
    assert upload(own, student, drill, flac).json()["code"] == "no_consent"
    assert client.get(f"/api/v1/takes/{measured.pk}/sound").status_code == 200
    assert own.delete(f"/api/v1/reports/students/{student.pk}/recordings").json() == {"deleted": 1}
    assert own.delete(f"/api/v1/students/{student.pk}/consent").status_code == 409


def test_numbers_stay_when_a_recording_is_deleted(
    client, measured, student, settings, django_capture_on_commit_callbacks
):
    before = {f.name for f in settings.MEDIA_ROOT.rglob("*") if f.is_file()}
    with django_capture_on_commit_callbacks(execute=True):
        assert client.delete(f"/api/v1/reports/students/{student.pk}/recordings").json() == {"deleted": 1}
    left = {f.name for f in settings.MEDIA_ROOT.rglob("*") if f.is_file()}
    assert before - left == {measured.sha256, *(n for n in before if n.endswith("listen.flac"))}
    assert left
    path = f"/api/v1/takes/{measured.pk}"
    for address in ("sound", "original"):
        gone = client.get(f"{path}/{address}")
        assert (gone.status_code, gone.json()["code"]) == (410, "recording_deleted")
    for act in ("measure", "trials"):
        gone = send(client, "post", f"/takes/{measured.pk}/{act}")
        assert (gone.status_code, gone.json()["code"]) == (410, "recording_deleted")
    read = client.get(path).json()
    assert (read["state"], read["recording_deleted_at"] is not None) == ("measured", True)
    assert client.get(f"{path}/analysis").status_code == 200
    assert client.get(f"{path}/curves").status_code == 200
    assert Take.objects.get().upload.name == ""
    archive = zipfile.ZipFile(io.BytesIO(b"".join(client.get("/api/v1/reports/archive").streaming_content)))
    assert json.loads(archive.read("manifest.json"))["missing_files"] == []
    assert not [n for n in archive.namelist() if n.startswith("recordings/")]


def test_a_take_that_is_being_measured_keeps_its_recording_until_it_is_done(make_take, student):
    take = make_take()
    assert services.delete_recordings(None, Take.objects.filter(student=student)) == 0
    take.refresh_from_db()
    assert take.upload.name


def test_a_guest_agrees_before_the_recording(teacher, minor, drill, flac, queued):
    _link, token = guests.make_link(teacher, student=minor, drill=drill)
    guest = Client()
    there = guest.get(f"/api/v1/guests/{token}").json()
    assert (there["agreed"], there["student"]) == (False, "Ove")
    take = {"file": SimpleUploadedFile("take.flac", flac)}
    assert guest.post(f"/api/v1/guests/{token}/take", take).json()["code"] == "no_consent"
    assert send(guest, "post", f"/guests/{token}/consent", {"by": "guardian", "name": "Runa Holt"}).status_code == 204
    assert guest.get(f"/api/v1/guests/{token}").json()["agreed"]
    take = {"file": SimpleUploadedFile("take.flac", flac)}
    assert guest.post(f"/api/v1/guests/{token}/take", take).status_code == 201
    assert Consent.objects.get(student=minor).written_by is None
    assert AuditEntry.objects.get(action="gave_consent", student=minor).actor_name == "Runa Holt"


def test_nobody_agrees_for_somebody_elses_student(stranger, minor):
    other = client_of(stranger)
    path = f"/students/{minor.pk}/consent"
    assert other.get(f"/api/v1{path}").status_code == 404
    for method, body in (("post", {"by": "student"}), ("put", {"by": "student", "way": "word"}), ("delete", None)):
        assert send(other, method, path, body).status_code == 404
    body = {"by": "student", "way": "word", "student_ids": [minor.pk]}
    assert send(other, "post", "/consents", body).status_code == 404
    assert other.delete(f"/api/v1/reports/students/{minor.pk}/recordings").status_code == 404
    assert consents.current(minor) is None


def test_who_has_left_is_not_recorded_and_has_nothing_to_practise(client, student, drill, flac, queued):
    body = {"student_id": student.pk, "drill_id": drill.pk}
    assert send(client, "post", "/plans/assignments", body).status_code == 201
    assert send(client, "post", f"/students/{student.pk}/left").json()["left_at"] is not None
    assert upload(client, student, drill, flac).json()["code"] == "has_left"
    assert Assignment.objects.get().ended_at is not None
    assert send(client, "delete", f"/students/{student.pk}/left").json()["left_at"] is None
    assert upload(client, student, drill, flac).status_code == 201


@pytest.fixture
def kept_a_year(client, student, drill):
    """A studio that keeps recordings for a year since two months, with an old take, an older and a new one."""
    old, older, new = (made_take(student, drill) for _ in range(3))
    now = timezone.now()
    for take, days in ((old, 350), (older, 400), (new, 1)):
        Take.objects.filter(pk=take.pk).update(created_at=now - days * DAY)
    body = {"recordings_months": 12, "former_months": 6}
    assert send(client, "put", "/studio/keeping", body).json() == body
    student.studio.refresh_from_db()
    student.studio.kept_since = now - 60 * DAY
    student.studio.save()
    return old, older, new


def test_recordings_go_after_the_time_the_studio_says_and_numbers_stay(client, kept_a_year, student):
    old, older, new = kept_a_year
    said = client.get("/api/v1/reports/keeping").json()
    assert (said["recordings_months"], said["recordings"]) == (12, 2)
    assert retention.keep_to()["recordings"] == 1
    gone = {t.pk: t.recording_deleted_at is not None for t in Take.objects.all()}
    assert gone == {old.pk: False, older.pk: True, new.pk: False}
    assert Analysis.objects.filter(take=older).get().counts["clean"] == 20
    assert client.get("/api/v1/reports/keeping").json()["recordings"] == 1
    assert retention.keep_to(at=timezone.now() + 30 * DAY)["recordings"] == 1
    assert AuditEntry.objects.filter(action="deleted_recording", actor=None, student=student).count() == 2


def test_nothing_goes_in_the_first_month_of_a_rule(client, kept_a_year, student):
    # Whoever changes the rule begins the month anew.
    assert send(client, "put", "/studio/keeping", {"recordings_months": 12}).status_code == 200
    assert retention.keep_to()["recordings"] == 0
    first = dt.datetime.fromisoformat(client.get("/api/v1/reports/keeping").json()["recordings_from"])
    assert dt.timedelta(days=29) < first - timezone.now() <= dt.timedelta(days=30)
    assert retention.keep_to(at=first - DAY)["recordings"] == 0
    assert retention.keep_to(at=first + DAY)["recordings"] == 2


def test_who_left_long_ago_is_deleted_with_everything(client, kept_a_year, student, teacher):
    other = add_student(teacher, name="Ove", agreed=Given(by="student", way="word"))
    Student.objects.filter(pk=student.pk).update(left_at=timezone.now() - 170 * DAY)
    assert client.get("/api/v1/reports/keeping").json()["former_students"] == ["Nele"]
    assert retention.keep_to()["students"] == 0
    assert retention.keep_to(at=timezone.now() + 20 * DAY)["students"] == 1
    assert list(Student.objects.all()) == [other]
    entry = AuditEntry.objects.get(action="deleted_student")
    assert (entry.actor, entry.actor_name, entry.student) == (None, "Fortimetra", None)
    assert not AuditEntry.objects.filter(what__contains="Nele").exists()


def test_teachers_are_written_to_once_a_month_and_only_where_there_is_something(kept_a_year, teacher, settings):
    settings.MAIL_IS_SET = True
    User.objects.create_user("cy@a.example", PASSWORD, name="Cy", studio=teacher.studio, role="teacher")
    assert retention.keep_to()["letters"] == 1
    assert [m.to for m in mail.outbox] == [["ada@a.example"]]
    assert "- 1 recording, from" in mail.outbox[0].body
    assert retention.keep_to()["letters"] == 0
    assert retention.keep_to(at=timezone.now() + 16 * DAY)["letters"] == 0


def test_a_studio_that_fails_does_not_keep_others_from_their_rule(kept_a_year, stranger, monkeypatch):
    def fails(_actor, student):
        raise OSError(student.name)

    gone = add_student(stranger, name="Ulf")
    Student.objects.filter(pk=gone.pk).update(left_at=timezone.now() - 400 * DAY)
    stranger.studio.former_kept_months, stranger.studio.kept_since = 1, timezone.now() - 60 * DAY
    stranger.studio.save()
    monkeypatch.setattr(retention.leaving, "delete_for_good", fails)
    assert retention.keep_to() == {"recordings": 1, "students": 0, "letters": 0}


def test_only_who_leads_says_how_long(client, teacher, student):
    colleague = User.objects.create_user("cy@a.example", PASSWORD, name="Cy", studio=teacher.studio, role="teacher")
    assert send(client_of(colleague), "put", "/studio/keeping", {"recordings_months": 1}).status_code == 403
    assert send(client, "put", "/studio/keeping", {"recordings_months": 0}).status_code == 422
