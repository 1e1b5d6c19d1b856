"""Compile and load everything the first take would otherwise wait for."""

from __future__ import annotations

import numpy as np

from fortimetra.drills.generator import generate
from fortimetra.drills.library import GENERATORS
from fortimetra.hear.crossing import crossing
from fortimetra.measure.unison import measure_unison
from fortimetra.pipeline import measure_take
from fortimetra.player.faults import Faults
from fortimetra.player.rendering import render
from fortimetra.sound.decode import Take


def warm_up() -> None:
    """Play a bar of picking and measure it: time, volume and strings that ring are asked for, so all of it runs."""
    drill = generate(GENERATORS["alternate_picking"], {}).model_copy(update={"repeats": 1})
    sound, truth = render(drill, Faults(notes={}))
    measure_take(Take(np.atleast_2d(sound), truth.sample_rate_hz, ""), drill=drill)
    # Two strings at once are read by functions of their own.
    measure_unison(
        np.concatenate([sound] * 2)[: 2 * truth.sample_rate_hz],
        rate_hz=truth.sample_rate_hz, onset_s=0.0, end_s=2.0, steady_hz=220.0, target_cents=200.0, tolerance_hz=1.0,
    )  # fmt: skip
    # And so is where one pitch gives way to another.
    crossing(sound, rate_hz=truth.sample_rate_hz, old_hz=[220.0], new_hz=[247.0], from_s=0.1, to_s=0.5)
