"""How much of some pitch sounds beside others: its partials, where nothing known covers them, against what lies around.

Method: power spectra through a Kaiser window (Kaiser & Schafer, IEEE Trans. Acoust. Speech Signal Process. 28(1),
1980), so that a soft partial is seen beside a loud one as near as the window's main lobe. What is known to sound is
cut out of each spectrum as intervals of frequency. A comb is a pitch with partials at k·f·√(1 + B·k²) (Fletcher, J.
Acoust. Soc. Am. 36(1), 1964), each sought in an interval that leaves room for B and for how the string is tuned.
"""

from __future__ import annotations

from dataclasses import dataclass
from functools import cache
from typing import Any

import numpy as np
from numba import njit
from numpy.typing import NDArray
from scipy import fft, signal

from fortimetra.hear.settings import COMBS
from fortimetra.settings import for_compiled
from fortimetra.sound.parts import powers
from fortimetra.sound.samples import Samples, copied
from fortimetra.units import FloatArray

BIN_HZ = COMBS.rate_hz / COMBS.n_fft
_BINS = round(COMBS.highest_hz / BIN_HZ) + 80
_SETTINGS = for_compiled(COMBS, __name__)
CombsSettingsTuple = type(_SETTINGS)

Power = NDArray[np.float32]
Mask = NDArray[np.bool_]


@dataclass(frozen=True)
class Spectra:
    """Power through windows of one length; power: shape (n_windows, n_bins), a sinusoid of amplitude a reads a²/2 at
    its peak.
    """

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
        return COMBS.lobe / self.length_s

    @property
    def per_line(self) -> float:
        """Sum over the bins of one sinusoid's main lobe, against its peak."""
        window = _window(round(self.length_s * COMBS.rate_hz))
        return float(COMBS.n_fft * np.sum(window**2) / np.sum(window) ** 2)


def spectra(sound: Samples, start_s: FloatArray, length_s: float) -> Spectra:
    """Spectra of windows of one length.

    sound: float32, shape (n_samples,), at COMBS.rate_hz. What lies outside it is silence.
    """
    length = round(length_s * COMBS.rate_hz)
    window = _window(length)
    window = (window * np.sqrt(2.0) / window.sum()).astype(np.float32)
    at = np.clip(np.round(start_s * COMBS.rate_hz).astype(np.int64), 0, len(sound))
    if len(at) and at.max() + length > len(sound):
        sound = copied(sound, after=length)
    frames = np.lib.stride_tricks.sliding_window_view(sound, length)[at] * window
    power = np.empty((len(at), _BINS), np.float32)
    powers(fft.rfft(frames, COMBS.n_fft, axis=1), power)
    return Spectra(start_s, length_s, power)


@cache
def _window(length: int) -> FloatArray:
    return np.asarray(signal.windows.kaiser(length, COMBS.kaiser, sym=False))


@dataclass(frozen=True)
class Combs:
    """Pitches to look for: hz, and how far each may be off (cents) and how stiff its string may be; all of shape
    (n_combs,).
    """

    hz: FloatArray
    off_cents: FloatArray
    stiffness: FloatArray

    def intervals(self) -> tuple[NDArray[np.int64], NDArray[np.int64]]:
        """First and last bin of each partial's interval, shape (n_combs, COMBS.most_partials); 0, -1 where it is not
        looked for.
        """
        k = np.arange(1, COMBS.most_partials + 1)
        off = 2.0 ** (self.off_cents[:, None] / 1200.0)
        low = k * self.hz[:, None] / off
        high = k * self.hz[:, None] * np.sqrt(1.0 + self.stiffness[:, None] * k**2) * off
        first = np.floor(low / BIN_HZ).astype(np.int64)
        last = np.ceil(high / BIN_HZ).astype(np.int64)
        # An interval that is wide against the spacing of the partials says nothing; neither does what lies too high.
        used = (high - low < COMBS.widest_share * self.hz[:, None]) & (high < COMBS.highest_hz)
        return np.where(used, first, 0), np.where(used, last, -1)


@dataclass(frozen=True)
class Found:
    """Partials of combs in windows; arrays of shape (n_windows, n_combs, COMBS.most_partials).

    power: at each partial's peak. around: what it has to stand out from. clear: whether nothing known covers it.
    """

    power: Power
    around: Power
    clear: Mask

    @property
    def stands(self) -> Mask:
        """Which partials are not covered and stand out."""
        present = 10.0 ** (COMBS.present_db / 10.0)
        return self.clear & (np.maximum(self.power, 1e-20) > present * np.maximum(self.around, 1e-20))

    @property
    def fit(self) -> Power:
        """What each partial that is not covered says for its comb, or, where it should be there and is not, against it.

        Partials over the strongest fall by COMBS.fall_db an octave at most steeply; what would then lie too low to be
        seen is not missed.
        """
        return np.asarray(_fit(self.power, self.around, self.clear, _SETTINGS))


