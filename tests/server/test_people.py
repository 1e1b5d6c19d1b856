"""How people come into a studio and leave it: invitations, new passwords, colleagues, guests, the record of who did
what.
"""

import json
from datetime import timedelta

import pytest
from apps.people.models import AuditEntry, Invitation, Student, User
from apps.people.services import add_student
from apps.takes.models import GuestLink, Take
from django.core import mail
from django.core.files.uploadedfile import SimpleUploadedFile
from django.test import Client
from django.utils import timezone

from tests.server.conftest import PASSWORD, client_of
from tests.server.made import made_take

pytestmark = pytest.mark.django_db
AUTH = "/_allauth/browser/v1"
NEW = "a new lamp over the quay"


def send(client, method, path, body=None):
    return getattr(client, method)(path, json.dumps(body or {}), content_type="application/json")


def path_of(link):
    return link.split("testserver", 1)[1]


@pytest.fixture
def invited(client, student):
    def invite(email=""):
        answer = send(client, "post", f"/api/v1/students/{student.pk}/invite", {"email": email})
        assert answer.status_code == 201, answer.json()
        return path_of(answer.json()["link"]).removeprefix("/join/")

    return invite


def join(token, **body):
    full = {"email": "nele@a.example", "password": NEW} | body
    client = Client()
    return client, send(client, "post", f"/api/v1/join/{token}", full)


def test_an_invited_student_makes_an_account_and_sees_their_own(invited, student, client):
    token = invited()
    shown = Client().get(f"/api/v1/join/{token}").json()
    assert (shown["role"], shown["student"], shown["teacher"]) == ("student", "Nele", "Ada")
    browser, answer = join(token)
    assert (answer.status_code, answer.json()["student_id"]) == (201, student.pk)
    assert [s["id"] for s in browser.get("/api/v1/students").json()] == [student.pk]
    assert client.get("/api/v1/students").json()[0]["account"] == "nele@a.example"
    assert send(client, "post", f"/api/v1/students/{student.pk}/invite").json()["code"] == "has_account"
    # The secret itself is nowhere in the database.
    assert token not in str(list(Invitation.objects.values()))


def test_an_invitation_works_once_and_not_for_ever(invited, student):
    first = invited()
    second = invited()
    assert join(first)[1].json()["code"] == "link_over"  # the newer one took its place
    assert join(second)[1].status_code == 201
    assert join(second, email="other@a.example")[1].json()["code"] == "link_over"
    Student.objects.filter(pk=student.pk).update(user=None)
    third = invited()
    Invitation.objects.update(expires_at=timezone.now() - timedelta(minutes=1))
    assert join(third, email="x@a.example")[1].status_code == 404


@pytest.mark.parametrize(
    ("body", "code"),
    [
        ({"email": "ada@a.example"}, "email_taken"),
        ({"email": "no address"}, "invalid_account"),
        ({"password": "short"}, "invalid_account"),
        ({"password": "nele@a.example"}, "invalid_account"),
    ],
)
def test_an_account_that_cannot_be_leaves_the_invitation_open(invited, body, code):
    token = invited()
    assert join(token, **body)[1].json()["code"] == code
    assert join(token)[1].status_code == 201


def test_an_invitation_is_mailed_where_a_mail_server_is_set(client, student, settings):
    settings.MAIL_IS_SET = True
    answer = send(client, "post", f"/api/v1/students/{student.pk}/invite", {"email": "nele@a.example"}).json()
    assert answer["sent"] is True
    assert answer["link"] in mail.outbox[0].body


def test_an_invitation_taken_back_no_longer_works(client, invited):
    token = invited()
    there = client.get("/api/v1/invitations").json()
    assert client.delete(f"/api/v1/invitations/{there[0]['id']}").status_code == 204
    assert join(token)[1].status_code == 404


def test_a_teacher_gives_a_student_a_new_password(client, invited, student):
    join(invited())
    link = send(client, "post", f"/api/v1/students/{student.pk}/reset-link").json()["link"]
    key = path_of(link).removeprefix("/reset/")
    browser = Client()
    assert send(browser, "post", f"{AUTH}/auth/password/reset", {"key": key, "password": PASSWORD}).status_code in (
        200,
        401,
    )
    login = {"email": "nele@a.example", "password": PASSWORD}
    assert send(browser, "post", f"{AUTH}/auth/login", login).status_code == 200
    again = send(Client(), "post", f"{AUTH}/auth/password/reset", {"key": key, "password": NEW})
    assert again.status_code == 400  # a link works once


