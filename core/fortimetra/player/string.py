"""A plucked string as a digital waveguide.

One delay loop per string (Karplus & Strong, Computer Music Journal 7(2), 1983; extended by Jaffe & Smith, same
issue): fractional delay by Lagrange interpolation (Laakso et al., IEEE Signal Process. Mag. 13(1), 1996), a one-pole
loss filter, and a chain of first-order allpasses for the stiffness of the string. The loop's delay at the first
partial is one period exactly, filters included, so the pitch that is asked for is the pitch that sounds.
"""

from __future__ import annotations

from dataclasses import dataclass
from typing import Any

import numpy as np
from numba import njit
from scipy import optimize

from fortimetra.units import FloatArray

N_ALLPASS = 4
# Under this a string is at rest: 240 dB under a pluck.
STILL = 1e-12
_TAPS = 6
_LOSS_POLE = 0.12


@dataclass(frozen=True)
class Loop:
    """Filters of one string at one fret."""

    allpass: float
    gain: float


def _loss_delay(omega: FloatArray) -> FloatArray:
    a = _LOSS_POLE
    return np.asarray(np.arctan2(a * np.sin(omega), 1.0 - a * np.cos(omega)) / omega)


def _loss_gain(omega: float) -> float:
    a = _LOSS_POLE
    return float((1.0 - a) / np.sqrt(1.0 - 2.0 * a * np.cos(omega) + a * a))


def _allpass_delay(omega: FloatArray, c: float) -> FloatArray:
    """Phase delay in samples of (c + z⁻¹) / (1 + c·z⁻¹)."""
    phase = -omega + 2.0 * np.arctan2(c * np.sin(omega), 1.0 + c * np.cos(omega))
    return np.asarray(-phase / omega)


def design_loop(f_hz: float, *, rate_hz: int, stiffness: float, decay_s: float) -> Loop:
    """Filters for a pitch: inharmonicity B at about the sixth partial, 60 dB decay of the first partial.

    stiffness: B in f_k = k·f·√(1 + B·k²).
    """
    k = max(2.0, min(6.0, np.floor(0.3 * rate_hz / f_hz)))
    stretch = np.sqrt((1.0 + stiffness * k * k) / (1.0 + stiffness))
    omega_1 = 2.0 * np.pi * f_hz / rate_hz
    omega_k = omega_1 * k * stretch

    def excess(c: float) -> float:
        """Delay the loop has too much at partial k, samples."""
        parts = []
        for omega in (omega_1, omega_k):
            w = np.array([omega])
            parts.append(float(_loss_delay(w)[0] + N_ALLPASS * _allpass_delay(w, c)[0]))
        period = rate_hz / f_hz
        return (period - parts[0] + parts[1]) - period / stretch

    low, high = -0.95, 0.0
    c = float(optimize.brentq(excess, low, high)) if excess(low) * excess(high) < 0 else 0.0
    gain = 10.0 ** (-3.0 / (f_hz * decay_s)) / _loss_gain(omega_1)
    return Loop(c, min(gain, 0.99999 / _loss_gain(0.0001)))


def loop_delay(f_hz: FloatArray, *, rate_hz: int, loop: Loop) -> FloatArray:
    """Length of the delay line in samples that makes the loop sound f_hz, shape (n,)."""
    omega = 2.0 * np.pi * f_hz / rate_hz
    delay = rate_hz / f_hz - _loss_delay(omega) - N_ALLPASS * _allpass_delay(omega, loop.allpass)
    return np.maximum(delay, _TAPS / 2.0 + 1.0)


def pluck(f_hz: float, *, rate_hz: int, position: float, softness_ms: float = 0.25) -> FloatArray:
    """Velocity wave of an ideal pluck at `position` (share of the string), rounded by the width of the pick; one
    period, shape (rate_hz / f_hz,).
    """
    period = max(8, round(rate_hz / f_hz))
    width = max(2, round(position * period))
    wave = np.full(period, -width / period)
    wave[:width] += 1.0
    blur = np.hanning(max(3, round(softness_ms * rate_hz / 1000.0)) + 2)[1:-1]
    wave = np.convolve(wave, blur / blur.sum())
    wave -= wave.mean()
    return np.asarray(wave / np.sqrt(np.mean(wave**2)))


@njit(cache=True)
def _lagrange(place: float, weights: Any) -> None:
    """Weights of the samples about a place between them, into weights, shape (_TAPS,)."""
    for a in range(_TAPS):
        weights[a] = 1.0
        for b in range(_TAPS):
            if b != a:
                weights[a] *= (place - b) / (a - b)


@njit(cache=True, nogil=True)
def run_loop(excitation: Any, delay: Any, gain: Any, allpass: Any, external: Any) -> Any:
    """Run one string.

    excitation, delay, gain, allpass, external: float64, shape (n_samples,); the delay in samples, the loop's gain,
    the coefficient of its allpasses, and what reaches it through the bridge. Returns the string's velocity.
    """
    n = len(excitation)
    size = 8192
    last = size - 1  # of a power of two, places in the line are masked
    line = np.zeros(size)
    state_in = np.zeros(N_ALLPASS)
    state_out = np.zeros(N_ALLPASS)
    out = np.empty(n)
    weights = np.zeros(_TAPS)
    weighed, whole = np.nan, 0  # the delay they are of: it seldom changes
    loss = 0.0
    still = size  # samples since the string last moved
    for i in range(n):
        if still >= size and excitation[i] == 0.0 and external[i] == 0.0:
            out[i] = 0.0
            line[i & last] = 0.0
            continue
        if delay[i] != weighed:
            weighed = delay[i]
            whole = int(np.floor(weighed - (_TAPS / 2 - 1)))
            _lagrange(weighed - whole, weights)
        value = 0.0
        for a in range(_TAPS):
            value += weights[a] * line[(i - whole - a) & last]
        loss = (1.0 - _LOSS_POLE) * value + _LOSS_POLE * loss
        value = gain[i] * loss
        c = allpass[i]
        for s in range(N_ALLPASS):
            passed = c * value + state_in[s] - c * state_out[s]
            state_in[s] = value
            state_out[s] = passed
            value = passed
        value += excitation[i] + external[i]
        if abs(value) < STILL:
            value = 0.0
            still += 1
        else:
            still = 0
        line[i & last] = value
        out[i] = value
    return out
