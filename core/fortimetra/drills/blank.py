"""An empty sheet: where a drill that no generator makes begins."""

from __future__ import annotations

from fortimetra.model.drill import Drill, Event, Tempo
from fortimetra.model.guitar import STANDARD_TUNING

BARS = 2


def blank() -> Drill:
    """Two bars of rest in standard tuning."""
    return Drill(
        format="fortimetra-drill",
        version=1,
        title="New drill",
        family="free",
        tuning=STANDARD_TUNING,
        tempo=Tempo(bpm=60.0),
        repeats=4,
        measures=("pitch", "timing", "level"),
        events=(Event(id="e1", beat=0.0, length=4.0 * BARS, articulation="none"),),
    )