def test_a_forgotten_password_is_asked_for_by_mail(teacher):
    answer = send(Client(), "post", f"{AUTH}/auth/password/request", {"email": "ada@a.example"})
    assert answer.status_code == 200
    assert "/reset/" in mail.outbox[0].body


def test_two_steps_are_asked_for_once_they_are_set_up(teacher):
    from allauth.mfa.totp.internal.auth import format_hotp_value, hotp_value, yield_hotp_counters_from_time

    browser = Client()
    login = {"email": "ada@a.example", "password": PASSWORD}
    assert send(browser, "post", f"{AUTH}/auth/login", login).status_code == 200
    assert send(browser, "post", f"{AUTH}/auth/reauthenticate", {"password": PASSWORD}).status_code == 200
    secret = browser.get(f"{AUTH}/account/authenticators/totp").json()["meta"]["secret"]
    code = format_hotp_value(hotp_value(secret, next(yield_hotp_counters_from_time())))
    assert send(browser, "post", f"{AUTH}/account/authenticators/totp", {"code": code}).status_code == 200
    other = Client()
    answer = send(other, "post", f"{AUTH}/auth/login", login)
    assert answer.status_code == 401
    assert any(f["id"] == "mfa_authenticate" and f.get("is_pending") for f in answer.json()["data"]["flows"])
    assert other.get("/api/v1/me").status_code == 401
    codes = browser.get(f"{AUTH}/account/authenticators/recovery-codes").json()["data"]["unused_codes"]
    assert send(other, "post", f"{AUTH}/auth/2fa/authenticate", {"code": codes[0]}).status_code == 200
    assert other.get("/api/v1/me").status_code == 200


def test_sessions_are_listed_and_ended(teacher):
    here, there = Client(), Client()
    for browser in (here, there):
        send(browser, "post", f"{AUTH}/auth/login", {"email": "ada@a.example", "password": PASSWORD})
    rows = here.get(f"{AUTH}/auth/sessions").json()["data"]
    other = next(r for r in rows if not r["is_current"])
    assert len(rows) == 2
    assert send(here, "delete", f"{AUTH}/auth/sessions", {"sessions": [other["id"]]}).status_code == 200
    assert there.get("/api/v1/me").status_code == 401
    assert here.get("/api/v1/me").status_code == 200


def test_a_colleague_joins_leads_and_leaves(client, teacher, student):
    link = send(client, "post", "/api/v1/colleagues/invite").json()["link"]
    browser, answer = join(path_of(link).removeprefix("/join/"), name="Cy", email="cy@a.example")
    assert (answer.status_code, answer.json()["role"], answer.json()["leads"]) == (201, "teacher", False)
    cy = User.objects.get(email="cy@a.example")
    assert send(browser, "post", "/api/v1/colleagues/invite").status_code == 403
    add_student(cy, name="Ove")
    rows = client.get("/api/v1/colleagues").json()
    assert [(r["name"], r["students"]) for r in rows] == [("Ada", 1), ("Cy", 1)]
    assert send(client, "post", f"/api/v1/colleagues/{cy.pk}/part").json()["code"] == "has_students"
    assert send(client, "post", f"/api/v1/colleagues/{cy.pk}/part", {"students_to": teacher.pk}).status_code == 204
    assert {s["name"] for s in client.get("/api/v1/students").json()} == {"Nele", "Ove"}
    assert browser.get("/api/v1/me").status_code == 401
    assert send(client, "post", f"/api/v1/colleagues/{teacher.pk}/part").json()["code"] == "leads"


def test_the_lead_is_handed_on(client, teacher, colleague):
    assert send(client, "post", f"/api/v1/colleagues/{colleague.pk}/lead").status_code == 204
    assert send(client, "put", "/api/v1/studio", {"name": "X", "zone": "UTC"}).status_code == 403
    assert (
        send(client_of(colleague), "put", "/api/v1/studio", {"name": "X", "zone": "Nowhere"}).json()["code"]
        == "zone_unknown"
    )


def test_a_student_handed_over_is_seen_by_the_new_teacher_alone(client, student, colleague, drill):
    take = made_take(student, drill)
    body = {"teacher_id": colleague.pk}
    assert send(client, "post", f"/api/v1/students/{student.pk}/hand-over", body).status_code == 204
    assert client.get(f"/api/v1/takes/{take.pk}").status_code == 404
    assert client_of(colleague).get(f"/api/v1/takes/{take.pk}").status_code == 200
    assert send(client, "post", f"/api/v1/students/{student.pk}/hand-over", body).status_code == 404


