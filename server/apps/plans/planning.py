"""The days: what the core's planner makes of a student's assignments, and what was done of it."""

from __future__ import annotations

import datetime as dt
from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from functools import cached_property

from fortimetra import Drill as DrillContent
from fortimetra.coach import PAIN, Caution, Day, WantedDrill, for_day, week
from fortimetra.model import Guitar as GuitarContent

from apps.people.models import Student
from apps.plans import selectors
from apps.plans.models import Assignment, Hold, LogEntry, Practice, Shift

WEEK = dt.timedelta(days=7)
# A drill nobody has played yet is as weak as one that is half clean.
UNKNOWN_WEAKNESS = 0.5
# Days that lie so far ahead are not planned.
MOST_AHEAD = dt.timedelta(days=365)


@dataclass(frozen=True)
class Plan:
    """A student's days from a Monday on. assignments: all that run; by_id: those the blocks name; done: minutes logged
    a day and assignment; recorded: takes a day and drill.
    """

    student: Student
    practice: Practice
    hold: Hold | None
    days: Sequence[Day]
    assignments: Sequence[Assignment]
    by_id: Mapping[int, Assignment]
    done: Mapping[tuple[dt.date, int], float]
    recorded: Mapping[tuple[dt.date, int], int]

    @cached_property
    def guitar(self) -> GuitarContent | None:
        """The student's first guitar."""
        found = self.student.guitars.first()
        return None if found is None else GuitarContent.model_validate(found.description)

    @cached_property
    def drills(self) -> Mapping[int, DrillContent]:
        """What each assignment asks."""
        return {
            pk: DrillContent.model_validate(a.drill.current.content) for pk, a in self.by_id.items() if a.drill.current
        }


def monday_of(day: dt.date) -> dt.date:
    """The Monday of a day's week."""
    return day - dt.timedelta(days=day.weekday())


def plan(student: Student, *, monday: dt.date, weeks: int = 1) -> Plan:
    """The plan of so many weeks."""
    assigned = list(
        Assignment.objects.filter(student=student, ended_at=None).select_related("drill__current", "pair__drill")
    )
    for assignment in assigned:
        assignment.student = student
    running = sorted((a for a in assigned if a.drill.archived_at is None), key=lambda a: a.pk)
    practice = selectors.practice(student)
    last = monday + weeks * WEEK - dt.timedelta(days=1)
    moved = _moved(running)
    of_drill = {a.drill_id: a.pk for a in running}
    wanted = [_wanted(a, moved.get(a.pk, {}), of_drill) for a in running]
    days = [d for n in range(weeks) for d in week(wanted, monday=monday + n * WEEK, minutes=practice.minutes)]
    done: dict[tuple[dt.date, int], float] = {}
    entries = LogEntry.objects.filter(student=student, day__gte=monday, day__lte=last, kind=LogEntry.Kind.PRACTICE)
    for day, assignment_id, minutes in entries.values_list("day", "assignment_id", "minutes"):
        if assignment_id is not None:
            done[day, assignment_id] = done.get((day, assignment_id), 0.0) + (minutes or 0.0)
    recorded: dict[tuple[dt.date, int], int] = {}
    for played_at, drill_id in selectors.takes_on(student, monday, last).values_list(
        "played_at", "drill_version__drill_id"
    ):
        key = (selectors.day_of(student, played_at), drill_id)
        recorded[key] = recorded.get(key, 0) + 1
    by_id = {a.pk: a for a in running}
    return Plan(student, practice, selectors.hold(student), days, assigned, by_id, done, recorded)


def _moved(running: Sequence[Assignment]) -> dict[int, dict[dt.date, dt.date]]:
    moved: dict[int, dict[dt.date, dt.date]] = {}
    for assignment_id, since, to in Shift.objects.filter(assignment__in=running).values_list(
        "assignment_id", "since", "to"
    ):
        # Left out: moved to where no week looks.
        moved.setdefault(assignment_id, {})[since] = to or dt.date.min
    return moved


def _wanted(assignment: Assignment, moved: Mapping[dt.date, dt.date], of_drill: Mapping[int, int]) -> WantedDrill:
    share = assignment.newest_share
    return WantedDrill(
        id=assignment.pk,
        minutes=assignment.minutes,
        days=assignment.days,
        weakness=UNKNOWN_WEAKNESS if share is None else 1.0 - share,
        pair=assignment.pair_id,
        sharing=assignment.sharing,  # type: ignore[arg-type]
        begins=assignment.begins,
        ends=assignment.ends,
        moved=moved,
        after=of_drill.get(assignment.drill.after_id) if assignment.drill.after_id is not None else None,
    )


def cautions(found: Plan, day: Day) -> list[Caution]:
    """What a day's work makes relevant."""
    drills = [found.drills[b.id] for b in day.blocks if b.id is not None]
    said = for_day(day.minutes, drills, found.guitar)
    return [PAIN, *said] if found.hold is not None else said
