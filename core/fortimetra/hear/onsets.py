"""Attacks: instants at which a picked note becomes audible.

Method: levels in log-spaced bands, in dB above each band's own floor; the mean rise over bands against the
loudest neighbour band a little earlier (the maximum filter keeps vibrato and bends from counting; Böck & Widmer,
Proc. DAFx, 2013). A rise is in dB, so the threshold is one of level, not of this or that sound. Soft rises are kept,
too: what is no attack by itself may be the note a drill asks for there. The instant of each is then read where the
sound stops following from what went before (`hear/attack`).
"""

from __future__ import annotations

from dataclasses import dataclass
from functools import cache
from typing import Any

import numpy as np
from numba import njit
from numpy.typing import NDArray
from scipy import fft, ndimage, signal

from fortimetra.hear.attack import attacks_near
from fortimetra.hear.settings import ATTACK, ONSETS
from fortimetra.sound.decode import resampled
from fortimetra.sound.parts import windowed_powers
from fortimetra.sound.samples import Samples, copied, let_go
from fortimetra.units import FloatArray

_CHUNK_FRAMES = 256  # what is worked on stays in the processor's near memory


@dataclass(frozen=True)
class Candidates:
    """Where notes may begin, in order of time; all arrays have shape (n,).

    rise_db: mean rise over bands. contrast_db, u_ms: as in `hear/attack`. strong: an attack also without anything to
    go by.
    """

    time_s: FloatArray
    rise_db: FloatArray
    contrast_db: FloatArray
    u_ms: FloatArray
    strong: NDArray[np.bool_]

    @property
    def strong_s(self) -> FloatArray:
        """Times of those that are attacks by themselves."""
        return self.time_s[self.strong]


def find_onsets(mono: Samples, *, rate_hz: int) -> FloatArray:
    """Times of attacks in s, ascending; float64, shape (n_onsets,)."""
    return find_candidates(mono, rate_hz=rate_hz).strong_s


def find_candidates(mono: Samples, *, rate_hz: int) -> Candidates:
    """Everything that rises; mono: float32, shape (n_samples,)."""
    rate = min(ONSETS.rate_hz, rate_hz)
    bands = _levels_over_floor(_band_levels(resampled(mono, from_hz=rate_hz, to_hz=rate), rate))
    rise = _rise_db(bands)
    over = rise - ndimage.percentile_filter(rise, 20, size=41, mode="nearest")
    soft, _ = signal.find_peaks(
        over, height=ONSETS.soft_rise_db, distance=max(1, round(ONSETS.soft_gap_s / ONSETS.hop_s))
    )
    usual = rise - ndimage.median_filter(rise, size=41, mode="nearest")
    clear, _ = signal.find_peaks(usual, height=ONSETS.rise_db, distance=max(1, round(ONSETS.min_gap_s / ONSETS.hop_s)))
    clear = clear[~_stops(bands, clear)]
    del bands  # of a quarter of an hour, 60 MB
    places = np.union1d(soft, clear)
    strong = np.isin(places, clear)
    return _sharpened(mono, rate_hz, places * ONSETS.hop_s, over[places], strong)


def _levels_over_floor(bands: NDArray[np.float32]) -> NDArray[np.float32]:
    """Band levels with everything under the floor raised to it, in place; shape (n_bands, n_frames)."""
    top = float(bands.max())
    for band in bands:
        # Numbers in order are interpolated as they are; numpy sorts them sooner than it parts them.
        tenth = np.interp(0.1 * (len(band) - 1), np.arange(len(band)), np.sort(band))
        np.maximum(band, max(tenth + 6.0, top - ONSETS.range_db), out=band)
    return bands


def _rise_db(bands: NDArray[np.float32]) -> FloatArray:
    """Mean rise over bands, dB, per hop; shape (n_frames,)."""
    out = np.zeros(bands.shape[1])
    _add_rises(bands, ONSETS.lag_frames, out)
    return out / len(bands)