@njit(cache=True)
def _fit(power: Any, around: Any, clear: Any, s: Any) -> Power:
    """`Found.fit`; all arrays of shape (n_windows, n_combs, n_partials)."""
    said = np.zeros(power.shape, np.float32)
    for w in range(power.shape[0]):
        for c in range(power.shape[1]):
            strongest = -1
            for k in range(power.shape[2]):
                if clear[w, c, k] and (strongest < 0 or power[w, c, k] > power[w, c, strongest]):
                    strongest = k
            if strongest < 0:
                continue
            top_db = 10.0 * np.log10(max(power[w, c, strongest], 1e-20))
            for k in range(power.shape[2]):
                if not clear[w, c, k]:
                    continue
                around_db = 10.0 * np.log10(max(around[w, c, k], 1e-20))
                stands_db = 10.0 * np.log10(max(power[w, c, k], 1e-20)) - around_db
                for_it = min(max(stands_db - s.present_db, 0.0), s.full_db - s.present_db)
                octaves = abs(np.log2((k + 1.0) / (strongest + 1.0)))
                expected = top_db - s.fall_db * octaves - around_db - s.present_db
                missed = min(max(expected / s.sure_db, 0.0), 1.0)
                missed *= min(max((s.present_db - stands_db) / s.present_db, 0.0), 1.0)
                said[w, c, k] = for_it - s.absent_cost * missed
    return said


def covered(windows: Spectra, window: NDArray[np.int64], low_hz: FloatArray, high_hz: FloatArray) -> Mask:
    """Which bins known sounds cover; window, low_hz, high_hz: one interval each, shape (n_intervals,)."""
    mask = np.zeros((len(windows.power), _BINS), np.bool_)
    first = np.clip(np.floor((low_hz - windows.lobe_hz) / BIN_HZ), 0, _BINS).astype(np.int64)
    last = np.clip(np.ceil((high_hz + windows.lobe_hz) / BIN_HZ) + 1, 0, _BINS).astype(np.int64)
    _cover(window, first, last, mask)
    return mask


@njit(cache=True)
def _cover(window: Any, first: Any, last: Any, mask: Any) -> None:
    """Set the bins of each interval, from first to before last, in its window, in place."""
    for i in range(len(window)):
        mask[window[i], first[i] : last[i]] = True


def surroundings(windows: Spectra, mask: Mask) -> Power:
    """What lies between all partials: a low quantile of each band's clear bins; shape (n_windows, n_bins)."""
    count = _BINS // COMBS.band_bins
    part = np.where(mask, np.float32(np.inf), windows.power)[:, : count * COMBS.band_bins]
    bands = np.sort(part.reshape(len(part), count, COMBS.band_bins), axis=2)
    clear = COMBS.band_bins - mask[:, : count * COMBS.band_bins].reshape(bands.shape).sum(axis=2)
    place = np.clip((COMBS.band_share * clear).astype(np.int64), 0, COMBS.band_bins - 1)
    level = np.take_along_axis(bands, place[:, :, None], axis=2)[:, :, 0]
    level = np.where(clear >= COMBS.least_clear_bins, level, np.nan)
    level = level * 10.0 ** (COMBS.share_db / 10.0)
    rows = np.zeros((len(part), _BINS), np.float32)
    _between(np.log(np.maximum(level, 1e-20)), COMBS.band_bins, rows)
    return np.exp(rows)


@njit(cache=True)
def _between(levels: Any, band_bins: int, out: Any) -> None:
    """Levels of each bin by those of the bands' middles, in place, where any is known (np.interp, row by row)."""
    for i in range(len(levels)):
        known = np.flatnonzero(~np.isnan(levels[i]))
        if not len(known):
            continue
        middle = (known + 0.5) * band_bins
        at = 0
        for b in range(out.shape[1]):
            while at + 1 < len(known) and middle[at + 1] <= b:
                at += 1
            low, high = levels[i, known[at]], levels[i, known[min(at + 1, len(known) - 1)]]
            if at + 1 < len(known) and b > middle[at]:
                low += (high - low) * (b - middle[at]) / (middle[at + 1] - middle[at])
            out[i, b] = low


def find(windows: Spectra, combs: Combs, mask: Mask, around: Power) -> Found:
    """Look for combs in spectra, where mask leaves them to be seen."""
    first, last = combs.intervals()
    shape = (len(windows.power), len(combs.hz), COMBS.most_partials)
    power, beside = np.zeros(shape, np.float32), np.ones(shape, np.float32)
    clear = np.zeros(shape, np.bool_)
    present = np.float32(10.0 ** (COMBS.present_db / 10.0))
    _find(windows.power, mask, around, first, last, present, COMBS.slope_bins, power, beside, clear)
    return Found(power, beside, clear)


@njit(cache=True)
def _find(
    spectra: Any, mask: Any, around: Any, first: Any, last: Any, present: float, slope_bins: int,
    power: Any, beside: Any, clear: Any,
) -> None:  # fmt: skip
    """The peak of each interval of bins that is not empty, what stands about it, and whether it is clear, in place."""
    for w in range(len(spectra)):
        for c in range(first.shape[0]):
            for k in range(first.shape[1]):
                a, b = first[c, k], last[c, k]
                if b < a:
                    continue
                peak = spectra[w, a]
                hidden = False
                for bin in range(a, b + 1):
                    peak = max(peak, spectra[w, bin])
                    hidden = hidden or mask[w, bin]
                power[w, c, k] = peak
                beside[w, c, k] = around[w, (a + b) // 2]
                # The slope of something louder beside an interval hides what may be in it.
                slope = spectra[w, a - slope_bins] > peak or spectra[w, b + slope_bins] > peak
                clear[w, c, k] = not (hidden or (slope and peak > beside[w, c, k] * present))
