"""What the API says of progress, lesson sheets and archives."""

from __future__ import annotations

import datetime as dt
from typing import Annotated, Any, Literal
from uuid import UUID

from config.days import Day
from pydantic import BaseModel, Field

from apps.reports.models import LessonSheet

Paper = Literal["A4", "Letter"]


class CleanShareRead(BaseModel):
    """Clean notes of one take in percent, and between what they may be of so few (95 %)."""

    take_id: UUID
    played_at: dt.datetime
    core_version: str
    percent: float
    low: float
    high: float


class OverviewRow(BaseModel):
    """A drill of a student in a line; shares: of its newest takes, oldest first; says: what they conclude."""

    drill_id: int
    drill: str
    family: str
    takes: int
    first: dt.datetime
    last: dt.datetime
    shares: list[CleanShareRead]
    clean_bpm: float | None
    says: str


class PointRead(BaseModel):
    """One take of a series."""

    take_id: UUID
    played_at: dt.datetime
    core_version: str
    bpm: float | None
    per_click: int | None
    guitar_id: int | None
    setup_take_id: UUID | None
    value: float
    u: float | None


class TrendRead(BaseModel):
    """Change a week with its 95 % interval; for all but a voice positive is better. sure: the sign is certain."""

    per_week: float
    low: float
    high: float
    points: int
    sure: bool


class SeriesRead(BaseModel):
    """A measure over the takes of a drill; limit: its tolerance."""

    key: str
    title: str
    unit: str
    wanted: Literal["zero", "low", "high", "voice"]
    limit: float | None
    points: list[PointRead]
    trend: TrendRead | None
    says: str


class CleanTempo(BaseModel):
    """The fastest tempo of a day that was clean."""

    day: dt.date
    per_click: int | None
    bpm: float


class SetUpChange(BaseModel):
    """A set-up take: what lies on its two sides may differ by the guitar."""

    at: dt.datetime
    take_id: UUID
    guitar: str


class MemberShare(BaseModel):
    """What of one drill of a set was clean in one take, percent."""

    take_id: UUID
    played_at: dt.datetime
    percent: float


class MemberProgress(BaseModel):
    """One drill of a set over its newest takes, oldest first."""

    title: str
    takes: list[MemberShare]


class RungRead(BaseModel):
    """Strings that rang in the newest takes, by whose job it was to keep them quiet."""

    says: str
    strings: list[int]
    count: int
    takes: int
    level_db: float
    moving: int


class ProgressRead(BaseModel):
    """A drill of a student from take to take. before, after: takes to hear side by side."""

    drill_id: int
    drill: str
    series: list[SeriesRead]
    clean_tempo: list[CleanTempo]
    set_ups: list[SetUpChange]
    core_versions: list[str]
    before: UUID | None
    after: UUID | None
    members: list[MemberProgress]
    rung: list[RungRead]


class BendPlace(BaseModel):
    """Bends of one place over the newest takes."""

    string: int
    fret: int
    target_cents: float
    takes: int
    count: int
    error_cents: float
    u: float


class VoicePoint(BaseModel):
    """A student's vibrato in one take."""

    at: dt.datetime
    take_id: UUID
    core_version: str
    on: Literal["fretted", "bent"]
    rate_hz: float
    extent_cents: float


class OverviewRead(BaseModel):
    """Everything a student works on, their bends by place, their vibrato over time."""

    drills: list[OverviewRow]
    bends: list[BendPlace]
    voice: list[VoicePoint]
    set_ups: list[SetUpChange]


class SheetMake(BaseModel):
    """For whom; since: the day it looks back to, else the last sheet or a week."""

    student_id: int
    since: Day | None = None
    paper: Paper = "A4"


class FindingChosen(BaseModel):
    """One of the findings offered, in the teacher's words."""

    candidate: Annotated[int, Field(ge=0, le=50)]
    says: Annotated[str, Field(min_length=1, max_length=200)]
    tries: Annotated[str, Field(max_length=1000)] = ""


class FindingOffered(BaseModel):
    """A likely cause of the takes a sheet looks back on."""

    drill: str
    take_id: UUID
    played_on: dt.date
    says: str
    evidence: str
    because: str
    tries: str


class SheetChange(BaseModel):
    """What the teacher may change on a sheet."""

    note: Annotated[str, Field(max_length=1500)] = ""
    findings: Annotated[list[FindingChosen], Field(max_length=3)]
    paper: Paper


class SheetRead(BaseModel):
    """A lesson sheet. link: where the student finds it, if it is shared."""

    id: UUID
    student_id: int
    student: str
    made_at: dt.datetime
    made_by: str | None
    paper: Paper
    since: dt.date
    note: str
    findings: list[FindingChosen]
    candidates: list[FindingOffered]
    link: str | None
    pdf: Literal["none", "waiting", "ready", "failed"]


class SheetShare(BaseModel):
    """Whether there is a link the student may keep."""

    on: bool


def sheet_read(sheet: LessonSheet, *, link: str | None) -> SheetRead:
    """A sheet as the API says it."""
    content: dict[str, Any] = sheet.content
    return SheetRead(
        id=sheet.pk,
        student_id=sheet.student_id,
        student=sheet.student.name,
        made_at=sheet.made_at,
        made_by=sheet.made_by.name if sheet.made_by else None,
        paper=sheet.paper,
        since=content["since"],
        note=content["note"],
        findings=[FindingChosen(**f) for f in content["findings"]],
        candidates=[FindingOffered(**{k: c[k] for k in FindingOffered.model_fields}) for c in content["candidates"]],
        link=link,
        pdf=sheet.pdf_state,
    )
