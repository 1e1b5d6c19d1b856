"""Compile and load everything the first take would otherwise wait for."""

from __future__ import annotations

import contextlib

import numpy as np

from fortimetra.drills.fretted_then_bend import fretted_then_bend
from fortimetra.errors import TakeError
from fortimetra.pipeline import measure_take
from fortimetra.sound.decode import Take


def warm_up() -> None:
    """Measure a tone of half a second."""
    time = np.arange(24_000) / 48_000
    tone = sum(np.sin(2.0 * np.pi * 440.0 * k * time) / k for k in range(1, 6)) * np.exp(-3.0 * time) * 0.1
    take = Take(np.asarray(tone, dtype=np.float32)[None, :], 48_000, "")
    with contextlib.suppress(TakeError):
        measure_take(take, drill=fretted_then_bend(title="warm-up", string=1, fret=5, repeats=1))
