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
- choked: the level falls by 12 dB or more within 60 ms during the rise
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, replace
from typing import Literal

import numpy as np
from numpy.typing import NDArray
from scipy import ndimage, signal

from fortimetra.align.match import Match
from fortimetra.hear.contour import Contour
from fortimetra.hear.notes import HeardNote
from fortimetra.hear.settings import CONTOUR
from fortimetra.measure.settings import BEND, STATISTICS
from fortimetra.measure.statistics import PitchReading, expanded_u_cents
from fortimetra.model.drill import AskedNote
from fortimetra.units import FloatArray, cents_to_ratio, hz_to_cents


@dataclass(frozen=True)
class BendReference:
    """The pitch that sounds the target: Hz, its expanded uncertainty, and where it comes from."""

    target_hz: float
    u_cents: float
    source: str


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


def bend_reference(
    match: Match,
    index: int,
    readings: Sequence[PitchReading | None],
    *,
    fretted_hz: float,
    known_hz: PitchReading | None = None,
    own_start: PitchReading | None = None,
    tuned_by: Literal["set-up", "temperament"] = "temperament",
) -> BendReference:
    """The reference of bend `index`, named: the fretted target in the same repeat, in other repeats, the plain note
    of the bend's own fret, in other takes, the bend's own start, by tuning.

    fretted_hz: pitch of the bent note's fret by temperament and the string's offset, which is tuned_by's. known_hz:
    the fretted target in other takes of the guitar. The fretted target is the drill's reference note, else the same
    string and fret played plainly. A note that was itself played far off its pitch is passed over. own_start: the
    fretted pitch at which the bend, or others of its fret, begin, where they rest there.
    """
    asked = match.events[index].notes[0]
    assert asked.bend is not None
    target = asked.bend.middle_cents
    by_tuning = fretted_hz * cents_to_ratio(target)
    place = (asked.note.string, (asked.note.fret or 0) + target / 100.0)
    usable = [
        (event.notes[0], reading)
        for event, reading in zip(match.events, readings, strict=True)
        if reading is not None and _is_target(event.notes[0], asked.bend.reference, place) and _near(reading, by_tuning)
    ]
    named = [u for u in usable if u[0].event.id == asked.bend.reference] or usable
    own = [u for u in named if u[0].repeat == asked.repeat]
    if own:
        # Of several the nearest in the score.
        note, reading = min(own, key=lambda u: abs(u[0].beat - asked.beat))
        return BendReference(reading.hz, reading.u_cents, note.event.id)
    if named:
        middle = middle_of([r for _, r in named], by_tuning)
        return BendReference(middle.hz, middle.u_cents, f"{named[0][0].event.id} of other repeats")
    fret = _own_fret(match, asked, readings, fretted_hz)
    if fret is not None:
        return BendReference(fret.hz * cents_to_ratio(target), fret.u_cents, f"fret {asked.note.fret} of this take")
    if known_hz is not None and _near(known_hz, by_tuning):
        return BendReference(known_hz.hz, known_hz.u_cents, "other takes")
    if own_start is not None and tuned_by == "temperament":
        # The guitar's tuning is not known; where the bend's own start contradicts it, that is what was fretted.
        off = abs(hz_to_cents(own_start.hz, reference_hz=fretted_hz))
        if own_start.u_cents < off < BEND.wrong_reference_cents:
            return BendReference(own_start.hz * cents_to_ratio(target), own_start.u_cents, "own start")
    return BendReference(by_tuning, BEND.tuned_u_cents if tuned_by == "temperament" else 0.0, tuned_by)


def _is_target(note: AskedNote, named: str | None, place: tuple[int, float]) -> bool:
    """Whether a note is the one a bend names, or the bend's target fretted on its own string."""
    return note.event.id == named or (note.note.string, note.note.fret) == place


def _near(reading: PitchReading, hz: float) -> bool:
    return bool(abs(hz_to_cents(reading.hz, reference_hz=hz)) < BEND.wrong_reference_cents)


def middle_of(readings: Sequence[PitchReading], reference_hz: float) -> PitchReading:
    """Several readings of one pitch as one; its uncertainty covers their spread."""
    cents = np.array([hz_to_cents(r.hz, reference_hz=reference_hz) for r in readings])
    spread = STATISTICS.coverage * float(np.std(cents)) if len(cents) > 1 else BEND.one_note_u_cents
    hz = reference_hz * cents_to_ratio(float(np.median(cents)))
    return PitchReading(hz, max(spread, max(r.u_cents for r in readings)), 0)


def _own_fret(
    match: Match, asked: AskedNote, readings: Sequence[PitchReading | None], fretted_hz: float
) -> PitchReading | None:
    """The student's own plain notes of the bend's fret, as one reading."""
    place = (asked.note.string, asked.note.fret)
    found = [
        reading
        for event, reading in zip(match.events, readings, strict=True)
        if reading is not None
        and (event.notes[0].note.string, event.notes[0].note.fret) == place
        and _near(reading, fretted_hz)
    ]
    return middle_of(found, fretted_hz) if found else None


