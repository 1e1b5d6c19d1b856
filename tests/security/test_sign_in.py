"""Getting in: what the sign-in package leaves open, guessing, locking others out, sign-ins in another's name."""

import json

import pytest
from allauth.account.models import EmailAddress
from apps.people.models import AuditEntry, User
from argon2 import PasswordHasher, Type, extract_parameters
from config import settings as application
from django.contrib.auth.hashers import make_password
from django.core import mail
from django.test import Client

from tests.server.conftest import PASSWORD, client_of

pytestmark = pytest.mark.django_db
AUTH = "/_allauth/browser/v1"
NEW = "a new lamp over the quay"


def send(browser, method, path, body=None, **more):
    if method == "get":
        return browser.get(path, **more)
    return getattr(browser, method)(path, json.dumps(body or {}), content_type="application/json", **more)


def sign_in(password=PASSWORD, *, email="ada@a.example", address="198.51.100.7", browser=None):
    body = {"email": email, "password": password}
    return send(browser or Client(), "post", f"{AUTH}/auth/login", body, REMOTE_ADDR=address)


def totp(browser):
    from allauth.mfa.totp.internal.auth import format_hotp_value, hotp_value, yield_hotp_counters_from_time

    assert send(browser, "post", f"{AUTH}/auth/reauthenticate", {"password": PASSWORD}).status_code == 200
    secret = browser.get(f"{AUTH}/account/authenticators/totp").json()["meta"]["secret"]
    code = format_hotp_value(hotp_value(secret, next(yield_hotp_counters_from_time())))
    return send(browser, "post", f"{AUTH}/account/authenticators/totp", {"code": code})


def test_a_reset_somebody_else_asked_for_leaves_the_second_factor_open(teacher):
    assert send(Client(), "post", f"{AUTH}/auth/password/request", {"email": "ada@a.example"}).status_code == 200
    browser = Client()
    assert sign_in(browser=browser).status_code == 200
    assert totp(browser).status_code == 200


@pytest.fixture
def as_delivered(settings):
    """Passwords stored as an installation stores them; the other tests store them in a quicker way."""
    settings.PASSWORD_HASHERS = application.PASSWORD_HASHERS


def test_a_password_is_stored_by_argon2id_as_the_rfc_recommends(teacher, as_delivered):
    teacher.set_password(NEW)
    # RFC 9106, section 4: "64 MiB" of memory, 3 passes, 4 lanes, version 0x13, a tag of 256 bits, a salt of 128.
    found = extract_parameters(teacher.password.removeprefix("argon2"))
    assert (found.type, found.memory_cost, found.time_cost, found.parallelism) == (Type.ID, 64 * 1024, 3, 4)
    assert found.version == 0x13
    assert 8 * found.hash_len == 256
    assert 8 * found.salt_len >= 128
    assert PasswordHasher().verify(teacher.password.removeprefix("argon2"), NEW)


def test_a_password_stored_the_older_way_still_opens_and_is_stored_anew(teacher, as_delivered):
    teacher.password = make_password(PASSWORD, hasher="pbkdf2_sha256")
    teacher.save()
    assert sign_in("another mooring 7").status_code == 400
    assert sign_in().status_code == 200
    teacher.refresh_from_db()
    assert teacher.password.startswith("argon2$argon2id$")
    assert sign_in().status_code == 200


@pytest.mark.parametrize(
    ("method", "path", "body"),
    [
        ("post", "account/email", {"email": "bo@b.example"}),
        ("put", "account/email", {"email": "ada@a.example"}),
        ("patch", "account/email", {"email": "bo@b.example", "primary": True}),
        ("delete", "account/email", {"email": "ada@a.example"}),
        ("get", "account/email", None),
        ("post", "auth/signup", {"email": "x@x.example", "password": NEW}),
        ("post", "auth/email/verify", {"key": "x"}),
        ("post", "auth/phone/verify", {"code": "x"}),
        ("get", "config", None),
    ],
)
def test_of_the_sign_in_package_only_what_the_page_asks_is_there(teacher, stranger, method, path, body):
    browser = client_of(teacher)
    for base in (AUTH, "/_allauth/app/v1"):
        answer = send(browser, method, f"{base}/{path}", body)
        assert (answer.status_code, answer.json()["code"]) == (404, "not_found")
    assert not EmailAddress.objects.exclude(user=teacher).filter(email="ada@a.example").exists()
    assert not EmailAddress.objects.filter(user=teacher, email="bo@b.example").exists()
    teacher.refresh_from_db()
    assert teacher.email == "ada@a.example"
    assert User.objects.filter(email="x@x.example").count() == 0


