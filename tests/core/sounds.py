"""Synthetic sounds with known truth."""

from __future__ import annotations

import numpy as np
from fortimetra.hear.contour import Contour
from fortimetra.sound.decode import Take
from numpy.typing import NDArray
from scipy import signal

RATE_HZ = 48_000
Samples = NDArray[np.float32]


def times(seconds: float, rate_hz: int = RATE_HZ) -> NDArray[np.float64]:
    return np.arange(round(seconds * rate_hz)) / rate_hz


def tone(
    hz: float | NDArray[np.float64],
    seconds: float,
    *,
    partials: int = 8,
    stiffness: float = 0.0,
    decay_per_s: float = 0.5,
    level: float = 0.2,
    rate_hz: int = RATE_HZ,
) -> Samples:
    """Harmonic tone, partial k at 1/k, f_k = k·f·√(1 + B·k²); hz may be an array over time."""
    t = times(seconds, rate_hz)
    phase = 2.0 * np.pi * np.cumsum(np.broadcast_to(hz, t.shape)) / rate_hz
    total = np.zeros_like(t)
    for k in range(1, partials + 1):
        stretch = k * np.sqrt(1.0 + stiffness * k * k)
        if np.max(hz) * stretch < 0.45 * rate_hz:
            total += np.sin(stretch * phase + k) * np.exp(-decay_per_s * k * t) / k
    return (level * total).astype(np.float32)


def noise(seconds: float, dbfs: float, *, seed: int = 7, rate_hz: int = RATE_HZ) -> Samples:
    white = np.random.default_rng(seed).standard_normal(round(seconds * rate_hz))
    return (white * 10.0 ** (dbfs / 20.0)).astype(np.float32)


def in_a_room(
    samples: Samples, *, seed: int, rt60_s: float = 0.4, wet_db: float = -3.0, rate_hz: int = RATE_HZ
) -> Samples:
    """With noise that decays by 60 dB in rt60_s after the direct sound (ISO 3382's reverberation time); wet_db: its
    energy against that.
    """
    t = times(1.2 * rt60_s, rate_hz)
    tail = np.random.default_rng(seed).standard_normal(len(t)) * 10.0 ** (-3.0 * t / rt60_s)
    tail[: round(0.004 * rate_hz)] = 0.0
    tail *= 10.0 ** (wet_db / 20.0) / np.sqrt(np.sum(tail**2))
    tail[0] = 1.0
    return signal.oaconvolve(samples, tail)[: len(samples)].astype(np.float32)


def take(samples: Samples, rate_hz: int = RATE_HZ) -> Take:
    return Take(np.atleast_2d(samples), rate_hz, "0" * 64)


def contour_of(f0_hz, level_dbfs=-20.0, *, partial_cents=None, sigma_cents=0.1) -> Contour:
    """A contour as it is written here, a frame every 5 ms; level_dbfs, partial_cents: of all frames, or of each."""
    f0 = np.asarray(f0_hz, dtype=np.float64)
    count = len(f0)
    partials = np.full((count, 8), np.nan) if partial_cents is None else np.tile(partial_cents, (count, 1))
    return Contour(
        np.arange(count) * 0.005, f0, np.full(count, 0.3), np.ones(count), np.broadcast_to(level_dbfs, count).copy(),
        partials.astype(np.float32), np.where(np.isnan(partials), np.nan, sigma_cents).astype(np.float32),
    )  # fmt: skip


def cents_up(cents, hz: float = 220.0):
    """Frequencies so many cents over one."""
    return hz * 2.0 ** (np.asarray(cents, dtype=np.float64) / 1200.0)


def wave(level_db, seconds, hz=300.0, rate_hz=12_000):
    """A tone of a given course of level; level_db: by seconds."""
    time = np.arange(round(seconds * rate_hz)) / rate_hz
    return (0.3 * 10.0 ** (level_db(time) / 20.0) * np.sin(2.0 * np.pi * hz * time)).astype(np.float32)
