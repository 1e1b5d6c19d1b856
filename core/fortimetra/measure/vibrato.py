"""Vibrato, cycle by cycle: rate, extent, evenness, and whether it comes back to its line.

Conventions: cents are relative to the return line's reference (bottom: the fretted pitch; top: the bent target;
centre: the pitch in the middle). A turning point is an extreme of the contour between two opposite ones.

- rate_hz: 1 / mean period; periods run from one turning point on the return line to the next (centre: from one rising
  crossing of the middle to the next). rate_cv: coefficient of variation of the periods
- extent_cents: mean over cycles of the far turning point against the mean of its two neighbours; extent_cv likewise
- return_error_cents, return_sd_cents: turning points on the return line (centre: middles between neighbours)
- shape: subtle below 50, medium 50 to 100, wide over 100 cents peak to peak
- fade_db_per_s: slope of the level during the vibrato less that of the same string without it

Method: turning points are found by prominence and placed by a least-squares arc of the local period. The contour's
window (Hann, CONTOUR.window_periods periods of the note) averages the pitch over its length; of a swing at rate r it
leaves H(r) = sin(πrL) / (πrL·(1 − (rL)²)) (transform of the Hann window: Harris, Proc. IEEE 66(1), 1978), by which
turning points are set right.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, replace
from itertools import pairwise
from typing import Literal

import numpy as np
from scipy import signal

from fortimetra.hear.contour import Contour
from fortimetra.hear.notes import HeardNote
from fortimetra.hear.settings import CONTOUR
from fortimetra.measure.settings import STATISTICS, VIBRATO
from fortimetra.measure.statistics import partials_disagree
from fortimetra.units import FloatArray

Line = Literal["bottom", "top", "centre"]
Shape = Literal["subtle", "medium", "wide"]


@dataclass(frozen=True)
class VibratoMeasured:
    """Values of one vibrato; None where they cannot be had, `reasons` says why. `u_…` as in the contract."""

    cycles: int
    rate_hz: float | None = None
    rate_cv: float | None = None
    extent_cents: float | None = None
    extent_cv: float | None = None
    return_error_cents: float | None = None
    return_sd_cents: float | None = None
    fade_db_per_s: float | None = None
    region: tuple[float, float] | None = None
    u_rate: float | None = None
    u_rate_cv: float | None = None
    u_extent: float | None = None
    u_extent_cv: float | None = None
    u_return: float | None = None
    edges_s: tuple[float, ...] = ()  # where cycles begin and end
    reasons: tuple[str, ...] = ()

    @property
    def shape(self) -> Shape | None:
        """The house class of its width."""
        if self.extent_cents is None:
            return None
        return (
            "subtle"
            if self.extent_cents < VIBRATO.subtle_cents
            else "wide"
            if self.extent_cents > VIBRATO.wide_cents
            else "medium"
        )


@dataclass(frozen=True)
class Turns:
    """Turning points in order: time_s, cents, +1 top and −1 bottom; what one is uncertain by (SD).

    crossing_s: when the middle is passed between one and the next, shape (n - 1,). The end of a straight stretch has
    a height but no place of its own; it is placed by symmetry about the crossing beside it. placed: whether the first
    and the last have one of their own.
    """

    time_s: FloatArray
    cents: FloatArray
    kind: FloatArray
    crossing_s: FloatArray
    sd_s: float
    sd_cents: float
    placed: tuple[bool, bool] = (True, True)


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

    window_s: length of that window, s; per frame or one for all.
    """
    if len(cents) < 12:
        return NOTHING
    smooth_frames = max(5, round(VIBRATO.smoothed_s / CONTOUR.hop_s) | 1)
    smooth = signal.savgol_filter(cents, smooth_frames, 2, mode="interp")
    noise = float(np.sqrt(np.mean((cents - smooth) ** 2)))
    least = max(VIBRATO.least_swing_cents, VIBRATO.least_swing_sigmas * max(noise, float(np.median(sigma_cents)) / 2.0))
    distance = max(2, round(VIBRATO.shortest_period_s / CONTOUR.hop_s))
    tops = signal.find_peaks(smooth, prominence=least, distance=distance)[0]
    bottoms = signal.find_peaks(-smooth, prominence=least, distance=distance)[0]
    at, kind = _alternating(tops, bottoms, smooth)
    if len(at) < 3:
        return NOTHING
    first, last = _regular(time_s[at], smooth[at])
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
    if not leaves[0]:
        t[0], c[0] = 2.0 * crossing[0] - t[1], smooth[at[0]]
    if not leaves[1]:
        t[-1], c[-1] = 2.0 * crossing[-1] - t[-2], smooth[at[-1]]
    rest = max(noise, float(np.median(sigma_cents)))
    arc_frames = max(3.0, 2.0 * VIBRATO.arc_share * rough_s / CONTOUR.hop_s)
    # Frames overlap by the window: so many of an arc are independent.
    own = max(1.0, arc_frames * CONTOUR.hop_s / max(CONTOUR.hop_s, float(np.median(window)) / 2.0))
    sd_cents = float(np.hypot(1.5 * rest / np.sqrt(own), STATISTICS.method_sd_cents))
    # A top is flat: its place is as uncertain as its slope there.
    sd_s = float(np.hypot(VIBRATO.time_sd_s, rest / np.sqrt(own) * rough_s / (2.0 * np.pi * max(half_swing, 1e-6))))
    return Turns(t, c, kind, crossing, sd_s, sd_cents, leaves)


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
    """Where a straight stretch leads into the swinging or out of it, its end as one more turning point."""
    if len(at) < 3:
        return at, kind
    reach = round(VIBRATO.ends_reach * float(np.median(np.diff(at))))
    usual = float(np.median(np.abs(np.diff(smooth[at]))))
    before = smooth[max(0, at[0] - reach) : at[0]]
    if len(before):
        place = max(0, at[0] - reach) + int(np.argmin(kind[0] * before))
        if kind[0] * (smooth[at[0]] - smooth[place]) > VIBRATO.least_leaving * usual:
            at, kind = np.concatenate(([place], at)), np.concatenate(([-kind[0]], kind))
    after = smooth[at[-1] + 1 : at[-1] + 1 + reach]
    if len(after):
        place = int(at[-1]) + 1 + int(np.argmin(kind[-1] * after))
        if kind[-1] * (smooth[at[-1]] - smooth[place]) > VIBRATO.least_leaving * usual:
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


