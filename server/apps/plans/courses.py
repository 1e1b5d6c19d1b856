"""Courses: weeks of assignments begun in one go, which a teacher adapts like any others."""

from __future__ import annotations

import datetime as dt
from dataclasses import dataclass

from config.problems import ServiceError, not_found
from django.db import transaction
from fortimetra.coach import BY_NAME, Course, CoursePart
from fortimetra.model import Speed, Step, rule_for

from apps.drills.models import Drill
from apps.drills.services import add_built_in, change
from apps.people.actor import require_teacher
from apps.people.models import Student, User
from apps.plans import services
from apps.plans.models import Assignment


@dataclass(frozen=True)
class Begun:
    """What a course made, and drills the student works on already."""

    made: list[Assignment]
    kept: list[str]


def course(name: str) -> Course:
    """One of them, or 404."""
    found = BY_NAME.get(name)
    if found is None:
        raise not_found()
    return found


def days_of(part: CoursePart, begins: dt.date) -> tuple[dt.date, dt.date]:
    """First and last day of a part."""
    first = begins + dt.timedelta(weeks=part.first_week - 1)
    return first, begins + dt.timedelta(weeks=part.last_week, days=-1)


@transaction.atomic
def begin(
    actor: User,
    student: Student,
    chosen: Course,
    *,
    begins: dt.date,
    speed: Speed,
    leave_out: frozenset[str] = frozenset(),
) -> Begun:
    """Every part of a course as an assignment with its first and last day; pairs stay pairs.

    leave_out: titles of parts that are not wanted. Raises ServiceError where nothing would be left, or the plan is
    full.
    """
    require_teacher(actor)
    running = set(student.assignments.filter(ended_at=None).values_list("drill_id", flat=True))
    made: dict[int, Assignment] = {}
    kept: list[str] = []
    for part in chosen.parts:
        if part.title in leave_out:
            continue
        drill = _drill(actor, part.title)
        if drill.pk in running:
            kept.append(drill.title)
            continue
        assert drill.current is not None
        tempo = drill.current.content["tempo"]
        step = Step(bpm=tempo["bpm"] if tempo else None)
        first, last = days_of(part, begins)
        terms = services.Terms(
            minutes=part.minutes, days=part.days, begins=first, ends=last, note=f"{chosen.title}: {_weeks(part)}.",
            rule=rule_for(speed), goal=Step(bpm=step.bpm + part.up_bpm) if step.bpm and part.up_bpm else None,
            moves=Assignment.Moves.CONFIRMED, sharing=Assignment.Sharing.EQUAL,
        )  # fmt: skip
        pair = made.get(drill.partner_id) if drill.partner_id else None
        made[drill.pk] = services.assign(actor, student, drill, terms=terms, step=step, pair=pair)
    if not made:
        raise ServiceError(422, "nothing_to_begin", f"{student.name} works on every drill of this course already.")
    return Begun(list(made.values()), kept)


def _weeks(part: CoursePart) -> str:
    return (
        f"week {part.first_week}"
        if part.first_week == part.last_week
        else f"weeks {part.first_week} to {part.last_week}"
    )


def _drill(actor: User, title: str) -> Drill:
    """The studio's drill of that title; taken out again where it was put away, added where it was deleted."""
    found = list(Drill.objects.filter(studio=actor.studio, title=title).select_related("current"))
    kept = next((d for d in found if d.archived_at is None), None)
    if kept is not None:
        return kept
    if found:
        return change(actor, found[0], archived=False, level=None, tags=None, set_level=False)
    return add_built_in(actor, title)
