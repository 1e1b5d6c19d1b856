"""Open strings mixed under lines at stated levels, all of another maker's sounds: what rings, how loud, and nothing
else.

Sounds: FluidSynth with Debian's timgm6mb-soundfont (MIDI 1.0 keys and ticks). Levels against an independent
decomposition: non-negative matrix factorisation (Lee & Seung, Nature 401, 1999) by scikit-learn on scipy's
spectrogram, with the spectra of the two notes alone as its fixed components. Mains frequencies: 50 and 60 Hz with
their harmonics (IEC 60038, from memory).
"""

import numpy as np
import pytest
from fortimetra import load_take
from fortimetra.sound.decode import Take
from scipy import signal
from sklearn.decomposition import non_negative_factorization

from tests.kept import analyse
from tests.reference.fluid import GUITARS, Tone, render
from tests.reference.test_fluidsynth_runs import drill_of

RATE = 44_100
START_S, SLOT_S = 1.0, 0.5
LINE = (57, 59, 60, 62, 64, 62, 60, 59)
OPEN = {1: 64, 2: 59, 3: 55, 4: 50, 5: 45, 6: 40}
RING_S = 1.2
RINGS_FROM_S = START_S + 2 * SLOT_S


def sound_of(tones, folder, guitar):
    return load_take(render(tones, folder, program=GUITARS[guitar], rate_hz=RATE)).guitar().astype(np.float64)


def line_of(folder, guitar):
    tones = [Tone(key, START_S + i * SLOT_S, SLOT_S - 0.03) for i, key in enumerate(LINE)]
    return sound_of(tones, folder, guitar)


def judged(samples):
    drill = drill_of(LINE, 1 / SLOT_S).model_copy(update={"measures": ("noise",)})
    peak = np.max(np.abs(samples))
    return analyse(Take((0.5 * samples / peak).astype(np.float32)[None, :], RATE, "0" * 64), drill=drill)


def mixed(folder, guitar, string, level_db, from_s=RINGS_FROM_S, ring_s=RING_S):
    """Line and ring; the level is of the ring's power against the line's while both sound."""
    line = line_of(folder, guitar)
    ring = sound_of([Tone(OPEN[string], START_S, ring_s)], folder, guitar)[round(START_S * RATE) :][
        : round(ring_s * RATE)
    ]
    at = round(from_s * RATE)
    under = line[at : at + len(ring)]
    ring = ring[: len(under)] * 10 ** (level_db / 20) * np.sqrt(np.mean(under**2) / np.mean(ring**2))
    whole = line.copy()
    whole[at : at + len(ring)] += ring
    return whole, line, ring


@pytest.mark.parametrize("guitar", ["nylon", "steel", "jazz", "clean", "muted", "overdriven", "distorted"])
@pytest.mark.parametrize("drive_db", [0, 20])
def test_a_clean_line_has_no_ringing_string(tmp_path, guitar, drive_db):
    line = line_of(tmp_path, guitar)
    line = line / np.max(np.abs(line))
    if drive_db:
        line = np.tanh(line * 10 ** (drive_db / 20))
    assert [e for e in judged(line).noise_events if e.kind in {"open_ring", "scrape", "thud"}] == []


@pytest.mark.parametrize("guitar", ["nylon", "steel", "jazz", "clean"])
@pytest.mark.parametrize("string", [5, 6])
@pytest.mark.parametrize("level_db", [-20.0, -30.0])
def test_the_string_is_named_and_its_level_is_the_one_it_was_mixed_at(tmp_path, guitar, string, level_db):
    whole, line, ring = mixed(tmp_path, guitar, string, level_db)
    rings = [e for e in judged(whole).noise_events if e.kind == "open_ring"]
    assert [(e.string, e.fret) for e in rings] == [(string, 0)] * len(rings)
    assert rings
    first = rings[0]
    assert RINGS_FROM_S - 0.1 < first.from_s < RINGS_FROM_S + 0.6
    a, b = (
        round((t - RINGS_FROM_S) * RATE)
        for t in (max(first.from_s, RINGS_FROM_S), min(first.to_s, RINGS_FROM_S + RING_S))
    )
    at = round(RINGS_FROM_S * RATE)
    true_db = 10 * np.log10(np.mean(ring[a:b] ** 2) / np.mean(line[at + a : at + b] ** 2))
    assert first.level_db == pytest.approx(true_db, abs=4.0)


@pytest.mark.parametrize("guitar", ["steel", "clean"])
@pytest.mark.parametrize(("string", "level_db"), [(5, -20.0), (6, -24.0)])
def test_a_soft_string_that_stops_with_the_note_on_its_own_partial_is_heard(tmp_path, guitar, string, level_db):
    # The line's fifth note, 64, lies on the third partial of string 5 and on the fourth of string 6.
    begins_s = START_S + 4 * SLOT_S
    whole, _line, _ring = mixed(tmp_path, guitar, string, level_db, begins_s + 0.01, SLOT_S - 0.05)
    rings = [e for e in judged(whole).noise_events if e.kind == "open_ring"]
    assert [(e.string, e.fret) for e in rings] == [(string, 0)]
    assert begins_s < rings[0].from_s < rings[0].to_s < begins_s + SLOT_S + 0.05


@pytest.mark.parametrize(("guitar", "string"), [("steel", 6), ("clean", 5), ("nylon", 6)])
def test_the_level_agrees_with_an_independent_decomposition(tmp_path, guitar, string):
    whole, line, ring = mixed(tmp_path, guitar, string, -18.0)
    (event, *_rest) = [e for e in judged(whole).noise_events if e.kind == "open_ring"]
    # One note of the line under which the string rings, by its spectrum alone and the string's alone.
    a, b = round((RINGS_FROM_S + SLOT_S + 0.08) * RATE), round((RINGS_FROM_S + 2 * SLOT_S - 0.06) * RATE)

    def spectrum(samples):
        return signal.spectrogram(samples, window="hann", nperseg=8192, noverlap=7168, mode="magnitude")[2].T

    at = round(RINGS_FROM_S * RATE)
    alone = np.stack([spectrum(line[a:b]).mean(axis=0), spectrum(ring[a - at : b - at]).mean(axis=0)])
    share, *_ = non_negative_factorization(
        spectrum(whole[a:b]),
        H=alone / np.linalg.norm(alone, axis=1, keepdims=True),
        n_components=2,
        update_H=False,
        max_iter=500,
    )
    level_db = 20 * np.log10(share[:, 1].mean() / share[:, 0].mean())
    assert event.level_db == pytest.approx(level_db, abs=3.5)


@pytest.mark.parametrize("mains_hz", [50.0, 60.0])
def test_mains_hum_is_the_rigs_and_no_string(tmp_path, mains_hz):
    # The third harmonic of 50 Hz lies 3 Hz from the open fourth string, the fourth of 60 Hz 7 Hz from the second.
    line = line_of(tmp_path, "steel")
    time = np.arange(len(line)) / RATE
    hum = sum(np.sin(2 * np.pi * mains_hz * k * time + k) / k for k in range(1, 9))
    found = judged(line / np.max(np.abs(line)) + 10 ** (-38 / 20) * hum / np.std(hum))
    assert [e.kind for e in found.noise_events] == ["hum"]
    assert found.noise_events[0].hz == pytest.approx(mains_hz, abs=0.5)
    assert found.noise_events[0].verdict is None
