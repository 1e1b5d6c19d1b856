import numpy as np
import pytest
from fortimetra.sound.clipping import clipped_fraction
from fortimetra.sound.levels import measure_levels

from tests.core.sounds import RATE_HZ, noise, take, times, tone


def _levels(samples):
    found = take(samples)
    return measure_levels(found, found.samples[0])


def test_peak_and_floor_are_those_that_were_mixed():
    sound = np.concatenate((tone(220.0, 2.0), np.zeros(RATE_HZ, np.float32)))
    sound *= 0.5 / np.max(np.abs(sound))
    levels = _levels(sound + noise(3.0, -72.0))
    assert levels.peak_dbfs == pytest.approx(-6.0, abs=0.1)
    assert levels.noise_floor_dbfs == pytest.approx(-72.0, abs=0.5)
    assert levels.hum is None


@pytest.mark.parametrize("mains", [50.0, 60.0])
def test_hum_is_found_at_its_level(mains):
    t = times(4.0)
    hum = sum(np.sin(2 * np.pi * mains * k * t + k) / k for k in (1, 2, 3, 4))
    hum *= 10 ** (-60 / 20) / np.std(hum)
    sound = np.concatenate((tone(220.0, 2.0), np.zeros(2 * RATE_HZ, np.float32))) + hum + noise(4.0, -80.0)
    levels = _levels(sound.astype(np.float32))
    assert levels.hum.hz == mains
    assert levels.hum.level_dbfs == pytest.approx(-60.0, abs=1.0)


@pytest.mark.parametrize("seed", range(5))
def test_noise_alone_has_no_hum(seed):
    assert _levels(noise(3.0, -50.0, seed=seed)).hum is None


def test_a_low_string_ringing_is_not_hum():
    # G1 sits 20 cents from 49 Hz; a decaying note is not in the quietest part of a take.
    assert _levels(np.concatenate((tone(49.0, 2.0), noise(1.0, -75.0)))).hum is None


def test_clipping_counts_runs_at_the_limit_only():
    loud = np.clip(tone(220.0, 1.0, level=2.0), -1.0, 1.0)
    assert clipped_fraction(loud[None, :]) > 0.05
    assert clipped_fraction((0.9 * loud)[None, :]) == 0.0
    assert clipped_fraction(tone(220.0, 1.0, level=0.3)[None, :]) == 0.0
