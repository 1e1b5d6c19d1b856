"""Who may see what: nobody without signing in, nobody somebody else's."""

import json

import pytest
from apps.bench import services as bench
from apps.drills.models import ScoreImport
from apps.jobs.models import Job
from apps.measuring.models import Remeasurement, Trial
from apps.people import invitations
from apps.people.models import Student, User
from apps.plans import services as plans
from apps.reports.models import LessonSheet
from apps.reviews.models import WordMark
from apps.takes import guests
from apps.takes.models import DrillGuess
from config.api import api
from django.test import Client
from django.utils import timezone
from fortimetra.drills.blank import blank
from fortimetra.drills.library import library
from fortimetra.model.guitar import preset
from fortimetra.model.ladder import LadderRule, Step

from tests.server.conftest import PASSWORD, client_of
from tests.server.made import made_take

pytestmark = pytest.mark.django_db
OPEN = {"health", "welcome"}
# What a link alone opens.
BY_LINK = {
    "confirm_address",
    "read_invitation",
    "join",
    "open_guest_link",
    "guest_take",
    "guest_consent",
    "read_guest_take",
    "read_feed",
}
NOBODYS = {"calculate"}


TERMS = plans.Terms(
    minutes=3.0, days=5, begins=timezone.localdate(), ends=None, note="", rule=LadderRule(), goal=None,
    moves="confirmed", sharing="weaker",
)  # fmt: skip


def operations():
    """Method, path and name of everything the API offers."""
    for path, methods in api.get_openapi_schema()["paths"].items():
        for method, operation in methods.items():
            yield method, path, operation["operationId"]


# Requests that are valid but for who sends them.
BODIES = {
    "change_guitar": {"name": "x", "description": preset("solid").model_dump(mode="json")},
    "change_drill": {"archived": True},
    "write_card": {"lines": ["Mine."]},
    "write_drill": {"content": blank().model_dump(mode="json"), "number": 1},
    "say_click": {"click": None},
    "mark_take": {"kind": "comment", "text": "x"},
    "undo_mark": {"undone": True},
    "judge_takes": {"takes": [{"id": "00000000-0000-0000-0000-000000000000", "word_version": 0}]},
    "answer_ear_check": {"number": 0, "said": "same"},
    "rename_student": {"name": "x"},
    "hand_over_student": {"teacher_id": 0},
    "set_practice": {"minutes": [0] * 7, "at": "19:00"},
    "confirm_step": {"says": "x"},
    "set_step": {"step": {"bpm": 60}},
    "shift_day": {"since": "2026-01-05", "to": None},
    "change_sheet": {"findings": [], "paper": "A4"},
    "share_sheet": {"on": True},
    "give_consent": {"by": "student"},
    "state_consent": {"by": "student", "way": "word"},
}


@pytest.fixture
def take(student, drill):
    return made_take(student, drill)


@pytest.fixture
def url_of(take, guitar, teacher):
    check = bench.start(teacher, student=guitar.student, kind="pitch")
    now = timezone.now()
    drill = take.drill_version.drill
    places = {"take_id": take.pk, "other_id": take.pk, "drill_id": drill.pk, "guitar_id": guitar.pk}
    brought = ScoreImport.objects.create(studio=teacher.studio, created_by=teacher, file_name="x.mid", upload=b"MThd")
    mark = WordMark.objects.create(take=take, content={"kind": "comment", "text": "x"}, made_by=teacher, made_at=now)
    trial = Trial.objects.create(
        take=take, created_by=teacher, asked_at=now, drill_version=take.drill_version, against=take.current
    )
    assigned = plans.assign(teacher, take.student, drill, terms=TERMS, step=Step(bpm=66), pair=None)
    entry = plans.log(
        teacher, take.student, kind="note", day=timezone.localdate(), minutes=None, text="x", assignment=None
    )
    sheet = LessonSheet.objects.create(student=take.student, made_by=teacher, made_at=now, content={})
    places |= {"student_id": take.student_id, "assignment_id": assigned.pk, "entry_id": entry.pk, "sheet_id": sheet.pk}
    places |= {"invitation_id": invitations.invite_teacher(teacher, email="")[0].pk, "form": "notes", "token": "x" * 32}
    places |= {"link_id": guests.make_link(teacher, student=take.student, drill=drill)[0].pk, "user_id": teacher.pk}
    places |= {
        "mark_id": mark.pk,
        "trial_id": trial.pk,
        "import_id": brought.pk,
        "number": 1,
        "key": "0" * 40,
        "section": "practise",
    }
    order = Remeasurement.objects.create(asked_by=teacher, asked_at=now, core_version="0.1.0")
    given_up = Job.objects.create(kind="takes.measure", subject=str(take.pk), asked_at=now, state="failed")
    places |= {"order_id": order.pk, "job_id": given_up.pk}
    guess = DrillGuess.objects.create(created_by=teacher, upload="guesses/x", asked_at=now)
    rest = {"guess_id": guess.pk, "check_id": check.pk, "kind": "solid", "calculator_id": "beats", "name": "bends_2"}
    return lambda path: path.format(**places, **rest)


