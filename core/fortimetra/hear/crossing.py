"""When one pitch of a string, or of several together, gives way to another: the middle of a slur's step or of a slide,
also where no contour can be followed.

Method: the levels of both pitches, each in the partials it does not share with the other, seen through a Hann window
that moves along. At the moment of the change the window holds half of each, whatever is louder; so the change is
where both, against what they are when they sound alone, are equal.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from typing import Any

import numpy as np
from numba import njit

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
    reach, way = max(2, round(window_s / CROSSING.hop_s)), round(way_s / CROSSING.hop_s)
    goes, comes = np.empty(len(power)), np.empty(len(power))
    best, rise, fall = _place(power, len(old), reach, way, goes, comes)
    if best < 0:
        return None
    balance = comes - goes
    share = -balance[best] / (balance[best + 1] - balance[best])
    time_s = float(middles[best] + share * CROSSING.hop_s)
    about = slice(max(0, best - reach - way), best + 2 + reach + way)
    ends = (_half_s(1.0 - goes[about], middles[about.start]), _half_s(comes[about], middles[about.start]))
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


@njit(cache=True)
def _place(power: Any, n_old: int, reach: int, way: int, goes: Any, comes: Any) -> tuple[int, float, float]:
    """The window before the change, -1 where there is none, and the rise of the new pitch and the fall of the old one
    about it, dB; in place, what is left of the old one's amplitude and what has come of the new one's, each against its
    own most: the old one before any place, the new one after it.

    power: of the partials of the old pitch, n_old of them, and of the new one; shape (n_windows, n_partials).
    """
    n = len(power)
    old, new = np.empty(n), np.empty(n)
    for i in range(n):
        old[i], new[i] = power[i, :n_old].sum(), power[i, n_old:].sum()
    had, gets = np.maximum(old, 1e-20), np.maximum(new, 1e-20)
    for i in range(1, n):
        had[i] = max(had[i], had[i - 1])
        gets[n - 1 - i] = max(gets[n - 1 - i], gets[n - i])
    for i in range(n):
        goes[i], comes[i] = np.sqrt(old[i] / had[i]), np.sqrt(new[i] / gets[i])
    best, most = -1, -np.inf
    for i in range(n - 1):
        if comes[i] - goes[i] <= 0.0 < comes[i + 1] - goes[i + 1]:
            rise, fall = _changes(old, new, i, reach)
            worth = min(rise, fall) + 1e-3 * (np.log(gets[i]) + np.log(had[i]))
            if worth > most:
                best, most = i, worth
    if best < 0:
        return best, 0.0, 0.0
    rise, fall = _changes(old, new, best, reach + way)
    return best, rise, fall


@njit(cache=True)
def _changes(old: Any, new: Any, i: int, reach: int) -> tuple[float, float]:
    """Rise of the new pitch and fall of the old one about a window, dB."""
    first, last = max(0, i - reach), i + 1 + reach
    rise = max(new[i + 1 : last].max(), 1e-20) / max(new[first : i + 1].min(), 1e-20)
    fall = max(old[first : i + 1].max(), 1e-20) / max(old[i + 1 : last].min(), 1e-20)
    return 10.0 * np.log10(rise), 10.0 * np.log10(fall)


def _unshared(own_hz: float, others_hz: Sequence[float], apart_hz: float) -> FloatArray:
    own = np.arange(1, int(CROSSING.highest_hz / own_hz) + 1) * own_hz
    most_hz = CROSSING.highest_hz + own_hz
    other = np.concatenate([np.arange(1, int(most_hz / hz) + 2) * hz for hz in others_hz])
    return np.asarray(own[np.min(np.abs(own[:, None] - other[None, :]), axis=1) > apart_hz][: CROSSING.most_partials])
