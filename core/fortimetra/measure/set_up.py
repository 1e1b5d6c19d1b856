"""A set-up take: tuning of every open string, and what the 12th fret makes of it.

Conventions: offset_cents is an open string against its tuned pitch (equal temperament at the drill's A4, ISO 16);
twelfth_error_cents is the fretted octave against the student's own open string, 1200·log2(f12 / (2·f0)); both read
like any plain pitch, 60-250 ms after the attack; sharp is positive. common_cents is the median of the offsets where the
guitar as a whole is out of tune.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from fortimetra.align.match import Match
from fortimetra.measure.settings import SETUP
from fortimetra.measure.statistics import PitchReading
from fortimetra.model.drill import Drill
from fortimetra.units import hz_to_cents, midi_to_hz


@dataclass(frozen=True)
class StringSetup:
    """Readings of one string; cents are None where nothing was read. other_pitch: so far off that it is tuned to
    something else.
    """

    string: int
    open: PitchReading | None
    twelfth: PitchReading | None
    offset_cents: float | None
    u_offset_cents: float | None
    twelfth_error_cents: float | None
    u_twelfth_cents: float | None
    other_pitch: bool


def measure_set_up(
    match: Match, readings: Sequence[PitchReading | None], drill: Drill
) -> tuple[list[StringSetup], float]:
    """Every string, string 1 first, and the offset of the whole guitar in cents (0 where it has none)."""
    opens: dict[int, PitchReading | None] = {}
    twelfths: dict[int, PitchReading | None] = {}
    for event, reading in zip(match.events, readings, strict=True):
        note = event.notes[0].note
        (opens if note.fret == 0 else twelfths)[note.string] = reading
    offsets = {
        string: hz_to_cents(reading.hz, reference_hz=midi_to_hz(drill.open_midi(string), a4_hz=drill.a4_hz))
        for string, reading in opens.items()
        if reading is not None
    }
    common = _common(list(offsets.values()))
    strings = []
    for string in range(1, len(drill.tuning) + 1):
        open_, twelfth, offset = opens.get(string), twelfths.get(string), offsets.get(string)
        error = u = None
        if open_ is not None and twelfth is not None:
            error = hz_to_cents(twelfth.hz, reference_hz=2.0 * open_.hz)
            u = float(np.hypot(open_.u_cents, twelfth.u_cents))
        strings.append(
            StringSetup(
                string,
                open_,
                twelfth,
                offset,
                None if open_ is None else open_.u_cents,
                error,
                u,
                other_pitch=offset is not None and abs(offset - common) > SETUP.other_pitch_cents,
            )
        )
    return strings, common


def _common(offsets: list[float]) -> float:
    """Offset of the guitar as a whole, where most strings share one."""
    if len(offsets) < 3:
        return 0.0
    middle = float(np.median(offsets))
    sharing = [o for o in offsets if abs(o - middle) <= SETUP.whole_guitar_spread_cents]
    if abs(middle) <= SETUP.whole_guitar_cents or len(sharing) < SETUP.sharing_share * len(offsets):
        return 0.0
    return float(np.median(sharing))
