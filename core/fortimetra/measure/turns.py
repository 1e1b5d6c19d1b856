"""Turning points of a swinging pitch: where it is highest and lowest, set right for the window it was read with.

Method: turning points are found by prominence and placed by a least-squares arc of the local period. The contour's
window (Hann, CONTOUR.window_periods periods of the note) averages the pitch over its length; of a swing at rate r it
leaves H(r) = sin(πrL) / (πrL·(1 − (rL)²)) (transform of the Hann window: Harris, Proc. IEEE 66(1), 1978), by which
turning points are set right.
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from scipy import signal

from fortimetra.hear.settings import CONTOUR
from fortimetra.measure.settings import STATISTICS, VIBRATO
from fortimetra.units import FloatArray


@dataclass(frozen=True)
class Turns:
    """Turning points in order: time_s, cents, +1 top and −1 bottom; what one is uncertain by (SD).

    crossing_s: when the middle is passed between one and the next, shape (n - 1,). The end of a straight stretch has
    a height but no place of its own; it is placed by symmetry about the crossing beside it.
    """

    time_s: FloatArray
    cents: FloatArray
    kind: FloatArray
    crossing_s: FloatArray
    sd_s: float
    sd_cents: float


NOTHING = Turns(np.empty(0), np.empty(0), np.empty(0), np.empty(0), 0.0, 0.0)


def window_response(rate_hz: float, window_s: float) -> float:
    """What a Hann window of a length leaves of a swing, 0 to 1.

    >>> round(window_response(6.0, 0.0485), 3), window_response(0.0, 0.05)
    (0.947, 1.0)
    """
    x = rate_hz * window_s
    if x >= 1.0:
        return 0.5 if x == 1.0 else float(np.sinc(x) / (1.0 - x * x))
    return float(np.sinc(x) / (1.0 - x * x))


def find_turns(
    time_s: FloatArray, cents: FloatArray, sigma_cents: FloatArray, *, window_s: FloatArray | float = 0.0
) -> Turns:
    """Turning points of a contour without gaps, set right for the window it was read with.

    time_s, cents and sigma_cents: shape (n_frames,). window_s: length of that window, s; per frame or one for all.
    """
    if len(cents) < VIBRATO.least_frames:
        return NOTHING
    smooth_frames = max(5, round(VIBRATO.smoothed_s / CONTOUR.hop_s) | 1)
    smooth = signal.savgol_filter(cents, smooth_frames, 2, mode="interp")
    noise = float(np.sqrt(np.mean((cents - smooth) ** 2)))
    at, kind = _extremes(smooth, max(noise, float(np.median(sigma_cents)) / 2.0))
    if len(at) < 3:
        return NOTHING
    first, last = _regular(time_s[at], smooth[at])
    first, last = _without_ways(time_s[at], first, last)
    at, kind = _with_ends(smooth, at[first:last], kind[first:last])
    if len(at) < 3:
        return NOTHING
    half = np.diff(time_s[at])
    rough_s = 2.0 * float(np.median(half))
    placed = [
        _arc(time_s, cents, int(i), rough_s if n in (0, len(at) - 1) else _local(half, n)) for n, i in enumerate(at)
    ]
    t, c = np.array([p[0] for p in placed]), np.array([p[1] for p in placed])
    window = np.broadcast_to(np.asarray(window_s, dtype=np.float64), cents.shape)[at]
    # Each turn by the period it stands in: a vibrato may quicken.
    own_s = half[:-1] + half[1:]
    own_s = np.concatenate((own_s[:1], own_s, own_s[-1:]))
    left = np.array([window_response(1.0 / s, float(w)) for s, w in zip(own_s, window, strict=True)])
    middle = _middle(c)
    c = middle + (c - middle) / left
    crossing = np.array(
        [
            _crossing(time_s, smooth, int(at[n]), int(at[n + 1]), 0.5 * (middle[n] + middle[n + 1]))
            for n in range(len(at) - 1)
        ]
    )
    half_swing = float(np.median(np.abs(np.diff(c)))) / 2.0
    leaves = _leaves(smooth, at, kind, half_swing, round(rough_s / 2.0 / CONTOUR.hop_s))
    apart = np.diff(t)
    leaves = (
        leaves[0] and bool(apart[0] <= VIBRATO.held_a_little * apart[1]),
        leaves[1] and bool(apart[-1] <= VIBRATO.held_a_little * apart[-2]),
    )
    if not leaves[0]:
        t[0], c[0] = 2.0 * crossing[0] - t[1], smooth[at[0]]
    if not leaves[1]:
        t[-1], c[-1] = 2.0 * crossing[-1] - t[-2], smooth[at[-1]]
    rest = max(noise, float(np.median(sigma_cents)))
    sd_s, sd_cents = _uncertainty(rest, rough_s, half_swing, float(np.median(window)))
    return Turns(t, c, kind, crossing, sd_s, sd_cents)


def _uncertainty(rest_cents: float, period_s: float, half_swing_cents: float, window_s: float) -> tuple[float, float]:
    """Standard deviation of a turn's time, s, and of its height, cents; rest_cents: what lies about the swing."""
    arc_frames = max(3.0, 2.0 * VIBRATO.arc_share * period_s / CONTOUR.hop_s)
    # Frames overlap by the window: so many of an arc are independent.
    own = max(1.0, arc_frames * CONTOUR.hop_s / max(CONTOUR.hop_s, window_s / 2.0))
    of_one = rest_cents / np.sqrt(own)
    # A top is flat: its place is as uncertain as its slope there.
    sd_s = np.hypot(VIBRATO.time_sd_s, of_one * period_s / (2.0 * np.pi * max(half_swing_cents, 1e-6)))
    return float(sd_s), float(np.hypot(1.5 * of_one, STATISTICS.method_sd_cents))


