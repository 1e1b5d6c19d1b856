"""Pre-bends and releases: where a note that is struck bent starts, and where it lands when it is let down.

Conventions: cents are relative to the fretted pitch of the bent note.

- start_cents: median 30-120 ms after the attack, or until the release begins, if that is sooner
- reached_cents: median of the plateau before the release; without one, start_cents
- error: start − target (it is bent before it sounds, so nothing else can be judged)
- rise_ms: 10 % to 90 % of the way down
- landing_error_cents: median of the plateau after the release − the fretted pitch (the student's own, where it was
  played)
"""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from fortimetra.hear.contour import Contour
from fortimetra.hear.notes import HeardNote
from fortimetra.hear.settings import CONTOUR, NOTES
from fortimetra.measure.bend import BendMeasured, contour_hz, find_plateau, running_median, shifted
from fortimetra.measure.reference import BendReference
from fortimetra.measure.settings import BEND, RELEASE
from fortimetra.measure.statistics import expanded_u_cents
from fortimetra.units import FloatArray, cents_to_ratio


def measure_release(
    contour: Contour,
    note: HeardNote,
    reference: BendReference,
    *,
    target_cents: float,
    landing: BendReference | None = None,
) -> BendMeasured:
    """Measure a note that starts bent. landing: the fretted pitch it should land on, where that was played."""
    frames = contour.frames(note.onset_s, note.followed_to_s)
    time = contour.time_s[frames]
    fretted_hz = reference.target_hz / cents_to_ratio(target_cents)
    raw = 1200.0 * np.log2(contour.f0_hz[frames] / fretted_hz)
    usable = ~np.isnan(raw) & (time >= note.onset_s + BEND.start_s[0])
    if np.count_nonzero(usable) * CONTOUR.hop_s < BEND.plateau_min_s:
        return BendMeasured(reference, reasons=("too_short",))
    cents = np.interp(time, time[usable], raw[usable])
    smooth = running_median(cents, BEND.peak_s)
    first = int(np.argmax(usable))
    early = slice(first, first + round((BEND.start_s[1] - BEND.start_s[0]) / CONTOUR.hop_s))
    late = slice(max(0, len(cents) - round(RELEASE.end_s / CONTOUR.hop_s)), len(cents))
    top, bottom = float(np.median(cents[early])), float(np.median(cents[late]))
    let_down = top - bottom > RELEASE.least_way_cents
    begins, ends = _way_down(smooth, first, top, bottom) if let_down else (len(cents), len(cents))
    begun = slice(first, min(early.stop, begins))
    start = float(np.median(cents[begun]))
    u = expanded_u_cents(contour, shifted(frames, begun), contour_hz(fretted_hz, start))
    place = np.arange(len(cents))
    held = _plateau(cents, usable, place < begins)
    rest = _plateau(cents, usable, place >= ends) if let_down else None
    reasons = () if let_down and rest else ("no_release",) if not let_down else ("no_landing",)
    ground_hz, u_ground = (fretted_hz, reference.u_cents) if landing is None else (landing.target_hz, landing.u_cents)
    landed = u_landing = None
    if rest is not None:
        above = float(np.median(cents[rest]))
        landed = above - 1200.0 * float(np.log2(ground_hz / fretted_hz))
        u_landing = float(
            np.hypot(expanded_u_cents(contour, shifted(frames, rest), contour_hz(fretted_hz, above)), u_ground)
        )
    return BendMeasured(
        reference,
        start_cents=start,
        reached_cents=start if held is None else float(np.median(cents[held])),
        u_cents=float(np.hypot(u, reference.u_cents)),
        rise_ms=float(time[min(ends, len(time) - 1)] - time[min(begins, len(time) - 1)]) * 1000.0 if let_down else None,
        hold_sd_cents=_unsteady(time, cents, held),
        plateau=_span(time, held),
        landing_error_cents=landed,
        u_landing=u_landing,
        landing=_span(time, rest),
        reasons=reasons,
    )


def _plateau(cents: FloatArray, usable: NDArray[np.bool_], where: NDArray[np.bool_]) -> slice | None:
    return find_plateau(cents, usable, where, slope_over_s=BEND.slope_window_s, at_least_s=BEND.plateau_min_s)


def _unsteady(time: FloatArray, cents: FloatArray, held: slice | None) -> float | None:
    """Standard deviation about the line through what is held, cents."""
    if held is None or held.stop - held.start <= 3:
        return None
    own = cents[held]
    return float(np.std(own - np.polyval(np.polyfit(time[held], own, 1), time[held]), ddof=2))


def _way_down(smooth: FloatArray, first: int, top: float, bottom: float) -> tuple[int, int]:
    """Frames at which 10 % and 90 % of the way down have been gone."""
    way = (top - smooth) / (top - bottom)
    after = np.arange(len(smooth)) >= first
    half = int(np.argmax(after & (way >= 0.5)))
    early = np.flatnonzero(way[first : half + 1] <= NOTES.transition[0])
    begins = first + (int(early[-1]) if len(early) else 0)
    late = np.flatnonzero(way[half:] >= NOTES.transition[1])
    return begins, half + (int(late[0]) if len(late) else len(smooth) - 1 - half)


def _span(time: FloatArray, run: slice | None) -> tuple[float, float] | None:
    return None if run is None else (round(float(time[run.start]), 4), round(float(time[run.stop - 1]), 4))
