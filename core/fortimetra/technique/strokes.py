"""The stroke plan: down, up or on through the strings, and where the pick has to leave a string to reach the next.

The last stroke on a string decides how the next string is reached: it has to end above the strings, or the pick stays
caught between them. A sweep, or a stroke that goes on in its own direction, rests into the next string and need not
leave. Tilting the pick frees strokes of one direction only (common practice, no source).
"""

from __future__ import annotations

from itertools import pairwise
from typing import Literal

from fortimetra.model.base import Model
from fortimetra.model.drill import UNSTRUCK, Drill, Event
from fortimetra.model.hand import Stroke
from fortimetra.technique.fingers import with_hands

PickingKind = Literal["alternate", "same_way", "sweep", "strum", "none"]
Slant = Literal["frees_up_strokes", "frees_down_strokes", "both_in_turn", "any"]


class StrokeOf(Model):
    """The stroke of one event."""

    event: str
    stroke: Stroke


class StringChange(Model):
    """Where the pick goes to another string. after: the stroke before it; leaves: it has to end above the strings."""

    event: str
    from_string: int
    to_string: int
    after: Literal["down", "up"]
    leaves: bool


class StrokePlan(Model):
    """How a drill is picked."""

    kind: PickingKind = "none"
    strokes: tuple[StrokeOf, ...] = ()
    changes: tuple[StringChange, ...] = ()
    slant: Slant = "any"
    says: tuple[str, ...] = ()


def stroke_plan(drill: Drill) -> StrokePlan:
    """The strokes of a drill, proposed where it does not give them; none where nothing quick is picked."""
    struck = [
        e for e in with_hands(drill.events) if e.notes and e.articulation not in UNSTRUCK and e.stroke is not None
    ]
    if len(struck) < 2:
        return StrokePlan()
    strokes = tuple(StrokeOf(event=e.id, stroke=e.stroke) for e in struck if e.stroke is not None)
    changes = tuple(c for a, b in pairwise(struck) if (c := _change(a, b)) is not None)
    kind = _kind(struck)
    slant = _slant(changes)
    return StrokePlan(kind=kind, strokes=strokes, changes=changes, slant=slant, says=_words(kind, changes, slant))


def _way(event: Event) -> Literal["down", "up"]:
    return "down" if (event.stroke or "down").endswith("down") else "up"


def _change(before: Event, after: Event) -> StringChange | None:
    if len(before.notes) != 1 or len(after.notes) != 1 or before.notes[0].string == after.notes[0].string:
        return None
    a, b = before.notes[0].string, after.notes[0].string
    last, following = _way(before), _way(after)
    # A down-stroke travels toward the thinner strings: going on that way it rests into the next string.
    on_its_way = last == following and (b < a) == (last == "down") and abs(a - b) == 1
    return StringChange(event=after.id, from_string=a, to_string=b, after=last, leaves=not on_its_way)


def _kind(struck: list[Event]) -> PickingKind:
    if all(e.articulation == "strum" for e in struck):
        return "strum"
    if any((e.stroke or "").startswith("sweep") for e in struck):
        return "sweep"
    ways = [_way(e) for e in struck]
    same = sum(a == b for a, b in pairwise(ways))
    if len(set(ways)) == 1:
        return "same_way"
    return "alternate" if same <= len(ways) // 4 else "same_way"


def _slant(changes: tuple[StringChange, ...]) -> Slant:
    after = {c.after for c in changes if c.leaves}
    if not after:
        return "any"
    if len(after) == 2:
        return "both_in_turn"
    return "frees_up_strokes" if after == {"up"} else "frees_down_strokes"


_KINDS: dict[PickingKind, str] = {
    "alternate": "Down and up in turn, without exception.",
    "same_way": "Every note is struck the same way.",
    "sweep": "One motion through the strings: the pick rests into the next string and falls through it.",
    "strum": "Struck through all strings.",
    "none": "",
}
_SLANTS: dict[Slant, str] = {
    "frees_up_strokes": (
        "The pick leaves each string after an up-stroke: tilt it so that up-strokes end above the strings."
    ),
    "frees_down_strokes": (
        "The pick leaves each string after a down-stroke: tilt it so that down-strokes end above the strings."
    ),
    "both_in_turn": (
        "The pick leaves strings after up-strokes and after down-strokes: turn wrist and forearm a "
        "little between the two. The changes after up-strokes are the usual weak place."
    ),
    "any": "",
}


def _words(kind: PickingKind, changes: tuple[StringChange, ...], slant: Slant) -> tuple[str, ...]:
    leaving = [c for c in changes if c.leaves]
    lines = [_KINDS[kind]]
    if kind == "sweep":
        turns = len(leaving)
        if turns:
            lines.append(
                f"{turns} {'place' if turns == 1 else 'places'} where the motion turns or begins again: slow "
                "down there first."
            )
    elif leaving:
        ups = sum(c.after == "up" for c in leaving)
        downs = len(leaving) - ups
        where = [
            f"{n} after {'an up' if which == 'up' else 'a down'}-stroke"
            for which, n in (("up", ups), ("down", downs))
            if n
        ]
        count = len(leaving)
        lines.append(f"{count} string {'change' if count == 1 else 'changes'}: {' and '.join(where)}.")
        lines.append(_SLANTS[slant])
        if slant != "any":
            lines.append("Do not lift over the strings: that works slowly and fails fast.")
    return tuple(line for line in lines if line)