def _extremes(smooth: FloatArray, noise_cents: float) -> tuple[np.ndarray, FloatArray]:
    """Tops and bottoms in turn that stand out of the noise and of smaller to and fro on the way between them."""
    low, high = np.percentile(smooth, (10.0, 90.0))
    least = max(
        VIBRATO.least_swing_cents,
        VIBRATO.least_swing_sigmas * noise_cents,
        VIBRATO.least_swing_share * float(high - low),
    )
    distance = max(2, round(VIBRATO.shortest_period_s / CONTOUR.hop_s))
    tops = signal.find_peaks(smooth, prominence=least, distance=distance)[0]
    bottoms = signal.find_peaks(-smooth, prominence=least, distance=distance)[0]
    return _alternating(tops, bottoms, smooth)


def _alternating(tops: np.ndarray, bottoms: np.ndarray, smooth: FloatArray) -> tuple[np.ndarray, FloatArray]:
    """Tops and bottoms in turn; of several in a row the most extreme."""
    merged = sorted([(int(i), 1.0) for i in tops] + [(int(i), -1.0) for i in bottoms])
    kept: list[tuple[int, float]] = []
    for i, kind in merged:
        if kept and kept[-1][1] == kind:
            if kind * smooth[i] > kind * smooth[kept[-1][0]]:
                kept[-1] = (i, kind)
            continue
        kept.append((i, kind))
    return np.array([i for i, _ in kept], dtype=np.int64), np.array([k for _, k in kept])


def _regular(time_s: FloatArray, cents: FloatArray) -> tuple[int, int]:
    """The longest stretch of turning points whose swings and times are of one kind: first, last + 1."""
    swing, half = np.abs(np.diff(cents)), np.diff(time_s)
    usual, usual_s = float(np.median(swing)), float(np.median(half))
    good = (
        (swing > VIBRATO.uneven_swing * usual)
        & (swing < usual / VIBRATO.uneven_swing)
        & (half > usual_s / VIBRATO.uneven_time)
        & (half < usual_s * VIBRATO.uneven_time)
    )
    edges = np.flatnonzero(np.diff(np.concatenate(([0], good.astype(np.int8), [0]))))
    if not len(edges):
        return 0, 0
    starts, ends = edges[::2], edges[1::2]
    best = int(np.argmax(ends - starts))
    return int(starts[best]), int(ends[best]) + 1


def _without_ways(time_s: FloatArray, first: int, last: int) -> tuple[int, int]:
    """The same stretch without the ways in and out: a bend that has arrived and is held before it swings looks like a
    turn at its arrival, and one half period that is far too long. first, last + 1.
    """
    half = np.diff(time_s[first:last])
    if len(half) < VIBRATO.min_cycles + 2:
        return first, last
    return first + _long_at_the_start(half), last - _long_at_the_start(half[::-1])


def _long_at_the_start(half: FloatArray) -> int:
    """How many turns lie before a first or second half period that is far longer than those beside it; a vibrato that
    quickens has no single long one.
    """
    if half[1] > VIBRATO.way_in * max(half[0], half[2]):
        return 2
    return int(half[0] > VIBRATO.way_in * half[1])


