"""What is done to a whole take without a copy of it in double precision: a quarter of an hour would fill the memory."""

from __future__ import annotations

from functools import cache
from typing import Any

import numpy as np
from numba import njit
from numpy.typing import NDArray
from scipy import signal

from fortimetra.sound.samples import BLOCK_FRAMES, Samples, blocks, empty
from fortimetra.units import FloatArray

PART = 1 << 19


def filtered(sos: FloatArray, mono: Samples) -> Samples:
    """Filtered forwards by two second-order sections, shape (2, 6), in double precision; float32, shape
    (n_samples,).
    """
    out, state = empty(len(mono)), np.zeros((2, 2))
    for part in blocks(len(mono)):
        piece = mono[part]
        _filter(sos, state, piece, np.array([0, len(piece)]), out[part], np.zeros(1))
    return out


def energies(sos: FloatArray, mono: Samples, edges: NDArray[np.int64]) -> FloatArray:
    """Sums of squares of a sound between some of its samples, filtered as by `filtered`.

    edges: ascending sample indices, shape (n,), the first of them 0; what lies beyond the sound is silence. float64,
    shape (n - 1,).
    """
    sums, state = np.zeros(len(edges) - 1), np.zeros((2, 2))
    edges = np.minimum(edges, len(mono))
    for part in blocks(len(sums), len(sums) * BLOCK_FRAMES // max(1, len(mono))):
        own = edges[part.start : part.stop + 1]
        _filter(sos, state, mono[own[0] : own[-1]], own - own[0], np.empty(0, np.float32), sums[part])
    return sums


@njit(cache=True, fastmath=True)
def _filter(sos: Any, state: Any, sound: Any, edges: Any, out: Any, sums: Any) -> None:
    """Two sections (transposed direct form II, scipy's) over a sound from one edge to the next, in place: the filtered
    sound, where `out` has room for it, and the sums of its squares. state: what the sections begin with and, after it,
    what they end with, shape (2, 2).
    """
    b0, b1, b2, a1, a2 = sos[0, 0], sos[0, 1], sos[0, 2], sos[0, 4], sos[0, 5]
    c0, c1, c2, d1, d2 = sos[1, 0], sos[1, 1], sos[1, 2], sos[1, 4], sos[1, 5]
    u1, u2, v1, v2 = state[0, 0], state[0, 1], state[1, 0], state[1, 1]
    for e in range(len(sums)):
        total = 0.0
        for i in range(edges[e], edges[e + 1]):
            x = np.float64(sound[i])
            y = b0 * x + u1
            u1 = (b1 * x + u2) - a1 * y
            u2 = b2 * x - a2 * y
            z = c0 * y + v1
            v1 = (c1 * y + v2) - d1 * z
            v2 = c2 * y - d2 * z
            total += z * z
            if i < len(out):
                out[i] = z
        sums[e] = total
    state[0, 0], state[0, 1], state[1, 0], state[1, 1] = u1, u2, v1, v2


def smoothed_power(sos: FloatArray, mono: Samples, at: NDArray[np.int64], *, frame: int, settled: int) -> FloatArray:
    """Mean square over `frame` samples around places of the sound, filtered forwards and backwards by two sections.

    at: ascending sample indices. settled: after so many samples the filter has forgotten what was before, and more than
    a frame. float64, shape (n_places,).
    """
    out = np.empty(len(at))
    for part in blocks(len(mono), PART):
        first, last = max(0, part.start - settled), min(len(mono), part.stop + settled)
        own = slice(*np.searchsorted(at, (part.start, part.stop)))
        _mean_squares(_both_ways(sos, mono[first:last]), at[own] - first, max(1, frame), out[own])
    return out


@njit(cache=True, fastmath=True)
def _mean_squares(sound: Any, at: Any, frame: int, out: Any) -> None:
    """Mean square of so many samples around places of a sound, nothing beyond its ends, in place; as at."""
    for i in range(len(at)):
        total = 0.0
        for j in range(max(0, at[i] - frame // 2), min(len(sound), at[i] - frame // 2 + frame)):
            total += sound[j] * sound[j]
        out[i] = total / frame


def _both_ways(sos: FloatArray, sound: Samples) -> FloatArray:
    """scipy's sosfiltfilt by two full sections: continued at both ends by the sound turned about them."""
    edge = 3 * (2 * len(sos) + 1)
    x = sound.astype(np.float64)
    whole = np.concatenate((2.0 * x[0] - x[edge:0:-1], x, 2.0 * x[-1] - x[-2 : -edge - 2 : -1]))
    starts, all_of_it = signal.sosfilt_zi(sos), np.array([0, len(whole)])
    for turned in (whole, whole[::-1]):
        _filter(sos, starts * turned[0], turned, all_of_it, turned, np.zeros(1))
    return whole[edge:-edge]


@njit(cache=True, fastmath=True)
def powers(spectra: Any, out: Any) -> None:
    """Squares of absolute values, in place; out: shape (n, k), spectra: shape (n, k or more)."""
    for i in range(out.shape[0]):
        for k in range(out.shape[1]):
            out[i, k] = spectra[i, k].real * spectra[i, k].real + spectra[i, k].imag * spectra[i, k].imag


@njit(cache=True, fastmath=True)
def windowed_powers(spectra: Any, out: Any) -> None:
    """Squares of absolute values of what the spectra would be through a Hann window, in place; both of one shape (n,
    k), of all frequencies from 0 to half of the rate. The window is periodic: in the spectrum, half of each place less
    a quarter of both beside it (Harris, Proc. IEEE 66(1), 1978).
    """
    half, quarter, last = np.float32(0.5), np.float32(0.25), spectra.shape[1] - 1
    for i in range(len(out)):
        row = spectra[i]
        # Beyond either end lies the conjugate of what is before it.
        out[i, 0] = (half * (row[0].real - row[1].real)) ** 2
        out[i, last] = (half * (row[last].real - row[last - 1].real)) ** 2
        for k in range(1, last):
            real = half * row[k].real - quarter * (row[k - 1].real + row[k + 1].real)
            imag = half * row[k].imag - quarter * (row[k - 1].imag + row[k + 1].imag)
            out[i, k] = real * real + imag * imag


def hop_power(mono: Samples, hop: int) -> FloatArray:
    """Mean square of consecutive hops; float64, shape (n_samples // hop,)."""
    frames = mono[: len(mono) // hop * hop].reshape(-1, hop)
    power = np.empty(len(frames))
    for part in blocks(len(frames), BLOCK_FRAMES // hop):
        power[part] = np.einsum("ij,ij->i", frames[part], frames[part], dtype=np.float64) / hop
    return power


@cache
def hann(length: int) -> NDArray[np.float32]:
    """A Hann window without the zeros at its ends, not to be written to; shape (length,)."""
    return np.hanning(length + 2)[1:-1].astype(np.float32)
