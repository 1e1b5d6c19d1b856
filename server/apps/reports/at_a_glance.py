"""The class at a glance: students × what is judged, by weeks; who has sent something; whose takes wait for an ear."""

from __future__ import annotations

import datetime as dt
from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass
from typing import Any, Literal, get_args
from uuid import UUID

from django.db.models import Count, Max, Q, QuerySet, Sum
from fortimetra.coach.series import share_interval

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
class Day:
    """One day of a student: takes recorded, minutes logged."""

    day: dt.date
    takes: int
    minutes: float


@dataclass(frozen=True)
class Row:
    """A student. waiting: measured takes nobody has judged; need: how much of them is not clean, added up."""

    student_id: int
    name: str
    waiting: int
    need: float
    newest_take: dt.datetime | None
    cells: Sequence[Cell]
    days: Sequence[Day]


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
    unjudged = Q(state=Take.State.MEASURED, judged_at=None)
    told = {
        row["student_id"]: row
        for row in Take.objects.filter(student__in=students)
        .order_by()
        .values("student_id")
        .annotate(waiting=Count("pk", filter=unjudged), need=Sum("need", filter=unjudged), newest=Max("played_at"))
    }
    nothing = {"waiting": 0, "need": None, "newest": None}
    days = _days(actor, students, today)
    rows = [
        Row(
            student_id=student.pk,
            name=student.name,
            waiting=told.get(student.pk, nothing)["waiting"],
            need=told.get(student.pk, nothing)["need"] or 0.0,
            newest_take=told.get(student.pk, nothing)["newest"],
            cells=[_cell(skill, counted.get(student.pk, []), today) for skill in SKILLS],
            days=days[student.pk],
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
        share = _share([by_measure or {}], skill)
        if share is not None:
            found.append(Behind(pk, title, at, share, ticks))
    return found[:MOST_BEHIND]


def _measured(actor: User, since: dt.date, studio: Studio) -> QuerySet[Take]:
    begin = dt.datetime.combine(since, dt.time(), plans.zone(studio))
    return selectors.takes(actor).filter(current__isnull=False, played_at__gte=begin)


Judged = tuple[dt.date, Mapping[str, Any]]


def _counted(actor: User, today: dt.date) -> dict[int, list[Judged]]:
    """By student: the day of each take, and its verdicts by measure."""
    here = plans.zone(actor.studio)
    found: dict[int, list[Judged]] = {}
    rows = _measured(actor, first_monday(today), actor.studio).order_by()
    for student_id, at, by_measure in rows.values_list("student_id", "played_at", "current__summary__by_measure"):
        found.setdefault(student_id, []).append((at.astimezone(here).date(), by_measure or {}))
    return found


def _cell(skill: Skill, takes: Sequence[Judged], today: dt.date) -> Cell:
    begin = first_monday(today)
    weeks = [
        _share([m for day, m in takes if begin + n * WEEK <= day < begin + (n + 1) * WEEK], skill) for n in range(WEEKS)
    ]
    since = today - dt.timedelta(days=DAYS - 1)
    return Cell(skill, weeks, _share([m for day, m in takes if day >= since], skill))


def _share(takes: Iterable[Mapping[str, Any]], skill: Skill) -> Share | None:
    inside = decided = count = 0
    for by_measure in takes:
        counts = by_measure.get(skill)
        if counts and counts["inside"] + counts["outside"] > 0:
            inside, decided = inside + counts["inside"], decided + counts["inside"] + counts["outside"]
            count += 1
    if not decided:
        return None
    low, high = share_interval(inside, decided)
    return Share(100.0 * inside / decided, low, high, decided, count)


def _days(actor: User, students: Sequence[Student], today: dt.date) -> dict[int, list[Day]]:
    """The last two weeks of each student, oldest day first."""
    first = today - dt.timedelta(days=DAYS - 1)
    here = plans.zone(actor.studio)
    takes: dict[tuple[int, dt.date], int] = {}
    began = dt.datetime.combine(first, dt.time(), here)
    for student_id, at in Take.objects.filter(student__in=students, played_at__gte=began).values_list(
        "student_id", "played_at"
    ):
        key = student_id, at.astimezone(here).date()
        takes[key] = takes.get(key, 0) + 1
    minutes: dict[tuple[int, dt.date], float] = {}
    log = LogEntry.objects.filter(student__in=students, day__gte=first, kind=LogEntry.Kind.PRACTICE).order_by()
    for student_id, day, logged in log.values_list("student_id", "day").annotate(Sum("minutes")):
        minutes[student_id, day] = logged or 0.0
    shown = [first + dt.timedelta(days=n) for n in range(DAYS)]
    return {s.pk: [Day(d, takes.get((s.pk, d), 0), minutes.get((s.pk, d), 0.0)) for d in shown] for s in students}
