"""How much of some pitch sounds beside others: its partials, where nothing known covers them, against what lies around.

Method: power spectra through a Kaiser window (Kaiser & Schafer, IEEE Trans. Acoust. Speech Signal Process. 28(1), 1980), so that
a soft partial is seen beside a loud one as near as the window's main lobe. What is known to sound is cut out of each spectrum as
intervals of frequency. A comb is a pitch with partials at k·f·√(1 + B·k²) (Fletcher, J. Acoust. Soc. Am. 36(1), 1964), each sought in
an interval that leaves room for B and for how the string is tuned.
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray
from scipy import fft, signal

from fortimetra.sound.decode import Samples
from fortimetra.units import FloatArray

RATE_HZ = 12_000
N_FFT = 8192
BIN_HZ = RATE_HZ / N_FFT
HIGHEST_HZ = 3200.0
# The window's parameter, which puts all side lobes under −58 dB; half the width of its main lobe down to −50 dB, in 1/length.
KAISER, LOBE = 8.0, 2.6
MOST_PARTIALS = 12
# Of what is known to sound, so many partials are cut out.
HARMONICS = 40
# Stiffness of an open string at most; it grows with the square of the shortening.
MOST_STIFFNESS = 1e-4
# What stands so far over its surroundings is there; more than the second counts no more.
PRESENT_DB, FULL_DB = 7.0, 25.0
ABSENT_COST = 8.0
FALL_DB, SURE_DB = 12.0, 10.0
SLOPE_BINS = 2
_BAND_BINS = 136
# Most of a band may be a ringing string's own lobes: what lies between is its lowest part, of noise so much under the middle.
_BAND_SHARE, _SHARE_DB = 0.12, 6.0
_LEAST_CLEAR_BINS = 8
_BINS = round(HIGHEST_HZ / BIN_HZ) + 80

Power = NDArray[np.float32]
Mask = NDArray[np.bool_]


@dataclass(frozen=True)
class Spectra:
    """Power through windows of one length; power: shape (n_windows, n_bins), a sinusoid of amplitude a reads a²/2 at its peak."""

    start_s: FloatArray
    length_s: float
    power: Power

    @property
    def middle_s(self) -> FloatArray:
        """Middles of the windows."""
        return self.start_s + 0.5 * self.length_s

    @property
    def lobe_hz(self) -> float:
        """How far from a loud partial a soft one can be seen."""
        return LOBE / self.length_s

    @property
    def per_line(self) -> float:
        """Sum over the bins of one sinusoid's main lobe, against its peak."""
        window = _window(round(self.length_s * RATE_HZ))
        return float(N_FFT * np.sum(window**2) / np.sum(window) ** 2)


def spectra(sound: Samples, start_s: FloatArray, length_s: float) -> Spectra:
    """Spectra of windows of one length.

    sound: float32, shape (n_samples,), at RATE_HZ. What lies outside it is silence.
    """
    length = round(length_s * RATE_HZ)
    window = _window(length)
    window = (window * np.sqrt(2.0) / window.sum()).astype(np.float32)
    padded = np.concatenate((sound, np.zeros(length, np.float32)))
    at = np.clip(np.round(start_s * RATE_HZ).astype(np.int64), 0, len(padded) - length)
    frames = np.lib.stride_tricks.sliding_window_view(padded, length)[at] * window
    power = np.abs(fft.rfft(frames, N_FFT, axis=1)[:, :_BINS]) ** 2
    return Spectra(start_s, length_s, power.astype(np.float32))


def _window(length: int) -> FloatArray:
    return np.asarray(signal.windows.kaiser(length, KAISER, sym=False))


@dataclass(frozen=True)
class Combs:
    """Pitches to look for: hz, and how far each may be off (cents) and how stiff its string may be; all of shape (n_combs,)."""

    hz: FloatArray
    off_cents: FloatArray
    stiffness: FloatArray

    def intervals(self) -> tuple[NDArray[np.int64], NDArray[np.int64]]:
        """First and last bin of each partial's interval, shape (n_combs, MOST_PARTIALS); 0, -1 where it is not looked for."""
        k = np.arange(1, MOST_PARTIALS + 1)
        off = 2.0 ** (self.off_cents[:, None] / 1200.0)
        low = k * self.hz[:, None] / off
        high = k * self.hz[:, None] * np.sqrt(1.0 + self.stiffness[:, None] * k**2) * off
        first = np.floor(low / BIN_HZ).astype(np.int64)
        last = np.ceil(high / BIN_HZ).astype(np.int64)
        # An interval that is wide against the spacing of the partials says nothing; neither does what lies too high.
        used = (high - low < 0.3 * self.hz[:, None]) & (high < HIGHEST_HZ)
        return np.where(used, first, 0), np.where(used, last, -1)


