"""Addresses of what is seen at a glance: the class, who plays a drill; and of the sample to try it with."""

from __future__ import annotations

import datetime as dt
from uuid import UUID

from django.http import HttpRequest, HttpResponse
from ninja import Router
from pydantic import BaseModel
from pydantic_core import to_json

from apps.drills import selectors as drills
from apps.people import audit
from apps.people import selectors as people
from apps.people.actor import actor_of, require_teacher
from apps.plans import selectors as plans
from apps.reports import at_a_glance
from apps.reports.at_a_glance import Skill
from apps.reports.drill_use import use_of

router = Router(tags=["reports"])


class ShareRead(BaseModel):
    """Notes within tolerance of those that could be judged, percent, with its 95 % interval; of how many notes and
    takes.
    """

    percent: float
    low: float
    high: float
    notes: int
    takes: int


class CellRead(BaseModel):
    """One skill of one student: by weeks, null where nothing was judged; now: the last two weeks together."""

    skill: Skill
    weeks: list[ShareRead | None]
    now: ShareRead | None


class ClassRow(BaseModel):
    """A student. waiting: takes nobody has judged; need: how much of them is not clean, added up; takes, minutes:
    recorded and logged on each of the days.
    """

    student_id: int
    name: str
    waiting: int
    need: float
    newest_take: dt.datetime | None
    cells: list[CellRead]
    takes: list[int]
    minutes: list[float]


class ClassRead(BaseModel):
    """Everybody this teacher teaches now, who needs the ear most first; weeks: the Mondays of the cells' weeks; days:
    the last two weeks, the oldest first.
    """

    weeks: list[dt.date]
    days: list[dt.date]
    rows: list[ClassRow]


class TakeBehind(BaseModel):
    """A take a cell is made of."""

    take_id: UUID
    drill: str
    played_at: dt.datetime
    share: ShareRead
    ticks: str


class TakesBehind(BaseModel):
    """The takes a cell is made of, newest first."""

    takes: list[TakeBehind]


class PlayerRead(BaseModel):
    """A student who has a drill assigned (step: where it stands, in words) or has played it; bpm: the fastest tempo of
    a clean take.
    """

    student_id: int
    student: str
    takes: int
    step: str | None
    bpm: float | None


class PlayedTake(BaseModel):
    """A take of a drill."""

    take_id: UUID
    student: str
    played_at: dt.datetime
    state: str
    ticks: str | None
    clean: int | None
    asked: int | None
    bpm: float | None


class DrillUseRead(BaseModel):
    """Who plays a drill, those it is assigned to first; its newest takes."""

    players: list[PlayerRead]
    takes: list[PlayedTake]


@router.get("/class", response=ClassRead, operation_id="class_at_a_glance")
def read_class(request: HttpRequest) -> HttpResponse:
    """Students by what is judged over the last eight weeks, and the last two weeks by days."""
    actor = actor_of(request)
    require_teacher(actor)
    today = plans.today(actor.studio)
    began = at_a_glance.first_monday(today)
    answer = {
        "weeks": [began + n * at_a_glance.WEEK for n in range(at_a_glance.WEEKS)],
        "days": at_a_glance.days_shown(today),
        "rows": at_a_glance.glance(actor, today=today),
    }
    # Two thousand cells of a school: written as they are, which a test holds to ClassRead.
    return HttpResponse(to_json(answer), content_type="application/json")


@router.get("/class/takes", response=TakesBehind, operation_id="takes_behind")
def read_behind(request: HttpRequest, student_id: int, skill: Skill) -> HttpResponse:
    """The takes behind one student's one skill."""
    actor = actor_of(request)
    require_teacher(actor)
    student = people.student(actor, student_id)
    audit.saw(actor, "saw_progress", student=student, what=skill)
    found = at_a_glance.behind(actor, student, skill, today=plans.today(actor.studio))
    answer = TakesBehind.model_validate({"takes": found}, from_attributes=True)
    return HttpResponse(answer.model_dump_json(), content_type="application/json")


@router.get("/drill", response=DrillUseRead, operation_id="drill_use")
def read_use(request: HttpRequest, drill_id: int) -> HttpResponse:
    """Who plays a drill: of a student's own, for a student."""
    actor = actor_of(request)
    answer = DrillUseRead.model_validate(use_of(actor, drills.drill(actor, drill_id)), from_attributes=True)
    return HttpResponse(answer.model_dump_json(), content_type="application/json")
