"""What the API says of drills."""

from __future__ import annotations

from datetime import datetime
from typing import Annotated, Any, Literal
from uuid import UUID

from config.forms import FormInput, form_input
from fortimetra import Drill as DrillContent
from fortimetra.coach import FIGURES
from fortimetra.drills import Generator, Problem, Sign, check
from fortimetra.player import Shown
from pydantic import BaseModel, Field

FileKind = Literal["json", "musicxml", "midi", "text"]
Level = Annotated[int, Field(ge=1, le=3, description="1 first steps, 2 moving on, 3 advanced.")]


class DrillRead(BaseModel):
    """A drill in a list."""

    id: int
    title: str
    family: str
    version: int
    asked: int
    repeats: int
    bpm: float | None
    takes: int
    strings: list[int]
    frets: list[int]
    minutes: float
    members: int
    needs: list[str]
    form: str
    level: int | None
    tags: list[str]
    built_in: bool
    archived: bool
    partner_id: int | None
    after_id: int | None
    lines: Annotated[int, Field(description="How many strings the guitar of its tab has.")]
    shape: Annotated[
        list[tuple[float, int, int | None, Sign]],
        Field(description="How it begins, note by note: beat, string, fret (null: muted), what is done to it."),
    ]


class DrillProblem(BaseModel):
    """What stands in the way of playing a drill."""

    level: Literal["error", "warning"]
    code: str
    event: str
    beat: float
    text: str


class GeneratorRead(BaseModel):
    """A figure as a form: what it asks of the student, and its fields."""

    name: str
    family: str
    group: Annotated[
        str, Field(description="What it trains, in a word: bends, vibrato, slurs, picking, muting, slides, licks.")
    ]
    helps: Annotated[list[str], Field(description="Codes of the likely causes it is given for.")]
    title: str
    asks: str
    inputs: list[FormInput]
    examples: list[dict[str, str]]


class Varied(BaseModel):
    """A field that goes through values, as 5-12 or A, C, D."""

    field: Annotated[str, Field(max_length=40)]
    values: Annotated[str, Field(max_length=300)]


class DrillForm(BaseModel):
    """A filled-in form; what is not given has its default. varied: the drill is a set. guitar_id: checked for that
    guitar.
    """

    form: str
    values: dict[str, str] = {}
    varied: Annotated[list[Varied], Field(max_length=2)] = []
    with_partner: bool = False
    guitar_id: int | None = None


class DrillMade(BaseModel):
    """A drill that is not kept yet, and what stands in the way of playing it. has_partner: its figure has another
    way.
    """

    content: DrillContent
    length_beats: float
    problems: list[DrillProblem]
    has_partner: bool = False


class DrillRef(BaseModel):
    """Another drill."""

    id: int
    title: str


class DrillDetail(BaseModel):
    """A drill with what it asks; length_beats is one repeat."""

    id: int
    title: str
    family: str
    version: int
    length_beats: float
    content: DrillContent
    level: int | None
    tags: list[str]
    archived: bool
    form: str
    values: dict[str, str]
    partner: DrillRef | None
    after: DrillRef | None


class DrillChange(BaseModel):
    """Put a drill away, or take it out again; its level, its tags, what comes before it. What is not given stays."""

    archived: bool | None = None
    level: Level | None = None
    tags: list[str] | None = None
    after_id: int | None = None


class CardWritten(BaseModel):
    """What a teacher says instead on a card, a line each; none: as the house says it. of: this drill, or all of its
    family.
    """

    of: Literal["drill", "family"] = "drill"
    lines: Annotated[list[str], Field(max_length=100)]


class DrillWritten(BaseModel):
    """A drill as it was written; number: the version it was written on top of."""

    content: DrillContent
    number: int


class DrillToCheck(BaseModel):
    """A drill that is being written."""

    content: DrillContent
    guitar_id: int | None = None


class VersionRead(BaseModel):
    """What a drill was at some time."""

    number: int
    created_at: datetime
    created_by: str | None
    takes: int
    asked: int


