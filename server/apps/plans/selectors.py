"""What a person may see of plans."""

from __future__ import annotations

import datetime as dt
from dataclasses import dataclass
from typing import Any
from uuid import UUID
from zoneinfo import ZoneInfo

from config.problems import not_found
from django.db.models import Count, Max, QuerySet, Sum
from django.utils import timezone

from apps.people import selectors as people
from apps.people.models import Student, Studio, User
from apps.plans.models import Assignment, Hold, LadderMove, LogEntry, Practice
from apps.takes.models import Take

DEFAULT_MINUTES = [20, 20, 20, 20, 20, 0, 0]


def assignments(actor: User, *, running: bool = True) -> QuerySet[Assignment]:
    """Assignments of the students this person may see."""
    found = Assignment.objects.filter(student__in=people.students(actor)).select_related(
        "student", "drill__current", "pair__drill"
    )
    return found.filter(ended_at=None) if running else found


def assignment(actor: User, assignment_id: int) -> Assignment:
    """One of them, or 404."""
    found = assignments(actor, running=False).filter(pk=assignment_id).first()
    if found is None:
        raise not_found()
    return found


def moves(assignment: Assignment) -> QuerySet[LadderMove]:
    """Steps that were taken, newest first."""
    return assignment.ladder.select_related("made_by")


def practice(student: Student) -> Practice:
    """When a student practises; the house's default where nobody has said."""
    found = Practice.objects.filter(student=student).first()
    return found or Practice(student=student, minutes=DEFAULT_MINUTES)


def hold(student: Student) -> Hold | None:
    """Why the student's ladders stand still, or None."""
    return student.holds.filter(cleared_at=None).select_related("entry").first()


def log(actor: User, student: Student) -> QuerySet[LogEntry]:
    """A student's logbook, newest first."""
    return LogEntry.objects.filter(student=student, student__in=people.students(actor)).select_related(
        "assignment__drill", "made_by"
    )


def log_entry(actor: User, entry_id: UUID) -> LogEntry:
    """One line, or 404."""
    found = LogEntry.objects.filter(pk=entry_id, student__in=people.students(actor)).select_related("student").first()
    if found is None:
        raise not_found()
    return found


@dataclass(frozen=True)
class StudentNeeds:
    """What a teacher wants to know of a student at a glance."""

    student_id: int
    works_on: int
    steps: int
    held: bool
    minutes_this_week: float
    newest_take: dt.datetime | None


def needs(actor: User) -> list[StudentNeeds]:
    """Of every student this person may see, in a handful of statements however many there are."""
    own = people.students(actor)
    week_began = today(actor.studio) - dt.timedelta(days=today(actor.studio).weekday())
    running = Assignment.objects.filter(student__in=own, ended_at=None).order_by()
    works_on = _by_student(running, Count("pk"))
    steps = _by_student(running.filter(standing__move__in=("up", "down")), Count("pk"))
    held = set(Hold.objects.filter(student__in=own, cleared_at=None).values_list("student_id", flat=True))
    log = LogEntry.objects.filter(student__in=own, day__gte=week_began).order_by()
    minutes = _by_student(log, Sum("minutes"))
    newest = _by_student(Take.objects.filter(student__in=own).order_by(), Max("played_at"))
    return [
        StudentNeeds(pk, works_on.get(pk, 0), steps.get(pk, 0), pk in held, minutes.get(pk) or 0.0, newest.get(pk))
        for pk in own.values_list("pk", flat=True)
    ]


def _by_student(rows: QuerySet[Any], what: Any) -> dict[int, Any]:
    return dict(rows.values_list("student_id").annotate(what))


def zone(studio: Studio) -> ZoneInfo:
    """The zone the studio's days are counted in."""
    return ZoneInfo(studio.zone)


def today(studio: Studio) -> dt.date:
    """The day it is in the studio."""
    return timezone.localdate(timezone=zone(studio))


def day_of(student: Student, at: dt.datetime) -> dt.date:
    """The studio's day of a moment."""
    return at.astimezone(zone(student.studio)).date()


def takes_on(student: Student, since: dt.date, to: dt.date) -> QuerySet[Take]:
    """Takes played from one day to another in the studio's zone."""
    here = zone(student.studio)
    return Take.objects.filter(
        student=student,
        played_at__gte=dt.datetime.combine(since, dt.time(), here),
        played_at__lt=dt.datetime.combine(to + dt.timedelta(days=1), dt.time(), here),
    )