def fret_reference(
    match: Match,
    asked: AskedNote,
    readings: Sequence[PitchReading | None],
    *,
    fretted_hz: float,
    rest: PitchReading | None,
    known_hz: PitchReading | None = None,
    tuned_by: Literal["set-up", "temperament"] = "temperament",
) -> BendReference:
    """What a vibrato on a fretted note comes back to, named: the plain notes of its fret in this take, where the note
    itself rested before the vibrato, its fret in other takes, the tuning.

    fretted_hz: pitch of the fret by temperament and the string's offset, which is tuned_by's.
    """
    fret = _own_fret(match, asked, readings, fretted_hz)
    if fret is not None:
        return BendReference(fret.hz, fret.u_cents, f"fret {asked.note.fret} of this take")
    if rest is not None and _near(rest, fretted_hz):
        return BendReference(rest.hz, rest.u_cents, "own start")
    if known_hz is not None and _near(known_hz, fretted_hz):
        return BendReference(known_hz.hz, known_hz.u_cents, "other takes")
    return BendReference(fretted_hz, BEND.tuned_u_cents if tuned_by == "temperament" else 0.0, tuned_by)


def own_start(contour: Contour, note: HeardNote) -> PitchReading | None:
    """The pitch a bend rests at before it rises; None where it does not rest."""
    frames = contour.frames(note.onset_s + BEND.rest_s[0], note.onset_s + BEND.rest_s[1])
    f0 = contour.f0_hz[frames]
    if len(f0) < BEND.rest_frames or np.isnan(f0[: BEND.rest_frames]).any():
        return None
    cents = 1200.0 * np.log2(f0 / f0[0])
    for last in range(len(f0), BEND.rest_frames - 1, -1):
        part = cents[:last]
        if not np.isnan(part).any() and np.ptp(part) < BEND.rest_cents:
            return PitchReading(float(f0[0] * cents_to_ratio(float(np.median(part)))), BEND.start_u_cents, 0)
    return None


def measure_bend(
    contour: Contour,
    note: HeardNote,
    reference: BendReference,
    *,
    target_cents: float,
    already_bent: bool,
    until_s: float | None = None,
    peak: bool = False,
) -> BendMeasured:
    """Measure one bend.

    already_bent: a re-plucked bend, which starts where a bend ends. until_s: where a vibrato begins, before which it
    has to arrive. peak: a curl, of which the highest 20 ms count.
    """
    frames = contour.frames(note.onset_s, min(note.followed_to_s, until_s or np.inf))
    time = contour.time_s[frames]
    fretted_hz = reference.target_hz / cents_to_ratio(target_cents)
    raw = 1200.0 * np.log2(contour.f0_hz[frames] / fretted_hz)
    voiced = ~np.isnan(raw)
    # The first 30 ms are the attack; gaps of a few frames are bridged for the slope only.
    usable = voiced & (time >= note.onset_s + BEND.start_s[0])
    if np.count_nonzero(voiced) * CONTOUR.hop_s < BEND.plateau_min_s or np.count_nonzero(usable) < 6:
        return BendMeasured(reference, reasons=("too_short",))
    cents = np.interp(time, time[usable], raw[usable])
    at_first = raw[usable & (time < note.onset_s + BEND.start_s[1])]
    start = float(np.median(at_first)) if len(at_first) else None
    smooth = running_median(cents, BEND.peak_s)
    peak_at = int(np.argmax(np.where(usable, smooth, -np.inf)))
    top = float(smooth[peak_at])
    after_rise = _after_rise(smooth, usable, start or 0.0, top, already_bent)
    hold = None if peak else _hold(contour, frames, cents, usable, after_rise, fretted_hz)
    if hold is None:
        around = slice(max(0, peak_at - 2), peak_at + 3)
        u = STATISTICS.coverage * float(np.std(cents[around])) + expanded_u_cents(
            contour, shifted(frames, around), contour_hz(fretted_hz, top)
        )
        hold = _Hold(top, u, peak_at)
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
) -> _Hold | None:
    """The plateau of a bend; None where it has none."""
    unsteady = False
    run = find_plateau(cents, usable, after_rise, slope_over_s=BEND.slope_window_s, at_least_s=BEND.plateau_min_s)
    if run is None:
        run = find_plateau(cents, usable, after_rise, slope_over_s=BEND.waver_s, at_least_s=1.5 * BEND.waver_s)
        unsteady = True
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
        whole = _goes_on(contour.time_s[frames], cents, usable & after_rise, run.start)
        if whole is not None and abs(whole[0] - drift) <= 0.5 * abs(whole[0]):
            drift, u_drift, held_s = whole
    return _Hold(
        reached, u, run.start, sd, u_sd, drift, u_drift, held_s, plateau, ("unsteady_hold",) if unsteady else ()
    )


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
    """Longest stretch with a small slope; short wobbles that stay at the same pitch do not break it."""
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
    if way < 20.0:
        return None
    part = slice(0, min(len(smooth), end_of_rise + 1 + round(0.05 / CONTOUR.hop_s)))
    values = np.where(usable[part], smooth[part], -np.inf)
    above_90 = values >= start + 0.9 * way
    if not above_90.any():
        return None
    top = int(np.argmax(above_90))
    below_10 = np.flatnonzero(values[: top + 1] <= start + 0.1 * way)
    bottom = int(below_10[-1]) if len(below_10) else 0
    return float(time[top] - time[bottom]) * 1000.0


def _choked(level_dbfs: FloatArray, end_of_rise: int) -> bool:
    span = round(BEND.choke_s / CONTOUR.hop_s)
    # The first 50 ms of any pluck fall quickly; a choke comes later, while the string is pushed.
    part = level_dbfs[round(0.05 / CONTOUR.hop_s) : end_of_rise + span]
    if len(part) <= span:
        return False
    return bool(np.max(part[:-span] - part[span:]) >= BEND.choke_db)