def measure_vibrato(
    contour: Contour,
    note: HeardNote,
    *,
    line: Line,
    reference_hz: float,
    u_reference_cents: float = 0.0,
    from_s: float | None = None,
    straight_db_per_s: float | None = None,
) -> VibratoMeasured:
    """Measure the vibrato of one note.

    reference_hz: the pitch of the return line. from_s: where it may begin (a bend has to arrive first).
    straight_db_per_s: the string's own slope of level without vibrato.
    """
    begin = note.onset_s + 0.03 if from_s is None else from_s
    frames = contour.frames(begin, note.followed_to_s - VIBRATO.end_s)
    f0 = contour.f0_hz[frames]
    voiced = ~np.isnan(f0)
    if np.count_nonzero(voiced) < 12:
        return VibratoMeasured(0, reasons=("too_short",))
    time = contour.time_s[frames]
    if _longest_gap_s(voiced) > VIBRATO.bridged_gap_s:
        time, f0, voiced, frames = _longest_voiced(time, f0, frames)
        if len(f0) < 12:
            return VibratoMeasured(0, reasons=("no_pitch",))
    cents = np.interp(time, time[voiced], 1200.0 * np.log2(f0[voiced] / reference_hz))
    sigma = np.nan_to_num(contour.sigma_cents[frames], nan=1.0)
    window_s = CONTOUR.window_periods / np.interp(time, time[voiced], f0[voiced])
    turns = find_turns(time, cents, sigma, window_s=window_s)
    found = evaluate(turns, line=line, u_reference_cents=u_reference_cents, window_s=float(np.median(window_s)))
    if found.region is None or found.u_return is None:
        return found
    u_return = float(np.hypot(found.u_return, _u_of_room(contour, turns, line)))
    slope = _level_slope(contour, *found.region)
    fade = None if slope is None or straight_db_per_s is None else slope - straight_db_per_s
    return replace(found, fade_db_per_s=fade, u_return=u_return)


