"""The recording chain: offset, input level, and signs that something in it changes the sound.

Method. Automatic gain raises what is left when the playing stops: after a stop the level climbs, steadily, until the
next attack. Noise suppression takes the noise away with the note: in bands that hold
nothing but noise, the level just before a note is stopped is compared with that just after. Both are read gap by gap;
a sign is reported when most gaps show it, so that a chair that creaks once is none. Where no gap lends itself to the
question the answer is "cannot tell".
"""

from __future__ import annotations

from dataclasses import dataclass
from itertools import pairwise

import numpy as np
from scipy import ndimage

from fortimetra.sound.decode import Samples, Take
from fortimetra.units import FloatArray

FRAME_S = 0.02
SMOOTH_S = 0.1
BEFORE_ONSET_S = 0.12
CLIMB_MIN_S = 0.35
CLIMB_DB = 3.0
CLIMB_BACK_SHARE = 0.35
STOP_FALL_DB = 15.0
STOP_WITHIN_S = 0.1
LATE_S = (-0.40, -0.06)
PAUSE_S = (0.20, 0.54)
GATE_DB = 8.0
MIN_GAPS = 3
MOST_GAPS = 0.6
NOISE_LIKE_DB = 8.0
DIGITAL_SILENCE_DBFS = -88.0
_SEGMENT = 2048
_BAND_HZ = 1000.0
_LOWEST_HZ, _HIGHEST_HZ = 2000.0, 16_000.0
# Peaks outside this range ask for another input level (common practice, no source).
PEAK_RANGE_DBFS = (-18.0, -1.0)
PEAK_TARGET_DBFS = -8.0


@dataclass(frozen=True)
class Sign:
    """found is None where it cannot be told; value_db: median over the gaps that could be read."""

    found: bool | None
    value_db: float | None
    reason: str | None = None


def dc_fraction(samples: Samples) -> float:
    """Largest mean of a channel, share of full scale, with its sign.

    >>> round(dc_fraction(np.array([[0.1, 0.3], [0.0, 0.0]], dtype=np.float32)), 3)
    0.2
    """
    means = samples.mean(axis=1, dtype=np.float64)
    return float(means[np.argmax(np.abs(means))])


def level_change_db(peak_dbfs: float, clipped_fraction: float) -> float | None:
    """Advised change of the input level; None where peaks lie where they should.

    >>> level_change_db(-30.0, 0.0), level_change_db(-6.0, 0.0), level_change_db(0.0, 0.01)
    (22.0, None, -8.0)
    """
    low, high = PEAK_RANGE_DBFS
    if clipped_fraction > 0 or peak_dbfs > high or peak_dbfs < low:
        return round(PEAK_TARGET_DBFS - peak_dbfs, 0)
    return None


def find_automatic_gain(mono: Samples, *, rate_hz: int, onsets_s: FloatArray) -> Sign:
    """Whether the level climbs in the pauses."""
    level = _levels(mono, rate_hz)
    if float(np.percentile(level, 5.0)) < DIGITAL_SILENCE_DBFS:
        return Sign(None, None, "digital_silence")
    smooth = ndimage.uniform_filter1d(level, max(1, round(SMOOTH_S / FRAME_S)), mode="nearest")
    climbs = []
    for start, end in _gaps(onsets_s, len(level) * FRAME_S):
        stop = _stop_in(level, start, end)
        if stop is None:
            continue
        pause = smooth[round((stop + STOP_WITHIN_S + SMOOTH_S / 2) / FRAME_S) : round((end - BEFORE_ONSET_S) / FRAME_S)]
        if len(pause) * FRAME_S >= CLIMB_MIN_S:
            climbs.append(_climb_db(pause))
    return _verdict(climbs, CLIMB_DB, "no_pauses")


def find_noise_gate(take: Take, mono: Samples, *, onsets_s: FloatArray) -> Sign:
    """Whether the noise goes away with the notes."""
    if take.lossy:
        return Sign(None, None, "lossy_coding")
    rate = take.sample_rate_hz
    level = _levels(mono, rate)
    falls = []
    seen = 0
    for start, end in _gaps(onsets_s, len(level) * FRAME_S):
        stop = _stop_in(level, start, end)
        if stop is None or stop + PAUSE_S[1] > end - 0.03:
            continue
        seen += 1
        late = _spectrum(mono, rate, stop + LATE_S[0], stop + LATE_S[1])
        pause = _spectrum(mono, rate, stop + PAUSE_S[0], stop + PAUSE_S[1])
        fall = _noise_fall(late, pause, rate)
        if fall is not None:
            falls.append(fall)
    return _verdict(falls, GATE_DB, "no_pauses" if seen < MIN_GAPS else "noise_not_heard")


