"""What JSON columns hold that have no document of their own: checked when an archive brings them, relied on
everywhere else.
"""

from __future__ import annotations

import datetime as dt
from typing import Annotated, Literal

from fortimetra.model import Model, Step, Verdict
from pydantic import Field, TypeAdapter, model_validator

Counts = TypeAdapter(dict[str, Annotated[int, Field(ge=0, le=1_000_000)]])
Minutes = TypeAdapter(Annotated[list[Annotated[float, Field(ge=0, le=240)]], Field(min_length=7, max_length=7)])

Texts = TypeAdapter(dict[Annotated[str, Field(max_length=40)], Annotated[str, Field(max_length=300)]])


class Standing(Model):
    """What a ladder says."""

    move: Literal["up", "down", "stay", "held", "ceiling", "pair", "goal", "top"]
    to: Step
    says: str
    takes: list[str]


class _Worked(Model):
    drill: str
    takes: int
    minutes: float
    clean: int
    asked: int


class _Picture(Model):
    measure: str = ""
    unit: str
    limit: float | None
    marks: Annotated[list[tuple[float, Verdict]], Field(min_length=2)]


class _Candidate(Model):
    drill: str
    take_id: str
    played_on: dt.date
    says: str
    evidence: str
    because: str
    tries: str
    picture: _Picture | None


class _Finding(Model):
    candidate: Annotated[int, Field(ge=0)]
    says: str
    tries: str


class _Block(Model):
    drill: str
    minutes: float
    step: str


class _Day(Model):
    day: dt.date
    blocks: list[_Block]


class _Tab(Model):
    drill: str
    step: str
    text: str
    how: list[str] = []


class SheetContent(Model):
    """A lesson sheet as it was made."""

    student: str
    teacher: str
    studio: str
    day: dt.date
    since: dt.date
    worked_on: list[_Worked]
    better: list[str]
    candidates: list[_Candidate]
    findings: list[_Finding]
    note: str
    week: list[_Day]
    tabs: list[_Tab]

    @model_validator(mode="after")
    def _findings_are_there(self) -> SheetContent:
        if any(f.candidate >= len(self.candidates) for f in self.findings):
            raise ValueError("a finding that is not among those offered")
        return self
