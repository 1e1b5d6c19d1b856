"""What the API says of drills."""

from __future__ import annotations

from typing import Any

from fortimetra import Drill as DrillContent
from fortimetra.model.guitar import Guitar as GuitarContent
from ninja import Schema


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


class DrillDetail(Schema):
    """A drill with what it asks; length_beats is one repeat."""

    id: int
    title: str
    family: str
    version: int
    length_beats: float
    content: DrillContent


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
    )