def test_nobody_is_handed_to_a_stranger(client, student, stranger):
    assert (
        send(client, "post", f"/api/v1/students/{student.pk}/hand-over", {"teacher_id": stranger.pk}).status_code == 404
    )


def guest(client, student, drill):
    answer = send(client, "post", "/api/v1/guests/links", {"student_id": student.pk, "drill_id": drill.pk})
    assert answer.status_code == 201
    return path_of(answer.json()["link"]).removeprefix("/guest/")


def test_a_guest_makes_one_recording_and_sees_nothing_else(client, student, drill, flac, queued):
    token = guest(client, student, drill)
    browser = Client()
    shown = browser.get(f"/api/v1/guests/{token}").json()
    assert (shown["open"], shown["drill"]["id"]) == (True, drill.pk)
    assert "Nele" not in json.dumps(shown)
    take_id = "6f5b2d0e-93a5-4c8e-8a3b-6d0d9f1c2b11"
    for _ in range(2):  # an answer that was lost on the way is asked for again
        upload = {"file": SimpleUploadedFile("take.flac", flac), "id": take_id}
        assert browser.post(f"/api/v1/guests/{token}/take", upload).status_code == 201
    again = browser.post(f"/api/v1/guests/{token}/take", {"file": SimpleUploadedFile("take.flac", flac)})
    assert (again.status_code, again.json()["code"]) == (409, "link_used")
    assert Take.objects.get().student == student
    from apps.measuring.tasks import measure

    measure(take_id)
    answer = browser.get(f"/api/v1/guests/{token}/take").json()
    assert (answer["state"], answer["asked"] > 0) == ("measured", True)
    assert browser.get(f"/api/v1/takes/{take_id}").status_code == 401


def test_a_guest_link_taken_back_or_run_out_opens_nothing(client, student, drill):
    first, second = guest(client, student, drill), guest(client, student, drill)
    rows = client.get(f"/api/v1/guests/links?student_id={student.pk}").json()
    assert len(rows) == 2
    client.delete(f"/api/v1/guests/links/{rows[1]['id']}")
    assert Client().get(f"/api/v1/guests/{first}").status_code == 404
    GuestLink.objects.update(expires_at=timezone.now() - timedelta(minutes=1))
    assert Client().get(f"/api/v1/guests/{second}").status_code == 404


def test_without_a_link_no_recording_is_even_read_in(client, student, drill, flac, monkeypatch):
    from django.core.files.uploadhandler import MemoryFileUploadHandler, TemporaryFileUploadHandler

    def read_in(self, *_args):
        raise AssertionError("the recording is read")

    for handler in (MemoryFileUploadHandler, TemporaryFileUploadHandler):
        monkeypatch.setattr(handler, "receive_data_chunk", read_in)
    answer = Client().post("/api/v1/guests/nobody/take", {"file": SimpleUploadedFile("take.flac", flac)})
    assert (answer.status_code, answer.json()["code"]) == (404, "link_over")


def test_a_guest_sends_only_recordings(client, student, drill):
    token = guest(client, student, drill)
    answer = Client().post(f"/api/v1/guests/{token}/take", {"file": SimpleUploadedFile("x.wav", b"Dear Ines")})
    assert (answer.status_code, answer.json()["code"]) == (422, "not_audio")
    assert Client().get(f"/api/v1/guests/{token}").json()["open"] is True


def test_who_looked_and_changed_is_written_down_for_the_student(client, measured, student, teacher):
    for _ in range(3):
        client.get(f"/api/v1/takes/{measured.pk}/analysis")
    client.get(f"/api/v1/takes/{measured.pk}/sound")
    user = User.objects.create_user("nele@a.example", PASSWORD, name="Nele", studio=teacher.studio, role="student")
    Student.objects.filter(pk=student.pk).update(user=user)
    own = client_of(user)
    own.get(f"/api/v1/takes/{measured.pk}/analysis")
    rows = [(r["who"], r["action"]) for r in own.get("/api/v1/audit").json()]
    assert rows.count(("Ada", "saw_take")) == 1
    assert ("Ada", "heard_take") in rows
    assert {action for who, action in rows if who == "Nele"} == {"signed_in"}


def test_the_record_of_others_students_is_not_shown(client, student, colleague, stranger):
    add_student(colleague, name="Ove")
    for actor in (colleague, stranger):
        rows = client_of(actor).get("/api/v1/audit").json()
        assert not any(r["student"] == "Nele" for r in rows)
    assert client_of(colleague).get(f"/api/v1/audit?student_id={student.pk}").status_code == 404
    assert AuditEntry.objects.filter(student=student).exists()
