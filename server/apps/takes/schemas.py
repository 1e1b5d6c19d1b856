"""What the API says of takes."""

from __future__ import annotations

from datetime import datetime
from typing import Annotated, Literal
from uuid import UUID

from fortimetra import Analysis as AnalysisContent
from fortimetra.model import Click, Hum, SetupFound, Summary
from pydantic import BaseModel, Field

from apps.takes.models import DrillGuess, Take

TakeState = Literal["received", "queued", "measuring", "measured", "refused", "failed"]


Processing = Literal["echo_cancellation", "noise_suppression", "auto_gain_control"]


class Gap(BaseModel):
    """Samples the browser lost."""

    at_s: Annotated[float, Field(ge=0)]
    seconds: Annotated[float, Field(gt=0)]


class Capture(BaseModel):
    """How a take was recorded in the page.

    processing: what the browser would not switch off. simulated: no guitar, but the app's stand-in for one.
    """

    simulated: bool = False
    device: Annotated[str, Field(max_length=200)] = ""
    sample_rate_hz: Annotated[int, Field(ge=8000, le=192_000)]
    processing: list[Processing] = []
    gaps: Annotated[list[Gap], Field(max_length=200)] = []


class DrillFits(BaseModel):
    """share: of heard and asked notes together that fit each other, 0 to 1."""

    drill_id: int
    share: float


class GuessRead(BaseModel):
    """Which drills a recording may be of, the likeliest first; problem: why it cannot be told."""

    id: UUID
    state: Literal["waiting", "heard", "refused"]
    drills: list[DrillFits]
    problem: str


class VoiceRow(BaseModel):
    """A student's vibrato on one string, on fretted or bent notes: medians over takes, and from lowest to highest."""

    on: Literal["fretted", "bent"]
    string: int
    takes: int
    count: int
    rate_hz: float
    rate_range: tuple[float, float]
    extent_cents: float
    extent_range: tuple[float, float]
    rate_cv: float
    extent_cv: float


class TakeProblem(BaseModel):
    """Why a take was refused."""

    code: str
    detail: str


class TakeRead(BaseModel):
    """A take in a list. ticks, one sign per asked note: clean ".", under "-", over "+", wrong "x", cannot tell "?",
    missed "0". hidden_at: when the student took it out of their own lists.
    """

    id: UUID
    student_id: int
    student: str
    guitar_id: int | None
    guitar: str | None
    drill_id: int
    drill: str
    drill_version: int
    family: str
    played_at: datetime
    original_name: str
    size_bytes: int
    recording_deleted_at: datetime | None
    hidden_at: datetime | None
    invented: bool
    state: TakeState
    stage: str
    fraction: float
    measured_at: datetime | None
    problem: TakeProblem | None
    capture: Capture | None
    click: Click | None
    per_click: int | None
    summary: Summary | None
    ticks: str
    headline: str
    word_version: int
    judged_at: datetime | None
    judged_by: str | None


class RungString(BaseModel):
    """How often a string rang over the newest takes of a drill, and how loud (median, against the notes)."""

    string: int
    takes: int
    of: int
    level_db: float


class SetupRead(BaseModel):
    """A set-up take of a guitar with what it says."""

    take_id: UUID
    played_at: datetime
    a4_hz: float
    hum: Hum | None
    noise_floor_dbfs: float
    found: SetupFound


class ClickSaid(BaseModel):
    """A teacher's word on the click of a take; null: what was recorded counts again."""

    click: Click | None


class MeasureAgain(BaseModel):
    """Measure once more; drill_id: against another drill."""

    drill_id: int | None = None


class Curves(BaseModel):
    """Columns. pitch_cents: above MIDI 0 at A4 = 440 (6900 is 440 Hz), null where unvoiced."""

    hop_s: float
    pitch_cents: list[float | None]
    level_dbfs: list[float]
    confidence: list[float] = []
    outline_step_s: float
    outline_low: list[float]
    outline_high: list[float]


def take_read(take: Take) -> TakeRead:
    """A list entry."""
    current = take.current
    return TakeRead(
        id=take.pk,
        student_id=take.student_id,
        student=take.student.name,
        guitar_id=take.guitar_id,
        guitar=take.guitar.name if take.guitar else None,
        drill_id=take.drill_version.drill_id,
        drill=take.drill_version.drill.title,
        drill_version=take.drill_version.number,
        family=take.drill_version.drill.family,
        played_at=take.played_at,
        original_name=take.original_name,
        size_bytes=take.size_bytes,
        recording_deleted_at=take.recording_deleted_at,
        hidden_at=take.hidden_at,
        invented=take.invented,
        state=take.state,
        stage=take.stage,
        fraction=take.fraction,
        measured_at=take.measured_at,
        problem=TakeProblem(code=take.problem_code, detail=take.problem_detail) if take.problem_code else None,
        capture=None if take.capture is None else Capture.model_validate(take.capture),
        click=take.click_said or take.click,
        per_click=take.per_click,
        summary=Summary.model_validate(current.summary) if current else None,
        ticks=current.ticks if current else "",
        headline=current.headline if current else "",
        word_version=take.word_version,
        judged_at=take.judged_at,
        judged_by=take.judged_by.name if take.judged_by else None,
    )


def setup_read(take: Take) -> SetupRead:
    """A set-up take of a guitar, from a take with its analysis."""
    assert take.current is not None
    content = AnalysisContent.model_validate(take.current.content)
    assert content.setup is not None
    return SetupRead(
        take_id=take.pk,
        played_at=take.played_at,
        a4_hz=content.reference.a4_hz,
        hum=content.take.hum,
        noise_floor_dbfs=content.take.noise_floor_dbfs,
        found=content.setup,
    )


def guess_read(guess: DrillGuess) -> GuessRead:
    """A guess as the API says it."""
    return GuessRead(
        id=guess.pk,
        state=guess.state,
        drills=[DrillFits(drill_id=int(drill), share=share) for drill, share in guess.drills],
        problem=guess.problem_detail,
    )
