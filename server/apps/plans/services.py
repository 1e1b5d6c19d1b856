"""Changes to plans and the logbook. Who may see a student may log for them; assigning is the teacher's."""

from __future__ import annotations

import datetime as dt
from dataclasses import dataclass

from config.problems import ServiceError
from django.db import transaction
from django.db.models import QuerySet
from django.utils import timezone
from fortimetra import Drill as DrillContent
from fortimetra.coach import notes_per_click
from fortimetra.model import LadderRule, Step

from apps.drills.models import Drill
from apps.people import audit
from apps.people.actor import require_teacher
from apps.people.models import Student, User
from apps.people.tokens import new_token
from apps.plans import ladders, planning, selectors
from apps.plans.models import Assignment, Hold, LogEntry, Practice, Shift

MOST_RUNNING = 30
MOST_DAY_MINUTES = 240.0
# A day may be logged this long after it was.
LOG_BACK = dt.timedelta(days=60)


@dataclass(frozen=True)
class Terms:
    """What an assignment asks."""

    minutes: float
    days: int
    begins: dt.date
    ends: dt.date | None
    note: str
    rule: LadderRule
    goal: Step | None
    moves: str
    sharing: str


@transaction.atomic
def assign(
    actor: User, student: Student, drill: Drill, *, terms: Terms, step: Step, pair: Assignment | None
) -> Assignment:
    """A drill for a student to work on. Raises ServiceError where the plan would contradict itself."""
    require_teacher(actor)
    Student.objects.select_for_update().get(pk=student.pk)
    running = student.assignments.filter(ended_at=None)
    if running.filter(drill=drill).exists():
        raise ServiceError(
            409,
            "assigned_already",
            f"{student.name} works on “{drill.title}” already; change that assignment, or end it.",
        )
    if running.count() >= MOST_RUNNING:
        raise ServiceError(422, "too_many", f"{student.name} already works on {MOST_RUNNING} drills; end one first.")
    if drill.archived_at is not None:
        raise ServiceError(422, "drill_put_away", f"“{drill.title}” is archived; restore it first.")
    assert drill.current is not None
    content = DrillContent.model_validate(drill.current.content)
    _check_terms(content, terms, step)
    now = timezone.now()
    made = Assignment.objects.create(
        student=student, drill=drill, made_by=actor, made_at=now, step=step.model_dump(), step_since=now,
        standing={"move": "stay", "to": step.model_dump(), "says": "", "takes": []}, **_columns(terms),
    )  # fmt: skip
    _pair(made, pair)
    audit.changed(actor, "assigned", student=student, what=drill.title, object_id=made.pk)
    return ladders.look(made.pk) or made


@transaction.atomic
def change(actor: User, assignment: Assignment, *, terms: Terms, pair: Assignment | None) -> Assignment:
    """Other terms; where the ladder stands is not touched."""
    require_teacher(actor)
    found = ladders.locked_or_404(assignment)
    if found.ended_at is not None:
        raise ServiceError(409, "ended", "This assignment has ended; assign the drill anew.")
    assert found.drill.current is not None
    _check_terms(DrillContent.model_validate(found.drill.current.content), terms, Step.model_validate(found.step))
    for name, value in _columns(terms).items():
        setattr(found, name, value)
    found.save()
    _pair(found, pair)
    audit.changed(actor, "changed_assignment", student=found.student, what=found.drill.title, object_id=found.pk)
    return ladders.look(found.pk) or found


@transaction.atomic
def end(actor: User, assignment: Assignment) -> None:
    """The drill rests; what was done stays in the record."""
    require_teacher(actor)
    Assignment.objects.filter(pk=assignment.pk, ended_at=None).update(ended_at=timezone.now(), pair=None)
    Assignment.objects.filter(pair_id=assignment.pk).update(pair=None)
    audit.changed(
        actor, "ended_assignment", student=assignment.student, what=assignment.drill.title, object_id=assignment.pk
    )


def _columns(terms: Terms) -> dict[str, object]:
    return {
        "minutes": terms.minutes,
        "days": terms.days,
        "begins": terms.begins,
        "ends": terms.ends,
        "note": " ".join(terms.note.split()),
        "rule": terms.rule.model_dump(mode="json"),
        "goal": None if terms.goal is None else terms.goal.model_dump(),
        "moves": terms.moves,
        "sharing": terms.sharing,
    }


def _check_terms(content: DrillContent, terms: Terms, step: Step) -> None:
    ladders.check_step_of(content, step)
    if terms.ends is not None and terms.ends < terms.begins:
        raise ServiceError(422, "ends_before", "It ends before it begins; choose a later day.")
    if terms.rule.speed == "notes_per_click" and notes_per_click(content) is None:
        raise ServiceError(
            422,
            "not_even",
            f"“{content.title}” is no even line of notes, so its ladder cannot go by notes a click; choose "
            "tempo steps.",
        )
    if (
        terms.goal is not None
        and content.tempo is not None
        and (terms.goal.bpm or 0) < (step.bpm or 0)
        and (terms.goal.per_click or 0) <= (step.per_click or 0)
    ):
        raise ServiceError(422, "goal_below", "The goal lies below where it begins; choose a faster one.")


def _pair(made: Assignment, pair: Assignment | None) -> None:
    """Make two assignments a pair, or part one from its pair; both rows say so."""
    if pair is not None and (pair.student_id != made.student_id or pair.pk == made.pk or pair.ended_at is not None):
        raise ServiceError(422, "no_pair", "A pair is two running drills of the same student.")
    others = [pk for pk in (made.pk, pair.pk if pair else None) if pk is not None]
    Assignment.objects.filter(pair_id__in=others).update(pair=None)
    Assignment.objects.filter(pk__in=others).update(pair=None)
    if pair is not None:
        Assignment.objects.filter(pk=made.pk).update(pair=pair)
        Assignment.objects.filter(pk=pair.pk).update(pair=made)


