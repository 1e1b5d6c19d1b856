"""The pitch contour as the formats read it: columns, from a measurement just made or from a file of one."""

from __future__ import annotations

from dataclasses import dataclass
from typing import TYPE_CHECKING

import numpy as np
from numpy.typing import NDArray

if TYPE_CHECKING:
    from fortimetra.pipeline import MeasuredTake


@dataclass(frozen=True)
class Curve:
    """Arrays of shape (n_frames,). f0_hz is NaN where unvoiced; confidence is NaN where it was not kept."""

    time_s: NDArray[np.float64]
    f0_hz: NDArray[np.float64]
    confidence: NDArray[np.float64]
    level_dbfs: NDArray[np.float64]

    def frames(self, from_s: float, to_s: float) -> slice:
        """Frames with from_s <= time < to_s."""
        first, last = np.searchsorted(self.time_s, (from_s, to_s))
        return slice(int(first), int(last))


def curve_of(found: MeasuredTake) -> Curve:
    """The contour of a measurement."""
    contour = found.contour
    return Curve(
        np.asarray(contour.time_s, float),
        np.asarray(contour.f0_hz, float),
        np.asarray(contour.confidence, float),
        np.asarray(contour.level_dbfs, float),
    )