def _local(half: FloatArray, n: int) -> float:
    return float(half[n - 1] + half[n])


def _arc(time_s: FloatArray, cents: FloatArray, at: int, period_s: float) -> tuple[float, float]:
    """Time and height of an extreme: least-squares a + b·cos + c·sin of the local period around it."""
    reach = max(2, round(VIBRATO.arc_share * period_s / CONTOUR.hop_s))
    part = slice(max(0, at - reach), min(len(cents), at + reach + 1))
    omega = 2.0 * np.pi / period_s
    t = time_s[part] - time_s[at]
    design = np.stack((np.ones_like(t), np.cos(omega * t), np.sin(omega * t)), axis=1)
    (a, b, c), *_ = np.linalg.lstsq(design, cents[part], rcond=None)
    up = 1.0 if cents[at] > np.mean(cents[part]) else -1.0
    shift = float(np.arctan2(up * c, up * b) / omega)
    if abs(shift) > (reach + 1) * CONTOUR.hop_s:
        return float(time_s[at]), float(cents[at])
    return float(time_s[at] + shift), float(a + up * np.hypot(b, c))


def _with_ends(smooth: FloatArray, at: np.ndarray, kind: FloatArray) -> tuple[np.ndarray, FloatArray]:
    """Where a straight stretch leads into the swinging or out of it, its end as one more turning point. Where what is
    read ends in the middle of a swing there is none.
    """
    if len(at) < 3:
        return at, kind
    half_frames = float(np.median(np.diff(at)))
    aside = max(2, round(VIBRATO.rests_share * half_frames))
    # From where it turns a swing moves by so much; where it is cut it moves by more.
    still = VIBRATO.rests_factor * 0.5 * (1.0 - np.cos(np.pi * aside / half_frames))
    reach = round(VIBRATO.ends_reach * half_frames)
    usual = float(np.median(np.abs(np.diff(smooth[at]))))
    before = smooth[max(0, at[0] - reach) : at[0]]
    if len(before):
        place = max(0, at[0] - reach) + int(np.argmin(kind[0] * before))
        rests = place >= aside or abs(smooth[place] - smooth[place + aside]) < still * usual
        if rests and kind[0] * (smooth[at[0]] - smooth[place]) > VIBRATO.least_leaving * usual:
            at, kind = np.concatenate(([place], at)), np.concatenate(([-kind[0]], kind))
    after = smooth[at[-1] + 1 : at[-1] + 1 + reach]
    if len(after):
        place = int(at[-1]) + 1 + int(np.argmin(kind[-1] * after))
        at_end = place + aside >= len(smooth)
        rests = not at_end or abs(smooth[place] - smooth[place - aside]) < still * usual
        if rests and kind[-1] * (smooth[at[-1]] - smooth[place]) > VIBRATO.least_leaving * usual:
            at, kind = np.concatenate((at, [place])), np.concatenate((kind, [-kind[-1]]))
    return at, kind


def _leaves(
    smooth: FloatArray, at: np.ndarray, kind: FloatArray, half_swing: float, half_frames: int
) -> tuple[bool, bool]:
    """Whether the contour, beyond the first and the last turning point, moves away within half a period as a swing
    does.
    """
    sides = ((0, smooth[max(0, at[0] - half_frames) : at[0] + 1]), (-1, smooth[at[-1] : at[-1] + half_frames + 1]))
    first, last = (
        float(np.max(kind[end] * (smooth[at[end]] - beside))) > VIBRATO.least_leaving * 2.0 * half_swing
        for end, beside in sides
    )
    return first, last


def _middle(cents: FloatArray) -> FloatArray:
    """The middle of the swing at each turning point, from its neighbours."""
    middle = np.empty_like(cents)
    middle[1:-1] = 0.5 * cents[1:-1] + 0.25 * (cents[:-2] + cents[2:])
    middle[0], middle[-1] = 0.5 * (cents[0] + cents[1]), 0.5 * (cents[-1] + cents[-2])
    return middle


def _crossing(time_s: FloatArray, smooth: FloatArray, first: int, last: int, level: float) -> float:
    """When the contour passes a level between two of its turning points."""
    part = smooth[first : last + 1]
    rising = part[-1] > part[0]
    ordered = np.maximum.accumulate(part) if rising else -np.maximum.accumulate(-part)
    times = time_s[first : last + 1]
    return float(np.interp(level, ordered, times) if rising else np.interp(-level, -ordered, times))
