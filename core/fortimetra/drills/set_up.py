"""Family set_up: each open string and its 12th fret, with silences between, before anything else is judged."""

from __future__ import annotations

from fortimetra.model.drill import Drill, DrillNote, Event
from fortimetra.model.guitar import STANDARD_TUNING
from fortimetra.model.tolerance import Tolerances

OCTAVE_FRET = 12
IN_TUNE_CENTS = 5.0
QUIET_BEATS, NOTE_BEATS, REST_BEATS = 2.0, 2.0, 1.0


def set_up(
    *,
    title: str = "Set-up check",
    tuning: tuple[str | float, ...] = STANDARD_TUNING,
    capo: int = 0,
    a4_hz: float = 440.0,
) -> Drill:
    """Two silent beats; from the lowest string on: open, 12th fret, stopped and silent for a beat.

    String by string, so that a string is stopped by its own next note and few others ring along. Without a click;
    one beat is about a second.
    """
    events = [Event(id="quiet", beat=0.0, length=QUIET_BEATS, articulation="none")]
    beat = QUIET_BEATS
    for string in range(len(tuning), 0, -1):
        for name, fret in (("open", 0), ("twelfth", OCTAVE_FRET)):
            events.append(
                Event(
                    id=f"{name}{string}",
                    beat=beat,
                    length=NOTE_BEATS,
                    articulation="pick",
                    notes=(DrillNote(string=string, fret=fret),),
                )
            )
            beat += NOTE_BEATS
        events.append(Event(id=f"stop{string}", beat=beat, length=REST_BEATS, articulation="none"))
        beat += REST_BEATS
    return Drill(
        format="fortimetra-drill",
        version=1,
        title=title,
        family="set_up",
        tuning=tuning,
        capo=capo,
        a4_hz=a4_hz,
        tempo=None,
        tolerances=Tolerances(plain_pitch_cents=IN_TUNE_CENTS),
        measures=("pitch",),
        events=tuple(events),
    )