def _call(client, method, path, name=""):
    body = json.dumps(BODIES.get(name, {}))
    return client.generic(method.upper(), path, data=body, content_type="application/json")


def test_without_signing_in_there_is_only_401(url_of):
    for method, path, name in operations():
        answer = _call(Client(), method, url_of(path), name)
        if name in OPEN:
            assert answer.status_code == 200, name
        elif name in BY_LINK:
            assert answer.status_code in {404, 422}, name
            assert "Nele" not in answer.content.decode(), name
        else:
            assert answer.status_code == 401, name
            assert answer["Content-Type"] == "application/problem+json", name
            assert answer.json()["code"] == "not_signed_in", name


# What belongs to the studio, and so to every teacher and student in it.
OF_THE_STUDIO = {"drill_id", "number", "key", "user_id", "import_id"}


@pytest.fixture
def actors(teacher, stranger):
    """Everybody who is wrong: from another studio, a colleague, another student of the same teacher."""
    colleague = User.objects.create_user("cy@a.example", PASSWORD, name="Cy", studio=teacher.studio, role="teacher")
    other = User.objects.create_user("ove@a.example", PASSWORD, name="Ove", studio=teacher.studio, role="student")
    Student.objects.create(studio=teacher.studio, teacher=teacher, user=other, name="Ove")
    return {"stranger": stranger, "colleague": colleague, "other student": other}


@pytest.mark.parametrize("who", ["stranger", "colleague", "other student"])
def test_the_wrong_person_gets_404_for_every_object(who, actors, take, url_of):
    client = client_of(actors[who])
    walked = 0
    for method, path, name in operations():
        objects = {part.split("}")[0] for part in path.split("{")[1:]}
        own = {o for o in objects if o.endswith("_id")} - (set() if who == "stranger" else OF_THE_STUDIO)
        if not own or name in NOBODYS or name in BY_LINK:
            continue
        answer = _call(client, method, url_of(path), name)
        assert answer.status_code == 404, (who, name, answer.content[:200])
        assert answer.json()["code"] == "not_found", (who, name)
        walked += 1
    assert walked > 40
    take.refresh_from_db()
    assert take.state == "measured"


def test_lists_hold_only_ones_own(measured, stranger, student, teacher):
    assert [t["id"] for t in client_of(teacher).get("/api/v1/takes").json()] == [str(measured.pk)]
    assert client_of(stranger).get("/api/v1/takes").json() == []
    assert client_of(stranger).get("/api/v1/students").json() == []
    ours = {d["id"] for d in client_of(teacher).get("/api/v1/drills").json()}
    theirs = {d["id"] for d in client_of(stranger).get("/api/v1/drills").json()}
    assert ours.isdisjoint(theirs)
    assert len(theirs) == len(library())


def test_two_teachers_of_one_studio_do_not_share_students(measured, teacher):
    colleague = User.objects.create_user("cy@a.example", PASSWORD, name="Cy", studio=teacher.studio, role="teacher")
    assert client_of(colleague).get("/api/v1/takes").json() == []
    assert client_of(colleague).get(f"/api/v1/takes/{measured.pk}").status_code == 404
    assert client_of(colleague).get(f"/api/v1/drills/{measured.drill_version.drill_id}").status_code == 200


