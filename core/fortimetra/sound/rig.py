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

from fortimetra.sound.decode import Take
from fortimetra.sound.samples import Samples
from fortimetra.sound.settings import LEVELS, RIG
from fortimetra.units import FloatArray


@dataclass(frozen=True)
class Sign:
    """found is None where it cannot be told; value_db: median over the gaps that could be read."""

    found: bool | None
    value_db: float | None
    reason: str | None = None


def dc_fraction(samples: Samples) -> float:
    """Largest mean of a channel, share of full scale, with its sign; samples: shape (n_channels, n_samples).

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
    low, high = RIG.peak_range_dbfs
    if clipped_fraction > 0 or peak_dbfs > high or peak_dbfs < low:
        return round(RIG.peak_target_dbfs - peak_dbfs, 0)
    return None


def find_automatic_gain(mono: Samples, *, rate_hz: int, onsets_s: FloatArray) -> Sign:
    """Whether the level climbs in the pauses; mono: shape (n_samples,), onsets_s: shape (n_onsets,)."""
    level = _levels(mono, rate_hz)
    if float(np.percentile(level, LEVELS.floor_percentile)) < RIG.digital_silence_dbfs:
        return Sign(None, None, "digital_silence")
    smooth = ndimage.uniform_filter1d(level, max(1, round(RIG.smooth_s / RIG.frame_s)), mode="nearest")
    climbs = []
    for start, end in _gaps(onsets_s, len(level) * RIG.frame_s):
        stop = _stop_in(level, start, end)
        if stop is None:
            continue
        pause = smooth[
            round((stop + RIG.stop_within_s + RIG.smooth_s / 2) / RIG.frame_s) : round(
                (end - RIG.before_onset_s) / RIG.frame_s
            )
        ]
        if len(pause) * RIG.frame_s >= RIG.climb_min_s:
            climbs.append(_climb_db(pause))
    return _verdict(climbs, RIG.climb_db, "no_pauses")


def find_noise_gate(take: Take, mono: Samples, *, onsets_s: FloatArray) -> Sign:
    """Whether the noise goes away with the notes; mono: shape (n_samples,), onsets_s: shape (n_onsets,)."""
    if take.lossy:
        return Sign(None, None, "lossy_coding")
    rate = take.sample_rate_hz
    level = _levels(mono, rate)
    falls = []
    seen = 0
    for start, end in _gaps(onsets_s, len(level) * RIG.frame_s):
        stop = _stop_in(level, start, end)
        if stop is None or stop + RIG.pause_s[1] > end - RIG.clear_s:
            continue
        seen += 1
        late = _spectrum(mono, rate, stop + RIG.late_s[0], stop + RIG.late_s[1])
        pause = _spectrum(mono, rate, stop + RIG.pause_s[0], stop + RIG.pause_s[1])
        fall = _noise_fall(late, pause, rate)
        if fall is not None:
            falls.append(fall)
    return _verdict(falls, RIG.gate_db, "no_pauses" if seen < RIG.min_gaps else "noise_not_heard")


def _climb_db(level: FloatArray) -> float:
    """How far a pause's level climbs from its lowest to its last third; 0 where it goes up and down."""
    lowest = int(np.argmin(level[: -(len(level) // 3)]))
    climb = float(np.median(level[-(len(level) // 3) :]) - level[lowest])
    after = level[lowest:]
    back = float(np.max(np.maximum.accumulate(after) - after))
    return climb if back <= RIG.climb_back_share * climb + 1.0 else 0.0


def _verdict(values: list[float], limit: float, reason: str) -> Sign:
    if len(values) < RIG.min_gaps:
        return Sign(None, None, reason)
    showing = sum(v >= limit for v in values)
    return Sign(showing >= RIG.most_gaps * len(values), round(float(np.median(values)), 1))


def _levels(mono: Samples, rate: int) -> FloatArray:
    """RMS level without DC in frames of RIG.frame_s, dBFS; shape (n_frames,)."""
    length = max(1, round(RIG.frame_s * rate))
    count = max(1, len(mono) // length)
    frames = np.asarray(mono[: count * length], dtype=np.float64).reshape(count, -1)
    return np.asarray(10.0 * np.log10(np.maximum(frames.var(axis=1), 1e-14)))


def _gaps(onsets_s: FloatArray, end_s: float) -> list[tuple[float, float]]:
    edges = [*onsets_s.tolist(), end_s]
    return [(a, b) for a, b in pairwise(edges) if b - a > RIG.least_pause_s]


def _stop_in(level: FloatArray, start: float, end: float) -> float | None:
    """When the sound of this gap collapses, s; None if it never does."""
    span = round(RIG.stop_within_s / RIG.frame_s)
    first, last = round((start + 0.3) / RIG.frame_s), round(end / RIG.frame_s)
    part = level[first:last]
    if len(part) <= span:
        return None
    fall = part[:-span] - part[span:]
    at = int(np.argmax(fall))
    return None if fall[at] < RIG.stop_fall_db else (first + at) * RIG.frame_s


def _spectrum(mono: Samples, rate: int, from_s: float, to_s: float) -> FloatArray:
    """Mean power per bin over half-overlapping Hann segments; shape (n_bins,)."""
    first = max(0, round(from_s * rate))
    part = np.asarray(mono[first : max(first + RIG.segment, round(to_s * rate))], dtype=np.float64)
    if len(part) < RIG.segment:
        part = np.pad(part, (0, RIG.segment - len(part)))
    window = np.hanning(RIG.segment)
    frames = np.lib.stride_tricks.sliding_window_view(part, RIG.segment)[:: RIG.segment // 2]
    power = np.abs(np.fft.rfft((frames - part.mean()) * window, axis=1)) ** 2
    return np.asarray(power.mean(axis=0) * 2.0 / (rate * np.square(window).sum()))


def _noise_fall(late: FloatArray, pause: FloatArray, rate: int) -> float | None:
    """Median fall, dB, of the bands that hold noise alone before the stop; None without such a band."""
    width = max(8, round(RIG.band_hz / (rate / RIG.segment)))
    falls = []
    top = min(RIG.highest_hz, 0.45 * rate)
    for low in np.arange(RIG.lowest_hz, top - RIG.band_hz, RIG.band_hz):
        first = round(low / (rate / RIG.segment))
        before, after = late[first : first + width], pause[first : first + width]
        soft, loud = np.percentile(before, (20.0, 95.0))
        whole_band_dbfs = 10.0 * np.log10(max(float(soft), 1e-30) * rate / 2.0)
        if whole_band_dbfs < RIG.digital_silence_dbfs or 10.0 * np.log10(loud / soft) > RIG.noise_like_db:
            continue
        falls.append(10.0 * np.log10(soft / max(float(np.percentile(after, 20.0)), 1e-20)))
    return float(np.median(falls)) if falls else None