@dataclass(frozen=True)
class Found:
    """Partials of combs in windows; arrays of shape (n_windows, n_combs, MOST_PARTIALS).

    power: at each partial's peak. around: what it has to stand out from. clear: whether nothing known covers it.
    """

    power: Power
    around: Power
    clear: Mask

    @property
    def stands_db(self) -> Power:
        """How far each partial stands out; 0 where it is covered."""
        over = 10.0 * (np.log10(np.maximum(self.power, 1e-20)) - np.log10(np.maximum(self.around, 1e-20)))
        return np.asarray(np.where(self.clear, over, 0.0), dtype=np.float32)

    @property
    def fit(self) -> Power:
        """What each partial that is not covered says for its comb, or, where it should be there and is not, against it.

        Partials over the strongest fall by FALL_DB an octave at most steeply; what would then lie too low to be seen is not missed.
        """
        stands = self.stands_db
        for_it = np.clip(stands - PRESENT_DB, 0.0, FULL_DB - PRESENT_DB)
        level = np.where(self.clear, 10.0 * np.log10(np.maximum(self.power, 1e-20)), -np.inf)
        strongest = np.argmax(level, axis=2)[:, :, None]
        octaves = np.abs(np.log2(np.arange(1, MOST_PARTIALS + 1) / (strongest + 1.0)))
        top = np.take_along_axis(level, strongest, axis=2)
        expected = top - FALL_DB * octaves - 10.0 * np.log10(np.maximum(self.around, 1e-20)) - PRESENT_DB
        missed = np.clip(expected / SURE_DB, 0.0, 1.0) * np.clip((PRESENT_DB - stands) / PRESENT_DB, 0.0, 1.0)
        return np.asarray(for_it - ABSENT_COST * missed * self.clear, dtype=np.float32)


def covered(windows: Spectra, window: NDArray[np.int64], low_hz: FloatArray, high_hz: FloatArray) -> Mask:
    """Which bins known sounds cover; window, low_hz, high_hz: one interval each, shape (n_intervals,)."""
    count = np.zeros((len(windows.power), _BINS + 1), np.int32)
    first = np.clip(np.floor((low_hz - windows.lobe_hz) / BIN_HZ), 0, _BINS).astype(np.int64)
    last = np.clip(np.ceil((high_hz + windows.lobe_hz) / BIN_HZ) + 1, 0, _BINS).astype(np.int64)
    np.add.at(count, (window, first), 1)
    np.add.at(count, (window, last), -1)
    return np.asarray(np.cumsum(count, axis=1)[:, :_BINS] > 0)


def surroundings(windows: Spectra, mask: Mask) -> Power:
    """What lies between all partials: a low quantile of each band's clear bins; shape (n_windows, n_bins)."""
    count = _BINS // _BAND_BINS
    part = np.where(mask, np.float32(np.inf), windows.power)[:, : count * _BAND_BINS]
    bands = np.sort(part.reshape(len(part), count, _BAND_BINS), axis=2)
    clear = np.isfinite(bands).sum(axis=2)
    place = np.clip((_BAND_SHARE * clear).astype(np.int64), 0, _BAND_BINS - 1)
    level = np.take_along_axis(bands, place[:, :, None], axis=2)[:, :, 0]
    level = np.where(clear >= _LEAST_CLEAR_BINS, level, np.nan)
    level = level * 10.0 ** (_SHARE_DB / 10.0)
    middle = (np.arange(count) + 0.5) * _BAND_BINS
    rows = np.empty((len(part), _BINS), np.float32)
    bins = np.arange(_BINS)
    for i, row in enumerate(np.log(np.maximum(level, 1e-20))):
        known = ~np.isnan(row)
        rows[i] = np.interp(bins, middle[known], row[known]) if known.any() else 0.0
    return np.exp(rows)


def find(windows: Spectra, combs: Combs, mask: Mask, around: Power) -> Found:
    """Look for combs in spectra, where mask leaves them to be seen."""
    first, last = combs.intervals()
    shape = (len(windows.power), len(combs.hz), MOST_PARTIALS)
    power, beside = np.zeros(shape, np.float32), np.ones(shape, np.float32)
    clear = np.zeros(shape, bool)
    hidden = np.concatenate((np.zeros((len(mask), 1), np.int32), np.cumsum(mask, axis=1, dtype=np.int32)), axis=1)
    for c, k in zip(*np.nonzero(last >= first), strict=True):
        a, b = int(first[c, k]), int(last[c, k])
        peak = windows.power[:, a : b + 1].max(axis=1)
        power[:, c, k] = peak
        beside[:, c, k] = around[:, (a + b) // 2]
        # The slope of something louder beside an interval hides what may be in it.
        slope = np.maximum(windows.power[:, a - SLOPE_BINS], windows.power[:, b + SLOPE_BINS]) > peak
        loud = peak > beside[:, c, k] * 10.0 ** (PRESENT_DB / 10.0)
        clear[:, c, k] = (hidden[:, b + 1] == hidden[:, a]) & ~(slope & loud)
    return Found(power, beside, clear)
