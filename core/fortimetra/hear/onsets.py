"""Attacks: instants at which a picked note becomes audible.

Method: levels in log-spaced bands, in dB above each band's own floor; the mean rise over bands against the
loudest neighbour band a little earlier (the maximum filter keeps vibrato and bends from counting; Böck & Widmer,
Proc. DAFx, 2013). A rise is in dB, so the threshold is one of level, not of this or that sound. The instant is
then read from the envelope in 1 ms steps: the last point before the rise at which the sound was still as before,
or 30 dB under the note's maximum.
"""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray
from scipy import fft, ndimage, signal

from fortimetra.sound.decode import Samples, resampled
from fortimetra.units import FloatArray

RATE_HZ = 24_000
HOP_S = 0.0025
MIN_GAP_S = 0.03
RISE_DB = 2.2
STOP_FALL_DB = 10.0
STOP_KEPT_RISE_DB = 1.0
_N_FFT = 512
_BANDS_PER_OCTAVE = 6
_LOWEST_HZ, _HIGHEST_HZ = 80.0, 10_000.0
_LAG_FRAMES = 6
_RANGE_DB = 55.0
_CHUNK_FRAMES = 2048
AUDIBLE_DB = 30.0


def find_onsets(mono: Samples, *, rate_hz: int) -> FloatArray:
    """Times of attacks in s, ascending; float64, shape (n_onsets,)."""
    rate = min(RATE_HZ, rate_hz)
    x = resampled(mono, from_hz=rate_hz, to_hz=rate)
    bands = _levels_over_floor(_band_levels(x, rate))
    rise = _rise_db(bands)
    around = ndimage.median_filter(rise, size=41, mode="nearest")
    peaks, _ = signal.find_peaks(rise - around, height=RISE_DB, distance=max(1, round(MIN_GAP_S / HOP_S)))
    rough = peaks[~_stops(bands, peaks)] * HOP_S
    return _sharpened(mono, rate_hz, np.asarray(rough, dtype=np.float64))


def _levels_over_floor(bands: NDArray[np.float32]) -> NDArray[np.float32]:
    """Band levels with everything under the floor raised to it; shape (n_bands, n_frames)."""
    top = float(bands.max())
    floor = np.maximum(np.percentile(bands, 10, axis=1) + 6.0, top - _RANGE_DB)
    return np.maximum(bands, floor[:, None]).astype(np.float32)


def _rise_db(bands: NDArray[np.float32]) -> FloatArray:
    """Mean rise over bands, dB, per hop; shape (n_frames,)."""
    before = ndimage.maximum_filter1d(bands, 3, axis=0)[:, :-_LAG_FRAMES]
    rise = np.maximum(bands[:, _LAG_FRAMES:] - before, 0.0).mean(axis=0)
    out = np.zeros(bands.shape[1])
    # The rise between t-lag and t belongs to its middle.
    out[_LAG_FRAMES // 2 : _LAG_FRAMES // 2 + len(rise)] = rise
    return out


def _stops(bands: NDArray[np.float32], peaks: NDArray[np.int64]) -> NDArray[np.bool_]:
    """Which bursts end a note instead of beginning one: the sound collapses after them and no band keeps a rise."""
    last = bands.shape[1] - 1
    before = bands[:, np.clip(peaks[:, None] + np.arange(-8, -3), 0, last)].max(axis=2)
    after = bands[:, np.clip(peaks[:, None] + np.arange(8, 20), 0, last)].min(axis=2)
    kept_rise = np.maximum(after - before, 0.0).mean(axis=0)
    fall = before.max(axis=0) - after.max(axis=0)
    return (fall >= STOP_FALL_DB) & (kept_rise < STOP_KEPT_RISE_DB)


def _band_levels(x: Samples, rate: int) -> NDArray[np.float32]:
    hop = round(HOP_S * rate)
    count = max(_LAG_FRAMES + 1, len(x) // hop + 1)
    padded = np.concatenate((np.zeros(_N_FFT // 2, np.float32), x, np.zeros(_N_FFT + hop * 2, np.float32)))
    needed = (count - 1) * hop + _N_FFT
    padded = np.pad(padded, (0, max(0, needed - len(padded))))
    window = signal.windows.hann(_N_FFT, sym=False).astype(np.float32)
    weights = _band_weights(rate)
    frames = np.lib.stride_tricks.sliding_window_view(padded, _N_FFT)[::hop][:count]
    bands = np.empty((len(weights), count), np.float32)
    for first in range(0, count, _CHUNK_FRAMES):
        part = slice(first, min(count, first + _CHUNK_FRAMES))
        found = fft.rfft(frames[part] * window, axis=1)  # single precision, like the sound
        spectrum = found.real**2 + found.imag**2
        bands[:, part] = 10.0 * np.log10(weights @ spectrum.T + 1e-14)
    return bands


def _band_weights(rate: int) -> NDArray[np.float32]:
    """Triangular bands, at least one FFT bin wide; shape (n_bands, n_bins)."""
    highest = min(_HIGHEST_HZ, 0.45 * rate)
    count = int(np.log2(highest / _LOWEST_HZ) * _BANDS_PER_OCTAVE) + 1
    centres = _LOWEST_HZ * 2.0 ** (np.arange(-1, count + 1) / _BANDS_PER_OCTAVE)
    bins = np.fft.rfftfreq(_N_FFT, 1.0 / rate)
    width = np.maximum(np.gradient(centres), bins[1])
    weights = np.maximum(0.0, 1.0 - np.abs(bins[None, :] - centres[1:-1, None]) / width[1:-1, None])
    return np.asarray(weights, dtype=np.float32)


def _sharpened(mono: Samples, rate: int, rough: FloatArray) -> FloatArray:
    """Each onset moved to where its rise starts in the 1 ms envelope."""
    if not len(rough):
        return rough
    step = max(1, round(0.001 * rate))
    count = len(mono) // step
    blocks = mono[: count * step].reshape(count, step)
    envelope = np.sqrt(np.einsum("ij,ij->i", blocks, blocks, dtype=np.float64) / step)
    level = 20.0 * np.log10(np.maximum(ndimage.maximum_filter1d(envelope, 3), 1e-7))
    # Windows of 1 ms around each rough onset: 40 ms before to 60 ms after.
    grid = np.clip(np.round(rough * rate / step).astype(np.int64)[:, None] + np.arange(-40, 60)[None, :], 0, count - 1)
    near = level[grid]
    steepest = np.argmax(near[:, 5:70] - near[:, :65], axis=1) + 5
    rows = np.arange(len(rough))
    maximum = np.max(np.where(np.arange(near.shape[1])[None, :] >= steepest[:, None] - 5, near, -np.inf), axis=1)
    before = np.median(near[:, :15], axis=1)
    threshold = np.maximum(maximum - AUDIBLE_DB, before + 1.5)
    # Last point at or under the threshold, going back from the steepest; the maximum filter saw it 1 ms early.
    below = (near <= threshold[:, None]) & (np.arange(near.shape[1])[None, :] <= steepest[:, None])
    last = np.where(below.any(axis=1), near.shape[1] - 1 - np.argmax(below[:, ::-1], axis=1), steepest - 5)
    times = (grid[rows, np.clip(last + 2, 0, near.shape[1] - 1)]) * step / rate
    keep = np.concatenate(([True], np.diff(times) >= MIN_GAP_S * 0.5))
    return np.asarray(np.sort(times[keep]), dtype=np.float64)
