"""What the API says of measuring many takes again."""

from __future__ import annotations

from datetime import datetime
from typing import Literal
from uuid import UUID

from fortimetra.judge import Flip
from pydantic import BaseModel

from apps.measuring import again
from apps.measuring.models import Remeasurement, Trial


class AgainAsk(BaseModel):
    """Which takes: of a student, of a drill, all; with all_versions also those that this version has measured."""

    student_id: int | None = None
    drill_id: int | None = None
    all_versions: bool = False


class AgainEstimate(BaseModel):
    """How many takes that is, and how many minutes of a worker's time; core_version: what would measure them."""

    takes: int
    minutes: float
    core_version: str


class ChangedTake(BaseModel):
    """A take of which notes would be judged otherwise; clean and asked before and after."""

    take_id: UUID
    student: str
    drill: str
    played_at: datetime
    changed: int
    clean: tuple[int, int]
    asked: tuple[int, int]
    core_versions: tuple[str, str]


class AgainRead(BaseModel):
    """An order. measured: takes with a result beside the one that counts; flips: what those would change."""

    id: UUID
    state: Literal["listing", "running", "paused", "measured", "keeping", "kept", "dropping"]
    asked_at: datetime
    ended_at: datetime | None
    student: str | None
    drill: str | None
    all_versions: bool
    core_version: str
    total: int
    measured: int
    refused: int
    waiting: int
    kept: int
    left_alone: int
    flips: list[Flip]
    most_changed: list[ChangedTake]


def again_read(found: Remeasurement) -> AgainRead:
    """An order as the API says it."""
    standing = again.standing(found)
    return AgainRead(
        id=found.pk,
        state=found.state,
        asked_at=found.asked_at,
        ended_at=found.ended_at,
        student=found.student.name if found.student else None,
        drill=found.drill.title if found.drill else None,
        all_versions=found.all_versions,
        core_version=found.core_version,
        total=found.total,
        measured=standing.measured,
        refused=standing.refused,
        waiting=standing.waiting,
        kept=found.kept,
        left_alone=found.left_alone,
        flips=[Flip.model_validate(row) for row in found.flips],
        most_changed=[_changed(trial) for trial in again.most_changed(found)],
    )


def _changed(trial: Trial) -> ChangedTake:
    old, new = trial.against, trial.analysis
    assert new is not None
    return ChangedTake(
        take_id=trial.take_id,
        student=trial.take.student.name,
        drill=trial.drill_version.drill.title,
        played_at=trial.take.played_at,
        changed=trial.changed,
        clean=(old.counts.get("clean", 0), new.counts.get("clean", 0)),
        asked=(old.counts.get("asked", 0), new.counts.get("asked", 0)),
        core_versions=(old.core_version, new.core_version),
    )