def test_a_student_sees_own_takes_and_may_not_add_students(measured, teacher, student):
    user = User.objects.create_user("nele@a.example", PASSWORD, name="Nele", studio=teacher.studio, role="student")
    Student.objects.filter(pk=student.pk).update(user=user)
    client = client_of(user)
    assert [t["id"] for t in client.get("/api/v1/takes").json()] == [str(measured.pk)]
    answer = client.post("/api/v1/students", data='{"name": "X"}', content_type="application/json")
    assert answer.status_code == 403
    drill = teacher.studio.drills.first()
    content = client.get(f"/api/v1/drills/{drill.pk}").json()["content"]
    body = json.dumps({"content": content | {"title": "Mine"}, "number": 1})
    assert client.put(f"/api/v1/drills/{drill.pk}/content", body, content_type="application/json").status_code == 403
    assert client.post("/api/v1/drills/blank").status_code == 403
    assert (
        client.post(
            "/api/v1/drills/check", json.dumps({"content": content}), content_type="application/json"
        ).status_code
        == 200
    )


def test_nobody_uploads_for_a_strangers_student(stranger, student, flac):
    from django.core.files.uploadedfile import SimpleUploadedFile

    drill = stranger.studio.drills.first()
    answer = client_of(stranger).post(
        "/api/v1/takes", {"student_id": student.pk, "drill_id": drill.pk, "file": SimpleUploadedFile("a.flac", flac)}
    )
    assert answer.status_code == 404


def test_signing_in_by_session(teacher):
    client = Client(enforce_csrf_checks=True)
    client.get("/")
    token = client.cookies["csrftoken"].value
    login = "/_allauth/browser/v1/auth/login"

    def post(password, token=token):
        body = json.dumps({"email": "ada@a.example", "password": password})
        return client.post(login, body, content_type="application/json", headers={"X-CSRFToken": token})

    assert post(PASSWORD, token="").status_code == 403
    assert post("wrong").status_code == 400
    assert post(PASSWORD).status_code == 200
    me = client.get("/api/v1/me").json()
    assert (me["name"], me["role"], me["studio"]) == ("Ada", "teacher", "Studio A")


def test_guessing_passwords_is_slowed_down(teacher):
    client = Client()
    body = json.dumps({"email": "ada@a.example", "password": "wrong"})
    last = [client.post("/_allauth/browser/v1/auth/login", body, content_type="application/json") for _ in range(8)][-1]
    assert (last.status_code, last.json()["errors"][0]["code"]) == (400, "too_many_login_attempts")
    right = json.dumps({"email": "ada@a.example", "password": PASSWORD})
    assert client.post("/_allauth/browser/v1/auth/login", right, content_type="application/json").status_code == 400


def test_nobody_signs_up_alone(db):
    body = json.dumps({"email": "x@x.example", "password": PASSWORD})
    answer = Client().post("/_allauth/browser/v1/auth/signup", body, content_type="application/json")
    assert answer.status_code == 404
    assert not User.objects.filter(email="x@x.example").exists()


def test_a_write_without_our_pages_token_is_refused(teacher):
    client = Client(enforce_csrf_checks=True)
    client.force_login(teacher, backend="allauth.account.auth_backends.AuthenticationBackend")
    answer = client.post("/api/v1/students", data='{"name": "X"}', content_type="application/json")
    assert answer.status_code == 403


def test_the_page_is_served_with_a_strict_policy(db):
    answer = Client().get("/takes/anything")
    policy = answer["Content-Security-Policy"]
    assert "script-src 'self'" in policy
    assert "unsafe-eval" not in policy
    assert answer["X-Frame-Options"] == "DENY"
    assert Client().get("/api/v1/nowhere").json()["code"] == "not_found"


def test_the_service_worker_is_a_script_at_the_root_and_no_page(db, settings, tmp_path):
    settings.WEB_DIST = tmp_path
    assert Client().get("/sw.js").status_code == 503
    (tmp_path / "sw.js").write_text("self.skipWaiting()")
    answer = Client().get("/sw.js")
    assert answer["Content-Type"].startswith("text/javascript")
    assert answer["Cache-Control"].startswith("max-age=0")
    assert answer.content == b"self.skipWaiting()"
    assert Client().post("/sw.js").status_code == 405
