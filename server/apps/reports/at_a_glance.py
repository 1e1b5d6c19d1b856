"""The class at a glance: students × what is judged, by weeks; who has sent something; whose takes wait for an ear."""

from __future__ import annotations

import datetime as dt
from collections.abc import Sequence
from dataclasses import dataclass
from typing import Literal, get_args
from uuid import UUID

from django.db.models import Count, Max, QuerySet, Sum
from fortimetra.coach import share_interval

from apps.people import selectors as people
from apps.people.models import Student, Studio, User
from apps.plans import selectors as plans
from apps.plans.models import LogEntry
from apps.plans.planning import monday_of
from apps.takes import selectors
from apps.takes.models import Take

Skill = Literal["pitch", "bend", "vibrato", "timing", "level", "length", "noise"]
SKILLS: tuple[Skill, ...] = get_args(Skill)
WEEKS = 8
DAYS = 14
WEEK = dt.timedelta(days=7)
MOST_BEHIND = 100


@dataclass(frozen=True)
class Share:
    """Notes within tolerance of those that could be judged, percent, with Wilson's 95 % interval."""

    percent: float
    low: float
    high: float
    notes: int
    takes: int


@dataclass(frozen=True)
class Cell:
    """One student's one skill: by weeks, None where nothing was judged; now: the last two weeks together."""

    skill: Skill
    weeks: Sequence[Share | None]
    now: Share | None


@dataclass(frozen=True)
class Row:
    """A student. waiting: measured takes nobody has judged; need: how much of them is not clean, added up; takes,
    minutes: recorded and logged on each of the last days, the oldest first.
    """

    student_id: int
    name: str
    waiting: int
    need: float
    newest_take: dt.datetime | None
    cells: Sequence[Cell]
    takes: Sequence[int]
    minutes: Sequence[float]


@dataclass(frozen=True)
class Behind:
    """A take behind a cell."""

    take_id: UUID
    drill: str
    played_at: dt.datetime
    share: Share
    ticks: str


def first_monday(today: dt.date) -> dt.date:
    """Where the weeks that are shown begin."""
    return monday_of(today) - (WEEKS - 1) * WEEK


def glance(actor: User, *, today: dt.date) -> list[Row]:
    """Everybody this person teaches now, whose takes need the ear most first; then who has sent nothing the longest."""
    students = list(people.students(actor).filter(left_at=None).order_by("name"))
    counted = _counted(actor, today)
    own = Take.objects.filter(student__in=students).order_by()
    newest = dict(own.values_list("student_id").annotate(Max("played_at")))
    unjudged = own.filter(state=Take.State.MEASURED, judged_at=None).values_list("student_id")
    waiting = {pk: (count, need) for pk, count, need in unjudged.annotate(Count("pk"), Sum("need"))}
    takes, minutes = _days(actor, students, today)
    none = [0] * DAYS
    rows = [
        Row(
            student_id=student.pk,
            name=student.name,
            waiting=waiting.get(student.pk, (0, 0.0))[0],
            need=round(waiting.get(student.pk, (0, 0.0))[1] or 0.0, 3),
            newest_take=newest.get(student.pk),
            cells=_cells(counted.get(student.pk, {})),
            takes=takes.get(student.pk, none),
            minutes=minutes.get(student.pk, none),
        )
        for student in students
    ]
    return sorted(rows, key=lambda r: (-r.need, r.newest_take.timestamp() if r.newest_take else 0.0, r.name))


def behind(actor: User, student: Student, skill: Skill, *, today: dt.date) -> list[Behind]:
    """The takes a cell is made of, newest first."""
    rows = (
        _measured(actor, first_monday(today), actor.studio)
        .filter(student=student)
        .order_by("-played_at")
        .values_list("pk", "drill_version__drill__title", "played_at", "current__summary__by_measure", "current__ticks")
    )
    found = []
    for pk, title, at, by_measure, ticks in rows:
        verdicts = (by_measure or {}).get(skill)
        if verdicts is None:
            continue
        share = _Count(verdicts["inside"], verdicts["inside"] + verdicts["outside"], 1).share()
        if share is not None:
            found.append(Behind(pk, title, at, share, ticks))
    return found[:MOST_BEHIND]


def _measured(actor: User, since: dt.date, studio: Studio) -> QuerySet[Take]:
    begin = dt.datetime.combine(since, dt.time(), plans.zone(studio))
    return selectors.takes(actor).filter(current__isnull=False, played_at__gte=begin)


@dataclass
class _Count:
    """Notes of one skill: within tolerance, judged at all, and in how many takes."""

    inside: int = 0
    judged: int = 0
    takes: int = 0

    def add(self, inside: int, judged: int) -> None:
        self.inside, self.judged, self.takes = self.inside + inside, self.judged + judged, self.takes + 1

    def share(self) -> Share | None:
        if not self.judged:
            return None
        low, high = share_interval(self.inside, self.judged)
        percent = 100.0 * self.inside / self.judged
        return Share(round(percent, 2), round(low, 2), round(high, 2), self.judged, self.takes)


# By skill and week; the last two weeks together are week NOW.
Counts = dict[tuple[str, int], _Count]
NOW = WEEKS


def _counted(actor: User, today: dt.date) -> dict[int, Counts]:
    """By student, in one pass over the takes of the weeks that are shown."""
    here = plans.zone(actor.studio)
    begin, since = first_monday(today), today - dt.timedelta(days=DAYS - 1)
    found: dict[int, Counts] = {}
    rows = _measured(actor, begin, actor.studio).order_by()
    for student_id, at, by_measure in rows.values_list("student_id", "played_at", "current__summary__by_measure"):
        counts = found.setdefault(student_id, {})
        day = at.astimezone(here).date()
        weeks = [(day - begin).days // 7] + ([NOW] if day >= since else [])
        for skill, verdicts in (by_measure or {}).items():
            judged = verdicts["inside"] + verdicts["outside"]
            for week in weeks if judged else ():
                counts.setdefault((skill, week), _Count()).add(verdicts["inside"], judged)
    return found


def _cells(counts: Counts) -> list[Cell]:
    def share(skill: Skill, week: int) -> Share | None:
        found = counts.get((skill, week))
        return None if found is None else found.share()

    return [Cell(skill, [share(skill, week) for week in range(WEEKS)], share(skill, NOW)) for skill in SKILLS]


def days_shown(today: dt.date) -> list[dt.date]:
    """The last two weeks, the oldest day first."""
    return [today - dt.timedelta(days=DAYS - 1 - n) for n in range(DAYS)]


def _days(
    actor: User, students: Sequence[Student], today: dt.date
) -> tuple[dict[int, list[int]], dict[int, list[float]]]:
    """By student: takes and minutes of each of the days that are shown."""
    here, shown = plans.zone(actor.studio), days_shown(today)
    place = {day: n for n, day in enumerate(shown)}
    takes: dict[int, list[int]] = {}
    began = dt.datetime.combine(shown[0], dt.time(), here)
    recent = Take.objects.filter(student__in=students, played_at__gte=began).order_by()
    for student_id, at in recent.values_list("student_id", "played_at"):
        if (n := place.get(at.astimezone(here).date())) is not None:
            takes.setdefault(student_id, [0] * DAYS)[n] += 1
    minutes: dict[int, list[float]] = {}
    log = LogEntry.objects.filter(student__in=students, day__gte=shown[0], kind=LogEntry.Kind.PRACTICE).order_by()
    for student_id, day, logged in log.values_list("student_id", "day", "minutes"):
        if day in place:
            minutes.setdefault(student_id, [0.0] * DAYS)[place[day]] += logged or 0.0
    return takes, minutes
