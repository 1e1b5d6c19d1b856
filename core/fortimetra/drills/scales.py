"""Scales, chords and where their notes lie on a neck in standard tuning."""

from __future__ import annotations

from collections.abc import Sequence

from fortimetra.errors import DrillError
from fortimetra.model.guitar import STANDARD_TUNING, pitch_midi

Place = tuple[int, int]

NAMES = ("C", "C#", "D", "Eb", "E", "F", "F#", "G", "Ab", "A", "Bb", "B")
SCALES: dict[str, tuple[int, ...]] = {
    "minor pentatonic": (0, 3, 5, 7, 10),
    "major pentatonic": (0, 2, 4, 7, 9),
    "natural minor": (0, 2, 3, 5, 7, 8, 10),
    "major": (0, 2, 4, 5, 7, 9, 11),
    "dorian": (0, 2, 3, 5, 7, 9, 10),
    "mixolydian": (0, 2, 4, 5, 7, 9, 10),
    "harmonic minor": (0, 2, 3, 5, 7, 8, 11),
    "blues": (0, 3, 5, 6, 7, 10),
}
CHORDS: dict[str, tuple[int, ...]] = {
    "major": (0, 4, 7),
    "minor": (0, 3, 7),
    "diminished": (0, 3, 6),
    "augmented": (0, 4, 8),
    "seventh": (0, 4, 7, 10),
    "minor seventh": (0, 3, 7, 10),
    "major seventh": (0, 4, 7, 11),
}
DEGREES = {
    "1": 0, "b2": 1, "2": 2, "b3": 3, "3": 4, "4": 5, "#4": 6, "b5": 6, "5": 7, "b6": 8, "6": 9, "b7": 10, "7": 11,
}  # fmt: skip


def open_midi(string: int) -> int:
    """Open string of the standard tuning."""
    return round(pitch_midi(STANDARD_TUNING[string - 1]))


def in_position(
    key: str, steps: Sequence[int], position: int, *, strings: Sequence[int], reach: int = 4
) -> list[Place]:
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


def along_string(key: str, steps: Sequence[int], string: int, low: int, count: int) -> list[int]:
    """Frets of a scale along one string, from a fret up.

    Raises DrillError where the neck ends first.
    """
    root = NAMES.index(key)
    frets = [f for f in range(low, 25) if (open_midi(string) + f - root) % 12 in steps][:count]
    if len(frets) < count:
        raise DrillError(
            "drill_invalid",
            f"From fret: only {len(frets)} notes of this scale are left on string {string}; begin lower.",
        )
    return frets


def notes_a_string(key: str, steps: Sequence[int], position: int, count: int, strings: Sequence[int]) -> list[Place]:
    """So many notes of a scale on each string, each string going on where the last one ended.

    strings: thick to thin, neighbours or not; across a skipped string the line goes on with the next notes there.
    Raises DrillError where the neck ends.
    """
    root = NAMES.index(key)
    found: list[Place] = []
    least = 0
    for string in strings:
        low = max(position - 1 if not found else 0, least - open_midi(string))
        frets = [f for f in range(max(0, low), 25) if (open_midi(string) + f - root) % 12 in steps][:count]
        if len(frets) < count:
            raise DrillError("drill_invalid", f"Position: string {string} ends before the line does; begin lower.")
        found += [(string, f) for f in frets]
        least = open_midi(string) + frets[-1] + 1
    return found


def positions_of(key: str, steps: Sequence[int], *, low: int = 0) -> list[int]:
    """The five positions of a scale along the neck, by the fret of its pentatonic notes on the lowest string."""
    five = (
        steps
        if len(steps) == 5
        else [s for s in steps if s in (SCALES["minor pentatonic"] if 3 in steps else SCALES["major pentatonic"])]
    )
    root = NAMES.index(key)
    return [f for f in range(low, low + 12) if (open_midi(6) + f - root) % 12 in five]


def there_and_back(notes: Sequence[Place]) -> list[Place]:
    """Up and down again, top and bottom once."""
    return [*notes, *reversed(notes[1:-1])]
