"""The sound of a preview; what it shows is in `shown`."""

from __future__ import annotations

from fortimetra.model.drill import Drill
from fortimetra.player.rendering import render
from fortimetra.player.shown import Shown, at_tempo, faults_of
from fortimetra.sound.samples import Samples


def preview(drill: Drill, shown: Shown, *, bpm: float | None = None) -> tuple[Samples, int]:
    """Float32 samples, shape (n_samples,), and their rate.

    Raises DrillError(code="preview_too_long").
    """
    once = at_tempo(drill, bpm)
    samples, truth = render(once, faults_of(once, shown))
    return samples, truth.sample_rate_hz