def _u_of_room(contour: Contour, turns: Turns, line: Line) -> float:
    """Expanded uncertainty of the return line, cents, from how far the partials disagree where it is read: a room holds
    what was played before, each partial for another time, and the swing looks narrower than it was.
    """
    on_line = np.ones(len(turns.kind), bool) if line == "centre" else turns.kind == (1.0 if line == "top" else -1.0)
    middle = np.round(turns.time_s[on_line] / CONTOUR.hop_s).astype(np.int64)
    frames = np.unique(middle[:, None] + np.arange(-1, 2))
    frames = frames[(frames >= 0) & (frames < len(contour.time_s))]
    return STATISTICS.coverage * STATISTICS.disagree_factor * partials_disagree(contour, frames)


def evaluate(turns: Turns, *, line: Line, u_reference_cents: float = 0.0, window_s: float = 0.0) -> VibratoMeasured:
    """From turning points to values."""
    on_line = turns.kind == (1.0 if line == "top" else -1.0)
    cycles = max(0, int(np.count_nonzero(on_line)) - 1)
    edges = turns.crossing_s[turns.kind[:-1] < 0] if line == "centre" else turns.time_s[on_line]
    periods = np.diff(edges)
    if cycles < VIBRATO.min_cycles or len(periods) < VIBRATO.min_cycles - 1:
        return VibratoMeasured(cycles, reasons=("too_few_cycles",))
    period = float(np.mean(periods))
    far = slice(1, len(turns.cents) - 1)
    swings = np.abs(turns.cents[far] - 0.5 * (turns.cents[:-2] + turns.cents[2:]))
    if line != "centre":
        swings = swings[~on_line[far]]
    extent = float(np.mean(swings))
    lines = (
        0.5 * turns.cents[far] + 0.25 * (turns.cents[:-2] + turns.cents[2:])
        if line == "centre"
        else _returns(turns.cents[on_line], extent)
    )
    left = window_response(1.0 / period, window_s)
    method = float(np.hypot(VIBRATO.h_uncertain * (1.0 / left - 1.0), VIBRATO.shape_uncertain)) * extent
    count = len(swings)
    noise_extent = 1.25 * turns.sd_cents
    noise_period = np.sqrt(2.0) * turns.sd_s / period
    ends = np.sqrt(2.0) * np.hypot(turns.sd_s, 0.0 if all(turns.placed) else VIBRATO.unplaced_sd_s) / period
    return VibratoMeasured(
        cycles,
        rate_hz=1.0 / period,
        rate_cv=float(np.std(periods, ddof=1) / period),
        extent_cents=extent,
        extent_cv=float(np.std(swings, ddof=1) / extent) if count > 1 and extent > 0 else None,
        return_error_cents=float(np.mean(lines)),
        return_sd_cents=float(np.std(lines, ddof=1)),
        region=(round(float(turns.time_s[0]), 4), round(float(turns.time_s[-1]), 4)),
        edges_s=tuple(float(e) for e in edges),
        u_rate=STATISTICS.coverage * float(ends) / len(periods) / period,
        u_rate_cv=STATISTICS.coverage * float(np.hypot(noise_period / np.sqrt(2.0 * len(periods)), VIBRATO.rate_cv_sd)),
        u_extent=STATISTICS.coverage * float(np.hypot(noise_extent / np.sqrt(count), method)),
        u_extent_cv=STATISTICS.coverage * noise_extent / extent / np.sqrt(2.0 * count) + VIBRATO.extent_cv_sd,
        u_return=float(
            np.hypot(
                STATISTICS.coverage
                * np.hypot(np.hypot(turns.sd_cents / np.sqrt(len(lines)), method / 2.0), VIBRATO.line_sd_cents),
                u_reference_cents,
            )
        ),
    )


