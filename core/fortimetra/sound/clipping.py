"""Clipping: samples that stand at one extreme value."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from fortimetra.sound.settings import LEVELS

STEP_16_BIT = 1.0 / 32768.0


def clipped_fraction(samples: NDArray[np.float32]) -> float:
    """Share of samples that stand at one extreme value for LEVELS.clip_run_samples or longer, near full scale.

    samples: shape (n_channels, n_samples).

    >>> clipped_fraction(np.array([[0.0, 1.0, 1.0, 1.0, 0.0]], dtype=np.float32))
    0.6
    """
    total = 0
    for channel in samples:
        peak = float(max(channel.max(), -channel.min()))
        if peak < LEVELS.clip_level:
            continue
        at_limit = np.abs(channel) >= peak - 2.0 * STEP_16_BIT
        edges = np.flatnonzero(np.diff(np.concatenate(([0], at_limit.astype(np.int8), [0]))))
        runs = edges[1::2] - edges[::2]
        total += int(runs[runs >= LEVELS.clip_run_samples].sum())
    return total / samples.size
