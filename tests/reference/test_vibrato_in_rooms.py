"""Vibratos of another maker's guitars in a room: as wide as they were played, and back where they began.

The room is noise that decays by 60 dB in its reverberation time (the definition of ISO 3382), 3 dB under the direct
sound in energy, as on a phone across a small room.
"""

import numpy as np
import pytest
from fortimetra.hear.contour import track
from fortimetra.hear.inharmonicity import without_stiffness
from fortimetra.hear.notes import segment
from fortimetra.hear.onsets import find_onsets
from fortimetra.measure.vibrato import Swing, measure_vibrato
from fortimetra.sound.decode import load_take

from tests.core.sounds import in_a_room
from tests.reference.fluid import GUITARS, Tone, render
from tests.reference.test_fluidsynth_bend_kinds import median_hz, nearest, sounding, swing

RIGHT_CENTS = 15.0  # what a steady student's vibrato may be off its line by: the house default


@pytest.mark.parametrize("guitar", ["steel", "jazz", "clean"])
@pytest.mark.parametrize(("key", "rate", "extent"), [(62, 5.5, 60.0), (69, 5.0, 60.0), (69, 5.5, 100.0)])
def test_a_swing_is_as_wide_in_a_room(guitar, key, rate, extent, tmp_path):
    tones = [Tone(key, 0.3, 1.0), Tone(key, 1.6, 2.6, swing(rate, extent))]
    take = load_take(render(tones, tmp_path, program=GUITARS[guitar]))
    dry, hz = take.guitar(), take.sample_rate_hz
    onsets = find_onsets(dry, rate_hz=hz)
    plain_dry = median_hz(track(dry, rate_hz=hz, onsets_s=onsets), 0.8, 1.2)
    errors, us = [], []
    for seed in range(4):
        mono = in_a_room(dry, seed=seed, rate_hz=hz)
        contour = track(mono, rate_hz=hz, onsets_s=onsets)
        notes = segment(contour, onsets)
        found = measure_vibrato(
            mono, without_stiffness(contour, notes), nearest(notes, 1.6), Swing("bottom", plain_dry), rate_hz=hz
        )
        assert found.rate_hz == pytest.approx(rate, abs=0.1)
        assert abs(found.return_error_cents) + found.u_return < RIGHT_CENTS
        errors.append(abs(found.extent_cents - sounding(extent)))
        us.append(found.u_extent)
    assert np.median(errors) < 2.5
    assert np.mean(np.array(errors) <= np.array(us) + 1.0) >= 0.75