def _climb_db(level: FloatArray) -> float:
    """How far a pause's level climbs from its lowest to its last third; 0 where it goes up and down."""
    lowest = int(np.argmin(level[: -(len(level) // 3)]))
    climb = float(np.median(level[-(len(level) // 3) :]) - level[lowest])
    after = level[lowest:]
    back = float(np.max(np.maximum.accumulate(after) - after))
    return climb if back <= CLIMB_BACK_SHARE * climb + 1.0 else 0.0


def _verdict(values: list[float], limit: float, reason: str) -> Sign:
    if len(values) < MIN_GAPS:
        return Sign(None, None, reason)
    showing = sum(v >= limit for v in values)
    return Sign(showing >= MOST_GAPS * len(values), round(float(np.median(values)), 1))


def _levels(mono: Samples, rate: int) -> FloatArray:
    """RMS level without DC in frames of FRAME_S, dBFS; shape (n_frames,)."""
    length = max(1, round(FRAME_S * rate))
    count = max(1, len(mono) // length)
    frames = np.asarray(mono[: count * length], dtype=np.float64).reshape(count, -1)
    return np.asarray(10.0 * np.log10(np.maximum(frames.var(axis=1), 1e-14)))


def _gaps(onsets_s: FloatArray, end_s: float) -> list[tuple[float, float]]:
    edges = [*onsets_s.tolist(), end_s]
    return [(a, b) for a, b in pairwise(edges) if b - a > 0.5]


def _stop_in(level: FloatArray, start: float, end: float) -> float | None:
    """When the sound of this gap collapses, s; None if it never does."""
    span = round(STOP_WITHIN_S / FRAME_S)
    first, last = round((start + 0.3) / FRAME_S), round(end / FRAME_S)
    part = level[first:last]
    if len(part) <= span:
        return None
    fall = part[:-span] - part[span:]
    at = int(np.argmax(fall))
    return None if fall[at] < STOP_FALL_DB else (first + at) * FRAME_S


def _spectrum(mono: Samples, rate: int, from_s: float, to_s: float) -> FloatArray:
    """Mean power per bin over half-overlapping Hann segments; shape (n_bins,)."""
    first = max(0, round(from_s * rate))
    part = np.asarray(mono[first : max(first + _SEGMENT, round(to_s * rate))], dtype=np.float64)
    if len(part) < _SEGMENT:
        part = np.pad(part, (0, _SEGMENT - len(part)))
    window = np.hanning(_SEGMENT)
    frames = np.lib.stride_tricks.sliding_window_view(part, _SEGMENT)[:: _SEGMENT // 2]
    power = np.abs(np.fft.rfft((frames - part.mean()) * window, axis=1)) ** 2
    return np.asarray(power.mean(axis=0) * 2.0 / (rate * np.square(window).sum()))


def _noise_fall(late: FloatArray, pause: FloatArray, rate: int) -> float | None:
    """Median fall, dB, of the bands that hold noise alone before the stop; None without such a band."""
    width = max(8, round(_BAND_HZ / (rate / _SEGMENT)))
    falls = []
    top = min(_HIGHEST_HZ, 0.45 * rate)
    for low in np.arange(_LOWEST_HZ, top - _BAND_HZ, _BAND_HZ):
        first = round(low / (rate / _SEGMENT))
        before, after = late[first : first + width], pause[first : first + width]
        soft, loud = np.percentile(before, (20.0, 95.0))
        whole_band_dbfs = 10.0 * np.log10(max(float(soft), 1e-30) * rate / 2.0)
        if whole_band_dbfs < DIGITAL_SILENCE_DBFS or 10.0 * np.log10(loud / soft) > NOISE_LIKE_DB:
            continue
        falls.append(10.0 * np.log10(soft / max(float(np.percentile(after, 20.0)), 1e-20)))
    return float(np.median(falls)) if falls else None
