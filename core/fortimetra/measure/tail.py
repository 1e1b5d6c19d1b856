"""How long a recording takes to become quiet where a note ends, and how evenly: the room and whatever stands before the
recorder.

A hand stops a string at once; a room does not (ISO 3382-1: its level falls by 60 dB in its reverberation time). No
stop can be heard to be quicker than the quickest of a take, so what a note seems to sound into the next by no more than
that may be the room's.

A slow fall alone is no room: a hand may be slow. A partial of a string that fades falls along a straight line in dB, or
along a few; what a room holds of it is many of the room's own resonances that beat with each other, and falls by
fits and starts (the level of one frequency in a room scatters by 5.6 dB: Schroeder, J. Acoust. Soc. Am. 34(12), 1962,
from memory). Both together are a room.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
from scipy import ndimage, signal

from fortimetra.align.match import AskedEvent, Match
from fortimetra.hear.notes import HeardNote
from fortimetra.measure.settings import OVERLAP, TAIL
from fortimetra.sound.parts import hop_power
from fortimetra.sound.samples import Samples, let_go
from fortimetra.units import FloatArray, midi_to_hz

# Bends that end where they have arrived, on one string.
STAYS = ("bend", "prebend", "curl")


@dataclass(frozen=True)
class Tail:
    """ms: the quickest fall by OVERLAP.within_db after a note of the take; None where none can be heard, as where every
    note ends in the next, or the last is left to ring.

    uneven_db: how far single partials lie from a straight line as they fall (RMS, dB, the median of them); fall_ms: how
    long they take to fall by OVERLAP.within_db, the median. None where too few can be followed.
    """

    ms: float | None
    uneven_db: float | None = None
    fall_ms: float | None = None

    @property
    def is_a_rooms(self) -> bool:
        """Whether it is slow and uneven: the slower, the less uneven it has to be, for a hand is quick."""
        if self.uneven_db is None or self.fall_ms is None:
            return False
        if self.uneven_db * max(1.0, self.fall_ms / TAIL.room_ms) < TAIL.uneven_db:
            return False
        slow_ms = self.ms if self.ms is not None else self.fall_ms
        return TAIL.room_ms <= slow_ms and self.fall_ms <= TAIL.slowest_room_ms


def falls_ms(depth_db: float, within_ms: float) -> float:
    """How long a sound takes to fall by so much that falls by OVERLAP.within_db in within_ms, evenly in dB (ISO
    3382-1); 0 where it need not fall.
    """
    return within_ms * max(0.0, depth_db) / OVERLAP.within_db


def tail(mono: Samples, match: Match, *, rate_hz: int) -> Tail:
    """How the recording becomes quiet where notes of a take end.

    mono: float32, shape (n_samples,).
    """
    level = _level_db(mono, rate_hz)
    floor = float(np.percentile(level, TAIL.floor_percentile))
    # Where a recorder stopped, or a gate closed, is no end of a note.
    cuts = np.flatnonzero(level < TAIL.silence_dbfs) * TAIL.hop_s - TAIL.smooth_s
    onsets = np.sort(np.concatenate(([n.onset_s for n in match.notes], cuts, [len(mono) / rate_hz])))
    gaps = []
    for note in match.notes:
        begins = float(onsets[np.searchsorted(onsets, note.onset_s + 1e-6)])
        if begins - note.end_s >= TAIL.least_gap_s:
            gaps.append((note, begins))
    falls = [
        _fall_ms(level[round(note.onset_s / TAIL.hop_s) : round((begins - TAIL.before_s) / TAIL.hop_s)], floor)
        for note, begins in gaps
    ]
    known = [fall for fall in falls if fall is not None]
    partials = _partial_falls(mono, _followed(gaps, match), rate_hz)
    few = len(partials) < TAIL.least_partials
    return Tail(
        min(known, default=None),
        None if few else float(np.median(partials[:, 0])),
        None if few else float(np.median(partials[:, 1])),
    )


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


def _followed(gaps: Sequence[tuple[HeardNote, float]], match: Match) -> list[tuple[HeardNote, float, FloatArray]]:
    """Of the last notes and chords before a gap whose pitches stay: the partials that can be followed, Hz."""
    partials = {
        id(note): hz
        for event, note in zip(match.events, match.heard, strict=True)
        if note is not None and len(hz := _partials_of(event, note, match.offset_cents))
    }
    return [(note, begins, partials[id(note)]) for note, begins in gaps if id(note) in partials][-TAIL.most_notes :]


def _partials_of(event: AskedEvent, note: HeardNote, offset_cents: float) -> FloatArray:
    """The partials of a note as it was heard, Hz; of a chord those as asked that no other string's comes near, for two
    that beat do not fall evenly anywhere. Empty where a pitch does not stay where it is, or is not known.
    """
    sounding = [n for n in event.notes if not n.note.muted]
    number = np.arange(1.0, TAIL.partials + 1.0)
    bends = [n.bend for n in sounding if n.bend is not None]
    if not sounding or (bends and (len(event.notes) > 1 or bends[0].kind not in STAYS)):
        return np.zeros(0)
    if len(event.notes) == 1:
        midi = note.main_midi if bends else note.plain_midi
        return midi_to_hz(midi) * number if np.isfinite(midi) else np.zeros(0)
    of_string = np.array([midi_to_hz(n.midi + offset_cents / 100.0) for n in sounding])[:, None] * number
    near = np.abs(of_string[:, :, None, None] - of_string) < TAIL.apart / TAIL.window_s
    near[np.arange(len(of_string)), :, np.arange(len(of_string))] = False
    return np.sort(of_string[~near.any(axis=(2, 3))])


def _partial_falls(mono: Samples, notes: Sequence[tuple[HeardNote, float, FloatArray]], rate_hz: int) -> FloatArray:
    """Of each partial that can be followed as it falls: how uneven (dB), and how slow (ms for OVERLAP.within_db);
    shape (n, 2).
    """
    found = []
    for note, begins, hz in notes:
        let_go()
        first_s = max(note.onset_s + TAIL.after_attack_s, note.end_s - TAIL.lead_s)
        last_s = min(note.end_s + TAIL.follow_s, begins - TAIL.before_s)
        levels = _partial_levels(mono, first_s, last_s, hz[hz < TAIL.highest_hz], rate_hz)
        found += [fall for level in levels.T if (fall := _straightness(level)) is not None]
    return np.array(found).reshape(-1, 2)


def _partial_levels(mono: Samples, first_s: float, last_s: float, hz: FloatArray, rate_hz: int) -> FloatArray:
    """Levels of partials, dB, shape (n_frames, n_partials); those far under the strongest are left out."""
    length, hop = round(TAIL.window_s * rate_hz), round(TAIL.hop_s * rate_hz)
    begin = max(0, round(first_s * rate_hz) - length // 2)
    part = mono[begin : max(begin, round(last_s * rate_hz) + length // 2)]
    if len(part) < length + TAIL.least_frames * hop or not len(hz):
        return np.zeros((0, 0))
    window = signal.windows.hann(length)
    frames = np.lib.stride_tricks.sliding_window_view(np.asarray(part, np.float64), length)[::hop]
    tones = window[:, None] * np.exp(-2j * np.pi * np.outer(np.arange(length) / rate_hz, hz))
    level = 20.0 * np.log10(np.abs(frames @ tones) / window.sum() * 2.0 + 1e-9)
    start = level[:4].max(axis=0)
    return np.asarray(level[:, start > start.max() - TAIL.strongest_db])


def _straightness(level_db: FloatArray) -> tuple[float, float] | None:
    """How far a falling level lies from a straight line (RMS, dB), and how long it takes to fall by OVERLAP.within_db,
    ms; None where it does not fall far enough.
    """
    top = float(level_db[:4].max())
    first = int(np.flatnonzero(level_db >= top - TAIL.begins_db)[-1])
    under = np.flatnonzero(level_db[first:] <= max(top - TAIL.depth_db, TAIL.floor_dbfs))
    last = first + int(under[0]) if len(under) else len(level_db) - 1
    part = level_db[first : last + 1]
    if len(part) < TAIL.least_frames or part[0] - part[-1] < TAIL.least_fall_db:
        return None
    time = np.arange(len(part))
    off = part - np.polyval(np.polyfit(time, part, 1), time)
    uneven = float(np.sqrt(np.sum(off**2) / (len(part) - 2)))
    return uneven, 1000.0 * TAIL.hop_s * (len(part) - 1) * OVERLAP.within_db / float(part[0] - part[-1])
