"""Windowed transforms at the places of partials: of one pitch about a moment, and of several through moving windows."""

from __future__ import annotations

from typing import Any

import numpy as np
from numba import njit
from numpy.typing import NDArray

from fortimetra.sound.parts import hann
from fortimetra.sound.samples import Samples
from fortimetra.units import FloatArray

# Most samples on one side of the middle: four periods of 23 Hz at 24 kHz. No power of two, or all rows would want the
# same place of the processor's cache.
_ROW = 2128
# So many samples are turned on at once: none waits for the one before it.
_TURN = 8
# What `transform` works in: float64, to be made once for many calls.
WORK = 9 * _ROW


@njit(cache=True, fastmath=True)
def transform(x: Any, centre: float, length: float, omega: float, n: int, work: Any, out: Any) -> None:
    """Windowed transforms of x around the sample at `centre`, at omega and its multiples up to n, in place.

    The window (Hann, `length` samples) is even and its derivative odd: two samples as far from the middle are taken
    together, by their sum and their difference. Beyond the ends of x there is silence. Each multiple's cosine and sine
    follow from the two before it: cos kφ = 2 cos φ cos (k-1)φ - cos (k-2)φ (Chebyshev).

    omega: rad per sample. work: shape (WORK,). out: shape (4, n or more): real and imaginary part, and of every second
    multiple the same with the window's derivative.
    """
    half = min(int(np.ceil(length / 2.0)) - 1, _ROW)
    middle = int(np.round(centre))
    here = x[middle] if 0 <= middle < len(x) else 0.0
    _sums(x, middle, half, work)
    _turns(np.pi / length, omega, half, work)
    _windowed(np.pi / length, half, work)
    for k in range(0, n, 2):
        # This multiple, and the next with the window's derivative; then those two for the next turn.
        real = imag = next_real = next_imag = d_real = d_imag = 0.0
        for j in range(half):
            c, s, twice = work[7 * _ROW + j], work[8 * _ROW + j], work[4 * _ROW + j]
            even, odd = work[j], work[_ROW + j]
            real += even * c
            imag -= odd * s
            next_c, next_s = twice * c - work[5 * _ROW + j], twice * s - work[6 * _ROW + j]
            next_real += even * next_c
            next_imag -= odd * next_s
            d_real += work[3 * _ROW + j] * next_c
            d_imag -= work[2 * _ROW + j] * next_s
            work[5 * _ROW + j], work[6 * _ROW + j] = next_c, next_s
            work[7 * _ROW + j], work[8 * _ROW + j] = twice * next_c - c, twice * next_s - s
        out[0, k], out[1, k] = here + real, imag
        if k + 1 < n:
            out[0, k + 1], out[1, k + 1], out[2, k + 1], out[3, k + 1] = here + next_real, next_imag, d_real, d_imag


# Rows of `work`, one array with known distances, so that the compiler sees that they are apart and takes several
# samples at once: 0, 1: sums and differences of samples; 2, 3: with the window's derivative; 4: twice the cosine;
# 5, 6: cosine and sine of one multiple; 7, 8: of the next.


@njit(cache=True, fastmath=True)
def _sums(x: Any, middle: int, half: int, work: Any) -> None:
    """Sum and difference of the samples on both sides of the middle, in place."""
    if middle - half >= 0 and middle + half < len(x):
        before, after = x[middle - half : middle], x[middle + 1 : middle + half + 1]
        for j in range(half):
            a, b = np.float64(after[j]), np.float64(before[half - 1 - j])
            work[j], work[_ROW + j] = a + b, a - b
        return
    for j in range(half):
        a = np.float64(x[middle + j + 1]) if 0 <= middle + j + 1 < len(x) else np.float64(0.0)
        b = np.float64(x[middle - j - 1]) if 0 <= middle - j - 1 < len(x) else np.float64(0.0)
        work[j], work[_ROW + j] = a + b, a - b


