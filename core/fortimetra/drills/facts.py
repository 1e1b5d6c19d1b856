"""What a list says of a drill, from its stored JSON: without the cost of reading every note of every drill again."""

from __future__ import annotations

import hashlib
import json
from collections.abc import Mapping
from typing import Any

from fortimetra.drills.library import NEEDS
from fortimetra.model.drill import Drill


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
    }


def digest(content: Mapping[str, Any]) -> str:
    """The same for the same drill, whoever made it and however often."""
    return hashlib.sha256(json.dumps(content, sort_keys=True).encode()).hexdigest()
