"""Lines that decide about people: who agreed to what, which links open what and how long, what a course begins."""

from __future__ import annotations

import datetime as dt
from datetime import UTC
from uuid import UUID

import pytest
from apps.drills.services import change
from apps.people import consents, invitations
from apps.people.consents import Given
from apps.people.models import AuditEntry, Consent, Invitation, Student, User
from apps.people.services import add_student
from apps.plans import courses
from apps.takes import guests
from apps.takes.models import Take
from config.problems import ServiceError
from django.core import mail
from django.core.files.uploadedfile import SimpleUploadedFile
from django.utils import timezone
from fortimetra.coach import BY_NAME
from fortimetra.coach.courses import CoursePart

from tests.server.conftest import PASSWORD
from tests.server.made import Clock

pytestmark = pytest.mark.django_db


@pytest.fixture
def clock(monkeypatch):
    """Noon in Greenwich, on a Monday."""
    clock = Clock(monkeypatch)
    clock.now = dt.datetime(2026, 3, 2, 12, 0, tzinfo=UTC)
    return clock


@pytest.fixture
def pupil(teacher):
    """A student of whom nobody has agreed to anything."""
    return add_student(teacher, name="Mo")


def refused(call, *args, **more):
    """Status and code of the refusal that a call has to be."""
    with pytest.raises(ServiceError) as problem:
        call(*args, **more)
    return problem.value.status, problem.value.code


# --- consent


@pytest.mark.parametrize(
    ("given", "code"),
    [
        (Given(by="student", way="word"), None),
        (Given(by="student", way="page"), "way"),  # a teacher states it; the page is the student's own
        (Given(by="guardian", way="word"), "name_missing"),
        (Given(by="guardian", way="word", name="  "), "name_missing"),
        (Given(by="guardian", way="word", name="Aunt Wil"), None),
        (Given(by="guardian", way="writing"), None),  # the paper has it
        (Given(by="student", way="word", day=dt.date(2026, 3, 2)), None),
        (Given(by="student", way="word", day=dt.date(2026, 3, 3)), "day"),
        (Given(by="student", way="word", day=dt.date(1970, 1, 1)), None),
        (Given(by="student", way="word", day=dt.date(1969, 12, 31)), "day"),
    ],
)
def test_what_a_teacher_may_state(teacher, pupil, clock, given, code):
    if code:
        assert refused(consents.give, teacher, [pupil], given) == (422, code)
        assert consents.current(pupil) is None
    else:
        consents.give(teacher, [pupil], given)
        assert consents.current(pupil).written_by == teacher


@pytest.mark.parametrize(("way", "may"), [("page", True), ("word", False), ("writing", False)])
def test_who_comes_by_a_link_agrees_on_the_page(pupil, way, may):
    given = Given(by="student", way=way)
    if may:
        consents.give(None, [pupil], given)
        assert (consents.current(pupil).written_by, consents.current(pupil).name) == (None, "Mo")
        assert AuditEntry.objects.latest("pk").actor_name == "Mo"
    else:
        assert refused(consents.give, None, [pupil], given) == (422, "way")


def test_a_student_with_an_account_agrees_on_the_page_too(teacher, pupil):
    user = User.objects.create_user("mo@a.example", PASSWORD, name="Mo", studio=teacher.studio, role="student")
    assert refused(consents.give, user, [pupil], Given(by="student", way="word")) == (422, "way")
    consents.give(user, [pupil], Given(by="student", way="page"))
    assert consents.current(pupil).way == "page"


def test_who_agreed_is_named_as_far_as_it_is_known(teacher, pupil):
    other, third = add_student(teacher, name="Kit"), add_student(teacher, name="Ada Lee")
    consents.give(teacher, [pupil], Given(by="guardian", way="writing"))
    consents.give(teacher, [other], Given(by="guardian", way="writing", name=" Aunt   Wil "))
    consents.give(teacher, [third], Given(by="student", way="word"))
    assert [consents.current(s).name for s in (pupil, other, third)] == ["", "Aunt Wil", "Ada Lee"]
    said = AuditEntry.objects.filter(action="gave_consent").order_by("-pk")[:3]
    assert [e.what for e in said] == ["Ada Lee, word", "Aunt Wil, writing", "a guardian, writing"]


