"""Reference tones and clicks to listen to and to take away.

Tones are sums of decaying partials, exact in pitch; clicks start on the sample that is nearest to their time. Both are
made for the ear, not for measuring.
"""

from __future__ import annotations

import io
from dataclasses import dataclass
from typing import Literal

import numpy as np
from numpy.typing import NDArray

from fortimetra.errors import SignalError
from fortimetra.units import FloatArray

RATE_HZ = 48_000
MAX_SECONDS = 600.0
FADE_S = 0.01
CLICK_S = 0.03
CLICK_HZ = {"accent": 1760.0, "beat": 1320.0, "between": 990.0}
CLICK_GAIN = {"accent": 0.8, "beat": 0.5, "between": 0.25}


def plucked(hz: FloatArray | float, seconds: float, *, rate_hz: int = RATE_HZ, level: float = 0.35) -> FloatArray:
    """A plucked tone; hz may be an array over the samples. float64, shape (n_samples,), peak about `level`."""
    count = round(seconds * rate_hz)
    time = np.arange(count) / rate_hz
    course = np.broadcast_to(np.asarray(hz, dtype=np.float64), (count,))
    phase = 2.0 * np.pi * np.cumsum(course) / rate_hz
    total = np.zeros(count)
    top = float(np.max(course)) if count else 0.0
    for k in range(1, 13):
        if k * top < 0.45 * rate_hz:
            # Plucked at a seventh of its length; higher partials decay sooner.
            total += np.sin(np.pi * k / 7.0) / k**1.3 * np.exp(-(1.2 + 0.5 * k) * time) * np.sin(k * phase)
    edge = np.minimum(1.0, np.minimum(time / 0.002, (seconds - time) / FADE_S))
    return np.asarray(level * total / max(1e-9, float(np.max(np.abs(total)))) * np.clip(edge, 0.0, 1.0))


def sine(hz: float, seconds: float, *, rate_hz: int = RATE_HZ, level: float = 0.3) -> FloatArray:
    """A steady sine with soft edges, shape (n_samples,)."""
    time = np.arange(round(seconds * rate_hz)) / rate_hz
    edge = np.clip(np.minimum(time, seconds - time) / FADE_S, 0.0, 1.0)
    return np.asarray(level * np.sin(2.0 * np.pi * hz * time) * edge)


@dataclass(frozen=True)
class ClickTrack:
    """A click to go: samples, and where each click starts. first_beat_s is beat 0 after the count-in."""

    samples: FloatArray
    starts_samples: NDArray[np.int64]
    first_beat_s: float


def click_track(
    *,
    bpm: float,
    beats_per_bar: int = 4,
    bars: int = 8,
    count_in_bars: int = 1,
    per_beat: int = 1,
    accent: bool = True,
    rate_hz: int = RATE_HZ,
) -> ClickTrack:
    """A click with count-in, accents on the first of a bar and softer clicks between beats.

    Raises SignalError(code="bench_invalid") for a track longer than ten minutes.
    """
    beats = (bars + count_in_bars) * beats_per_bar
    seconds = beats * 60.0 / bpm
    if seconds > MAX_SECONDS:
        raise SignalError(
            "bench_invalid", f"The click would last {seconds / 60:.0f} minutes; at most {MAX_SECONDS / 60:.0f}."
        )
    ticks = np.arange(beats * per_beat)
    starts = np.round(ticks * 60.0 / bpm / per_beat * rate_hz).astype(np.int64)
    length = round(CLICK_S * rate_hz)
    samples = np.zeros(int(np.ceil(seconds * rate_hz)) + length)
    kinds = {name: _click(name, length, rate_hz) for name in CLICK_HZ}
    for tick, start in zip(ticks.tolist(), starts.tolist(), strict=True):
        if tick % per_beat:
            name = "between" if tick >= count_in_bars * beats_per_bar * per_beat else None
        else:
            name = "accent" if accent and (tick // per_beat) % beats_per_bar == 0 else "beat"
        if name:
            samples[start : start + length] += kinds[name]
    return ClickTrack(samples, starts, count_in_bars * beats_per_bar * 60.0 / bpm)


def _click(name: str, length: int, rate_hz: int) -> FloatArray:
    time = np.arange(length) / rate_hz
    return np.asarray(CLICK_GAIN[name] * np.cos(2.0 * np.pi * CLICK_HZ[name] * time) * np.exp(-time / 0.006))


def sound_file(samples: FloatArray, kind: Literal["wav", "flac"], *, rate_hz: int = RATE_HZ) -> bytes:
    """A WAV or FLAC file, 24 bit mono; samples: shape (n_samples,)."""
    import soundfile

    out = io.BytesIO()
    soundfile.write(out, np.clip(samples, -1.0, 1.0), rate_hz, format=kind.upper(), subtype="PCM_24")
    return out.getvalue()
