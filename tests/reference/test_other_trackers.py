"""The contour beside independent pitch trackers on the same sound.

Sources: autocorrelation after Boersma (Proc. Institute of Phonetic Sciences 17, 1993) in praat-parselmouth; raw pitch
accuracy as in mir_eval.melody (Salamon et al., IEEE Signal Process. Mag. 31(2), 2014). The sounds are FluidSynth's,
which none of the trackers is tuned to. More trackers, pYIN among them, stand beside ours in `./run bench pitch`.
"""

import mir_eval
import numpy as np
import parselmouth
import pytest
from fortimetra import load_take
from fortimetra.hear.contour import track
from fortimetra.hear.onsets import find_onsets
from fortimetra.hear.settings import CONTOUR

from tests.reference.fluid import GUITARS, Tone, render

LINE = [
    Tone(55, 0.3, 0.9),
    Tone(59, 1.3, 1.4, ((0.0, 0.0), (0.2, 0.0), (0.4, 200.0), (1.4, 200.0))),
    Tone(64, 2.8, 0.9),
    Tone(67, 3.8, 1.4, ((0.0, 0.0), (0.15, 0.0), (0.3, 100.0), (0.8, 100.0), (1.0, 0.0), (1.4, 0.0))),
    Tone(45, 5.3, 0.9),
]
STEADY = [(0.6, 1.1), (1.9, 2.6), (3.1, 3.6), (4.2, 4.5), (5.6, 6.1)]


@pytest.fixture(scope="module", params=["steel", "jazz", "overdriven"])
def heard(request, tmp_path_factory):
    path = render(LINE, tmp_path_factory.mktemp("trackers"), program=GUITARS[request.param])
    take = load_take(path)
    mono = take.guitar()
    rate = take.sample_rate_hz
    return mono, rate, track(mono, rate_hz=rate, onsets_s=find_onsets(mono, rate_hz=rate))


def _median_hz(time_s, f0_hz, span):
    inside = (time_s >= span[0]) & (time_s < span[1]) & np.isfinite(f0_hz) & (f0_hz > 0)
    return float(np.median(f0_hz[inside]))


def test_steady_pitches_agree_with_praat_to_a_fifth_of_a_cent(heard):
    mono, rate, contour = heard
    pitch = parselmouth.Sound(mono.astype(np.float64), rate).to_pitch_ac(
        time_step=CONTOUR.hop_s, pitch_floor=75, pitch_ceiling=900, very_accurate=True
    )
    theirs = pitch.selected_array["frequency"]
    for span in STEADY:
        ours = _median_hz(contour.time_s, contour.f0_hz, span)
        assert abs(1200 * np.log2(ours / _median_hz(pitch.xs(), theirs, span))) < 0.2


def test_raw_pitch_accuracy_against_the_written_line(heard):
    _mono, _rate, contour = heard
    time_s, written = [], []
    for tone in LINE:
        points = np.array(tone.bend)
        span = np.arange(tone.onset_s + 0.03, tone.onset_s + tone.length_s - 0.03, 0.01)
        time_s.append(span)
        cents = np.interp(span - tone.onset_s, points[:, 0], points[:, 1])
        written.append(440.0 * 2 ** ((tone.midi - 69 + cents / 100) / 12))
    ref_time, ref_hz = np.concatenate(time_s), np.concatenate(written)
    est = np.interp(ref_time, contour.time_s, np.nan_to_num(contour.f0_hz))
    args = mir_eval.melody.to_cent_voicing(ref_time, ref_hz, ref_time, est)
    assert mir_eval.melody.raw_pitch_accuracy(*args, cent_tolerance=50) > 0.97
