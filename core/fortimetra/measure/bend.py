"""Bends: how far, how fast, how steady, against the student's own fretted note.

Conventions: all cents are relative to the fretted pitch of the bent note, which is the reference note's measured
pitch less the target where the drill has one, so that error = reached − target whatever the reference is.

- start_cents: median 30-120 ms after the attack
- plateau: the longest stretch after the rise with a slope under 60 cents/s and at least 80 ms; reached_cents is its
  median. Where the hand wavers so much that no such stretch exists, the slope is taken over BEND.waver_s, longer than a
  period of the wavering (reason unsteady_hold). Without any plateau the highest median of 20 ms (reason no_plateau)
- rise_ms: 10 % to 90 % of the way from start to reached
- overshoot_cents: highest 20 ms median before the plateau − reached, at least 0
- hold_sd_cents, hold_drift_cents_per_s: within the plateau, drift taken out of the first
- choked: the level falls by 12 dB or more within 60 ms during the rise, and stays down
"""

from __future__ import annotations

from dataclasses import dataclass, replace
from typing import Literal

import numpy as np
from numpy.typing import NDArray
from scipy import ndimage, signal

from fortimetra.hear.contour import Contour
from fortimetra.hear.notes import HeardNote
from fortimetra.hear.settings import CONTOUR, NOTES
from fortimetra.measure.reference import BendReference
from fortimetra.measure.settings import BEND, STATISTICS
from fortimetra.measure.statistics import expanded_u_cents
from fortimetra.units import FloatArray, cents_to_ratio


@dataclass(frozen=True)
class BendMeasured:
    """Values of one bend; None where they cannot be had, `reasons` says why."""

    reference: BendReference
    start_cents: float | None = None
    reached_cents: float | None = None
    u_cents: float | None = None
    rise_ms: float | None = None
    overshoot_cents: float | None = None
    hold_sd_cents: float | None = None
    u_hold_sd_cents: float | None = None
    hold_drift_cents_per_s: float | None = None
    u_hold_drift: float | None = None
    held_s: float = 0.0
    plateau: tuple[float, float] | None = None
    choked: bool | None = None
    landing_error_cents: float | None = None
    u_landing: float | None = None
    landing: tuple[float, float] | None = None
    beat_hz: float | None = None
    u_beat: float | None = None
    difference_cents: float | None = None
    u_difference: float | None = None
    merge_ms: float | None = None
    state: Literal["under", "there", "past"] | None = None
    steady_hz: float | None = None
    reasons: tuple[str, ...] = ()


