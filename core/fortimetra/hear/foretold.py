"""What of a sound does not follow from what went before: linear prediction, and a long-term one on top.

Conventions: a row is a stretch of sound around one place; all rows of one call are equally long and are learned from up
to the same sample.
"""

from __future__ import annotations

from typing import Any

import numpy as np
from numba import njit
from numpy.typing import NDArray
from scipy import fft

from fortimetra.hear.settings import ATTACK
from fortimetra.sound.samples import Samples

Rows = NDArray[np.float32]

_TAPS = 2  # of the long-term prediction, to either side of the period


def stretches(sound: Samples, at: NDArray[np.int64], before: int, after: int) -> NDArray[np.float64]:
    """The sound from `before` samples before each place to `after` behind it, zeros beyond its ends; shape
    (n, before + after).
    """
    rows = np.zeros((len(at), before + after))
    _cut(sound, at - before, rows)
    return rows


def unforetold(rows: NDArray[np.float64], learn: int) -> Rows:
    """What a linear prediction learned from the first `learn` samples does not foretell; shape as rows."""
    order = ATTACK.order
    learned = rows[:, :learn] * np.hanning(learn + 2)[1:-1]
    correlation = np.empty((len(rows), order + 1))
    _correlate(learned, correlation)
    correlation[:, 0] = correlation[:, 0] * (1.0 + 1e-7) + ATTACK.floor**2 * learn
    weights = np.empty((len(rows), order))
    _levinson(correlation, weights)
    error = np.empty(rows.shape, np.float32)
    _subtract(rows, weights, error)
    return error


def beyond_period(error: Rows, known: slice, rate_hz: int) -> Rows:
    """What is left when that which repeats with a period is taken out, too; known: what it is learned from."""
    learned = error[:, known]
    length = learned.shape[1]
    shortest, longest = (round(s * rate_hz) for s in ATTACK.periods_s)
    n = fft.next_fast_len(2 * length)
    spectrum = fft.rfft(learned, n)
    correlation = fft.irfft(spectrum.real**2 + spectrum.imag**2, n)[:, shortest:longest]
    lag = shortest + np.argmax(correlation / (length - np.arange(shortest, longest)), axis=1)
    size = 2 * _TAPS + 1
    gram, right = np.empty((len(error), size, size)), np.empty((len(error), size, 1))
    _normal_equations(error, lag, known.start + longest + _TAPS, known.stop, gram, right)
    gram += np.eye(size) * (1e-3 * np.trace(gram, axis1=1, axis2=2)[:, None, None] / size + 1e-12)
    left = np.empty_like(error)
    _subtract_period(error, lag, np.linalg.solve(gram, right)[..., 0], left)
    return left


@njit(cache=True)
def _cut(sound: Any, starts: Any, rows: Any) -> None:
    for i in range(len(starts)):
        first = max(0, -starts[i])
        last = min(rows.shape[1], len(sound) - starts[i])
        for j in range(first, last):
            rows[i, j] = sound[starts[i] + j]


@njit(cache=True, fastmath=True)
def _product(a: Any, b: Any) -> float:
    total = 0.0
    for j in range(len(a)):
        total += a[j] * b[j]
    return total


# Slices, not indices that may be negative: only these are computed several at a time.


@njit(cache=True, fastmath=True)
def _correlate(rows: Any, out: Any) -> None:
    """Sums of products of each row with itself, 0 to out.shape[1] - 1 samples later, in place."""
    for i in range(len(rows)):
        for lag in range(out.shape[1]):
            out[i, lag] = _product(rows[i, : rows.shape[1] - lag], rows[i, lag:])


@njit(cache=True)
def _levinson(correlation: Any, weights: Any) -> None:
    """Solve each row's Toeplitz equations for its prediction, in place (Levinson's recursion as Durbin has it; Makhoul,
    Proc. IEEE 63(4), 1975, eq. 38).
    """
    order = weights.shape[1]
    before = np.empty(order)
    for i in range(len(weights)):
        row, of = weights[i], correlation[i]
        error = of[0]
        for k in range(order):
            reflected = of[k + 1]
            for j in range(k):
                reflected -= row[j] * of[k - j]
            reflected /= error
            before[:k] = row[:k]
            for j in range(k):
                row[j] = before[j] - reflected * before[k - 1 - j]
            row[k] = reflected
            error *= 1.0 - reflected * reflected


@njit(cache=True, fastmath=True)
def _subtract(rows: Any, weights: Any, out: Any) -> None:
    """Each row less its prediction from the samples before, in place; weights: shape (n_rows, order)."""
    width, block = rows.shape[1], 1024  # what is worked on stays in the processor's nearest memory
    left = np.empty(width)
    for i in range(len(rows)):
        left[:] = rows[i]
        for first in range(0, width, block):
            last = min(first + block, width)
            for lag in range(1, weights.shape[1] + 1):
                start = max(first, lag)
                weight, later, earlier = weights[i, lag - 1], left[start:last], rows[i, start - lag : last - lag]
                for j in range(len(later)):
                    later[j] -= weight * earlier[j]
        for j in range(width):
            out[i, j] = left[j]


@njit(cache=True, fastmath=True)
def _normal_equations(error: Any, lag: Any, first: int, last: int, gram: Any, right: Any) -> None:
    """Of the samples first … last - 1 by those about one period before, in place; gram: shape (n_rows, taps, taps)."""
    size = gram.shape[1]
    for i in range(len(error)):
        for a in range(size):
            back = a - size // 2 - lag[i]
            earlier = error[i, first + back : last + back]
            for b in range(a, size):
                gram[i, a, b] = gram[i, b, a] = _product(earlier, error[i, first + back + b - a : last + back + b - a])
            right[i, a, 0] = _product(earlier, error[i, first:last])


@njit(cache=True, fastmath=True)
def _subtract_period(error: Any, lag: Any, weights: Any, out: Any) -> None:
    """Each row less its prediction from about one period before, in place; before the row there is silence."""
    size, width = weights.shape[1], error.shape[1]
    for i in range(len(error)):
        out[i] = error[i]
        for a in range(size):
            weight = np.float32(weights[i, a])
            back = lag[i] + size // 2 - a
            later, earlier = out[i, back:], error[i, : width - back]
            for j in range(len(earlier)):
                later[j] -= weight * earlier[j]