def test_of_several_who_has_agreed_already_keeps_what_was_said(teacher, pupil, clock):
    consents.give(teacher, [pupil], Given(by="student", way="word"))
    first, other = consents.current(pupil), add_student(teacher, name="Kit")
    consents.give(teacher, [pupil, other], Given(by="student", way="writing"))
    assert consents.current(pupil) == first
    assert consents.current(other).way == "writing"
    assert Consent.objects.filter(student=pupil).count() == 1


def test_today_is_the_studios(teacher, pupil, clock):
    tomorrow = Given(by="student", way="word", day=dt.date(2026, 3, 3))
    assert refused(consents.give, teacher, [pupil], tomorrow) == (422, "day")
    # At noon in Greenwich it is the next day in the Line Islands (common practice: UTC+14).
    type(teacher.studio).objects.update(zone="Pacific/Kiritimati")
    there = Student.objects.get(pk=pupil.pk)
    consents.give(teacher, [there], tomorrow)
    assert consents.current(there).day == dt.date(2026, 3, 3)


def test_withdrawn_it_is_gone_once_and_recording_with_it(teacher, pupil):
    assert refused(consents.withdraw, teacher, pupil) == (409, "no_consent")
    assert refused(consents.require, pupil) == (403, "no_consent")
    consents.give(teacher, [pupil], Given(by="student", way="word"))
    consents.require(pupil)
    assert consents.with_agreed(Student.objects.filter(pk=pupil.pk)).get().agreed is True
    consents.withdraw(teacher, pupil)
    assert consents.with_agreed(Student.objects.filter(pk=pupil.pk)).get().agreed is False
    assert refused(consents.require, pupil) == (403, "no_consent")
    assert refused(consents.withdraw, teacher, pupil) == (409, "no_consent")
    (gone,) = consents.of([pupil])
    assert (gone.withdrawn_by, gone.withdrawn_at is not None) == ("Ada", True)
    pupil.left_at = timezone.now()
    assert refused(consents.require, pupil) == (403, "has_left")


@pytest.mark.parametrize(
    ("months", "says"), [(None, "when the studio no longer needs them"), (12, "after 12 months"), (1, "after 1 month")]
)
def test_the_words_say_how_long(teacher, pupil, months, says):
    pupil.studio.recordings_kept_months = months
    said = consents.words(pupil)
    assert f"deleted {says}" in said
    assert said.startswith("Recordings of Mo playing are kept by Studio A")


# --- links


def test_a_guests_link_is_good_for_a_fortnight(teacher, student, drill, clock):
    link, token = guests.make_link(teacher, student=student, drill=drill)
    assert list(guests.links(teacher)) == [link]
    clock.go(14 * 86_400 - 1)
    assert guests.opened(token) == link
    assert list(guests.links(teacher)) == [link]
    clock.go(1)
    assert refused(guests.opened, token) == (404, "link_over")
    assert list(guests.links(teacher)) == []
    assert refused(guests.withdraw, teacher, link.pk)[0] == 404


def test_a_guests_link_is_of_a_drill_in_use_and_of_ones_own_students(teacher, stranger, student, drill):
    link, token = guests.make_link(teacher, student=student, drill=drill)
    assert list(guests.links(stranger)) == []
    assert refused(guests.withdraw, stranger, link.pk)[0] == 404
    user = User.objects.create_user("nele@a.example", PASSWORD, name="Nele", studio=teacher.studio, role="student")
    assert refused(guests.make_link, user, student=student, drill=drill)[0] == 403
    change(teacher, drill, archived=True, level=None, tags=None, set_level=False)
    drill.refresh_from_db()
    assert refused(guests.make_link, teacher, student=student, drill=drill) == (422, "drill_put_away")
    guests.withdraw(teacher, link.pk)
    assert refused(guests.opened, token) == (404, "link_over")
    assert AuditEntry.objects.latest("pk").action == "withdrew_guest_link"