def measure_bend(
    contour: Contour,
    note: HeardNote,
    reference: BendReference,
    *,
    target_cents: float,
    already_bent: bool,
    until_s: float | None = None,
    peak: bool = False,
    swings: bool = False,
) -> BendMeasured:
    """Measure one bend.

    already_bent: a re-plucked bend, which starts where a bend ends. until_s: where a vibrato begins, before which it
    has to arrive. peak: a curl, of which the highest 20 ms count. swings: a vibrato is asked for, so that to and fro is
    no wavering.
    """
    frames = contour.frames(note.onset_s, min(note.followed_to_s, until_s or np.inf))
    time = contour.time_s[frames]
    fretted_hz = reference.target_hz / cents_to_ratio(target_cents)
    raw = 1200.0 * np.log2(contour.f0_hz[frames] / fretted_hz)
    voiced = ~np.isnan(raw)
    # The first 30 ms are the attack; gaps of a few frames are bridged for the slope only.
    usable = voiced & (time >= note.onset_s + BEND.start_s[0])
    if np.count_nonzero(voiced) * CONTOUR.hop_s < BEND.plateau_min_s:
        return BendMeasured(reference, reasons=("too_short",))
    cents = np.interp(time, time[usable], raw[usable])
    at_first = raw[usable & (time < note.onset_s + BEND.start_s[1])]
    start = float(np.median(at_first)) if len(at_first) else None
    smooth = running_median(cents, BEND.peak_s)
    peak_at = int(np.argmax(np.where(usable, smooth, -np.inf)))
    top = float(smooth[peak_at])
    after_rise = _after_rise(smooth, usable, start or 0.0, top, already_bent)
    hold = None if peak else _hold(contour, frames, cents, usable, after_rise, fretted_hz, swings=swings)
    if hold is None:
        hold = _Hold(top, _u_of_top(contour, frames, cents, peak_at, contour_hz(fretted_hz, top)), peak_at)
        if not peak:
            drift, u_drift, held_s = _goes_on(time, cents, usable & after_rise, peak_at) or (None, None, 0.0)
            hold = replace(hold, drift_cents_per_s=drift, u_drift=u_drift, held_s=held_s, reasons=("no_plateau",))
    before = smooth[: hold.begins + 1][usable[: hold.begins + 1]]
    overshoot = max(0.0, float(before.max()) - hold.cents) if len(before) and not already_bent else None
    rise_ms = None if already_bent or start is None else _rise_ms(time, smooth, usable, start, hold.cents, hold.begins)
    return BendMeasured(
        reference,
        start_cents=start,
        reached_cents=hold.cents,
        u_cents=float(np.hypot(hold.u_cents, reference.u_cents)),
        rise_ms=rise_ms,
        overshoot_cents=overshoot,
        hold_sd_cents=hold.sd_cents,
        u_hold_sd_cents=hold.u_sd_cents,
        hold_drift_cents_per_s=hold.drift_cents_per_s,
        u_hold_drift=hold.u_drift,
        held_s=hold.held_s,
        plateau=hold.plateau,
        choked=None if already_bent else _choked(contour.level_dbfs[frames], hold.begins),
        reasons=hold.reasons,
    )


def _u_of_top(contour: Contour, frames: slice, cents: FloatArray, at: int, hz: float) -> float:
    """Expanded uncertainty of a bend's highest point, cents."""
    around = slice(max(0, at - 2), at + 3)
    return STATISTICS.coverage * float(np.std(cents[around])) + expanded_u_cents(contour, shifted(frames, around), hz)


@dataclass(frozen=True)
class _Hold:
    """Where a bend is held, or its top. begins: frame of the bend at which the rise ends; held_s: over how long its
    drift is read.
    """

    cents: float
    u_cents: float
    begins: int
    sd_cents: float | None = None
    u_sd_cents: float | None = None
    drift_cents_per_s: float | None = None
    u_drift: float | None = None
    held_s: float = 0.0
    plateau: tuple[float, float] | None = None
    reasons: tuple[str, ...] = ()


def _hold(
    contour: Contour,
    frames: slice,
    cents: FloatArray,
    usable: NDArray[np.bool_],
    after_rise: NDArray[np.bool_],
    fretted_hz: float,
    *,
    swings: bool = False,
) -> _Hold | None:
    """The plateau of a bend; None where it has none."""
    unsteady = False
    run = find_plateau(cents, usable, after_rise, slope_over_s=BEND.slope_window_s, at_least_s=BEND.plateau_min_s)
    if run is None:
        run = find_plateau(cents, usable, after_rise, slope_over_s=BEND.waver_s, at_least_s=1.5 * BEND.waver_s)
        unsteady = True
    whole = None if swings else _to_and_fro(cents, usable & after_rise)
    if whole is not None:
        # The crest of a slow waver is flat, too, and is not what is held.
        run, unsteady = whole, True
    if run is None:
        return None
    time, held = contour.time_s[frames][run], cents[run]
    reached = float(np.median(held))
    u = expanded_u_cents(contour, shifted(frames, run), contour_hz(fretted_hz, reached))
    line = np.polyfit(time, held, 1)
    rest = held - np.polyval(line, time)
    sd = float(np.std(rest, ddof=2)) if len(rest) > 3 else None
    if unsteady and sd is not None:
        # Where a wavering hold is cut decides its median: as uncertain as the mean of so many wavers.
        wavers = max(1.0, len(rest) * CONTOUR.hop_s / BEND.waver_s)
        u = float(np.hypot(u, STATISTICS.coverage * sd / np.sqrt(wavers)))
    u_sd = None if sd is None else _u_of_hold_sd(rest, contour.sigma_cents[shifted(frames, run)])
    plateau = (round(float(time[0]), 4), round(float(time[-1]), 4))
    held_s = len(rest) * CONTOUR.hop_s
    drift, u_drift = float(line[0]), None if sd is None else _u_of_drift(sd, held_s)
    if held_s < BEND.drift_s:
        # What sinks all the time is flat for a moment only; what is held and then let down is flat while it is held.
        on = _goes_on(contour.time_s[frames], cents, usable & after_rise, run.start)
        if on is not None and abs(on[0] - drift) <= 0.5 * abs(on[0]):
            drift, u_drift, held_s = on
    return _Hold(
        reached, u, run.start, sd, u_sd, drift, u_drift, held_s, plateau, ("unsteady_hold",) if unsteady else ()
    )


