"""How one stroke differs from the others of its pitch, while it sounds on.

What a string, a body and a room make of a stroke they make of every stroke at that pitch: it swells, decays and comes
back in its own time. Band by band the median of all of them is taken away; what is left of one of them alone was
played. So a second stroke stands out that would be lost in how the note itself goes on (the median as what a scene
has in common: common practice, no source). What is left rises, too, where the others fall, if most of them were struck
twice: the stroke itself has to rise as well.
"""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np
from numpy.typing import NDArray

from fortimetra.hear.onsets import levels_in_bands
from fortimetra.hear.settings import ONSETS, UNLIKE
from fortimetra.sound.decode import resampled
from fortimetra.sound.samples import Samples, copied, let_go
from fortimetra.units import FloatArray

_AT_ONCE = 8


def risen_unlike_others(
    mono: Samples,
    onsets_s: FloatArray,
    midi: FloatArray,
    ways: Sequence[str],
    *,
    rate_hz: int,
    from_s: float,
    until_s: float,
) -> tuple[FloatArray, FloatArray]:
    """How far the bands of each stroke rise, and do so where those of the others do not.

    mono: float32, shape (n_samples,). onsets_s, midi: when each stroke is and its pitch, shape (n_strokes,); ways: how
    it is struck. Returns times after the stroke in s, shape (n_frames,), between from_s and until_s, and the rise in
    dB, shape (n_strokes, n_frames): the mean over bands, of the stroke itself or of what it has beyond the others of
    its pitch, whichever is less. Of too few it is held against the nearest pitches; NaN where those are too few, too,
    or still swell.
    """
    mean, apart, before = (round(s / ONSETS.hop_s) for s in (UNLIKE.mean_s, UNLIKE.apart_s, UNLIKE.before_s))
    frames = np.arange(-before, round(until_s / ONSETS.hop_s) + mean)
    middle = np.arange(before + round(from_s / ONSETS.hop_s), len(frames) - mean)
    risen = np.full((len(onsets_s), len(middle)), np.nan)
    if len(onsets_s) >= UNLIKE.least_alike:
        bands = _bands(mono, onsets_s, frames, rate_hz)
        level = slice(*(before + round(s / ONSETS.hop_s) for s in UNLIKE.level_s))
        even = bands - bands[:, level].mean(axis=1, keepdims=True)
        rises = _rises(even.mean(axis=2), middle, mean, apart)
        way = np.array(ways)
        for pitch, how in sorted(set(zip(midi.tolist(), ways, strict=True))):
            others = np.flatnonzero(way == how)
            same = others[midi[others] == pitch]
            if len(same) >= UNLIKE.least_alike:
                rest = even[same] - np.median(even[same], axis=0)
                risen[same] = np.minimum(rises[same], _rises(rest.mean(axis=2), middle, mean, apart))
                continue
            near = others[np.argsort(np.abs(midi[others] - pitch), kind="stable")[: UNLIKE.nearest]]
            common = np.median(rises[near], axis=0)
            # Strokes that still swell do so each in its own time.
            if len(near) == UNLIKE.nearest and common.max() <= 0.0:
                risen[same] = np.minimum(rises[same], rises[same] - common - UNLIKE.pitches_differ_db)
    return np.asarray(frames[middle] * ONSETS.hop_s, np.float64), risen


def _rises(level: FloatArray, middle: NDArray[np.int64], mean: int, apart: int) -> FloatArray:
    """The mean of so many frames from each middle on, less that of as many before it; shape (n_strokes, n_middle)."""
    sums = np.concatenate((np.zeros((len(level), 1)), np.cumsum(level, axis=1)), axis=1)
    after = sums[:, middle + mean] - sums[:, middle]
    earlier = sums[:, middle - apart] - sums[:, middle - apart - mean]
    return np.asarray((after - earlier) / mean)


def _bands(mono: Samples, onsets_s: FloatArray, frames: NDArray[np.int64], rate_hz: int) -> NDArray[np.float32]:
    """Band levels about strokes, dB, within what tells; shape (n_strokes, n_frames, n_bands)."""
    rate = min(ONSETS.rate_hz, rate_hz)
    sound = resampled(mono, from_hz=rate_hz, to_hz=rate)
    hops = np.round(frames * ONSETS.hop_s * rate).astype(np.int64)
    # Before and after the sound there is nothing.
    reach = ONSETS.n_fft + int(np.abs(hops).max())
    padded = copied(sound, before=reach, after=reach)
    starts = reach + np.round(onsets_s * rate).astype(np.int64)[:, None] + hops - ONSETS.n_fft // 2
    pieces = np.lib.stride_tricks.sliding_window_view(padded, ONSETS.n_fft)
    parts = []
    for first in range(0, len(starts), _AT_ONCE):
        parts.append(levels_in_bands(pieces[starts[first : first + _AT_ONCE].ravel()], rate).T)
        let_go()
    bands = np.concatenate(parts).reshape(*starts.shape, -1)
    quiet = np.percentile(bands[:, frames < 0], 10, axis=(0, 1)) + UNLIKE.over_floor_db
    return np.maximum(bands, np.maximum(quiet, bands.max(axis=(0, 1)) - UNLIKE.range_db))
