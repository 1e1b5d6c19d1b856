"""What the API says of measuring one take once more."""

from __future__ import annotations

from typing import Annotated, Literal
from uuid import UUID

from fortimetra.judge import Comparison
from fortimetra.model import Click, Pin, Summary
from pydantic import BaseModel, Field


class TryTake(BaseModel):
    """What to try on a take; what is not named stays. click with recorded_click false and click null: no change."""

    drill_id: int | None = None
    newest_version: bool = False
    click: Click | None = None
    recorded_click: bool = False
    tolerances: dict[str, float] | None = None
    pins: Annotated[list[Pin], Field(max_length=2000)] | None = None


class TrialRead(BaseModel):
    """A take measured once more, beside what counts; out_of_date: what counts is no longer what it is compared with."""

    id: UUID
    state: Literal["waiting", "measured", "refused"]
    problem: str
    drill: str
    core_versions: tuple[str, str] | None
    before: Summary | None
    after: Summary | None
    ticks: tuple[str, str] | None
    comparison: Comparison | None
    out_of_date: bool