def _to_and_fro(cents: FloatArray, held: NDArray[np.bool_]) -> slice | None:
    """From the arrival to the end of a bend that wavers: to either side of its own line by more than BEND.waver_cents,
    three times at least; None where it does not, or is over too soon to tell.
    """
    after = np.flatnonzero(held)
    if len(after) * CONTOUR.hop_s < BEND.drift_s:
        return None
    after = after[after >= after[0] + round(BEND.plateau_min_s / CONTOUR.hop_s)]
    # A hand is slower than the noise of single frames.
    moved = running_median(cents, BEND.slope_window_s)[after]
    rest = moved - np.polyval(np.polyfit(after, moved, 1), after)
    side = np.sign(rest[np.abs(rest) > BEND.waver_cents])
    if np.count_nonzero(np.diff(side)) < BEND.least_wavers:
        return None
    return slice(int(after[0]), int(after[-1]) + 1)


def _goes_on(
    time: FloatArray, cents: FloatArray, held: NDArray[np.bool_], begins: int
) -> tuple[float, float, float] | None:
    """How a bend goes on from where it arrives while it is at least half the way up: cents per s, their expanded
    uncertainty, and over how long; None where that is over too soon to tell.
    """
    after = np.flatnonzero(held[begins:]) + begins
    held_s = len(after) * CONTOUR.hop_s
    if held_s < BEND.drift_s:
        return None
    line = np.polyfit(time[after], cents[after], 1)
    sd = float(np.std(cents[after] - np.polyval(line, time[after]), ddof=2))
    return float(line[0]), _u_of_drift(sd, held_s), held_s


def _u_of_drift(sd_cents: float, held_s: float) -> float:
    """Expanded uncertainty of a slope: what scatters about the line, of which a new value comes every slope window."""
    values = max(2.0, held_s / BEND.slope_window_s)
    return STATISTICS.coverage * sd_cents * float(np.sqrt(12.0 / values)) / held_s


def _u_of_hold_sd(rest: FloatArray, sigma_cents: FloatArray) -> float:
    """Expanded uncertainty of a hold's SD: what the frames' own noise adds to it, and where the hold is cut."""
    whole = float(np.std(rest))
    tenth = len(rest) // 10
    inner = float(np.std(rest[tenth : len(rest) - tenth]))
    noise = float(np.nanmedian(sigma_cents)) if np.any(~np.isnan(sigma_cents)) else 0.0
    return (
        STATISTICS.coverage * float(np.hypot(noise**2 / (2.0 * max(whole, noise, 1e-9)), inner - whole))
        + STATISTICS.method_sd_cents
    )


def contour_hz(fretted_hz: float, cents: float) -> float:
    """Frequency `cents` above the fretted pitch."""
    return fretted_hz * cents_to_ratio(cents)


def shifted(frames: slice, inner: slice) -> slice:
    return slice(frames.start + inner.start, min(frames.start + inner.stop, frames.stop))