def test_guessing_one_account_from_one_place_ends_soon_and_nobody_else_is_held_up(teacher, stranger):
    answers = [sign_in(f"guess {n}").json() for n in range(6)]
    assert answers[4]["errors"][0]["code"] != "too_many_login_attempts"
    assert answers[5]["errors"][0]["code"] == "too_many_login_attempts"
    assert sign_in().json()["errors"][0]["code"] == "too_many_login_attempts"
    assert sign_in(email="bo@b.example").status_code == 200
    assert sign_in(address="198.51.100.8").status_code == 200


def test_nobody_keeps_a_teacher_out_of_the_place_they_work_at(teacher):
    assert sign_in(address="192.0.2.1").status_code == 200
    for n in range(110):
        sign_in("guess", address=f"203.0.113.{n}")
    assert sign_in(address="192.0.2.9").json()["errors"][0]["code"] == "too_many_login_attempts"
    assert sign_in(address="192.0.2.1").status_code == 200


def test_a_letters_link_lets_in_who_was_held_up(teacher):
    for n in range(7):
        sign_in(f"guess {n}")
    assert sign_in().status_code == 400
    place = {"REMOTE_ADDR": "198.51.100.7"}
    send(Client(), "post", f"{AUTH}/auth/password/request", {"email": "ada@a.example"}, **place)
    key = mail.outbox[0].body.split("/reset/")[1].split()[0]
    done = send(Client(), "post", f"{AUTH}/auth/password/reset", {"key": key, "password": NEW}, **place)
    assert done.status_code in (200, 401)
    assert sign_in(NEW).status_code == 200


def test_a_class_of_thirty_behind_one_address_signs_in_together(teacher):
    for n in range(32):
        User.objects.create_user(f"s{n}@a.example", PASSWORD, name=f"S{n}", studio=teacher.studio, role="student")
        assert sign_in("mistyped", email=f"s{n}@a.example").status_code == 400
        assert sign_in(email=f"s{n}@a.example").status_code == 200


@pytest.mark.parametrize("path", [f"{AUTH}/auth/login", "/api/v1/join/x"])
def test_another_page_signs_nobody_in(teacher, path):
    browser = Client(enforce_csrf_checks=True)
    answer = send(browser, "post", path, {"email": "ada@a.example", "password": PASSWORD})
    assert answer.status_code == 403
    assert browser.get("/api/v1/me").status_code == 401


def test_an_account_is_made_by_our_own_page_and_json_alone(teacher, client, student):
    invited = send(client, "post", f"/api/v1/students/{student.pk}/invite", {"email": ""}).json()["link"]
    path = "/api/v1" + invited.split("testserver", 1)[1]
    body = json.dumps({"email": "nele@a.example", "password": NEW})
    browser = Client(enforce_csrf_checks=True)
    assert browser.post(path, body, content_type="text/plain").status_code == 415
    assert browser.post(path, body, content_type="application/json").status_code == 403
    browser.get("/")
    token = browser.cookies["csrftoken"].value
    answer = browser.post(path, body, content_type="application/json", HTTP_X_CSRFTOKEN=token)
    assert answer.status_code == 201, answer.content


