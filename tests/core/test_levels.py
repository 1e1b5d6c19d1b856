import numpy as np
import pyloudnorm
import pytest
from fortimetra.sound import parts
from fortimetra.sound.clipping import clipped_fraction
from fortimetra.sound.levels import measure_levels
from scipy import ndimage, signal

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


@pytest.mark.parametrize(("channels", "seconds", "rate_hz"), [(1, 0.6, 44_100), (2, 7.3, 48_000), (2, 50.0, 48_000)])
def test_loudness_is_that_of_bs1770(channels, seconds, rate_hz):
    # ITU-R BS.1770-4 as pyloudnorm has it, on sound with silence in it for both gates. It counts the last block where
    # more than half of it is there; here only whole ones do.
    rng = np.random.default_rng(7)
    sound = rng.normal(0, 0.1, (channels, round(seconds * rate_hz))).astype(np.float32)
    sound[:, len(sound[0]) // 3 : len(sound[0]) // 2] *= 1e-5
    sound[0, len(sound[0]) // 2 :] *= 0.1
    ours = measure_levels(take(sound, rate_hz=rate_hz), sound[0]).loudness_lufs
    assert ours == pytest.approx(pyloudnorm.Meter(rate_hz).integrated_loudness(sound.T.astype(np.float64)), abs=0.05)


def test_silence_has_no_loudness():
    quiet = np.zeros((1, RATE_HZ), np.float32)
    quiet[0, 100] = 1e-5
    assert measure_levels(take(quiet), quiet[0]).loudness_lufs is None


def test_what_is_done_in_parts_is_what_is_done_at_once(monkeypatch):
    rng = np.random.default_rng(3)
    sound = rng.normal(0, 0.1, 50_000).astype(np.float32)
    sos = signal.butter(2, (100.0, 4000.0), "band", fs=18_000, output="sos")
    at = np.arange(0, len(sound), 90)
    whole = signal.sosfiltfilt(sos, sound.astype(np.float64)) ** 2
    smooth = ndimage.uniform_filter1d(whole, 180, mode="constant")[at]
    monkeypatch.setattr(parts, "PART", 7_001)
    assert parts.filtered(sos, sound) == pytest.approx(signal.sosfilt(sos, sound.astype(np.float64)), abs=1e-7)
    edges = np.array([0, 9_000, 9_000, 40_000, 50_000, 60_000])
    squares = np.concatenate(([0.0], np.cumsum(signal.sosfilt(sos, sound.astype(np.float64)) ** 2)))
    assert parts.energies(sos, sound, edges) == pytest.approx(np.diff(squares[np.minimum(edges, 50_000)]))
    found = parts.smoothed_power(sos, sound, at, frame=180, settled=4_000)
    # Near the ends filtering backwards begins elsewhere.
    assert found == pytest.approx(smooth, rel=1e-6, abs=1e-12)
    assert parts.hop_power(sound, 48) == pytest.approx(
        np.mean(sound[:49_968].reshape(-1, 48).astype(float) ** 2, axis=1)
    )