def running_median(values: FloatArray, width_s: float) -> FloatArray:
    """Median over a width about each frame of a contour; values and result: shape (n_frames,)."""
    size = max(3, round(width_s / CONTOUR.hop_s) | 1)
    return np.asarray(ndimage.median_filter(values, size=size, mode="nearest"))


def _after_rise(smooth: FloatArray, usable: np.ndarray, start: float, peak: float, already_bent: bool) -> np.ndarray:
    """Frames that may belong to the plateau: at least half the way up, from the first time it is reached."""
    if already_bent:
        return usable
    high = usable & (smooth >= start + 0.5 * (peak - start))
    return high & (np.arange(len(smooth)) >= int(np.argmax(high)))


def find_plateau(
    cents: FloatArray, usable: np.ndarray, allowed: np.ndarray, *, slope_over_s: float, at_least_s: float
) -> slice | None:
    """Longest stretch with a small slope; short wobbles that stay at the same pitch do not break it. cents and the
    masks usable and allowed: shape (n_frames,).
    """
    size = round(slope_over_s / CONTOUR.hop_s) | 1
    if len(cents) < size:
        return None
    slope = signal.savgol_filter(cents, size, 1, deriv=1, delta=CONTOUR.hop_s, mode="nearest")
    flat = (np.abs(slope) < BEND.plateau_slope_cents_per_s) & allowed & usable
    edges = np.flatnonzero(np.diff(np.concatenate(([0], flat.astype(np.int8), [0]))))
    runs = [slice(int(a), int(b)) for a, b in zip(edges[::2], edges[1::2], strict=True)]
    joined: list[slice] = []
    for run in runs:
        if joined:
            last = joined[-1]
            near = (run.start - last.stop) * CONTOUR.hop_s <= BEND.bridge_s
            level = abs(float(np.median(cents[run])) - float(np.median(cents[last]))) <= BEND.bridge_cents
            if near and level and allowed[last.start : run.stop].all():
                joined[-1] = slice(last.start, run.stop)
                continue
        joined.append(run)
    joined = [r for r in joined if (r.stop - r.start) * CONTOUR.hop_s >= at_least_s - 1e-9]
    return max(joined, key=lambda r: r.stop - r.start) if joined else None


def _rise_ms(
    time: FloatArray, smooth: FloatArray, usable: np.ndarray, start: float, reached: float, end_of_rise: int
) -> float | None:
    way = reached - start
    if way < BEND.least_rise_cents:
        return None
    part = slice(0, min(len(smooth), end_of_rise + 1 + round(0.05 / CONTOUR.hop_s)))
    values = np.where(usable[part], smooth[part], -np.inf)
    above_90 = values >= start + NOTES.transition[1] * way
    if not above_90.any():
        return None
    top = int(np.argmax(above_90))
    below_10 = np.flatnonzero(values[: top + 1] <= start + NOTES.transition[0] * way)
    bottom = int(below_10[-1]) if len(below_10) else 0
    return float(time[top] - time[bottom]) * 1000.0


def _choked(level_dbfs: FloatArray, end_of_rise: int) -> bool:
    """Whether the level falls while the string is pushed, and stays down: in a room a pitch on its way passes places
    where it is softer, and comes back.
    """
    span, stays = round(BEND.choke_s / CONTOUR.hop_s), round(BEND.choke_stays_s / CONTOUR.hop_s)
    # The first 50 ms of any pluck fall quickly; a choke comes later, while the string is pushed.
    first = round(0.05 / CONTOUR.hop_s)
    before = level_dbfs[first : min(end_of_rise, len(level_dbfs) - span)]
    if not len(before):
        return False
    after = np.pad(level_dbfs[first + span :], (0, stays), constant_values=-np.inf)
    loudest = np.lib.stride_tricks.sliding_window_view(after, stays + 1).max(axis=1)[: len(before)]
    return bool(np.max(before - loudest) >= BEND.choke_db)