@transaction.atomic
def shift(actor: User, assignment: Assignment, *, since: dt.date, to: dt.date | None) -> None:
    """Put a day's work off to another day, or leave it out; back to its own day takes that back. Nothing else moves."""
    today = selectors.today(assignment.student.studio)
    if assignment.ended_at is not None:
        raise ServiceError(409, "ended", "This assignment has ended.")
    if to is not None and to != since and to < today:
        raise ServiceError(422, "past_day", "That day is over; choose today or a later one.")
    if to is not None and abs(to - since) > planning.MOST_AHEAD:
        raise ServiceError(422, "too_far", "That is more than a year away; end the assignment instead.")
    day = _first_of_chain(assignment, since)
    Shift.objects.filter(assignment=assignment, since=day).delete()
    if to != day:
        Shift.objects.create(assignment=assignment, since=day, to=to)
    audit.changed(
        actor, "moved_day", student=assignment.student,
        what=f"{assignment.drill.title}: {since} to {to or 'left out'}", object_id=assignment.pk,
    )  # fmt: skip


def _first_of_chain(assignment: Assignment, day: dt.date) -> dt.date:
    """Work that was moved to a day and is moved on: the day it was planned for."""
    before = Shift.objects.filter(assignment=assignment, to=day).values_list("since", flat=True).first()
    return day if before is None else before


def set_practice(actor: User, student: Student, *, minutes: list[float], at: dt.time) -> Practice:
    """When a student practises; the student may say so too."""
    if any(not 0 <= m <= MOST_DAY_MINUTES for m in minutes):
        raise ServiceError(422, "minutes_invalid", f"A day has 0 to {MOST_DAY_MINUTES:.0f} minutes of practice.")
    practice, _made = Practice.objects.update_or_create(student=student, defaults={"minutes": minutes, "at": at})
    audit.changed(actor, "changed_practice", student=student, what=f"{sum(minutes):g} minutes a week")
    return practice


def new_feed(actor: User, student: Student) -> str:
    """The secret of a calendar feed; an earlier one no longer works."""
    token, digest = new_token()
    practice = selectors.practice(student)
    practice.feed = digest
    practice.save()
    audit.changed(actor, "made_feed", student=student)
    return token


def end_feed(actor: User, student: Student) -> None:
    """The calendar feed no longer works."""
    Practice.objects.filter(student=student).update(feed=None)
    audit.changed(actor, "ended_feed", student=student)


def after_hand_over(sender: object, student: Student, **_: object) -> None:
    """What the old teacher may have put into a calendar of theirs no longer works."""
    Practice.objects.filter(student=student).update(feed=None)


def after_leaving(sender: object, student: Student, **_: object) -> None:
    """Who is not taught here any more has nothing to practise; what was done stays in the record."""
    student.assignments.filter(ended_at=None).update(ended_at=timezone.now(), pair=None)
    Practice.objects.filter(student=student).update(feed=None)


@transaction.atomic
def log(
    actor: User,
    student: Student,
    *,
    kind: str,
    day: dt.date,
    minutes: float | None,
    text: str,
    assignment: Assignment | None,
) -> LogEntry:
    """A line of the logbook. Logged discomfort holds every ladder of the student."""
    today = selectors.today(student.studio)
    if not today - LOG_BACK <= day <= today:
        raise ServiceError(422, "day_invalid", "Log today, or a day of the last two months.")
    if assignment is not None and assignment.student_id != student.pk:
        raise ServiceError(422, "other_student", "That drill is assigned to somebody else.")
    if kind == LogEntry.Kind.PRACTICE and not minutes:
        raise ServiceError(422, "no_minutes", "Say how many minutes it was.")
    if kind == LogEntry.Kind.NOTE and not text.strip():
        raise ServiceError(422, "no_text", "The note is empty.")
    entry = LogEntry.objects.create(
        student=student, assignment=assignment, kind=kind, day=day, minutes=minutes, text=text.strip(),
        made_by=actor, made_at=timezone.now(),
    )  # fmt: skip
    if kind == LogEntry.Kind.DISCOMFORT and selectors.hold(student) is None:
        Hold.objects.create(
            student=student, entry=entry, since=entry.made_at, by_teacher=actor.role == User.Role.TEACHER
        )
        ladders.look_at_all(student)
    audit.changed(actor, f"logged_{kind}", student=student, object_id=entry.pk)
    return entry


@transaction.atomic
def delete_entry(actor: User, entry: LogEntry) -> None:
    """Take a line out of the logbook; a hold that came of it stays until it is cleared."""
    audit.changed(actor, "deleted_log", student=entry.student)
    entry.delete()


@transaction.atomic
def clear_hold(actor: User, student: Student) -> None:
    """Ladders go on. Raises ServiceError where a student would take back what their teacher stopped."""
    held = selectors.hold(student)
    if actor.role == User.Role.STUDENT and held is not None and held.by_teacher:
        raise ServiceError(403, "teachers_hold", "Your teacher stopped the ladders; ask them to let these go on.")
    cleared = Hold.objects.filter(student=student, cleared_at=None).update(cleared_at=timezone.now(), cleared_by=actor)
    if cleared:
        audit.changed(actor, "cleared_hold", student=student)
        ladders.look_at_all(student)


def proposals(actor: User) -> QuerySet[Assignment]:
    """Ladders with a step to confirm."""
    require_teacher(actor)
    return selectors.assignments(actor).filter(standing__move__in=("up", "down"))
