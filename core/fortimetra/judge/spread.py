"""Robust spread of judged values, for what runs without the measuring (which has its own, on arrays)."""

from __future__ import annotations

from collections.abc import Sequence
from statistics import median

from fortimetra.units import MAD_TO_SD


def robust_spread(values: Sequence[float]) -> float:
    """Median distance from the median, scaled to a standard deviation.

    >>> robust_spread([0.0, 1.0, 2.0, 100.0])
    1.4826
    """
    centre = median(values)
    return MAD_TO_SD * median([abs(v - centre) for v in values])
