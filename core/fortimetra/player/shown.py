"""A drill heard before it is played: by the simulated student, clean, or with one stated fault at a time or several.

So that teacher and student hear what a number sounds like. Invented sound; nothing of it is ever measured.
"""

from __future__ import annotations

from dataclasses import dataclass
from typing import Annotated

from pydantic import Field

from fortimetra.errors import DrillError
from fortimetra.model.base import Model
from fortimetra.model.drill import Drill, Event
from fortimetra.player.faults import Faults, NoteFault, Ring

LEAD_IN_S = 0.25
LONGEST_S = 180.0
SLURRED = {"hammer", "pull", "tap"}


class Shown(Model):
    """The faults on the sliders; all at rest is a clean take."""

    cents: Annotated[float, Field(ge=-100, le=100, description="Of the bends; of all notes in a drill without.")] = 0.0
    vibrato_cv: Annotated[float, Field(ge=0, le=0.8, description="Unevenness of rate and extent.")] = 0.0
    late_ms: Annotated[float, Field(ge=-120, le=120)] = 0.0
    slur_db: Annotated[float, Field(ge=-20, le=6, description="Slurred against picked notes.")] = 0.0
    ring_string: Annotated[int, Field(ge=1, le=8, description="An open string that sounds along.")] | None = None
    ring_db: Annotated[float, Field(ge=-50, le=0)] = -20.0


@dataclass(frozen=True)
class PreviewTimes:
    """Where the beats lie in a preview."""

    first_beat_s: float
    seconds_per_beat: float
    length_beats: float


def at_tempo(drill: Drill, bpm: float | None) -> Drill:
    """One repeat of a drill, at another tempo if one is given.

    Raises DrillError(code="preview_too_long").
    """
    tempo = drill.tempo if drill.tempo is None or bpm is None else drill.tempo.model_copy(update={"bpm": bpm})
    once = drill.model_copy(update={"repeats": 1, "tempo": tempo})
    seconds = once.length_beats * once.seconds_per_beat
    if seconds > LONGEST_S:
        raise DrillError(
            "preview_too_long",
            f"One repeat lasts {seconds:.0f} s; up to {LONGEST_S:.0f} s can be heard. Raise the tempo.",
        )
    return once


def times(once: Drill) -> PreviewTimes:
    """Of a drill from `at_tempo`."""
    return PreviewTimes(LEAD_IN_S, once.seconds_per_beat, once.length_beats)


def faults_of(once: Drill, shown: Shown) -> Faults:
    """The performance that shows these faults."""
    bends = any(e.bend for e in once.events)
    notes = {e.id: _note(e, shown, off_pitch=(e.bend is not None) or not bends) for e in once.events if e.notes}
    return Faults(lead_in_s=LEAD_IN_S, notes=notes, rings=_rings(once, shown))


def _note(event: Event, shown: Shown, *, off_pitch: bool) -> NoteFault:
    return NoteFault(
        cents=shown.cents if off_pitch else 0.0,
        late_ms=shown.late_ms,
        level_db=shown.slur_db if event.articulation in SLURRED else 0.0,
        vibrato_rate_cv=shown.vibrato_cv,
        vibrato_extent_cv=shown.vibrato_cv,
    )


def _rings(once: Drill, shown: Shown) -> tuple[Ring, ...]:
    """The string is set ringing by the first note of every bar that does not use it, and rings to the end of the
    bar.
    """
    string = shown.ring_string
    if string is None or string > len(once.tuning):
        return ()
    bar = once.tempo.beats_per_bar if once.tempo else 4
    rung: dict[int, Ring] = {}
    for event in once.events:
        if event.notes and all(n.string != string or n.muted for n in event.notes):
            number = int((event.beat + 1e-6) // bar)
            length = ((number + 1) * bar - event.beat) * once.seconds_per_beat
            rung.setdefault(
                number,
                Ring(string=string, event=event.id, level_db=shown.ring_db, length_s=min(20.0, max(0.05, length))),
            )
    return tuple(rung.values())
