"""The partials of a pitch about a moment, by windowed transforms."""

from __future__ import annotations

from typing import Any

import numpy as np
from numba import njit


@njit(cache=True, fastmath=True)
def transform(x: Any, centre: float, length: float, omegas: Any, n_slopes: int, out: Any) -> None:
    """Windowed transforms of x around the sample at `centre`, in place.

    The window (Hann, `length` samples) is even and its derivative odd: two samples as far from the middle are taken
    together, by their sum and their difference. Beyond the ends of x there is silence.

    omegas: shape (n,), rad per sample. out: shape (4, n or more): real and imaginary part, and for the first n_slopes
    the same with the window's derivative.
    """
    n = len(omegas)
    middle = int(np.round(centre))
    here = x[middle] if 0 <= middle < len(x) else 0.0
    cos_w, sin_w = np.cos(omegas), np.sin(omegas)
    cos_j, sin_j = cos_w.copy(), sin_w.copy()
    real, imag, d_real, d_imag = out[0], out[1], out[2], out[3]
    for k in range(n):
        real[k], imag[k], d_real[k], d_imag[k] = here, 0.0, 0.0, 0.0
    step = np.pi / length
    cos_step, sin_step = np.cos(step), np.sin(step)
    cos_u, sin_u = cos_step, sin_step
    for j in range(1, int(np.ceil(length / 2.0))):
        after = x[middle + j] if 0 <= middle + j < len(x) else 0.0
        before = x[middle - j] if 0 <= middle - j < len(x) else 0.0
        even, odd = after + before, after - before
        window, fall = cos_u * cos_u, -2.0 * cos_u * sin_u * step
        v_even, v_odd, d_even, d_odd = even * window, odd * window, even * fall, odd * fall
        for k in range(n_slopes):
            d_real[k] += d_odd * cos_j[k]
            d_imag[k] -= d_even * sin_j[k]
        for k in range(n):
            c, s = cos_j[k], sin_j[k]
            real[k] += v_even * c
            imag[k] -= v_odd * s
            cos_j[k] = c * cos_w[k] - s * sin_w[k]
            sin_j[k] = s * cos_w[k] + c * sin_w[k]
        cos_u, sin_u = cos_u * cos_step - sin_u * sin_step, sin_u * cos_step + cos_u * sin_step