def test_a_guests_link_takes_one_recording_that_may_be_sent_twice(teacher, student, guitar, drill, flac, queued):
    _link, token = guests.make_link(teacher, student=student, drill=drill)

    def send(take_id):
        upload = SimpleUploadedFile("take.flac", flac)
        return guests.receive(token, upload=upload, take_id=take_id, click=None, capture=None, invented=False)

    made = send(UUID(int=1))
    assert (made.take.student, made.take.guitar, made.used_at is not None) == (student, guitar, True)
    assert send(made.take_id).take == made.take
    for other in (UUID(int=2), None):
        assert refused(send, other) == (409, "link_used")
    assert Take.objects.count() == 1


def test_an_invitation_is_good_for_a_fortnight_and_a_newer_one_takes_its_place(teacher, student, clock):
    _first, old = invitations.invite_student(teacher, student, email="")
    made, token = invitations.invite_student(teacher, student, email=" nele@a.example ")
    assert refused(invitations.open_invitation, old) == (404, "link_over")
    assert made.email == "nele@a.example"
    clock.go(14 * 86_400 - 1)
    assert invitations.open_invitation(token) == made
    assert list(invitations.invitations(teacher)) == [made]
    clock.go(1)
    assert refused(invitations.open_invitation, token) == (404, "link_over")
    assert list(invitations.invitations(teacher)) == []
    assert refused(invitations.withdraw, teacher, made.pk)[0] == 404


def test_invitations_of_others_stand(teacher, colleague, student):
    other = add_student(teacher, name="Kit")
    invitations.invite_student(teacher, other, email="")
    made, token = invitations.invite_student(teacher, student, email="")
    assert Invitation.objects.count() == 2
    assert refused(invitations.withdraw, colleague, made.pk)[0] == 404
    invitations.withdraw(teacher, made.pk)
    assert refused(invitations.open_invitation, token) == (404, "link_over")
    assert Invitation.objects.count() == 1


def test_who_may_invite_whom(teacher, colleague, student):
    user = User.objects.create_user("nele@a.example", PASSWORD, name="Nele", studio=teacher.studio, role="student")
    assert refused(invitations.invite_student, user, student, email="")[0] == 403
    assert refused(invitations.invite_teacher, colleague, email="")[0] == 403
    assert invitations.invite_teacher(teacher, email="")[0].role == "teacher"
    assert refused(invitations.invite_teacher, teacher, email="nobody") == (422, "invalid_account")
    Student.objects.filter(pk=student.pk).update(user=user)
    student.refresh_from_db()
    assert refused(invitations.invite_student, teacher, student, email="") == (409, "has_account")


def test_an_account_has_the_name_that_is_given_or_the_students(teacher, student):
    _made, token = invitations.invite_student(teacher, student, email="")
    user = invitations.accept(token, name="  ", email=" nele@a.example ", password=PASSWORD)
    assert (user.name, user.email, user.role, user.studio) == ("Nele", "nele@a.example", "student", teacher.studio)
    student.refresh_from_db()
    assert student.user == user
    assert refused(invitations.accept, token, name="", email="n@a.example", password=PASSWORD) == (404, "link_over")
    _made, token = invitations.invite_teacher(teacher, email="")
    assert refused(invitations.accept, token, name=" ", email="c@a.example", password=PASSWORD) == (422, "name_missing")
    assert refused(invitations.accept, token, name="C", email="c@a", password=PASSWORD) == (422, "invalid_account")
    assert refused(invitations.accept, token, name="C", email="c@a.example", password="c") == (422, "invalid_account")
    assert refused(invitations.accept, token, name="C", email="ADA@a.example", password=PASSWORD) == (
        409,
        "email_taken",
    )
    assert invitations.accept(token, name=" Cy  Quay ", email="c@a.example", password=PASSWORD).name == "Cy Quay"


