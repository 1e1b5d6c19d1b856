"""Double stops of another maker's guitars, one string later than the other by exact ticks (MIDI 1.0)."""

import numpy as np
import pytest
from fortimetra import load_take
from fortimetra.measure.settings import TOGETHER
from fortimetra.measure.together import spread_ms
from fortimetra.sound.decode import resampled
from fortimetra.units import midi_to_hz

from tests.reference.fluid import GUITARS, Tone, render

PAIRS = ((52, 60), (55, 64), (50, 62), (57, 64), (48, 57))


@pytest.mark.parametrize("apart_ms", [0, 12, 25, 40])
@pytest.mark.parametrize("guitar", ["nylon", "steel", "clean"])
def test_how_far_apart_two_strings_begin(guitar, apart_ms, tmp_path):
    spreads = []
    for number, (low, high) in enumerate(PAIRS):
        tones = [
            Tone(low, 1.0, 1.0, channel=0),
            Tone(high, round(1.0 + apart_ms / 1000.0, 3), 1.0, channel=1),
        ]
        take = load_take(render(tones, tmp_path, program=GUITARS[guitar], name=f"pair{number}"))
        sound = resampled(take.guitar(), from_hz=take.sample_rate_hz, to_hz=TOGETHER.rate_hz)
        spread = spread_ms(sound, [midi_to_hz(low), midi_to_hz(high)], 1.0, rate_hz=TOGETHER.rate_hz)
        if spread is not None:
            spreads.append(spread)
    assert len(spreads) >= 3
    assert np.median(spreads) == pytest.approx(apart_ms, abs=8.0)
