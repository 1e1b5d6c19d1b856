"""Medians: of a few values, compiled, for numpy's cost more in the asking than in the sorting; of slopes."""

from __future__ import annotations

from typing import Any

import numpy as np
from numba import njit

from fortimetra.units import MAD_TO_SD, FloatArray

SLOPE_POINTS = 700  # a line through as many at most is the median of all pairs


@njit(cache=True)
def finite_median(values: Any) -> float:
    """Median of the values that are numbers, shape (n,); NaN where there is none."""
    kept = np.empty(len(values))
    n = 0
    for i in range(len(values)):
        if not np.isnan(values[i]):
            kept[n] = values[i]
            n += 1
    if n == 0:
        return np.nan
    middle = n // 2
    high = _selected(kept, n, middle)
    if n % 2 == 1:
        return high
    low = kept[0]
    for i in range(1, middle):
        low = max(low, kept[i])
    return 0.5 * (low + high)


@njit(cache=True)
def _selected(values: Any, n: int, k: int) -> float:
    """The k-th smallest of the first n values, from 0; afterwards it has its place, and none before it is larger (FIND;
    Hoare, Commun. ACM 4(7), 1961).
    """
    left, right = 0, n - 1
    while left < right:
        pivot = values[k]
        i, j = left, right
        while i <= j:
            while values[i] < pivot:
                i += 1
            while pivot < values[j]:
                j -= 1
            if i <= j:
                values[i], values[j] = values[j], values[i]
                i += 1
                j -= 1
        if j < k:
            left = i
        if k < i:
            right = j
    return float(values[k])


@njit(cache=True)
def finite_medians(columns: Any) -> FloatArray:
    """The same of every column; shape (n, k) to (k,)."""
    found = np.empty(columns.shape[1])
    for k in range(columns.shape[1]):
        found[k] = finite_median(columns[:, k])
    return found


@njit(cache=True)
def robust_sd(values: Any) -> float:
    """Standard deviation from the median absolute deviation; 0 for fewer than 2 values; NaN where one is none."""
    if len(values) < 2:
        return 0.0
    if np.isnan(values).any():
        return np.nan
    return MAD_TO_SD * finite_median(np.abs(values - finite_median(values)))


def median_slope(y: FloatArray, x: FloatArray) -> float:
    """Slope of a line through points, shape (n,), that a few outliers do not turn: the median of the slopes of all
    pairs (Sen, J. Am. Stat. Assoc. 63, 1968); of many points, of pairs a multiple of some points apart, so that neither
    time nor memory grows with the square of their number. Not all x may be the same.
    """
    n = len(x)
    step = 1 + n // SLOPE_POINTS
    runs, rises = (np.concatenate([v[apart:] - v[:-apart] for apart in range(step, n, step)]) for v in (x, y))
    told = runs != 0.0
    return float(np.median(rises[told] / runs[told]))
