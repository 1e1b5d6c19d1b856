"""What the API says of drills."""

from __future__ import annotations

from typing import Any, Literal

from config.forms import FormInput, form_input
from fortimetra import Drill as DrillContent
from fortimetra.drills.check import Problem
from fortimetra.drills.generator import Generator
from fortimetra.judge.available import AVAILABLE
from fortimetra.model.guitar import Guitar as GuitarContent
from fortimetra.model.tolerance import Measure
from ninja import Schema

FileKind = Literal["json", "midi", "text"]


class DrillRead(Schema):
    """A drill in a list."""

    id: int
    title: str
    family: str
    version: int
    asked: int
    repeats: int
    bpm: float | None
    takes: int
    archived: bool


class DrillProblem(Schema):
    """What stands in the way of playing a drill."""

    level: Literal["error", "warning"]
    code: str
    event: str
    beat: float
    text: str


class GeneratorRead(Schema):
    """A family of drills: what it asks of the student, and the fields of its form."""

    family: str
    title: str
    asks: str
    inputs: list[FormInput]
    examples: list[dict[str, str]]


class DrillForm(Schema):
    """A filled-in form; what is not given has its default. guitar_id: checked for that guitar."""

    family: str
    values: dict[str, str] = {}
    guitar_id: int | None = None


class DrillMade(Schema):
    """A drill that is not kept yet, and what stands in the way of playing it."""

    content: DrillContent
    length_beats: float
    problems: list[DrillProblem]
    not_judged_yet: list[Measure]


class DrillDetail(Schema):
    """A drill with what it asks; length_beats is one repeat. not_judged_yet: measures this version does not have."""

    id: int
    title: str
    family: str
    version: int
    length_beats: float
    content: DrillContent
    not_judged_yet: list[Measure]
    archived: bool


class DrillChange(Schema):
    """Put a drill away, or take it out again."""

    archived: bool


def drill_read(drill: Any) -> DrillRead:
    """A list entry, from a drill annotated with the number of its takes."""
    content = drill.current.content
    repeats = content.get("repeats", 1)
    return DrillRead(
        id=drill.pk,
        title=drill.title,
        family=drill.family,
        version=drill.current.number,
        asked=sum(len(e.get("notes", ())) for e in content["events"]) * repeats,
        repeats=repeats,
        bpm=(content.get("tempo") or {}).get("bpm"),
        takes=getattr(drill, "take_count", 0),
        archived=drill.archived_at is not None,
    )


def drill_detail(drill: Any, version: Any, *, guitar: GuitarContent | None = None) -> DrillDetail:
    """A drill with one of its versions, on a guitar if one is given."""
    content = DrillContent.model_validate(version.content)
    content = content if guitar is None else content.on(guitar)
    return DrillDetail(
        id=drill.pk,
        title=version.content["title"],
        family=version.content["family"],
        version=version.number,
        length_beats=content.length_beats,
        content=content,
        not_judged_yet=not_judged_yet(content),
        archived=drill.archived_at is not None,
    )


def drill_made(content: DrillContent, problems: list[Problem]) -> DrillMade:
    """A drill that is not kept yet."""
    return DrillMade(
        content=content,
        length_beats=content.length_beats,
        problems=[DrillProblem(**vars(p)) for p in problems],
        not_judged_yet=not_judged_yet(content),
    )


def generator_read(generator: Generator) -> GeneratorRead:
    """A generator's description."""
    return GeneratorRead(
        family=generator.family,
        title=generator.title,
        asks=generator.asks,
        inputs=[form_input(i) for i in generator.inputs],
        examples=list(generator.examples),
    )


def not_judged_yet(content: DrillContent) -> list[Measure]:
    """Measures a drill asks for that this version does not have."""
    return [m for m in content.measures if m not in AVAILABLE]
