"""What the API says of the workbench."""

from __future__ import annotations

from datetime import datetime
from typing import Annotated, Literal

from config.forms import FormInput, form_input
from fortimetra.workbench import UNITS, Answer, Calculator, EarKind, Said, Target
from pydantic import BaseModel, Field

from apps.bench.models import EarCheck

Cell = float | str | None
SoundKind = Literal["wav", "flac"]


class BenchOutput(BaseModel):
    """One result of a calculator."""

    name: str
    label: str
    unit: str
    digits: int


class BenchCalculator(BaseModel):
    """A calculator: what goes in, what comes out, its formula and source."""

    id: str
    title: str
    purpose: str
    formula: str
    source: str
    limits: str
    inputs: list[FormInput]
    outputs: list[BenchOutput]


class BenchTable(BaseModel):
    """Several results."""

    title: str
    columns: list[str]
    rows: list[list[Cell]]


class BenchAnswer(BaseModel):
    """What a calculator says; inputs as they were read."""

    inputs: dict[str, float | str]
    values: dict[str, Cell]
    tables: list[BenchTable]
    warnings: list[str]


class PlaceRead(BaseModel):
    """A string and fret; octaves above (below: negative) the target."""

    string: int
    fret: int
    octaves: int


class BeatRate(BaseModel):
    """Beats per second at so many cents off."""

    cents: float
    beats_hz: float


class TargetRead(BaseModel):
    """What a bend has to reach, and how to check it."""

    string: int
    fret: int
    bend_cents: float
    fretted_note: str
    fretted_hz: float
    note: str
    cents_off: float
    hz: float
    same_string_fret: int | None
    partners: list[PlaceRead]
    open_checks: list[PlaceRead]
    beats: list[BeatRate]


class Hearing(BaseModel):
    """Smallest difference a student tells, with its uncertainty."""

    kind: EarKind
    unit: str
    threshold: float
    u: float
    checked_at: datetime


class EarStart(BaseModel):
    """A new ear check of a student."""

    student_id: int
    kind: EarKind


class EarAnswer(BaseModel):
    """What was said of trial `number`."""

    number: Annotated[int, Field(ge=0)]
    said: Said


class EarRead(BaseModel):
    """An ear check: the trial that comes next, or the result. What the trial holds is not said."""

    id: int
    student_id: int
    kind: EarKind
    unit: str
    started_at: datetime
    answered: int
    turns: int
    finished: bool
    threshold: float | None
    u: float | None
    false_alarms: float | None
    reason: str


def calculator_read(found: Calculator) -> BenchCalculator:
    """A calculator's description."""
    return BenchCalculator(
        id=found.id,
        title=found.title,
        purpose=found.purpose,
        formula=found.formula,
        source=found.source,
        limits=found.limits,
        inputs=[form_input(i) for i in found.inputs],
        outputs=[BenchOutput(**vars(o)) for o in found.outputs],
    )


def answer_read(inputs: dict[str, float | str], answer: Answer) -> BenchAnswer:
    """A calculator's answer."""
    tables = [BenchTable(title=t.title, columns=list(t.columns), rows=[list(r) for r in t.rows]) for t in answer.tables]
    return BenchAnswer(inputs=inputs, values=answer.values, tables=tables, warnings=list(answer.warnings))


def target_read(found: Target) -> TargetRead:
    """A target."""
    return TargetRead(
        **{
            **vars(found),
            "partners": [PlaceRead(**vars(p)) for p in found.partners],
            "open_checks": [PlaceRead(**vars(p)) for p in found.open_checks],
            "beats": [BeatRate(cents=c, beats_hz=b) for c, b in found.beats],
        }
    )


def hearing_read(check: EarCheck) -> Hearing:
    """A finished check that gave a threshold."""
    assert check.threshold is not None and check.u is not None and check.finished_at is not None
    kind: EarKind = check.kind  # type: ignore[assignment]
    return Hearing(kind=kind, unit=UNITS[kind], threshold=check.threshold, u=check.u, checked_at=check.finished_at)
