"""What a list says of a drill, from its stored JSON: without the cost of reading every note of every drill again."""

from __future__ import annotations

import hashlib
import json
from collections.abc import Mapping
from typing import Any, Literal

from fortimetra.drills.library import NEEDS
from fortimetra.model.drill import SLURRED, Drill, Event

Sign = Literal["", "bend", "vibrato", "slide", "slur"]
SHAPE_NOTES = 12


def facts(drill: Drill) -> dict[str, Any]:
    """Counts, strings, frets and minutes of a drill, as JSON."""
    notes = [n for e in drill.events for n in e.notes]
    frets = [n.fret for n in notes if n.fret]
    return {
        "asked": len(notes) * drill.repeats,
        "repeats": drill.repeats,
        "bpm": drill.tempo.bpm if drill.tempo else None,
        "strings": sorted({n.string for n in notes if not n.muted}),
        "frets": [min(frets), max(frets)] if frets else [0, 0],
        "minutes": round(drill.repeats * drill.length_beats * drill.seconds_per_beat / 60.0, 2),
        "members": len(drill.members),
        "measures": list(drill.measures),
        "needs": [NEEDS[drill.family]] if drill.family in NEEDS else [],
        "lines": len(drill.tuning),
        "shape": shape(drill),
    }


def shape(drill: Drill) -> list[tuple[float, int, int | None, Sign]]:
    """How a drill begins, for a picture the size of a thumb: of each note its beat, string, fret (None: muted) and
    what is done to it; as many whole events as SHAPE_NOTES hold.
    """
    rows: list[tuple[float, int, int | None, Sign]] = []
    for event in drill.events:
        if len(rows) + len(event.notes) > SHAPE_NOTES:
            break
        rows += [(event.beat, n.string, None if n.muted else n.fret, _sign(event)) for n in event.notes]
    return rows


def _sign(event: Event) -> Sign:
    if event.bend is not None:
        return "bend"
    if event.vibrato is not None:
        return "vibrato"
    if event.slide is not None or event.articulation == "slide":
        return "slide"
    return "slur" if event.articulation in SLURRED else ""


def digest(content: Mapping[str, Any]) -> str:
    """The same for the same drill, whoever made it and however often."""
    return hashlib.sha256(json.dumps(content, sort_keys=True).encode()).hexdigest()
