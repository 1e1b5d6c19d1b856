"""The instant of an attack: where the sound stops following from what went before.

Method: the sound before a place is described by a linear prediction (autocorrelation method; Makhoul, Proc. IEEE
63(4), 1975) and what repeats with its period by a long-term predictor on top (Atal & Schroeder, Bell Syst. Tech. J.
49(8), 1970). A string that rings on, also a driven one, is foretold by them down to the noise; a new note is not, so
what is left rises at once where it begins, long before the level of the whole does (prediction errors as attacks:
Glover, Lazzarini & Timoney, EURASIP J. Adv. Signal Process. 2011:68). The place where the error's log energy steps up
is found as a change of mean with least squares; the instant is then the first point near it at which the error stands
clear of what it was.
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray
from scipy import ndimage

from fortimetra.hear.foretold import Rows, beyond_period, stretches, unforetold
from fortimetra.hear.settings import ATTACK
from fortimetra.sound.samples import Samples, let_go
from fortimetra.units import FloatArray

_AT_ONCE = 64


@dataclass(frozen=True)
class Attacks:
    """Attacks near given places; all arrays have shape (n,).

    time_s: instants. contrast_db: how far the prediction error stands over what it was. u_ms: expanded uncertainty of
    time_s.
    """

    time_s: FloatArray
    contrast_db: FloatArray
    u_ms: FloatArray

    def __len__(self) -> int:
        return len(self.time_s)


def attacks_near(sound: Samples, places_s: FloatArray, *, rate_hz: int, quiet_s: FloatArray | None = None) -> Attacks:
    """The attack that lies from ATTACK.apart_s before to ATTACK.after_s after each place.

    sound: shape (n_samples,), at ATTACK.rate_hz or less. quiet_s: for how long nothing has begun before each place;
    what is learned from stays within it as far as it can. There is always an answer; contrast_db tells whether it is
    one.
    """
    found = np.zeros((3, len(places_s)))
    usable = np.full(len(places_s), np.inf) if quiet_s is None else quiet_s - ATTACK.apart_s - ATTACK.near_s
    group = np.minimum((usable[:, None] < np.array(ATTACK.learn_s)).sum(axis=1), len(ATTACK.learn_s) - 1)
    for number, learn_s in enumerate(ATTACK.learn_s):
        own = np.flatnonzero(group == number)
        for first in range(0, len(own), _AT_ONCE):
            let_go()
            part = own[first : first + _AT_ONCE]
            found[:, part] = _attacks(sound, places_s[part], learn_s, rate_hz)
    return Attacks(*found)


def _attacks(
    sound: Samples, places_s: FloatArray, learn_s: float, rate: int
) -> tuple[FloatArray, FloatArray, FloatArray]:
    learn, apart, after = (round(s * rate) for s in (learn_s, ATTACK.apart_s, ATTACK.after_s + ATTACK.near_s))
    near = round(ATTACK.near_s * rate)
    rows = stretches(sound, np.round(places_s * rate).astype(np.int64), learn + apart + near, after)
    error = beyond_period(unforetold(rows, learn), slice(ATTACK.order, learn), rate)
    energy = ndimage.uniform_filter1d(error**2, round(ATTACK.smooth_s * rate) | 1, axis=1) + ATTACK.floor**2
    # The period's predictor looks back by up to one: what it learned from starts after that.
    known = energy[:, ATTACK.order + round(0.016 * rate) : learn : ATTACK.every]
    at, contrast_db, slack = _step(energy, known, learn + near, rate)
    instant = _first_clear(energy, known, at, near, rate)
    offset = instant - (learn + apart + near)
    u_ms = np.hypot(ATTACK.least_u_ms, 1000.0 * np.maximum(slack, np.abs(instant - at)) / rate)
    return places_s + offset / rate, contrast_db, u_ms


def _step(energy: Rows, known: Rows, first: int, rate: int) -> tuple[NDArray[np.int64], FloatArray, FloatArray]:
    """Where log energy steps up from what it was: sample, height in dB, and how far the place may be off in samples."""
    block = max(1, round(ATTACK.block_s * rate))
    count = (energy.shape[1] - first) // block
    level = np.log(energy[:, first : first + count * block].reshape(len(energy), count, block).mean(axis=2))
    rest = np.log(known)
    before = np.median(rest, axis=1)[:, None]
    zero = np.zeros((len(level), 1))
    left = np.concatenate((zero, np.cumsum((level - before) ** 2, axis=1)), axis=1)
    total = np.concatenate((zero, np.cumsum(level, axis=1)), axis=1)
    square = np.concatenate((zero, np.cumsum(level**2, axis=1)), axis=1)
    places = np.arange(2, count - round(0.0015 / ATTACK.block_s))
    after = (total[:, -1:] - total[:, places]) / (count - places)
    right = square[:, -1:] - square[:, places] - after**2 * (count - places)
    cost = left[:, places] + right + np.where(after < before, np.inf, 0.0)
    best = np.where(np.isfinite(cost).any(axis=1), np.argmin(cost, axis=1), 0)
    rows = np.arange(len(level))
    least = cost[rows, best]
    # Blocks of a smoothed error hang together: as many are independent as the smoothing leaves.
    scatter = np.var(rest, axis=1) * max(1.0, ATTACK.smooth_s / ATTACK.block_s)
    likely = cost <= (least + ATTACK.likely_scatters * scatter)[:, None]
    farthest = np.max(np.where(likely, np.abs(places[None, :] - places[best][:, None]), 0), axis=1)
    step_db = (after[rows, best] - before[:, 0]) * 10.0 / np.log(10.0)
    return first + places[best] * block, np.maximum(step_db, 0.0), farthest.astype(np.float64) * block


def _first_clear(energy: Rows, known: Rows, at: NDArray[np.int64], near: int, rate: int) -> NDArray[np.int64]:
    """First sample near a step at which the error stands clear of what it was."""
    # A string is stopped a little before it is struck anew; the stroke is what is meant.
    columns = np.clip(at[:, None] + np.arange(-near, round(ATTACK.stroke_s * rate))[None, :], 0, energy.shape[1] - 1)
    close = energy[np.arange(len(energy))[:, None], columns]
    usual = np.percentile(known, 98, axis=1) * ATTACK.clear_factor**2
    top = close.max(axis=1)
    threshold = np.minimum(np.maximum(top * 10.0 ** (-ATTACK.under_top_db / 10.0), usual), 0.25 * top)
    return np.asarray(at - near + np.argmax(close > threshold[:, None], axis=1))