@njit(cache=True, fastmath=True)
def _turns(step: float, omega: float, half: int, work: Any) -> None:
    """Cosine and sine of the window's angle (rows 5 and 6) and of the pitch's (7 and 8), in place."""
    cos_u, sin_u, cos_w, sin_w = np.cos(step), np.sin(step), np.cos(omega), np.sin(omega)
    c, s, own_c, own_s = cos_u, sin_u, cos_w, sin_w
    for j in range(_TURN):
        work[5 * _ROW + j], work[6 * _ROW + j], work[7 * _ROW + j], work[8 * _ROW + j] = c, s, own_c, own_s
        c, s = c * cos_u - s * sin_u, s * cos_u + c * sin_u
        own_c, own_s = own_c * cos_w - own_s * sin_w, own_s * cos_w + own_c * sin_w
    last = _TURN - 1
    c, s, own_c, own_s = work[5 * _ROW + last], work[6 * _ROW + last], work[7 * _ROW + last], work[8 * _ROW + last]
    for j in range(half - _TURN):
        work[5 * _ROW + _TURN + j] = work[5 * _ROW + j] * c - work[6 * _ROW + j] * s
        work[6 * _ROW + _TURN + j] = work[6 * _ROW + j] * c + work[5 * _ROW + j] * s
        work[7 * _ROW + _TURN + j] = work[7 * _ROW + j] * own_c - work[8 * _ROW + j] * own_s
        work[8 * _ROW + _TURN + j] = work[8 * _ROW + j] * own_c + work[7 * _ROW + j] * own_s


@njit(cache=True, fastmath=True)
def _windowed(step: float, half: int, work: Any) -> None:
    """The window put on, in place, and the row of the multiple before the first: 0 times the angle."""
    for j in range(half):
        c, s = work[5 * _ROW + j], work[6 * _ROW + j]
        window, fall = c * c, -2.0 * c * s * step
        even, odd = work[j], work[_ROW + j]
        work[2 * _ROW + j], work[3 * _ROW + j] = even * fall, odd * fall
        work[j], work[_ROW + j] = even * window, odd * window
        work[4 * _ROW + j] = 2.0 * work[7 * _ROW + j]
        work[5 * _ROW + j], work[6 * _ROW + j] = 1.0, 0.0


def powers_at(sound: Samples, starts: NDArray[np.int64], length: int, hz: FloatArray, *, rate_hz: int) -> FloatArray:
    """Power at some frequencies in Hann windows that begin at some samples; shape (n_starts, n_hz).

    As in `transform`, samples as far from the middle of a window are taken together: half of the work.
    """
    half, omegas = length - length // 2, 2.0 * np.pi * np.asarray(hz) / rate_hz
    even, odd = np.empty((2, len(starts), half), np.float32)
    cosines, sines = np.empty((2, half, len(hz)), np.float32)
    _fold(even, odd, sound, starts, hann(length))
    _fill(cosines, sines, omegas, 0.0 if length % 2 else 0.5)
    return np.asarray((even @ cosines) ** 2 + (odd @ sines) ** 2, dtype=np.float64)


@njit(cache=True)
def _fold(even: Any, odd: Any, sound: Any, starts: Any, window: Any) -> None:
    """Sums and differences of what lies as far before and after the middle of the sound from each start on, times the
    window, in place; from the middle outwards, which is itself halved where it is a sample. shape (n_starts, half)
    """
    length, half = len(window), even.shape[1]
    for i in range(len(even)):
        for j in range(half):
            before, after = sound[starts[i] + half - 1 - j], sound[starts[i] + length - half + j]
            even[i, j], odd[i, j] = window[half - 1 - j] * (after + before), window[half - 1 - j] * (after - before)
        if length % 2:
            even[i, 0] *= np.float32(0.5)


@njit(cache=True)
def _fill(cosines: Any, sines: Any, omegas: Any, first: float) -> None:
    """Cosines and sines of some frequencies (rad per sample) from so many samples after the middle on, in place; shape
    (half, n).
    """
    turn_real, turn_imag = np.cos(omegas), np.sin(omegas)
    real, imag = np.cos(first * omegas), np.sin(first * omegas)
    for j in range(len(cosines)):
        for k in range(len(omegas)):
            cosines[j, k], sines[j, k] = real[k], imag[k]
            next_real = real[k] * turn_real[k] - imag[k] * turn_imag[k]
            imag[k] = imag[k] * turn_real[k] + real[k] * turn_imag[k]
            real[k] = next_real
