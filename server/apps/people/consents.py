"""Consent to recording: of a student, or for a minor of a parent or guardian. Without it nothing is recorded."""

from __future__ import annotations

from collections.abc import Iterable, Sequence
from dataclasses import dataclass
from datetime import date
from zoneinfo import ZoneInfo

from config.problems import ServiceError
from django.db import transaction
from django.db.models import Exists, OuterRef, QuerySet
from django.utils import timezone

from apps.people import audit
from apps.people.models import Consent, Student, User

# What is consented to, word by word as the page shows it; kept with each consent.
TO = (
    "Recordings of {student} playing are kept by {studio}, measured by a program, and heard by {student}’s teacher, to "
    "help {student} practise. They are given to nobody else. They are deleted {until}, or earlier if the studio is "
    "asked to. This consent can be withdrawn at any time."
)
OLDEST = date(1970, 1, 1)


@dataclass(frozen=True)
class Given:
    """Who consents, how, and on which day (None: today)."""

    by: str
    way: str
    name: str = ""
    day: date | None = None


def in_words(months: int) -> str:
    """A number of months as it is said."""
    return "1 month" if months == 1 else f"{months} months"


def words(student: Student) -> str:
    """What is consented to."""
    months = student.studio.recordings_kept_months
    until = "when the studio no longer needs them" if months is None else f"after {in_words(months)}"
    return TO.format(student=student.name, studio=student.studio.name, until=until)


def in_force() -> QuerySet[Consent]:
    """Consents nobody has withdrawn."""
    return Consent.objects.filter(withdrawn_at=None)


def with_agreed(students: QuerySet[Student]) -> QuerySet[Student]:
    """Students with whether there is one (`agreed`)."""
    return students.annotate(agreed=Exists(in_force().filter(student=OuterRef("pk"))))


def current(student: Student) -> Consent | None:
    """The consent that counts, if there is one."""
    return in_force().filter(student=student).select_related("written_by").first()


def require(student: Student) -> None:
    """Raises ServiceError (403) where there is none, or the student has left."""
    if student.left_at is not None:
        raise ServiceError(
            403, "has_left", f"{student.name} has left the studio, so nothing is recorded. Take them back in first."
        )
    if not in_force().filter(student=student).exists():
        raise ServiceError(
            403,
            "no_consent",
            f"There is no consent yet to record {student.name}. Give it on the recording page, or let the teacher "
            "enter it on the student’s page.",
        )


@transaction.atomic
def give(actor: User | None, students: Sequence[Student], given: Given) -> None:
    """Write consents down: a teacher's statement, or a student's, guardian's or guest's own (actor None: by a link).

    Students who have one keep it. Raises ServiceError (422) for a guardian without a name and a day that cannot be.
    """
    teacher = actor is not None and actor.role == User.Role.TEACHER
    if (given.way == Consent.Way.PAGE) == teacher:
        raise ServiceError(422, "way", "Say how consent was given: on this page, in writing or by word of mouth.")
    name = " ".join(given.name.split())
    if given.by == Consent.By.GUARDIAN and not name and given.way != Consent.Way.WRITING:
        raise ServiceError(422, "name_missing", "Give the name of the parent or guardian.")
    have = set(in_force().filter(student__in=students).values_list("student_id", flat=True))
    for student in students:
        today = timezone.localdate(timezone=ZoneInfo(student.studio.zone))
        day = given.day or today
        if not OLDEST <= day <= today:
            raise ServiceError(422, "day", "Give the day of the consent; it cannot lie ahead.")
        if student.pk in have:
            continue
        who = name or (student.name if given.by == Consent.By.STUDENT else "")
        Consent.objects.create(
            student=student, by=given.by, name=who, way=given.way, to=words(student), day=day,
            written_by=actor, written_at=timezone.now(),
        )  # fmt: skip
        said = f"{who or 'a guardian'}, {given.way}"
        audit.changed(actor, "gave_consent", student=student, what=said, by=None if actor else who)


def withdraw(actor: User, student: Student) -> None:
    """Withdraw it; from now on nothing is recorded. What becomes of recordings is said apart."""
    with transaction.atomic():
        changed = in_force().filter(student=student).update(withdrawn_at=timezone.now(), withdrawn_by=actor.name)
        if not changed:
            raise ServiceError(409, "no_consent", "There is no consent to withdraw.")
        audit.changed(actor, "withdrew_consent", student=student)


def of(students: Iterable[Student]) -> QuerySet[Consent]:
    """All that were ever given, newest first."""
    return Consent.objects.filter(student__in=students).select_related("written_by")
