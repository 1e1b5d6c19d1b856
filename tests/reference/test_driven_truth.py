"""The benchmarks' truth of a volume where an amplifier presses volumes together: FluidSynth's notes through it, each
alone, beside the same notes in a take.
"""

from __future__ import annotations

import numpy as np
import pytest

from benchmarks._chains import driven
from benchmarks._lines import START_S, guitars
from benchmarks._notes import RATE_HZ
from benchmarks._players import Performance, Sounding
from benchmarks._readings import Heard, alone
from benchmarks.takes import plucked, recorded

KEY = 57
VELOCITIES = (64, 92, 120)


def test_notes_are_as_far_apart_alone_as_in_a_take(tmp_path):
    (guitar,) = guitars(tmp_path, ["steel"])
    onsets_s = [START_S + 1.5 * i for i in range(len(VELOCITIES))]
    made = Performance(
        [Sounding(KEY, t, t + 1.0, v, 0, bend=[(0.0, 0.0)]) for t, v in zip(onsets_s, VELOCITIES, strict=True)],
        onsets_s={},
        faults={},
    )
    played = plucked(guitar, made, tmp_path)
    take = recorded(played)
    through = driven(take, float(np.abs(take).max()))
    read_db = []
    for onset_s in onsets_s:
        first_s = onset_s + alone(guitar, KEY)[0] + 0.005
        part = through[round(first_s * RATE_HZ) : round((first_s + 0.08) * RATE_HZ)]
        read_db.append(10.0 * np.log10(np.mean(part**2)))
    heard = Heard(guitar, float(np.abs(played).max()))
    told_db = [heard.level_db(((KEY, velocity),)) for velocity in VELOCITIES]
    assert np.diff(told_db) == pytest.approx(np.diff(read_db), abs=0.1)
    # And they are pressed together: by velocity alone (SoundFont 2.04, 8.4.1) they are 10.9 dB apart.
    assert 2.0 < told_db[-1] - told_db[0] < 8.0
