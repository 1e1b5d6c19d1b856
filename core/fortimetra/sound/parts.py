"""What is done to a whole take, a part at a time: in double precision, a quarter of an hour fills the memory."""

from __future__ import annotations

from collections.abc import Iterator
from functools import cache

import numpy as np
from numpy.typing import NDArray
from scipy import ndimage, signal

from fortimetra.sound.decode import Samples
from fortimetra.units import FloatArray

PART = 1 << 20


def filtered(sos: FloatArray, mono: Samples) -> Samples:
    """Filtered forwards by second-order sections, in double precision; float32, shape (n_samples,)."""
    out = np.empty(len(mono), np.float32)
    state = np.zeros((len(sos), 2))
    for part in _parts(len(mono), PART):
        out[part], state = signal.sosfilt(sos, mono[part].astype(np.float64), zi=state)
    return out


def smoothed_power(sos: FloatArray, mono: Samples, at: NDArray[np.int64], *, frame: int, settled: int) -> FloatArray:
    """Mean square over `frame` samples around places of the sound, filtered forwards and backwards.

    at: ascending sample indices. settled: after so many samples the filter has forgotten what was before, and more than
    a frame. float64, shape (n_places,).
    """
    out = np.empty(len(at))
    for part in _parts(len(mono), PART):
        first, last = max(0, part.start - settled), min(len(mono), part.stop + settled)
        power = signal.sosfiltfilt(sos, mono[first:last].astype(np.float64)) ** 2
        smooth = ndimage.uniform_filter1d(power, max(1, frame), mode="constant")
        own = slice(*np.searchsorted(at, (part.start, part.stop)))
        out[own] = smooth[at[own] - first]
    return out


def hop_power(mono: Samples, hop: int) -> FloatArray:
    """Mean square of consecutive hops; float64, shape (n_samples // hop,)."""
    frames = mono[: len(mono) // hop * hop].reshape(-1, hop)
    return np.einsum("ij,ij->i", frames, frames, dtype=np.float64) / hop


@cache
def hann(length: int) -> NDArray[np.float32]:
    """A Hann window without the zeros at its ends, not to be written to; shape (length,)."""
    return np.hanning(length + 2)[1:-1].astype(np.float32)


def _parts(count: int, size: int) -> Iterator[slice]:
    return (slice(first, min(first + size, count)) for first in range(0, count, size))
