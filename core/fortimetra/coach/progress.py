"""Whether a measure changes from take to take: a slope that a few odd takes do not bend, with its uncertainty.

Theil's slope, the median of the slopes between all pairs, with Sen's interval from the ranks of those slopes
(P. K. Sen, J. Am. Stat. Assoc. 63, 1968), numpy alone. Checked against SciPy's in the tests.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from math import sqrt
from statistics import median

import numpy as np
from numpy.typing import NDArray

from fortimetra.coach.settings import PROGRESS

Z_95 = 1.959963985


@dataclass(frozen=True)
class Trend:
    """A change per week; low and high: its 95 % interval. Both have one sign where there surely is a change."""

    per_week: float
    low: float
    high: float
    points: int

    @property
    def sure(self) -> bool:
        """Whether the interval leaves no doubt of the sign."""
        return self.low > 0 or self.high < 0


def trend(days: Sequence[float], values: Sequence[float]) -> Trend | None:
    """Change of values per week; None for fewer than five of them, or all on one day.

    days: days since any day. The newest 400 count.

    >>> found = trend([0, 7, 14, 21, 28], [30.0, 26.0, 21.0, 17.0, 11.0])
    >>> round(found.per_week, 2), found.sure
    (-4.63, True)
    """
    if len(days) != len(values):
        raise ValueError(f"{len(days)} days, but {len(values)} values")
    x = np.asarray(days, dtype=float)[-PROGRESS.most_points :]
    y = np.asarray(values, dtype=float)[-PROGRESS.most_points :]
    if len(x) < PROGRESS.least_points or float(np.ptp(x)) == 0.0:
        return None
    i, j = np.triu_indices(len(x), 1)
    apart = x[j] != x[i]
    slopes = np.sort((y[j] - y[i])[apart] / (x[j] - x[i])[apart])
    low, high = _interval(slopes, x, y)
    return Trend(7.0 * float(np.median(slopes)), 7.0 * low, 7.0 * high, len(x))


def _interval(slopes: NDArray[np.float64], x: NDArray[np.float64], y: NDArray[np.float64]) -> tuple[float, float]:
    n, count = len(x), len(slopes)
    variance = float(n * (n - 1) * (2 * n + 5))
    for column in (x, y):
        times = np.unique(column, return_counts=True)[1]
        variance -= float(np.sum(times * (times - 1) * (2 * times + 5)))
    half = Z_95 * sqrt(max(0.0, variance) / 18.0)
    above = min(round((count + half) / 2.0), count - 1)
    below = max(round((count - half) / 2.0) - 1, 0)
    return float(slopes[below]), float(slopes[above])


@dataclass(frozen=True)
class Pooled:
    """Bends of one place over several takes: the median of their medians, how far it is known, and how many bends."""

    string: int
    fret: int
    target_cents: float
    takes: int
    count: int
    error_cents: float
    u: float


def pool_bends(rows: Sequence[tuple[int, int, float, int, float, float]]) -> list[Pooled]:
    """Put takes together by string, fret and target.

    rows: string, fret, target_cents, count, median_error_cents, u of one take each. The uncertainty is the larger of
    what the takes are known to and of what they differ by.
    """
    places: dict[tuple[int, int, float], list[tuple[int, float, float]]] = {}
    for string, fret, target, count, error, u in rows:
        places.setdefault((string, fret, target), []).append((count, error, u))
    out = []
    for (string, fret, target), found in sorted(places.items()):
        errors = [e for _, e, _ in found]
        known = sqrt(sum(u * u for _, _, u in found)) / len(found)
        scatter = 2.0 * float(np.std(errors, ddof=1)) / sqrt(len(errors)) if len(errors) > 1 else 0.0
        out.append(
            Pooled(string, fret, target, len(found), sum(c for c, _, _ in found), median(errors), max(known, scatter))
        )
    return out
