"""Writing a drill note by note, and the scales and shapes the generators take their notes from."""

from __future__ import annotations

import math
import re
from collections.abc import Sequence
from typing import Any

from fortimetra.errors import DrillError
from fortimetra.model.drill import Articulation, Drill, DrillNote, Event, Family, Tempo
from fortimetra.model.form import Input, Values, number, whole
from fortimetra.model.guitar import STANDARD_TUNING, pitch_midi
from fortimetra.model.tolerance import Measure

NAMES = ("C", "C#", "D", "Eb", "E", "F", "F#", "G", "Ab", "A", "Bb", "B")
SCALES: dict[str, tuple[int, ...]] = {
    "minor pentatonic": (0, 3, 5, 7, 10),
    "major pentatonic": (0, 2, 4, 7, 9),
    "natural minor": (0, 2, 3, 5, 7, 8, 10),
    "major": (0, 2, 4, 5, 7, 9, 11),
    "dorian": (0, 2, 3, 5, 7, 9, 10),
}
CHORDS: dict[str, tuple[int, ...]] = {"major": (0, 4, 7), "minor": (0, 3, 7)}

BPM = Input("bpm", "Tempo", 60.0, "bpm", 20.0, 300.0)
REPEATS = Input("repeats", "Repeats", 4.0, "", 1.0, 50.0, whole=True)
PROFILE = Input("profile", "Tolerances", "steady", choices=("starting", "steady", "exacting"))
KEY = Input("key", "Key", "A", choices=NAMES)


def string_input(default: int = 3, *, label: str = "String", low: int = 1, high: int = 6) -> Input:
    """Which string."""
    return Input("string", label, float(default), "", float(low), float(high), whole=True)


def fret_input(default: int = 7, *, name: str = "fret", label: str = "Fret", low: int = 1, high: int = 21) -> Input:
    """Which fret."""
    return Input(name, label, float(default), "", float(low), float(high), whole=True)


class Score:
    """A drill being written; the beat goes on with every event."""

    def __init__(self) -> None:
        self.events: list[Event] = []
        self.beat = 0.0

    def note(self, string: int, fret: int, length: float, articulation: Articulation = "pick", **more: Any) -> str:
        """One note; its id."""
        return self.together([DrillNote(string=string, fret=fret)], length, articulation, **more)

    def together(
        self, notes: Sequence[DrillNote], length: float, articulation: Articulation = "pick", **more: Any
    ) -> str:
        """Several notes at once; the event's id."""
        name = f"e{len(self.events) + 1}"
        self.events.append(
            Event(
                id=name,
                beat=round(self.beat, 6),
                length=round(length, 6),
                articulation=articulation,
                notes=tuple(notes),
                **more,
            )
        )
        self.beat += length
        return name

    def rest(self, length: float) -> None:
        """Silence, which is judged."""
        if length > 1e-6:
            self.together([], length, "none")

    def to_bar(self, beats: float = 4.0) -> None:
        """Silence to the end of the bar."""
        self.rest(math.ceil(round(self.beat / beats, 6)) * beats - self.beat)

    def drill(self, title: str, family: Family, measures: Sequence[Measure], values: Values) -> Drill:
        """The finished drill in standard tuning; tempo, repeats and tolerances from the form, where it has them.

        Raises DrillError(code="drill_invalid") for notes the guitar does not have.
        """
        for event in self.events:
            for note in event.notes:
                if note.fret is not None and not 0 <= note.fret <= 24:
                    raise DrillError(
                        "drill_invalid",
                        f"This would need fret {note.fret} on string {note.string}; choose other frets.",
                    )
        return Drill(
            format="fortimetra-drill",
            version=1,
            title=title,
            family=family,
            tuning=STANDARD_TUNING,
            tempo=Tempo(bpm=number(values, "bpm")),
            repeats=whole(values, "repeats") if "repeats" in values else 1,
            profile=values.get("profile", "steady"),
            measures=tuple(measures),
            events=tuple(self.events),
        )


def open_midi(string: int) -> int:
    """Open string of the standard tuning."""
    return round(pitch_midi(STANDARD_TUNING[string - 1]))


def in_position(
    key: str, steps: Sequence[int], position: int, *, strings: Sequence[int], reach: int = 4
) -> list[tuple[int, int]]:
    """(string, fret) of every note of a scale or chord within a position, from the lowest up, each pitch once."""
    root = NAMES.index(key)
    found = []
    for string in sorted(strings, reverse=True):
        # What the next string has at the position itself is played there.
        next_string = open_midi(string - 1) + position if string - 1 in strings else 1000
        for fret in range(position, position + reach + 1):
            midi = open_midi(string) + fret
            if (midi - root) % 12 in steps and midi < next_string:
                found.append((string, fret))
    return found


def there_and_back(notes: Sequence[tuple[int, int]]) -> list[tuple[int, int]]:
    """Up and down again, top and bottom once."""
    return [*notes, *reversed(notes[1:-1])]


def frets_list(text: str, *, label: str) -> list[int]:
    """Whole numbers from a text as "5 7 8".

    Raises DrillError naming the field.
    """
    parts = [p for p in re.split(r"[\s,;]+", text.strip()) if p]
    if not parts or not all(p.isdigit() and int(p) <= 24 for p in parts):
        raise DrillError("drill_invalid", f"{label}: write frets from 0 to 24 with spaces, as 5 7 8; got {text!r}.")
    return [int(p) for p in parts]