@pytest.mark.parametrize(
    "password",
    ["            ", "1234567890123", "password1234", "qwertyuiop12", "nelenelenele", "guitarguitar", "xyz" * 40 + "7"],
)
def test_what_a_guesser_tries_first_is_no_password(client, student, password):
    invited = send(client, "post", f"/api/v1/students/{student.pk}/invite", {"email": ""}).json()["link"]
    path = "/api/v1" + invited.split("testserver", 1)[1]
    answer = send(Client(), "post", path, {"email": "nele@a.example", "password": password})
    assert answer.status_code == 422
    assert answer.json()["code"] == "invalid_account"
    assert not User.objects.filter(email="nele@a.example").exists()


def test_ways_in_are_written_down(teacher):
    browser = Client()
    sign_in("guess")
    sign_in(browser=browser)
    assert totp(browser).status_code == 200
    body = {"current_password": PASSWORD, "new_password": NEW}
    assert send(browser, "post", f"{AUTH}/account/password/change", body).status_code == 200
    assert send(browser, "delete", f"{AUTH}/account/authenticators/totp").status_code == 200
    rows = browser.get("/api/v1/audit").json()
    done = {"signed_in", "sign_in_failed", "changed_password", "set_second_factor", "removed_second_factor"}
    assert {r["action"] for r in rows} >= done
    failed = next(r for r in rows if r["action"] == "sign_in_failed")
    assert (failed["who"], failed["what"]) == ("Somebody", "from 198.51.100.7")


def test_a_password_and_its_line_in_the_log_stand_or_fall_together(teacher, monkeypatch):
    browser = client_of(teacher)
    monkeypatch.setattr(AuditEntry, "save", lambda *_a, **_k: 1 / 0)
    browser.raise_request_exception = False
    body = {"current_password": PASSWORD, "new_password": NEW}
    assert send(browser, "post", f"{AUTH}/account/password/change", body).status_code == 500
    teacher.refresh_from_db()
    assert teacher.check_password(PASSWORD)


def change_address(browser, address="ada@new.example", password=PASSWORD):
    return send(browser, "post", "/api/v1/me/address", {"address": address, "password": password})


def test_an_address_is_changed_with_the_password_by_a_letter_and_both_are_told(teacher, settings):
    settings.MAIL_IS_SET = True
    browser = client_of(teacher)
    assert change_address(browser).json() == {"mailed": True}
    teacher.refresh_from_db()
    assert teacher.email == "ada@a.example"
    to_new, to_old = mail.outbox
    assert (to_new.to, to_old.to) == (["ada@new.example"], ["ada@a.example"])
    token = to_new.body.split("/address/")[1].split()[0]
    assert "/address/" not in to_old.body
    elsewhere = Client(enforce_csrf_checks=True)
    assert elsewhere.post(f"/api/v1/address/{token}").status_code == 403
    assert Client().post(f"/api/v1/address/{token}").json() == {"address": "ada@new.example"}
    assert Client().post(f"/api/v1/address/{token}").status_code == 404  # a link works once
    assert mail.outbox[-1].to == ["ada@a.example"]
    assert sign_in(email="ada@new.example").status_code == 200
    assert sign_in().status_code == 400
    assert "changed_address" in {r["action"] for r in browser.get("/api/v1/audit").json()}
    send(Client(), "post", f"{AUTH}/auth/password/request", {"email": "ada@new.example"})
    assert mail.outbox[-1].to == ["ada@new.example"]


def test_without_a_mail_server_an_address_counts_at_once(teacher, settings):
    settings.MAIL_IS_SET = False
    assert change_address(client_of(teacher)).json() == {"mailed": False}
    assert sign_in(email="ada@new.example").status_code == 200


def test_an_address_that_cannot_be_is_refused_and_guesses_are_counted(teacher, stranger):
    browser = client_of(teacher)
    assert change_address(browser, "bo@b.example").json()["code"] == "email_taken"
    assert change_address(browser, "no address").json()["code"] == "invalid_account"
    codes = [change_address(browser, password=f"guess {n}").json()["code"] for n in range(7)]
    assert codes[0] == "wrong_password"
    assert codes[-1] == "too_many_attempts"
    assert Client().post("/api/v1/address/made-up").status_code == 404
    teacher.refresh_from_db()
    assert teacher.email == "ada@a.example"