def _returns(on_line: FloatArray, extent: float) -> FloatArray:
    """The turning points that are returns: where the swinging begins or stops half-way it has not come back."""
    if len(on_line) < VIBRATO.min_cycles + 1:
        return on_line
    inner = on_line[1:-1]
    ends = np.abs(on_line[[0, -1]] - np.median(inner)) <= VIBRATO.end_share * extent
    return np.concatenate((on_line[:1][ends[:1]], inner, on_line[-1:][ends[1:]]))


def path_of(
    found: VibratoMeasured, shares: int, note_s: tuple[float, float]
) -> tuple[tuple[float | None, float | None], ...]:
    """The rate and its expanded uncertainty in each equal share of the note: the median of the cycles that lie in it.

    (None, None) where a share has no whole cycle.
    """
    edges = np.array(found.edges_s)
    if found.region is None or len(edges) < 2:
        return ((None, None),) * shares
    rates, middles = 1.0 / np.diff(edges), 0.5 * (edges[1:] + edges[:-1])
    bounds = np.linspace(*note_s, shares + 1)
    read: list[tuple[float | None, float | None]] = []
    for low, high in pairwise(bounds):
        own = rates[(middles >= low) & (middles < high)]
        if not len(own):
            read.append((None, None))
            continue
        scatter = float(np.std(own, ddof=1)) if len(own) > 1 else 0.0
        rate = float(np.median(own))
        read.append(
            (
                rate,
                STATISTICS.coverage
                * float(np.hypot(scatter / np.sqrt(len(own)), VIBRATO.time_sd_s * rate**2 * np.sqrt(2.0))),
            )
        )
    return tuple(read)


def _longest_gap_s(voiced: np.ndarray) -> float:
    return _longest_run(~voiced)[1] * CONTOUR.hop_s


def _longest_run(flags: np.ndarray) -> tuple[int, int]:
    """Start and length of the longest run of True."""
    edges = np.flatnonzero(np.diff(np.concatenate(([0], flags.astype(np.int8), [0]))))
    if not len(edges):
        return 0, 0
    lengths = edges[1::2] - edges[::2]
    best = int(np.argmax(lengths))
    return int(edges[2 * best]), int(lengths[best])


def _longest_voiced(
    time: FloatArray, f0: FloatArray, frames: slice
) -> tuple[FloatArray, FloatArray, np.ndarray, slice]:
    start, length = _longest_run(~np.isnan(f0))
    part = slice(start, start + length)
    return time[part], f0[part], np.ones(length, dtype=bool), slice(frames.start + start, frames.start + start + length)


def _level_slope(contour: Contour, from_s: float, to_s: float) -> float | None:
    frames = contour.frames(from_s, to_s)
    if frames.stop - frames.start < 20:
        return None
    return float(np.polyfit(contour.time_s[frames], contour.level_dbfs[frames], 1)[0])


def straight_slopes(contour: Contour, notes: Sequence[tuple[int, HeardNote]]) -> dict[int, float]:
    """Slope of level (dB/s) of each string's notes without vibrato; notes: (string, note)."""
    found: dict[int, list[float]] = {}
    for string, note in notes:
        slope = _level_slope(contour, note.onset_s + 0.1, note.end_s - VIBRATO.end_s)
        if slope is not None:
            found.setdefault(string, []).append(slope)
    return {string: float(np.median(slopes)) for string, slopes in found.items()}
