"""What is compiled for speed, against the same as numpy says it."""

import numpy as np
import pytest
from fortimetra.hear.combs import _between
from fortimetra.hear.contour import _difference
from fortimetra.hear.partials import WORK, powers_at, transform
from fortimetra.measure.wander import _from_parabola
from fortimetra.sound.parts import windowed_powers
from scipy import fft, signal

RNG = np.random.default_rng(5)
SOUND = RNG.normal(0.0, 0.1, 4_000).astype(np.float32)


@pytest.mark.parametrize("centre", [2_000.3, 30.0, 3_990.0])
@pytest.mark.parametrize("length", [9.0, 61.0, 480.7, 1_655.2])
def test_partials_are_windowed_transforms_at_multiples_of_a_pitch(centre, length):
    omega, n, out = 0.0371, 17, np.empty((4, 17))
    transform(SOUND, centre, length, omega, n, np.empty(WORK), out)
    j = np.arange(-(int(np.ceil(length / 2.0)) - 1), int(np.ceil(length / 2.0)))
    at = round(centre) + j
    inside = (at >= 0) & (at < len(SOUND))
    here = np.where(inside, SOUND[np.clip(at, 0, len(SOUND) - 1)], 0.0)
    window = np.cos(np.pi * j / length) ** 2
    fall = -np.pi / length * np.sin(2.0 * np.pi * j / length)
    turns = np.exp(-1j * omega * np.outer(np.arange(1, n + 1), j))
    whole, slopes = turns @ (here * window), turns @ (here * fall)
    assert out[0] + 1j * out[1] == pytest.approx(whole, abs=1e-9)
    assert out[2, 1::2] + 1j * out[3, 1::2] == pytest.approx(slopes[1::2], abs=1e-9)


@pytest.mark.parametrize(("window", "shared"), [(240, 1), (240, 4), (239, 1)])
@pytest.mark.parametrize("longest", [50, 51])
def test_the_difference_function_is_that_of_the_paper(longest, window, shared):
    # de Cheveigné & Kawahara, J. Acoust. Soc. Am. 111(4), 2002, eqs. 6 and 8
    starts = np.array([0, 60, 120, 700, 760, 1_431])
    found = np.empty((len(starts), longest), np.float32)
    _difference(SOUND, starts, window, shared, found)
    for start, row in zip(starts, found, strict=True):
        here = SOUND[start : start + window].astype(float)
        d = np.array([np.sum((here - SOUND[start + lag : start + lag + window]) ** 2) for lag in range(longest)])
        normal = d[1:] * np.arange(1, longest) / np.cumsum(d[1:])
        assert row == pytest.approx(np.append(1.0, normal), rel=1e-5)


@pytest.mark.parametrize("n", [4, 30])
def test_what_is_left_of_values_beside_their_parabola(n):
    x = 20.0 + np.sort(RNG.uniform(0.0, 1.0, n))
    y = 3.0 - 2.0 * x + 7.0 * x**2 + RNG.normal(0.0, 1.0, n)
    expected = y - np.polyval(np.polyfit(x - 20.5, y, 2), x - 20.5)
    assert _from_parabola(x, y) == pytest.approx(expected, abs=1e-7)


@pytest.mark.parametrize("unknown", [[], [0, 1], [3], [2, 3, 5], [0, 1, 2, 3, 5], [0, 1, 2, 3, 4, 5]])
def test_levels_between_bands_are_interpolated(unknown):
    levels = RNG.normal(0.0, 5.0, (2, 6))
    levels[0, unknown] = np.nan
    found = np.full((2, 70), -1.0, np.float32)
    _between(levels, 10, found)
    for row, level in zip(found, levels, strict=True):
        known = ~np.isnan(level)
        middles = (np.arange(6)[known] + 0.5) * 10
        expected = np.interp(np.arange(70), middles, level[known]) if known.any() else np.full(70, -1.0)
        assert row == pytest.approx(expected, abs=1e-5)


@pytest.mark.parametrize("n", [2, 16, 512])
def test_a_window_put_on_the_spectrum_is_one_put_on_the_sound(n):
    frames = SOUND[: 4 * n].reshape(4, n)
    found = np.empty((4, n // 2 + 1), np.float32)
    windowed_powers(fft.rfft(frames, axis=1), found)
    expected = np.abs(np.fft.rfft(frames * signal.windows.hann(n, sym=False), axis=1)) ** 2
    assert found == pytest.approx(expected, abs=1e-6 * expected.max() + 1e-12)


@pytest.mark.parametrize("length", [2, 9, 240, 241])
def test_powers_are_those_of_the_transform_at_each_frequency(length):
    starts, hz = np.array([0, 17, 3_000]), np.array([82.4, 440.0, 1_312.5])
    window = np.hanning(length + 2)[1:-1]
    waves = np.exp(-2j * np.pi * np.outer(np.arange(length), hz) / 8_000)
    expected = [np.abs((SOUND[a : a + length] * window) @ waves) ** 2 for a in starts]
    assert powers_at(SOUND, starts, length, hz, rate_hz=8_000) == pytest.approx(np.array(expected), rel=1e-4, abs=1e-7)