def test_a_student_who_got_an_account_meanwhile_keeps_it(teacher, student):
    _made, token = invitations.invite_student(teacher, student, email="")
    user = User.objects.create_user("first@a.example", PASSWORD, name="Nele", studio=teacher.studio, role="student")
    Student.objects.filter(pk=student.pk).update(user=user)
    assert refused(invitations.accept, token, name="", email="n@a.example", password=PASSWORD) == (409, "has_account")
    assert not User.objects.filter(email="n@a.example").exists()


@pytest.mark.parametrize(
    ("email", "is_set", "goes_out"), [("n@a.example", True, True), ("", True, False), ("n@a.example", False, False)]
)
def test_a_link_is_mailed_where_that_can_be(teacher, settings, email, is_set, goes_out):
    settings.MAIL_IS_SET = is_set
    assert invitations.mail_link(teacher, email, "https://x/join/1", subject="s") is goes_out
    assert len(mail.outbox) == goes_out
    assert all("Ada sends you this link to Studio A" in m.body and "https://x/join/1" in m.body for m in mail.outbox)


def test_a_mail_that_cannot_go_out_breaks_nothing(monkeypatch):
    def broken(*_args, **_more):
        raise OSError("no route")

    monkeypatch.setattr(invitations, "send_mail", broken)
    assert invitations.mail("n@a.example", "s", "t") is False


def test_who_gives_whom_a_new_password(teacher, colleague, stranger, student):
    user = User.objects.create_user("nele@a.example", PASSWORD, name="Nele", studio=teacher.studio, role="student")
    Student.objects.filter(pk=student.pk).update(user=user)
    theirs = User.objects.create_user("mo@a.example", PASSWORD, name="Mo", studio=teacher.studio, role="student")
    Student.objects.create(studio=teacher.studio, teacher=colleague, name="Mo", user=theirs)
    for actor, whom, may in (
        (teacher, user, True), (teacher, colleague, True), (colleague, user, False), (colleague, teacher, False),
        (colleague, theirs, True), (stranger, user, False), (stranger, teacher, False), (user, user, False),
        (teacher, stranger, False),
    ):  # fmt: skip
        if may:
            assert invitations.reset_link(actor, whom).startswith("/reset/")
            assert AuditEntry.objects.latest("pk").what == whom.name
        else:
            assert refused(invitations.reset_link, actor, whom)[0] == 404, (actor.name, whom.name)


# --- courses

MONDAY = dt.date(2026, 3, 2)


@pytest.mark.parametrize(
    ("weeks", "first", "last", "says"),
    [
        ((1, 1), dt.date(2026, 3, 2), dt.date(2026, 3, 8), "week 1"),
        ((2, 3), dt.date(2026, 3, 9), dt.date(2026, 3, 22), "weeks 2 to 3"),
    ],
)
def test_weeks_of_a_course_are_whole(weeks, first, last, says):
    part = CoursePart("t", *weeks)
    assert courses.days_of(part, MONDAY) == (first, last)
    assert courses._weeks(part) == says


def test_a_course_begins_what_is_wanted_and_not_yet_worked_on(teacher, student):
    chosen = BY_NAME["bends_2"]
    titles = [p.title for p in chosen.parts]
    begun = courses.begin(
        teacher, student, chosen, begins=MONDAY, speed="tempo_steps", leave_out=frozenset(titles[:1])
    )  # fmt: skip
    assert [a.drill.title for a in begun.made] == titles[1:]
    assert begun.kept == []
    made = begun.made[0]
    tempo = made.drill.current.content["tempo"]["bpm"]
    assert made.goal["bpm"] == tempo + chosen.parts[1].up_bpm
    assert made.note == f"{chosen.title}: weeks 1 to 2."
    again = courses.begin(teacher, student, chosen, begins=MONDAY, speed="tempo_steps")
    assert ([a.drill.title for a in again.made], again.kept) == (titles[:1], titles[1:])
    asked = {"begins": MONDAY, "speed": "tempo_steps"}
    assert refused(courses.begin, teacher, student, chosen, **asked) == (422, "nothing_to_begin")
    assert refused(courses.course, "no_such")[0] == 404
    assert courses.course("bends_2") is chosen
