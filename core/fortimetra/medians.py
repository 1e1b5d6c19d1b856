"""Medians of a few values, compiled: numpy's cost more in the asking than in the sorting."""

from __future__ import annotations

from typing import Any

import numpy as np
from numba import njit

from fortimetra.units import MAD_TO_SD, FloatArray


@njit(cache=True)
def finite_median(values: Any) -> float:
    """Median of the values that are numbers, shape (n,); NaN where there is none."""
    kept = values[~np.isnan(values)]
    n = len(kept)
    if n == 0:
        return np.nan
    kept.sort()
    return 0.5 * (float(kept[(n - 1) // 2]) + float(kept[n // 2]))


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
