"""How long a recording takes to become quiet where a note ends: the room and whatever stands before the recorder.

A hand stops a string at once; a room does not (ISO 3382-1: its level falls by 60 dB in its reverberation time). No
stop can be heard to be quicker than the quickest of a take, so what a note seems to sound into the next by no more than
that may be the room's.
"""

from __future__ import annotations

import numpy as np
from scipy import ndimage

from fortimetra.align.match import Match
from fortimetra.measure.settings import OVERLAP, TAIL
from fortimetra.sound.decode import Samples
from fortimetra.sound.parts import hop_power
from fortimetra.units import FloatArray


def tail_ms(mono: Samples, match: Match, *, rate_hz: int) -> float | None:
    """The quickest fall by OVERLAP.within_db after a note of the take; None where none can be heard, as where every
    note ends in the next, or the last is left to ring.

    mono: float32, shape (n_samples,).
    """
    level = _level_db(mono, rate_hz)
    floor = float(np.percentile(level, TAIL.floor_percentile))
    onsets = np.array([n.onset_s for n in match.notes] + [len(mono) / rate_hz])
    falls = []
    for note in match.notes:
        begins = float(onsets[np.searchsorted(onsets, note.onset_s + 1e-6)])
        if begins - note.end_s < TAIL.least_gap_s:
            continue
        part = level[round(note.onset_s / TAIL.hop_s) : round((begins - TAIL.before_s) / TAIL.hop_s)]
        fall = _fall_ms(part, floor)
        if fall is not None:
            falls.append(fall)
    return min(falls) if falls else None


def _fall_ms(level_db: FloatArray, floor_db: float) -> float | None:
    """The quickest fall by OVERLAP.within_db within one note and what follows it."""
    depth = OVERLAP.within_db
    if len(level_db) < 3 or float(level_db.max()) - depth < floor_db + TAIL.over_floor_db:
        return None
    best = None
    for first in np.flatnonzero(level_db - depth > floor_db + TAIL.over_floor_db):
        under = np.flatnonzero(level_db[first:] <= level_db[first] - depth)
        if len(under) and (best is None or under[0] < best):
            best = int(under[0])
    if best is None or best * TAIL.hop_s > TAIL.longest_s:
        return None
    return 1000.0 * TAIL.hop_s * best


def _level_db(mono: Samples, rate_hz: int) -> FloatArray:
    """RMS about every TAIL.hop_s over TAIL.smooth_s, dBFS: reverberation is noise, and its level falls for a moment by
    chance.
    """
    power = hop_power(mono, round(TAIL.hop_s * rate_hz))
    smooth = ndimage.uniform_filter1d(np.asarray(power, np.float64), max(1, round(TAIL.smooth_s / TAIL.hop_s)))
    return np.asarray(10.0 * np.log10(np.maximum(smooth, 1e-20)))
