"""Clipping: samples that stand at one extreme value."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from fortimetra.sound.samples import blocks, extremes
from fortimetra.sound.settings import LEVELS

STEP_16_BIT = 1.0 / 32768.0


def clipped_fraction(samples: NDArray[np.float32]) -> float:
    """Share of samples that stand at one extreme value for LEVELS.clip_run_samples or longer, near full scale.

    samples: shape (n_channels, n_samples).

    >>> clipped_fraction(np.array([[0.0, 1.0, 1.0, 1.0, 0.0]], dtype=np.float32))
    0.6
    """
    total = 0
    for channel, peak in zip(samples, np.max(np.abs(extremes(samples)), axis=0).tolist(), strict=True):
        if peak < LEVELS.clip_level:
            continue
        limit = peak - 2.0 * STEP_16_BIT
        parts = [part.start + np.flatnonzero(np.abs(channel[part]) >= limit) for part in blocks(len(channel))]
        at_limit = np.concatenate(parts)
        runs = np.diff(np.flatnonzero(np.concatenate(([True], np.diff(at_limit) > 1, [True]))))
        total += int(runs[runs >= LEVELS.clip_run_samples].sum())
    return total / samples.size
