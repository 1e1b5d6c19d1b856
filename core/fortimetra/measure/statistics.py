"""Statistics shared by the measures."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from fortimetra.hear.contour import Contour, independent_frames
from fortimetra.hear.inharmonicity import first_partial
from fortimetra.measure.settings import STATISTICS
from fortimetra.medians import finite_median, robust_sd
from fortimetra.units import FloatArray


@dataclass(frozen=True)
class PitchReading:
    """A pitch read from a stretch of contour. hz at its median; u_cents expanded (about 95 %)."""

    hz: float
    u_cents: float
    frames: int


def read_pitch(contour: Contour, from_s: float, to_s: float, *, min_frames: int = 4) -> PitchReading | None:
    """Median pitch of a stretch, or None where fewer than min_frames (or half of it) are voiced."""
    frames = contour.frames(from_s, to_s)
    f0 = contour.f0_hz[frames]
    voiced = ~np.isnan(f0)
    if np.count_nonzero(voiced) < max(min_frames, len(f0) // 2):
        return None
    hz = finite_median(f0)
    return PitchReading(hz, expanded_u_cents(contour, frames, hz), int(np.count_nonzero(voiced)))


def expanded_u_cents(contour: Contour, frames: slice, hz: float) -> float:
    """Uncertainty of the median pitch of a stretch, cents.

    From the scatter of the contour about its own slow course, the frames' own noise (the larger counts), how many
    of them are independent (a window spans several), and how far the partials disagree with one another
    (`hear/inharmonicity`).
    """
    f0 = contour.f0_hz[frames]
    voiced = ~np.isnan(f0)
    cents = 1200.0 * np.log2(f0[voiced] / hz)
    independent = independent_frames(len(cents), hz)
    scatter = robust_sd(np.diff(cents)) / np.sqrt(2.0) if len(cents) > 3 else 0.0
    noise = finite_median(contour.sigma_cents[frames][voiced])
    random = 1.2533 * max(scatter, noise) / np.sqrt(independent)
    return STATISTICS.coverage * float(
        np.sqrt(random**2 + first_partial(contour, frames).sd_cents ** 2 + STATISTICS.method_sd_cents**2)
    )


def median_u(values: FloatArray) -> float:
    """Expanded uncertainty of a median, from the scatter of the values, shape (n,): 1.2533 standard errors of a mean,
    doubled.
    """
    if len(values) < 2:
        return float("inf")
    return STATISTICS.coverage * 1.2533 * robust_sd(values) / float(np.sqrt(len(values)))
