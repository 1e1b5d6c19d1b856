"""The partials of a pitch about a moment, by windowed transforms."""

from __future__ import annotations

from typing import Any

import numpy as np
from numba import njit


@njit(cache=True, fastmath=True)
def transform(x: Any, centre: float, length: float, omega: float, n: int, slope: bool, out: Any) -> None:
    """Windowed transforms of x around `centre` at omega/2, omega, 3/2·omega … (n of them), rad per sample.

    out: shape (4, n): real and imaginary part, and the same with the window's derivative if `slope`.
    """
    half = int(np.ceil(length / 2.0))
    start = max(0, int(np.floor(centre)) - half)
    stop = min(len(x), int(np.floor(centre)) + half + 1)
    real, imag = np.zeros(n), np.zeros(n)
    d_real, d_imag = np.zeros(n), np.zeros(n)
    pr, pi, c, s = np.empty(n), np.empty(n), np.empty(n), np.empty(n)
    for k in range(n):
        w = 0.5 * omega * (k + 1)
        pr[k], pi[k] = np.cos(w * (start - centre)), -np.sin(w * (start - centre))
        c[k], s[k] = np.cos(w), np.sin(w)
    step = np.pi / length
    for index in range(start, stop):
        u = (index - centre) * step
        if abs(u) < 0.5 * np.pi:
            cu, su = np.cos(u), np.sin(u)
            v = x[index] * cu * cu
            d = -2.0 * x[index] * cu * su * step
        else:
            v = d = 0.0
        for k in range(n):
            real[k] += v * pr[k]
            imag[k] += v * pi[k]
            if slope:
                d_real[k] += d * pr[k]
                d_imag[k] += d * pi[k]
            turned = pr[k] * c[k] + pi[k] * s[k]
            pi[k] = pi[k] * c[k] - pr[k] * s[k]
            pr[k] = turned
    out[0, :n], out[1, :n], out[2, :n], out[3, :n] = real, imag, d_real, d_imag
