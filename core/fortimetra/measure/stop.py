"""How fast the sound goes after a stop: where the drill has a rest, and at its end.

Conventions: from the instant the note should have stopped until its level stays 40 dB under the note, or within 3 dB
of the floor of the take, whichever is higher. A note stopped early has no decay to speak of.
"""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from dataclasses import dataclass

import numpy as np
from scipy import ndimage, signal

from fortimetra.align.match import Match
from fortimetra.measure.settings import STOP
from fortimetra.measure.strings import Part
from fortimetra.sound.decode import resampled
from fortimetra.sound.parts import smoothed_power
from fortimetra.sound.samples import Samples
from fortimetra.units import FloatArray


@dataclass(frozen=True)
class Stop:
    """The stop after one event. decay_ms: at least so long where it still sounds at the end of the rest; None: cannot
    be told.

    due_s: when it should have been silent.
    gone: whether it was silent before the rest ended. floor_db: from which level it counts as gone, against the note.
    let_go_ms: when, after it should have stopped, it has fallen by STOP.let_go_db, as no string does by itself: what is
    heard later may be a room's; infinite where it has not by the end of the rest.
    """

    event: int
    due_s: float
    decay_ms: float | None
    u_ms: float
    gone: bool
    floor_db: float
    let_go_ms: float

    def let_go_within(self, ms: float) -> bool:
        """Whether it was surely let go in that time after it should have stopped."""
        return self.let_go_ms + self.u_ms <= ms


def stops(mono: Samples, match: Match, parts: Sequence[Part], *, rate_hz: int, grid_u_ms: float | None) -> list[Stop]:
    """Every stop that is followed by a rest, in order of time.

    mono: float32, shape (n_samples,). grid_u_ms: how well the beats are known.
    """
    rests = list(_rests(match, parts, len(mono) / rate_hz))
    if not rests:
        return []
    level = _level_db(mono, rate_hz)
    floor = _floor_db(level)
    found: list[Stop] = []
    for due_s, rest_ends in rests:
        own = [p for p in parts if p.until_s == due_s]
        begins = max(p.from_s for p in own)
        top = float(np.max(level[_frames(begins, begins + 0.12)], initial=-200.0))
        limit = max(top - STOP.under_db, floor + STOP.over_floor_db)
        decay_ms, gone = None, False
        if top - limit >= STOP.least_range_db:
            decay_ms, gone = _decay(level[_frames(due_s, rest_ends - 0.01)], limit)
        event, u_ms = max(p.event for p in own), float(np.hypot(STOP.u_ms, grid_u_ms or 30.0))
        let_go_ms = _let_go_ms(level, max(begins + 0.05, due_s - STOP.before_s), due_s, rest_ends)
        found.append(Stop(event, due_s, decay_ms, u_ms, gone, limit - top, let_go_ms))
    return found


def _rests(match: Match, parts: Sequence[Part], end_s: float) -> Iterator[tuple[float, float]]:
    """From when on nothing should sound, and until when, where that is long enough."""
    onsets = np.array([n.onset_s for n in match.notes] or [0.0])
    from_s, until_s = (np.array([getattr(p, name) for p in parts]) for name in ("from_s", "until_s"))
    for due_s in np.unique(until_s[np.isfinite(until_s)]).tolist():
        if np.any((from_s < due_s + STOP.least_rest_s) & (until_s > due_s)):
            continue  # something goes on, or begins
        begins = float(from_s[until_s == due_s].max())
        later = onsets[onsets > begins + 1e-6]
        rest_ends = min(float(later[0]) if len(later) else end_s, end_s)
        if rest_ends - due_s >= STOP.least_rest_s:
            yield due_s, rest_ends


def _decay(level_db: FloatArray, limit_db: float) -> tuple[float, bool]:
    """After how many ms a level stays under a limit, and whether it does before its end. level_db: shape (n_frames,),
    from the stop on.
    """
    stays = _odd(STOP.stays_s)
    under = (level_db < limit_db).astype(np.int8)
    quiet = ndimage.minimum_filter1d(under, stays, origin=-(stays // 2), mode="nearest")
    gone = bool(quiet.any())
    return 1000.0 * STOP.hop_s * float(np.argmax(quiet) if gone else len(level_db)), gone


def _let_go_ms(level_db: FloatArray, from_s: float, due_s: float, rest_ends: float) -> float:
    """When a level has fallen by STOP.let_go_db from what it was shortly before a stop, after that is due."""
    course = level_db[_frames(from_s, rest_ends)]
    before = float(np.max(course[: max(1, round((due_s - from_s) / STOP.hop_s))], initial=-200.0))
    fell_ms, fell = _decay(course, before - STOP.let_go_db)
    return fell_ms - 1000.0 * (due_s - from_s) if fell else float("inf")


def _floor_db(level_db: FloatArray) -> float:
    """The upper edge of the noise: it wavers, and automatic gain raises it in a pause."""
    lowest = float(np.percentile(level_db, STOP.floor_percentile))
    noise = level_db[level_db < lowest + STOP.floor_range_db]
    return float(np.percentile(noise, 100.0 - STOP.floor_percentile))


def _odd(seconds: float) -> int:
    return round(seconds / STOP.hop_s) | 1


def _frames(from_s: float, to_s: float) -> slice:
    return slice(max(0, round(from_s / STOP.hop_s)), max(0, round(to_s / STOP.hop_s)))


def _level_db(mono: Samples, rate_hz: int) -> FloatArray:
    """Level of the band every STOP.hop_s, dBFS; frame i is centred on i·STOP.hop_s."""
    rate = min(STOP.rate_hz, rate_hz)
    sound = resampled(mono, from_hz=rate_hz, to_hz=rate)
    sos = signal.butter(2, (STOP.band_hz[0], min(STOP.band_hz[1], 0.45 * rate)), "band", fs=rate, output="sos")
    at = np.minimum(np.round(np.arange(0.0, len(sound) / rate, STOP.hop_s) * rate).astype(np.int64), len(sound) - 1)
    power = smoothed_power(sos, sound, at, frame=round(STOP.frame_s * rate), settled=rate)
    return np.asarray(10.0 * np.log10(np.maximum(power, 1e-20)))
