"""Vibrato, cycle by cycle: rate, extent, evenness, and whether it comes back to its line.

Conventions: cents are relative to the return line's reference (bottom: the fretted pitch; top: the bent target;
centre: the pitch in the middle). A turning point is an extreme of the contour between two opposite ones.

- rate_hz: 1 / mean period, by the crossings of the middle: there the pitch is at its quickest, where it turns it stands
  still. rate_cv: coefficient of variation of the periods, which run from one turning point on the return line to the
  next (centre: from one rising crossing of the middle to the next)
- extent_cents: mean over cycles of the far turning point against the mean of its two neighbours; extent_cv likewise
- return_error_cents, return_sd_cents: turning points on the return line (centre: middles between neighbours)
- shape: subtle below 50, medium 50 to 100, wide over 100 cents peak to peak
- fade_db_per_s: slope of the level during the vibrato less that of the same string without it
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, field, replace
from itertools import pairwise
from typing import Literal

import numpy as np
from numpy.typing import NDArray
from scipy.special import stdtrit

from fortimetra.hear.contour import Contour
from fortimetra.hear.notes import HeardNote
from fortimetra.hear.settings import CONTOUR, NOTES, WARPED
from fortimetra.hear.warped import warped
from fortimetra.measure.settings import STATISTICS, VIBRATO
from fortimetra.measure.swing_room import u_at_turns, u_of_widths, widths_disagree_cents
from fortimetra.measure.turns import Turns, find_turns, window_response
from fortimetra.sound.decode import resampled
from fortimetra.sound.samples import Samples
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
    course: Contour | None = field(default=None, repr=False, compare=False)  # read anew, where it was read from that

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
class Swing:
    """What is known of a vibrato before it is read. reference_hz: the pitch of its return line, known to
    u_reference_cents. straight_db_per_s: the string's own slope of level without vibrato, where that is known.
    """

    line: Line
    reference_hz: float
    u_reference_cents: float = 0.0
    straight_db_per_s: float | None = None

    def read(self, contour: Contour, frames: slice) -> tuple[VibratoMeasured, float]:
        """As the contour has it, set right for its window; and what a room may hide of its width, cents."""
        f0 = contour.f0_hz[frames]
        time_s, voiced = contour.time_s[frames], ~np.isnan(f0)
        cents = np.interp(time_s, time_s[voiced], 1200.0 * np.log2(f0[voiced] / self.reference_hz))
        window_s = CONTOUR.window_periods / np.interp(time_s, time_s[voiced], f0[voiced])
        turns = find_turns(time_s, cents, np.nan_to_num(contour.sigma_cents[frames], nan=1.0), window_s=window_s)
        found = evaluate(
            turns, line=self.line, u_reference_cents=self.u_reference_cents, window_s=float(np.median(window_s))
        )
        room_cents = STATISTICS.coverage * STATISTICS.widths_disagree_factor * widths_disagree_cents(contour, turns)
        return self._in_a_room(found, turns, contour, room_cents), room_cents

    def read_warped(self, course: Contour) -> VibratoMeasured:
        """As a contour in warped time has it."""
        cents = 1200.0 * np.log2(course.f0_hz / self.reference_hz)
        turns = find_turns(course.time_s, cents, course.sigma_cents)
        found = evaluate(turns, line=self.line, u_reference_cents=self.u_reference_cents)
        if found.region is None or not found.rate_hz or not found.extent_cents:
            return found
        of_widths = u_of_widths(course, found.region, rate_hz=found.rate_hz, extent_cents=found.extent_cents)
        quick_cents = STATISTICS.coverage * VIBRATO.warped_uncertain * found.extent_cents
        room_cents = float(np.hypot(STATISTICS.warped_widths_factor * of_widths, quick_cents))
        return replace(self._in_a_room(found, turns, course, room_cents), course=course)

    def _in_a_room(self, found: VibratoMeasured, turns: Turns, contour: Contour, room_cents: float) -> VibratoMeasured:
        """With what a room leaves unknown; room_cents: of the width."""
        if found.region is None or found.u_return is None:
            return found
        on_line = turns.time_s if self.line == "centre" else turns.time_s[_on_line(turns, self.line)]
        # What is missing of a swing's width is missing at both its sides.
        u_return = np.linalg.norm((found.u_return, u_at_turns(contour, on_line), 0.5 * room_cents))
        slope, straight = _level_slope(contour, *found.region), self.straight_db_per_s
        return replace(
            found,
            fade_db_per_s=None if slope is None or straight is None else slope - straight,
            u_return=float(u_return),
            u_extent=float(np.hypot(found.u_extent or 0.0, room_cents)),
        )


def measure_vibrato(
    mono: Samples,
    contour: Contour,
    note: HeardNote,
    swing: Swing,
    *,
    rate_hz: int,
    from_s: float | None = None,
) -> VibratoMeasured:
    """Measure the vibrato of one note.

    mono: float32, shape (n_samples,), at rate_hz. from_s: where it may begin (a bend has to arrive first).
    """
    begin = note.onset_s + 0.03 if from_s is None else from_s
    frames = contour.frames(begin, note.followed_to_s - VIBRATO.end_s)
    voiced = ~np.isnan(contour.f0_hz[frames])
    if np.count_nonzero(voiced) < VIBRATO.least_frames:
        return VibratoMeasured(0, reasons=("too_short",))
    if _longest_run(~voiced)[1] * CONTOUR.hop_s > VIBRATO.bridged_gap_s:
        start, length = _longest_run(voiced)
        if length < VIBRATO.least_frames:
            return VibratoMeasured(0, reasons=("no_pitch",))
        frames = slice(frames.start + start, frames.start + start + length)
    found, room_cents = swing.read(contour, frames)
    if found.u_extent is None or room_cents < VIBRATO.room_cents:
        return found
    sound = resampled(mono, from_hz=rate_hz, to_hz=WARPED.rate_hz)
    other = swing.read_warped(warped(sound, contour, frames, rate_hz=WARPED.rate_hz))
    return found if other.u_extent is None or other.u_extent > found.u_extent else other


def rate_of_crossings(crossing_s: FloatArray) -> tuple[float, float]:
    """Rate and its expanded uncertainty, Hz, from when the middle is crossed up and down in turn, shape (n,), five at
    least: by the line through all of them (least squares), or by the mean of the periods they bound, whichever is
    known better. Noise is averaged by the line; what an uneven hand does is the mean's.

    Student's t of what the crossings lie off the line (JCGM 100:2008, G.3). Where it is the hand that is uneven they do
    not scatter about the line but stray from it, each from where the one before was: the slope of a line through n
    steps of variance q differs from their mean by a variance of q/5n (that of a random walk's least-squares slope is
    6q/5n, and the mean's, q/n, is what both share). How much they stray is how much of a step the next does not undo.
    """
    count = len(crossing_s)
    number = np.arange(count)
    # Upward and downward crossings may lie a little to one side each: the middle is not known for certain.
    design = np.stack((np.ones(count), number, (-1.0) ** number), axis=1)
    inverse = np.linalg.inv(design.T @ design)
    half_s = inverse @ (design.T @ crossing_s)
    off = crossing_s - design @ half_s
    spare = count - design.shape[1]
    steps = np.diff(off)
    undone = float(np.mean(steps[1:] * steps[:-1]))
    strays = max(0.0, float(np.mean(steps**2)) + 2.0 * undone)
    variance = float(off @ off) / spare * inverse[1, 1] + strays / (5.0 * (count - 1))
    # Whole periods: from a crossing to one that goes the same way. What the swing does beyond them it does for half a
    # period at most.
    halves = (count - 1) // 2 * 2
    mean_s = float(np.mean(crossing_s[halves:] - crossing_s[: count - halves])) / halves
    of_mean = (2.0 * (max(-undone, 0.0) + VIBRATO.time_sd_s**2) + strays) / halves**2
    rate = 0.5 / (mean_s if of_mean < variance else float(half_s[1]))
    return rate, float(stdtrit(spare, NOTES.t_quantile) * np.sqrt(min(variance, of_mean))) * 2.0 * rate**2


def _on_line(turns: Turns, line: Line) -> NDArray[np.bool_]:
    """The turning points at which a cycle begins: tops of a bend's vibrato, else bottoms."""
    return np.asarray(turns.kind == (1.0 if line == "top" else -1.0))


def _hangs_on_one(values: FloatArray) -> float:
    """How much of a coefficient of variation hangs on one single cycle: in a room, or where the tracker slips, one turn
    may be read that is none, and what one cycle says is not how even the hand is.
    """
    if len(values) < 2:
        return 0.0
    rest = np.delete(values, int(np.argmax(np.abs(values - np.median(values)))))
    cv = float(np.std(values, ddof=1) / np.mean(values))
    return max(0.0, cv - (float(np.std(rest, ddof=1) / np.mean(rest)) if len(rest) > 1 else 0.0))


def evaluate(turns: Turns, *, line: Line, u_reference_cents: float = 0.0, window_s: float = 0.0) -> VibratoMeasured:
    """From turning points to values."""
    on_line = _on_line(turns, line)
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
    rate_hz, u_rate = rate_of_crossings(turns.crossing_s)
    return VibratoMeasured(
        cycles,
        rate_hz=rate_hz,
        rate_cv=float(np.std(periods, ddof=1) / period),
        extent_cents=extent,
        extent_cv=float(np.std(swings, ddof=1) / extent) if count > 1 and extent > 0 else None,
        return_error_cents=float(np.mean(lines)),
        return_sd_cents=float(np.std(lines, ddof=1)),
        region=(round(float(turns.time_s[0]), 4), round(float(turns.time_s[-1]), 4)),
        edges_s=tuple(float(e) for e in edges),
        u_rate=u_rate,
        u_rate_cv=float(
            np.hypot(
                STATISTICS.coverage * np.hypot(noise_period / np.sqrt(2.0 * len(periods)), VIBRATO.rate_cv_sd),
                _hangs_on_one(periods),
            )
        ),
        u_extent=STATISTICS.coverage * float(np.hypot(noise_extent / np.sqrt(count), method)),
        u_extent_cv=float(
            np.hypot(
                STATISTICS.coverage * noise_extent / extent / np.sqrt(2.0 * count) + VIBRATO.extent_cv_sd,
                _hangs_on_one(swings),
            )
        ),
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


def _longest_run(flags: np.ndarray) -> tuple[int, int]:
    """Start and length of the longest run of True."""
    edges = np.flatnonzero(np.diff(np.concatenate(([0], flags.astype(np.int8), [0]))))
    if not len(edges):
        return 0, 0
    lengths = edges[1::2] - edges[::2]
    best = int(np.argmax(lengths))
    return int(edges[2 * best]), int(lengths[best])


def _level_slope(contour: Contour, from_s: float, to_s: float) -> float | None:
    frames = contour.frames(from_s, to_s)
    if frames.stop - frames.start < VIBRATO.slope_frames:
        return None
    aside_s = contour.time_s[frames] - contour.time_s[frames].mean()
    return float(aside_s @ contour.level_dbfs[frames] / (aside_s @ aside_s))  # least squares


def straight_slopes(contour: Contour, notes: Sequence[tuple[int, HeardNote]]) -> dict[int, float]:
    """Slope of level (dB/s) of each string's notes without vibrato; notes: (string, note)."""
    found: dict[int, list[float]] = {}
    for string, note in notes:
        slope = _level_slope(contour, note.onset_s + 0.1, note.end_s - VIBRATO.end_s)
        if slope is not None:
            found.setdefault(string, []).append(slope)
    return {string: float(np.median(slopes)) for string, slopes in found.items()}
