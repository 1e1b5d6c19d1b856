"""Pitch contour of a monophonic guitar: robust track first, then each partial by itself.

Method. (1) A coarse track: the cumulative-mean-normalised difference function of YIN (de Cheveigné & Kawahara,
J. Acoust. Soc. Am. 111(4), 2002, eq. 8), its best minima as candidates, and the cheapest path through them
(Viterbi) with "unvoiced" as one more state. (2) Around that track, each frame is analysed at its partials with a
Hann window of CONTOUR.window_periods periods of the frame's own pitch, so that neighbouring partials fall on the
zeros of the window; the frequency of each partial comes from the window's derivative (reassignment; Auger & Flandrin,
IEEE Trans. Signal Process. 43(5), 1995), which is exact for a decaying sinusoid and, at the window's middle, for a
linear glide. The spectrum half-way between partials gives the noise, and from it the standard deviation of each
partial's frequency. (3) The partials are averaged by these weights; (2) and (3) again from the pitch that gives, until
it stays. They begin where the two frames before lead, if that is near the coarse track.

Conventions: hop 5 ms; frame i is centred on time_s[i]; cents positive is sharp; NaN where unvoiced.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, replace
from typing import Any

import numpy as np
from numba import njit
from numpy.typing import NDArray

from fortimetra.hear.octaves import fold_octaves, lift
from fortimetra.hear.partials import WORK, transform
from fortimetra.hear.settings import CONTOUR
from fortimetra.settings import for_compiled
from fortimetra.sound.decode import resampled
from fortimetra.sound.samples import Samples, copied, let_go
from fortimetra.units import FloatArray

_CHUNK_FRAMES = 1024
_SETTINGS = for_compiled(CONTOUR, __name__)
ContourSettingsTuple = type(_SETTINGS)


@dataclass(frozen=True)
class Contour:
    """Pitch and level over time; all arrays have shape (n_frames,) or (n_frames, CONTOUR.n_partials).

    f0_hz: frequency of the first partial; NaN where unvoiced.
    sigma_cents: standard deviation of f0_hz from noise alone.
    confidence: 0 to 1, share of the frame's power that is harmonic.
    level_dbfs: RMS of 10 ms around the frame.
    partial_cents: each partial's distance from its multiple of f0_hz; NaN where it does not stand out.
    partial_sigma_cents: its standard deviation.
    """

    time_s: FloatArray
    f0_hz: FloatArray
    sigma_cents: FloatArray
    confidence: FloatArray
    level_dbfs: FloatArray
    partial_cents: NDArray[np.float32]
    partial_sigma_cents: NDArray[np.float32]

    def frames(self, from_s: float, to_s: float) -> slice:
        """Frames with from_s <= time < to_s."""
        first, last = self.time_s.searchsorted((from_s, to_s))
        return slice(int(first), int(last))

    def with_f0(self, f0_hz: FloatArray) -> Contour:
        """The same contour with another pitch."""
        return replace(self, f0_hz=f0_hz)

    def overlaid(self, courses: Sequence[Contour]) -> Contour:
        """The same contour with the pitch of stretches that were read anew on its frames; its gaps stay gaps."""
        f0_hz, sigma_cents = self.f0_hz.copy(), self.sigma_cents.copy()
        for course in courses:
            first = int(self.time_s.searchsorted(course.time_s[0]))
            frames = slice(first, first + len(course.time_s))
            voiced = ~np.isnan(self.f0_hz[frames])
            f0_hz[frames][voiced] = course.f0_hz[voiced]
            sigma_cents[frames][voiced] = course.sigma_cents[voiced]
        return replace(self, f0_hz=f0_hz, sigma_cents=sigma_cents)


def independent_frames(count: int, hz: float) -> float:
    """How many of so many frames tell something of their own at a pitch: a window spans several."""
    return min(max(1.0, count * CONTOUR.hop_s / (0.5 * CONTOUR.window_periods / hz)), float(max(1, count)))


def track(
    mono: Samples,
    *,
    rate_hz: int,
    range_hz: tuple[float, float] = CONTOUR.full_range_hz,
    onsets_s: FloatArray | None = None,
    highest_hz: float | None = None,
) -> Contour:
    """Contour of one channel.

    mono: float32, shape (n_samples,). range_hz: pitches to look for. onsets_s: attacks, where known: a jump of an
    exact octave just after one, and back from an island of one, is the tracker's and is undone. highest_hz: what of a
    pitch's partials a room or a small loudspeaker leaves is not taken for a pitch beyond it; by default the range's.
    """
    duration_s = len(mono) / rate_hz
    count = max(1, int(duration_s / CONTOUR.hop_s))
    time_s: FloatArray = np.arange(count, dtype=np.float64) * CONTOUR.hop_s
    level = _levels(mono, rate_hz, time_s)
    coarse_rate = min(CONTOUR.coarse_rate_hz, rate_hz)
    coarse = _coarse_track(resampled(mono, from_hz=rate_hz, to_hz=coarse_rate), coarse_rate, time_s, level, range_hz)
    fine_rate = min(CONTOUR.fine_rate_hz, rate_hz)
    fine = np.ascontiguousarray(resampled(mono, from_hz=rate_hz, to_hz=fine_rate), dtype=np.float32)
    if onsets_s is not None:
        fold_octaves(coarse, onsets_s, level)
    struck = np.zeros(count, np.bool_)
    if onsets_s is not None:
        struck[np.clip(np.round(onsets_s / CONTOUR.hop_s).astype(np.int64), 0, count - 1)] = True
    lift(fine, float(fine_rate), time_s, coarse, struck, highest_hz or CONTOUR.full_range_hz[1], _SETTINGS)
    f0, sigma, confidence, cents, partial_sigma = _refine(fine, float(fine_rate), time_s, coarse, _SETTINGS)
    return Contour(time_s, f0, sigma, confidence, level, cents, partial_sigma)


def _levels(mono: Samples, rate_hz: int, time_s: FloatArray) -> FloatArray:
    """RMS of 10 ms around each frame, dBFS, in pieces: a quarter of an hour squared at once would fill the memory."""
    edges = np.minimum(np.round(np.append(time_s, time_s[-1] + CONTOUR.hop_s) * rate_hz).astype(np.int64), len(mono))
    energy = np.zeros(len(time_s))
    for first in range(0, len(time_s), _CHUNK_FRAMES):
        last = min(first + _CHUNK_FRAMES, len(time_s))
        piece = np.square(mono[edges[first] : edges[last]], dtype=np.float64)
        starts = edges[first:last] - edges[first]
        inside = starts < len(piece)
        if inside.any():
            energy[first:last][inside] = np.add.reduceat(piece, starts[inside])
        let_go()
    lengths = np.diff(edges).astype(np.float64)
    before, before_length = np.append(0.0, energy[:-1]), np.append(0.0, lengths[:-1])
    power = (energy + before) / np.maximum(1.0, lengths + before_length)
    return np.asarray(10.0 * np.log10(np.maximum(power, 1e-20)))


# -- (1) the coarse track -----------------------------------------------------------------------------


def _coarse_track(
    x: Samples, rate: int, time_s: FloatArray, level_dbfs: FloatArray, range_hz: tuple[float, float]
) -> FloatArray:
    longest = int(np.ceil(rate / range_hz[0])) + 2
    shortest = max(3, int(rate / range_hz[1]))
    window = max(round(0.02 * rate), longest)
    reach = window + longest
    padded = copied(x, before=reach, after=2 * reach)
    starts = np.round(time_s * rate).astype(np.int64) + reach - reach // 2
    quiet = level_dbfs < max(CONTOUR.quiet_dbfs, float(level_dbfs.max()) - CONTOUR.quiet_below_peak_db)
    hop = round(CONTOUR.hop_s * rate)
    shared = window // hop if window % hop == 0 else 1
    lag = np.full((len(time_s), CONTOUR.candidates), np.nan, np.float32)
    cost = np.full((len(time_s), CONTOUR.candidates), np.inf, np.float32)
    loud = np.flatnonzero(~quiet)
    for first in range(0, len(loud), _CHUNK_FRAMES):
        part = loud[first : first + _CHUNK_FRAMES]
        cmndf = np.empty((len(part), longest), np.float32)
        _difference(padded, starts[part], window, shared, cmndf)
        lag[part], cost[part] = _candidates(cmndf, shortest, longest, _SETTINGS)
        let_go()
    path = _viterbi(lag, cost, _SETTINGS)
    return np.asarray(np.where(np.isnan(path), np.nan, rate / path))


@njit(cache=True, fastmath=True)
def _difference(x: Any, starts: Any, window: int, shared: int, out: Any) -> None:
    """Cumulative-mean-normalised difference function of x from each start on, lags 0 … longest-1, in place. The squares
    are summed as they are defined, so that nothing cancels; a window's parts, so many of one length, that the one
    before it has, too, are summed once. out: float32, shape (n_frames, longest).
    """
    longest, part = out.shape[1], window // shared
    parts = np.empty((shared, longest), np.float32)
    for i in range(len(starts)):
        known = shared - 1 if i > 0 and starts[i] - starts[i - 1] == part else 0
        for p in range(known):
            parts[p] = parts[p + 1]
        for p in range(known, shared):
            _squares(x, starts[i] + p * part, part, parts[p])
        out[i] = 0.0
        for p in range(shared):
            for lag in range(longest):
                out[i, lag] += parts[p, lag]
        total = 0.0
        out[i, 0] = 1.0
        for lag in range(1, longest):
            total += out[i, lag]
            out[i, lag] = out[i, lag] * lag / total if total > 1e-12 else 1.0


@njit(cache=True, fastmath=True)
def _squares(x: Any, start: int, count: int, out: Any) -> None:
    """Sum of the squares of what so many samples differ by from those a lag later, for each lag, in place."""
    out[:] = np.float32(0.0)
    lags, fours = len(out), count // 4 * 4
    # Four samples at once: each sum is fetched once for them.
    for at in range(start, start + fours, 4):
        later = x[at : at + lags + 3]
        a, b, c, d = x[at], x[at + 1], x[at + 2], x[at + 3]
        for lag in range(lags):
            e, f, g, h = a - later[lag], b - later[lag + 1], c - later[lag + 2], d - later[lag + 3]
            out[lag] += e * e + f * f + g * g + h * h
    for at in range(start + fours, start + count):
        later = x[at : at + lags]
        for lag in range(lags):
            e = x[at] - later[lag]
            out[lag] += e * e


@njit(cache=True)
def _candidates(cmndf: Any, shortest: int, longest: int, s: Any) -> Any:
    lag = np.full((len(cmndf), s.candidates), np.nan, np.float32)
    cost = np.full((len(cmndf), s.candidates), np.inf, np.float32)
    for i in range(cmndf.shape[0]):
        d = cmndf[i]
        for t in range(shortest, longest - 1):
            if d[t] < d[t - 1] and d[t] <= d[t + 1] and d[t] < s.candidate_most:
                curve = d[t - 1] - 2.0 * d[t] + d[t + 1]
                shift = 0.5 * (d[t - 1] - d[t + 1]) / curve if curve > 0 else 0.0
                value = d[t] - 0.25 * (d[t - 1] - d[t + 1]) * shift
                c = max(value, 0.0) + s.octave_bias * np.log2(t / shortest)
                worst = 0
                for k in range(1, cost.shape[1]):
                    if cost[i, k] > cost[i, worst]:
                        worst = k
                if c < cost[i, worst]:
                    cost[i, worst] = c
                    lag[i, worst] = t + shift
    return lag, cost


@njit(cache=True)
def _viterbi(lag: Any, cost: Any, s: Any) -> Any:
    n, k = lag.shape
    states = k + 1
    total = np.full(states, 0.0)
    back = np.zeros((n, states), np.int8)
    for j in range(k):
        total[j] = cost[0, j]
    total[k] = s.unvoiced_cost
    for i in range(1, n):
        new = np.empty(states)
        for j in range(states):
            best, which = np.inf, 0
            for p in range(states):
                if j < k and p < k:
                    if not (np.isfinite(cost[i, j]) and np.isfinite(cost[i - 1, p])):
                        continue
                    move = min(s.jump_most, s.jump_per_octave * abs(np.log2(lag[i, j] / lag[i - 1, p])))
                elif j == p:
                    move = 0.0
                else:
                    move = s.voicing_switch
                value = total[p] + move
                if value < best:
                    best, which = value, p
            new[j] = best + (cost[i, j] if j < k else s.unvoiced_cost)
            back[i, j] = which
        total = new
    path = np.full(n, np.nan)
    state = int(np.argmin(total))
    for i in range(n - 1, -1, -1):
        if state < k:
            path[i] = lag[i, state]
        state = back[i, state]
    return path


# -- (2) and (3) partial by partial ---------------------------------------------------------------------


@njit(cache=True)
def _refine(x: Any, rate: float, time_s: Any, coarse: Any, s: Any) -> Any:
    n = len(time_s)
    f0 = np.full(n, np.nan)
    sigma = np.full(n, np.nan)
    confidence = np.zeros(n)
    cents = np.full((n, s.n_partials), np.nan, np.float32)
    sigmas = np.full((n, s.n_partials), np.nan, np.float32)
    delta = np.empty(s.n_partials)
    spread = np.empty(s.n_partials)
    amplitude = np.empty(s.n_partials)
    work, out = np.empty(WORK), np.empty((4, 2 * s.n_partials + 1))
    for i in range(n):
        if np.isnan(coarse[i]):
            continue
        f = _expected(f0, i, coarse[i], s)
        # A window that fits another pitch lets the partials into each other: a reading leaves a fifth of what it began
        # off. So again, with the window that fits what was read, until that is where it began.
        for turn in range(s.most_readings):
            count, harmonic, between = _read_partials(
                x, time_s[i] * rate, rate, f, delta, spread, amplitude, work, out, s
            )
            mean, weight = _averaged(delta[:count], spread[:count], amplitude[:count], s)
            if weight <= 0.0 or abs(mean) > s.most_off_cents:
                break
            f = f * 2.0 ** (mean / 1200.0)
            if turn == s.most_readings - 1 or abs(mean) <= s.again_cents:
                f0[i] = f
                sigma[i] = np.sqrt(1.0 / weight)
                confidence[i] = max(0.0, 1.0 - between / harmonic) if harmonic > 0 else 0.0
                for k in range(count):
                    if not np.isnan(delta[k]):
                        cents[i, k] = delta[k] - mean
                        sigmas[i, k] = spread[k]
                break
    return f0, sigma, confidence, cents, sigmas


@njit(cache=True)
def _expected(f0: Any, i: int, coarse: float, s: Any) -> float:
    """Where a frame's pitch is read from: where the two frames before it lead, if that is near the coarse track's,
    else from that.
    """
    if i < 2 or np.isnan(f0[i - 1]) or np.isnan(f0[i - 2]):
        return float(coarse)
    led = f0[i - 1] * f0[i - 1] / f0[i - 2]
    return float(led if abs(1200.0 * np.log2(led / coarse)) <= s.led_cents else coarse)


@njit(cache=True)
def _read_partials(
    x: Any, centre: float, rate: float, f: float, delta: Any, spread: Any, amplitude: Any, work: Any, out: Any, s: Any
) -> Any:
    """Distance of each partial from its multiple of f and its standard deviation, cents, and its power, in place; how
    many there are, the sum of their powers, and of the powers half-way between them.
    """
    length = s.window_periods * rate / f
    derivative_gain = np.sqrt(4.0 / 3.0) * np.pi / length
    to_cents = 1200.0 / np.log(2.0)
    count = min(s.n_partials, int(0.45 * rate / f))
    # The partials are every second multiple; the others are the places half-way before and after each.
    omega_half = np.pi * f / rate
    transform(x, centre, length, omega_half, 2 * count + 1, work, out)
    harmonic = 0.0
    between = 0.0
    for k in range(count):
        low, at, high = 2 * k, 2 * k + 1, 2 * k + 2
        omega = omega_half * high
        re, im, dre, dim = out[0, at], out[1, at], out[2, at], out[3, at]
        power = re * re + im * im
        amplitude[k] = power
        harmonic += power
        floor = 0.5 * (out[0, low] ** 2 + out[1, low] ** 2 + out[0, high] ** 2 + out[1, high] ** 2)
        between += floor
        if power <= s.stands_out * floor or power <= 0.0:
            delta[k] = np.nan
            continue
        # -Im(X_dh / X_h), rad per sample
        shift = -(dim * re - dre * im) / power
        delta[k] = np.log1p(shift / omega) * to_cents if shift > -0.5 * omega else np.nan
        spread[k] = to_cents * np.sqrt(floor / power / 2.0) * derivative_gain / omega
    return count, harmonic, between


@njit(cache=True)
def _averaged(delta: Any, spread: Any, amplitude: Any, s: Any) -> Any:
    """Mean of the partials near their weighted median and its weight (0 where there are none); what is not near
    becomes NaN, in place.
    """
    count = len(delta)
    strongest = 0.0
    for k in range(count):
        if amplitude[k] > strongest:
            strongest = amplitude[k]
    least = s.least_power_share * strongest
    middle = _weighted_median(delta, spread, amplitude, count, least)
    if np.isnan(middle):
        return 0.0, 0.0
    top = bottom = 0.0
    for k in range(count):
        near = s.near_cents + s.near_cents_stiff * (k + 1) * (k + 1)
        if np.isnan(delta[k]) or amplitude[k] < least or abs(delta[k] - middle) > near:
            delta[k] = np.nan
            continue
        w = 1.0 / (spread[k] * spread[k] + s.partial_sigma_floor_cents**2)
        top += w * delta[k]
        bottom += w
    return (top / bottom, bottom) if bottom > 0.0 else (0.0, 0.0)


@njit(cache=True)
def _weighted_median(delta: Any, spread: Any, amplitude: Any, count: int, least: float) -> float:
    order = np.argsort(delta[:count])
    total = 0.0
    for k in range(count):
        if not np.isnan(delta[k]) and amplitude[k] >= least:
            total += 1.0 / (spread[k] + 1.0)
    so_far = 0.0
    for k in order:
        if np.isnan(delta[k]) or amplitude[k] < least:
            continue
        so_far += 1.0 / (spread[k] + 1.0)
        if so_far >= 0.5 * total:
            return float(delta[k])
    return np.nan