class ScoreRead(BaseModel):
    """A score on its way in. proposed: events whose strings and frets were chosen here; lost: what could not be
    kept.
    """

    id: UUID
    file_name: str
    state: Literal["waiting", "read", "refused"]
    problem: str
    made: DrillMade | None
    proposed: list[str]
    lost: list[str]


class PreviewAsk(BaseModel):
    """A drill to be heard, at its own tempo or another."""

    content: DrillContent
    shown: Shown = Shown()
    bpm: Annotated[float, Field(ge=20, le=400)] | None = None


class PreviewAsked(BaseModel):
    """Where its sound will be, and where its beats lie in it."""

    key: str
    first_beat_s: float
    seconds_per_beat: float
    length_beats: float


def drill_read(drill: Any, *, takes: int = 0) -> DrillRead:
    """A list entry."""
    said = drill.facts
    return DrillRead(
        id=drill.pk,
        title=drill.title,
        family=drill.family,
        version=drill.current.number,
        asked=said["asked"],
        repeats=said["repeats"],
        bpm=said["bpm"],
        takes=takes,
        strings=said["strings"],
        frets=said["frets"],
        minutes=said["minutes"],
        members=said["members"],
        needs=said["needs"],
        form=drill.form,
        level=drill.level,
        tags=drill.tags,
        built_in=drill.built_in,
        archived=drill.archived_at is not None,
        partner_id=drill.partner_id,
        after_id=drill.after_id,
        lines=said["lines"],
        shape=said["shape"],
    )


def drill_detail(drill: Any, version: Any, *, content: DrillContent | None = None) -> DrillDetail:
    """A drill with one of its versions; content: as it was judged, where that is another."""
    content = DrillContent.model_validate(version.content) if content is None else content
    return DrillDetail(
        id=drill.pk,
        title=version.content["title"],
        family=version.content["family"],
        version=version.number,
        length_beats=content.length_beats,
        content=content,
        level=drill.level,
        tags=drill.tags,
        archived=drill.archived_at is not None,
        form=drill.form,
        values=drill.values,
        partner=None if drill.partner is None else DrillRef(id=drill.partner.pk, title=drill.partner.title),
        after=None if drill.after is None else DrillRef(id=drill.after.pk, title=drill.after.title),
    )


def drill_made(content: DrillContent, problems: list[Problem], *, has_partner: bool = False) -> DrillMade:
    """A drill that is not kept yet."""
    return DrillMade(
        has_partner=has_partner,
        content=content,
        length_beats=content.length_beats,
        problems=[DrillProblem(**vars(p)) for p in problems],
    )


def generator_read(generator: Generator) -> GeneratorRead:
    """A generator's description."""
    return GeneratorRead(
        name=generator.name,
        group=generator.tags[0],
        helps=[code for code, forms in FIGURES.items() if generator.name in forms],
        family=generator.family,
        title=generator.title,
        asks=generator.asks,
        inputs=[form_input(i) for i in generator.inputs],
        examples=list(generator.examples),
    )


def version_read(version: Any) -> VersionRead:
    """A version, from one annotated with the number of its takes."""
    content = version.content
    return VersionRead(
        number=version.number,
        created_at=version.created_at,
        created_by=None if version.created_by is None else version.created_by.name,
        takes=version.take_count,
        asked=sum(len(e.get("notes", ())) for e in content["events"]) * content.get("repeats", 1),
    )


def score_read(brought: Any) -> ScoreRead:
    """A score on its way in, with what stands in the way of playing it."""
    outcome = brought.outcome or {}
    made = None
    if outcome:
        content = DrillContent.model_validate(outcome["content"])
        made = drill_made(content, check(content))
    return ScoreRead(
        id=brought.pk,
        file_name=brought.file_name,
        state=brought.state,
        problem=brought.problem_detail,
        made=made,
        proposed=outcome.get("proposed", []),
        lost=outcome.get("lost", []),
    )
