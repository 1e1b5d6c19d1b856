"""What the API says of judging takes: the Desk, the words on a take, everything of a measured one."""

from __future__ import annotations

from datetime import datetime
from typing import Annotated, Any
from uuid import UUID

from fortimetra import Analysis as AnalysisContent
from fortimetra.judge import Comparison
from fortimetra.model import Mark, Pin
from pydantic import BaseModel, Field

from apps.bench.schemas import Hearing
from apps.drills.schemas import DrillDetail
from apps.reviews.models import WordMark
from apps.reviews.word import COUNTS
from apps.takes.schemas import TakeProblem, TakeRead, TakeState


class DeskRow(BaseModel):
    """A take on the Desk: what tells at a glance whether it needs the ear.

    Of plain pydantic models, as what holds them: reading each field through ninja's getter costs a third of a
    millisecond a row.
    """

    id: UUID
    student_id: int
    student: str
    drill_id: int
    drill: str
    family: str
    played_at: datetime
    invented: bool
    state: TakeState
    stage: str
    fraction: float
    problem: TakeProblem | None
    asked: int
    clean: int
    not_clean: int
    unclear: int
    missed: int
    extra: int
    excluded: int
    ticks: str | None
    headline: str | None
    word_version: int
    judged_at: datetime | None
    judged_by: str | None


class DeskCounts(BaseModel):
    """Takes of everybody this person teaches, whatever is filtered. unfinished, refused: of those that wait."""

    waiting: int
    judged: int
    unfinished: int
    refused: int


class DeskRead(BaseModel):
    """A stretch of the Desk; total: how many the filter leaves."""

    rows: list[DeskRow]
    total: int
    counts: DeskCounts


class JudgeOne(BaseModel):
    """A take and the words that had been seen when it was judged."""

    id: UUID
    word_version: int


class Judge(BaseModel):
    """Confirm takes as they stand; judged false: back on the Desk."""

    takes: Annotated[list[JudgeOne], Field(min_length=1, max_length=500)]
    judged: bool = True


class JudgedRead(BaseModel):
    """changed: those that somebody changed meanwhile, or that are gone; they are as they were."""

    done: list[UUID]
    changed: list[UUID]


class MarkRead(BaseModel):
    """A word with who and when; undone_at: taken back."""

    id: int
    mark: Mark
    made_by: str | None
    made_at: datetime
    undone_by: str | None
    undone_at: datetime | None


class UndoMark(BaseModel):
    """Whether a word is taken back, or counts."""

    undone: bool


class SetupUsed(BaseModel):
    """The set-up take another take was read against."""

    take_id: UUID
    played_at: datetime


class TakeMeasured(BaseModel):
    """Everything of a measured take but its curves and its sound; tolerances are those it was judged by.

    drill is as it was played on the guitar: its tuning, capo and A4. hearing: smallest difference the student tells,
    newest ear check of each kind.
    """

    take: TakeRead
    drill: DrillDetail
    setup: SetupUsed | None
    hearing: list[Hearing]
    analysis: AnalysisContent
    seconds: float
    tolerances: dict[str, float]
    sentences: dict[str, str]
    marks: list[MarkRead]
    pins: list[Pin]


class CompareRead(BaseModel):
    """Two takes side by side, the earlier one first."""

    before: TakeRead
    after: TakeRead
    comparison: Comparison


def desk_row(row: dict[str, Any]) -> DeskRow:
    """A row of the Desk from its columns."""
    counts = row["counts"] or {}
    problem = TakeProblem(code=row["problem_code"], detail=row["problem_detail"]) if row["problem_code"] else None
    return DeskRow(
        **{name: row[name] for name in DeskRow.model_fields if name in row},
        **{name: counts.get(name, 0) for name in COUNTS},
        problem=problem,
    )


def mark_read(mark: WordMark) -> MarkRead:
    """A word as the API says it."""
    return MarkRead(
        id=mark.pk,
        mark=Mark.model_validate(mark.content),
        made_by=mark.made_by.name if mark.made_by else None,
        made_at=mark.made_at,
        undone_by=mark.undone_by.name if mark.undone_by else None,
        undone_at=mark.undone_at,
    )
