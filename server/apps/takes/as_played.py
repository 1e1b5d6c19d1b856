"""The drill as a take was played: at its step of the ladder, on its guitar, with the tolerances that counted."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Any

from fortimetra import Drill as DrillContent
from fortimetra.coach import at_step
from fortimetra.model import Guitar as GuitarContent
from fortimetra.model import Step, Tolerances

from apps.takes.models import Analysis


def drill_of(analysis: Analysis) -> DrillContent:
    """What an analysis was judged by."""
    drill = drill_at(analysis.drill_version.content, analysis.per_click)
    if analysis.tolerances is not None:
        drill = with_tolerances(drill, analysis.tolerances)
    return drill if analysis.guitar is None else drill.on(GuitarContent.model_validate(analysis.guitar))


def drill_at(content: Mapping[str, Any], per_click: int | None) -> DrillContent:
    """A stored drill with so many notes to the click; the tempo is the click's."""
    drill = DrillContent.model_validate(content)
    return drill if per_click is None else at_step(drill, Step(per_click=per_click))


def with_tolerances(drill: DrillContent, said: Mapping[str, float]) -> DrillContent:
    """A drill with some of its tolerances replaced.

    Raises pydantic.ValidationError for a tolerance that does not exist or cannot be.
    """
    given = {k: v for k, v in drill.tolerances.model_dump().items() if v is not None}
    return drill.model_copy(update={"tolerances": Tolerances.model_validate(given | dict(said))})
