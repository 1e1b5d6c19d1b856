"""When one pitch of a string, or of several together, gives way to another: the middle of a slur's step or of a slide,
also where no contour can be followed.

Method: the levels of both pitches, each in the partials it does not share with the other, seen through a Hann window
that moves along. At the moment of the change the window holds half of each, whatever is louder; so the change is
where both, against what they are when they sound alone, are equal.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from fortimetra.hear.partials import powers_at
from fortimetra.hear.settings import CROSSING
from fortimetra.sound.samples import Samples
from fortimetra.units import FloatArray


@dataclass(frozen=True)
class Crossing:
    """time_s: the change, and its expanded uncertainty. rise_db, fall_db: by how much the new pitch comes up and the
    old one goes down across it. leaves_s, arrives_s: when half of the old one has gone, and half of the new one come.
    """

    time_s: float
    rise_db: float
    fall_db: float
    u_ms: float = CROSSING.u_ms
    leaves_s: float | None = None
    arrives_s: float | None = None

    @property
    def clear(self) -> bool:
        """Whether it is a change at all."""
        return min(self.rise_db, self.fall_db) >= CROSSING.least_change_db


def crossing(
    sound: Samples,
    *,
    rate_hz: int,
    old_hz: Sequence[float],
    new_hz: Sequence[float],
    from_s: float,
    to_s: float,
    way_s: float = 0.0,
) -> Crossing | None:
    """The change from some pitches to others between two times; None where their partials cannot be told apart.

    sound: shape (n_samples,), at a rate of at least 8 kHz. old_hz, new_hz: of each string that sounds. way_s: how long
    neither may sound, on the way from one to the other.
    """
    window_s = float(np.clip(0.4 * (to_s - from_s), CROSSING.shortest_window_s, CROSSING.window_s))
    old, new = (
        np.concatenate([_unshared(hz, others, CROSSING.apart / window_s) for hz in own])
        for own, others in ((old_hz, new_hz), (new_hz, old_hz))
    )
    length = round(window_s * rate_hz)
    middles = np.arange(from_s, to_s + CROSSING.hop_s / 2.0, CROSSING.hop_s)
    starts = np.round(middles * rate_hz).astype(np.int64) - length // 2
    inside = (starts >= 0) & (starts + length <= len(sound))
    middles, starts = middles[inside], starts[inside]
    if not len(old) or not len(new) or len(starts) < CROSSING.least_windows:
        return None
    power = powers_at(sound, starts, length, np.concatenate((old, new)), rate_hz=rate_hz)
    old_power, new_power = power[:, : len(old)].sum(axis=1), power[:, len(old) :].sum(axis=1)
    # Each against its own most: the old one before any place, the new one after it.
    had = np.maximum.accumulate(old_power)
    gets = np.maximum.accumulate(new_power[::-1])[::-1]
    comes = np.sqrt(new_power / np.maximum(gets, 1e-20))
    balance = comes - np.sqrt(old_power / np.maximum(had, 1e-20))
    weight = np.log(np.maximum(gets, 1e-20)) + np.log(np.maximum(had, 1e-20))
    ups = np.flatnonzero((balance[:-1] <= 0.0) & (balance[1:] > 0.0)).tolist()
    if not ups:
        return None
    reach = max(2, round(window_s / CROSSING.hop_s))
    best = max(ups, key=lambda i: _change(old_power, new_power, i, reach) + 1e-3 * weight[i])
    share = -balance[best] / (balance[best + 1] - balance[best])
    way = round(way_s / CROSSING.hop_s)
    before, after = slice(max(0, best - reach - way), best + 1), slice(best + 1, best + 1 + reach + way)
    rise = _db(new_power[after].max(), new_power[before].min())
    fall = _db(old_power[before].max(), old_power[after].min())
    time_s = float(middles[best] + share * CROSSING.hop_s)
    about = slice(before.start, after.stop + 1)
    goes = np.sqrt(old_power / np.maximum(had, 1e-20))[about]
    ends = (_half_s(1.0 - goes, middles[about.start]), _half_s(comes[about], middles[about.start]))
    # In a room the old pitch goes slowly, and the two cross late; the new one comes at once all the same.
    half_s = _half_s(comes[max(0, best - reach) : best + 2], middles[max(0, best - reach)])
    lag_s = 0.0 if half_s is None else time_s - half_s
    if half_s is None or lag_s < CROSSING.lags_s:
        return Crossing(time_s, rise, fall, CROSSING.u_ms, *ends)
    return Crossing(half_s, rise, fall, float(np.hypot(CROSSING.u_ms, 1000.0 * CROSSING.lag_share * lag_s)), *ends)


def _half_s(share: FloatArray, from_s: float) -> float | None:
    """When something reaches half of its most for good; None where it is there all along."""
    under = np.flatnonzero(share < 0.5)
    if not len(under) or under[-1] + 1 >= len(share):
        return None
    last = int(under[-1])
    part = (0.5 - share[last]) / (share[last + 1] - share[last])
    return float(from_s + (last + part) * CROSSING.hop_s)


def _change(old: FloatArray, new: FloatArray, i: int, reach: int) -> float:
    """The smaller of rise and fall about a place, dB."""
    before, after = slice(max(0, i - reach), i + 1), slice(i + 1, i + 1 + reach)
    return min(_db(new[after].max(), new[before].min()), _db(old[before].max(), old[after].min()))


def _db(over: float, under: float) -> float:
    return float(10.0 * np.log10(max(over, 1e-20) / max(under, 1e-20)))


def _unshared(own_hz: float, others_hz: Sequence[float], apart_hz: float) -> FloatArray:
    own = np.arange(1, int(CROSSING.highest_hz / own_hz) + 1) * own_hz
    most_hz = CROSSING.highest_hz + own_hz
    other = np.concatenate([np.arange(1, int(most_hz / hz) + 2) * hz for hz in others_hz])
    return np.asarray(own[np.min(np.abs(own[:, None] - other[None, :]), axis=1) > apart_hz][: CROSSING.most_partials])
