"""Plain pitch: fretted notes against the tuning reference.

Conventions: read 60-250 ms after the attack (shorter notes: the middle half); error is against equal temperament
at the drill's A4, shifted by the string's own offset.
"""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Sequence
from dataclasses import dataclass
from typing import Literal

import numpy as np

from fortimetra.align.match import Match
from fortimetra.align.settings import MATCH
from fortimetra.hear.contour import Contour
from fortimetra.hear.notes import HeardNote, plain_window
from fortimetra.measure.saddle import fretted_error_cents
from fortimetra.measure.settings import PITCH
from fortimetra.measure.statistics import PitchReading, read_pitch
from fortimetra.model.context import Setup
from fortimetra.model.drill import Drill
from fortimetra.units import cents_to_ratio, hz_to_cents, hz_to_midi, midi_to_hz


def plain_readings(contour: Contour, match: Match, *, seconds_per_beat: float = 1.0) -> list[PitchReading | None]:
    """Plain pitch of each matched event that has one unbent note, in the events' order; of one slid into, after
    that.
    """
    readings: list[PitchReading | None] = []
    for i, (event, note) in enumerate(zip(match.events, match.heard, strict=True)):
        single = len(event.notes) == 1 and event.notes[0].bend is None and not event.notes[0].note.muted
        slide = event.notes[0].event.slide
        slid = slide is not None and slide.from_fret is not None
        later_s = (slide.length or 0.0) * seconds_per_beat + PITCH.slid_s if slide is not None and slid else 0.0
        reading = _plain_reading(contour, note, later_s) if note and single else None
        asked = (event.main_midi if slid else event.start_midi) + match.offset_cents / 100.0
        if reading is not None and match.fits(i) and abs(hz_to_midi(reading.hz) - asked) > MATCH.fits_semitones:
            reading = None  # the contour follows another string that rings on
        readings.append(reading)
    return readings


def _plain_reading(contour: Contour, note: HeardNote, from_s: float = 0.0) -> PitchReading | None:
    """The plain pitch, or, where a note has no pitch at first (low strings), that of the same length a little later."""
    begins_s = note.onset_s + from_s if note.end_s - note.onset_s > from_s + PITCH.slid_s else note.onset_s
    first, last = plain_window(begins_s, note.end_s)
    for later_s in PITCH.later_s:
        if later_s and last + later_s > note.end_s:
            return None
        reading = read_pitch(contour, first + later_s, last + later_s)
        if reading is not None:
            return reading
    return None


@dataclass(frozen=True)
class StringOffsets:
    """Tuning offset per string in cents, string 1 first, and where it comes from.

    twelfth_cents: what a set-up take says of the 12th frets. changed: strings that left their set-up.
    """

    cents: list[float | None]
    source: Literal["setup", "take", "none"]
    twelfth_cents: list[float | None]
    changed: tuple[int, ...] = ()

    def at(self, string: int, fret: int | None) -> float:
        """What the guitar itself adds to a fretted note, cents; 0 where it is not known."""
        twelfth = self.twelfth_cents[string - 1]
        saddle = 0.0 if twelfth is None or not fret else fretted_error_cents(fret, twelfth_error_cents=twelfth)
        return (self.cents[string - 1] or 0.0) + saddle


def string_offsets(
    drill: Drill, match: Match, readings: Sequence[PitchReading | None], setup: Setup | None
) -> StringOffsets:
    """Tuning offset per string: the set-up take's, else the median of this take's plain notes.

    From the take itself only where a string has PITCH.min_notes_for_offset plain notes at their pitch, on two frets at
    least: one fret alone cannot tell a string out of tune from a finger that pulls. A guitar out of tune as a whole
    (match.offset_cents) is measured against itself: strings without a value of their own take the whole take's.
    A string of a set-up take that this take's own notes contradict is named in `changed`.
    """
    if setup is not None and setup.has_offsets:
        return _setup_offsets(drill, match, readings, setup)
    nothing: list[float | None] = [None] * len(drill.tuning)
    own = _own_offsets(drill, match, readings, StringOffsets(nothing, "none", nothing))
    if match.offset_cents:
        own = [match.offset_cents if value is None else value for value in own]
    return StringOffsets(own, "take" if any(value is not None for value in own) else "none", nothing)


def _setup_offsets(drill: Drill, match: Match, readings: Sequence[PitchReading | None], setup: Setup) -> StringOffsets:
    """A set-up take's offsets, moved where the guitar as a whole has moved since."""
    count = len(drill.tuning)
    shift = hz_to_cents(setup.a4_hz, reference_hz=drill.a4_hz)
    cents = _plus(_of_strings(setup.string_offset_cents, count), shift)
    twelfth = _of_strings(setup.twelfth_fret_error_cents or (), count)
    own = _own_offsets(drill, match, readings, StringOffsets([0.0] * count, "setup", twelfth))
    whole = _moved_since(match, cents)
    cents = _plus(cents, whole)
    changed = tuple(
        number
        for number, (a, b) in enumerate(zip(own, cents, strict=True), 1)
        if a is not None and b is not None and abs(a - b) > PITCH.changed_cents
    )
    return StringOffsets(cents, "setup", twelfth, changed or (tuple(range(1, count + 1)) if whole else ()))


def _plus(values: Sequence[float | None], cents: float) -> list[float | None]:
    return [None if value is None else value + cents for value in values]


def _moved_since(match: Match, cents: Sequence[float | None]) -> float:
    """By how much the guitar as a whole has moved since its set-up take, cents; 0 where it has not."""
    known = [value for value in cents if value is not None]
    if not match.offset_cents or not known:
        return 0.0
    moved = match.offset_cents - float(np.median(known))
    return moved if abs(moved) > MATCH.flat_cents else 0.0


def known_hz(setup: Setup | None, drill: Drill) -> dict[tuple[int, int], PitchReading]:
    """Fretted pitches by (string, fret) from other takes of the guitar."""
    if setup is None:
        return {}
    return {
        (f.string, f.fret): PitchReading(
            midi_to_hz(drill.open_midi(f.string) + f.fret, a4_hz=setup.a4_hz) * cents_to_ratio(f.error_cents), f.u, 0
        )
        for f in setup.fretted
        if f.string <= len(drill.tuning)
    }


def _of_strings(values: Sequence[float | None], count: int) -> list[float | None]:
    """As many values as the drill has strings."""
    return [*values, *[None] * count][:count]


def _own_offsets(
    drill: Drill, match: Match, readings: Sequence[PitchReading | None], guitar: StringOffsets
) -> list[float | None]:
    """Median of each string's plain notes, what the guitar's 12th frets explain taken out."""
    offsets: list[float | None] = [None] * len(drill.tuning)
    by_string: dict[int, list[tuple[int, float]]] = defaultdict(list)
    for i, reading in enumerate(readings):
        if reading is not None and match.fits(i):
            asked = match.events[i].notes[0]
            target = midi_to_hz(asked.midi, a4_hz=drill.a4_hz)
            string, fret = asked.note.string, asked.note.fret or 0
            by_string[string].append((fret, hz_to_cents(reading.hz, reference_hz=target) - guitar.at(string, fret)))
    for string, found in by_string.items():
        if len(found) >= PITCH.min_notes_for_offset and len({fret for fret, _ in found}) >= 2:
            offsets[string - 1] = float(np.median([cents for _, cents in found]))
    return offsets