@njit(cache=True)
def _add_rises(bands: Any, lag: int, out: Any) -> None:
    """The rise of each band over what it and those beside it were before, summed, in place."""
    last = len(bands) - 1
    for b in range(len(bands)):
        below, own, above = bands[max(b - 1, 0)], bands[b], bands[min(b + 1, last)]
        # The rise between t-lag and t belongs to its middle.
        for t in range(bands.shape[1] - lag):
            out[t + lag // 2] += max(own[t + lag] - max(below[t], own[t], above[t]), np.float32(0.0))


def _stops(bands: NDArray[np.float32], peaks: NDArray[np.int64]) -> NDArray[np.bool_]:
    """Which bursts end a note instead of beginning one: the sound collapses after them and no band keeps a rise."""
    last = bands.shape[1] - 1
    before = bands[:, np.clip(peaks[:, None] + np.arange(-8, -3), 0, last)].max(axis=2)
    after = bands[:, np.clip(peaks[:, None] + np.arange(8, 20), 0, last)].min(axis=2)
    kept_rise = np.maximum(after - before, 0.0).mean(axis=0)
    fall = before.max(axis=0) - after.max(axis=0)
    return (fall >= ONSETS.stop_fall_db) & (kept_rise < ONSETS.stop_kept_rise_db)


def _band_levels(x: Samples, rate: int) -> NDArray[np.float32]:
    hop = round(ONSETS.hop_s * rate)
    count = max(ONSETS.lag_frames + 1, len(x) // hop + 1)
    before = ONSETS.n_fft // 2
    padded = copied(x, before=before, after=max(0, (count - 1) * hop + ONSETS.n_fft - before - len(x)))
    n_bands = len(_band_weights(rate))
    frames = np.lib.stride_tricks.sliding_window_view(padded, ONSETS.n_fft)[::hop][:count]
    bands = np.empty((n_bands, count), np.float32)
    for first in range(0, count, _CHUNK_FRAMES):
        part = slice(first, min(count, first + _CHUNK_FRAMES))
        bands[:, part] = levels_in_bands(frames[part], rate)
        let_go()
    return bands


def levels_in_bands(pieces: NDArray[np.float32], rate: int) -> NDArray[np.float32]:
    """Levels of pieces of sound, shape (n_pieces, ONSETS.n_fft), in the bands of the function, dB; shape (n_bands,
    n_pieces).
    """
    found = fft.rfft(pieces, axis=1)  # single precision, like the sound
    power = np.empty(found.shape, np.float32)
    windowed_powers(found, power)
    bands = _band_weights(rate) @ power.T
    bands += np.float32(1e-14)
    return np.multiply(np.log10(bands, out=bands), np.float32(10.0), out=bands)


@cache
def _band_weights(rate: int) -> NDArray[np.float32]:
    """Triangular bands, at least one FFT bin wide; shape (n_bands, n_bins)."""
    highest = min(ONSETS.highest_hz, 0.45 * rate)
    count = int(np.log2(highest / ONSETS.lowest_hz) * ONSETS.bands_per_octave) + 1
    centres = ONSETS.lowest_hz * 2.0 ** (np.arange(-1, count + 1) / ONSETS.bands_per_octave)
    bins = np.fft.rfftfreq(ONSETS.n_fft, 1.0 / rate)
    width = np.maximum(np.gradient(centres), bins[1])
    weights = np.maximum(0.0, 1.0 - np.abs(bins[None, :] - centres[1:-1, None]) / width[1:-1, None])
    return np.asarray(weights, dtype=np.float32)


def _sharpened(
    mono: Samples, rate_hz: int, places_s: FloatArray, rise_db: FloatArray, strong: NDArray[np.bool_]
) -> Candidates:
    """Each rise with its instant; of several that turn out to be one, the clearest."""
    rate = min(ATTACK.rate_hz, rate_hz)
    sure_s = places_s[rise_db >= ONSETS.rise_db]
    earlier = np.searchsorted(sure_s, places_s) - 1
    quiet_s = np.where(earlier >= 0, places_s - sure_s[np.maximum(earlier, 0)], np.inf) if len(sure_s) else None
    found = attacks_near(resampled(mono, from_hz=rate_hz, to_hz=rate), places_s, rate_hz=rate, quiet_s=quiet_s)
    clear = found.contrast_db >= ONSETS.clear_db
    time_s = np.where(clear, found.time_s, places_s)
    u_ms = np.where(clear, found.u_ms, ONSETS.unclear_u_ms)
    weight = strong * 1000.0 + found.contrast_db + rise_db
    kept = np.zeros(len(places_s), dtype=bool)
    order = np.argsort(time_s, kind="stable")
    for i in np.argsort(-weight, kind="stable"):
        kept[i] = not np.any(kept & (np.abs(time_s - time_s[i]) < ONSETS.same_s))
    order = order[kept[order]]
    return Candidates(time_s[order], rise_db[order], found.contrast_db[order], u_ms[order], strong[order])
