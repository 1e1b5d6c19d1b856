"""The ladder: how a drill gets faster, one clean step after another. The rules' numbers are house defaults, to be
changed.
"""

from __future__ import annotations

from typing import Annotated, Literal

from pydantic import Field, model_validator

from fortimetra.model.base import Model

Speed = Literal["tempo_steps", "notes_per_click", "overlearn"]
SUBDIVISIONS = (1, 2, 3, 4, 6)
OVERLEARN_TAKES = 10


class Step(Model):
    """Where a drill stands on its ladder. per_click None: as many notes a click as it is written with."""

    bpm: Annotated[float | None, Field(ge=20, le=400, description="Clicks a minute; null: a free drill.")] = None
    per_click: Annotated[int | None, Field(ge=1, le=12)] = None


class LadderRule(Model):
    """When to go up and down, and by how much."""

    speed: Speed = "tempo_steps"
    clean_takes: Annotated[int, Field(ge=1, le=50, description="Clean takes in a row before a step up.")] = 3
    clean_share: Annotated[float, Field(ge=0.5, le=1.0, description="Clean notes that make a take clean.")] = 0.95
    down_takes: Annotated[
        int, Field(ge=1, le=20, description="Takes in a row under down_share before a step down.")
    ] = 2
    down_share: Annotated[float, Field(ge=0.0, le=1.0)] = 0.80
    tempo_step_bpm: Annotated[float, Field(ge=1, le=40)] = 4.0
    subdivisions: Annotated[tuple[Annotated[int, Field(ge=1, le=12)], ...], Field(min_length=1, max_length=12)] = (
        SUBDIVISIONS
    )
    ceiling_share: Annotated[
        float, Field(gt=0, le=1.0, description="Of the fastest even run, the most a picking drill asks for.")
    ] = 0.85

    @model_validator(mode="after")
    def _rising(self) -> LadderRule:
        if list(self.subdivisions) != sorted(set(self.subdivisions)):
            raise ValueError("subdivisions rise, each once")
        if self.down_share >= self.clean_share:
            raise ValueError("the share to go down lies below the share to go up")
        return self


def rule_for(speed: Speed) -> LadderRule:
    """House defaults of a school.

    >>> rule_for("tempo_steps").clean_takes, rule_for("overlearn").clean_takes
    (3, 10)
    """
    return LadderRule(speed=speed, clean_takes=OVERLEARN_TAKES if speed == "overlearn" else 3)
