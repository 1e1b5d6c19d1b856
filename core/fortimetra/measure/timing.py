"""Onsets against the grid: note by note, and what the errors have in common.

Conventions: ms, late is positive. bias is the median error, jitter its robust standard deviation, drift the slope of
the errors over the beats. Where only tempo or phase are fitted, early and late as a whole cannot be told: bias is
None.
"""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Mapping, Sequence
from dataclasses import dataclass, replace
from itertools import pairwise

import numpy as np
from numba import njit

from fortimetra.align.grid import DueTimes
from fortimetra.align.match import Match
from fortimetra.measure.settings import STATISTICS, TIMING
from fortimetra.measure.slide import Arrival
from fortimetra.measure.statistics import median_u
from fortimetra.medians import median_slope, robust_sd
from fortimetra.model.analysis import Grid
from fortimetra.model.drill import SLURRED, Drill
from fortimetra.model.summary import GroupPlace, Pace, TimingSummary
from fortimetra.model.tolerance import onset_tolerance_ms
from fortimetra.units import MAD_TO_SD, FloatArray, rounded


@dataclass(frozen=True)
class NoteTiming:
    """One event's onset against the grid; None where there is none. relative: early and late as a whole are not
    known.
    """

    due_s: float
    error_ms: float
    u_ms: float
    relative: bool


def note_timings(
    match: Match, due: DueTimes, grid: Grid, arrivals: Mapping[int, Arrival] | None = None
) -> list[NoteTiming | None]:
    """For each event that was heard and is due somewhere, its error.

    arrivals: of slides, which are due where they arrive. One that could not be followed may have arrived on time,
    wherever it was heard.
    """
    if grid.source == "none":
        return [None] * len(match.events)
    raw = np.array([np.nan if n is None else 1000.0 * n.onset_s for n in match.heard]) - 1000.0 * due.time_s
    own_u = np.array([np.nan if n is None else n.onset_u_ms for n in match.heard])
    for index, arrival in (arrivals or {}).items():
        raw[index] = 1000.0 * (arrival.at_s - due.time_s[index])
        own_u[index] = arrival.u_ms if arrival.followed else max(arrival.u_ms, abs(raw[index]))
    usual, grid_u = 0.0, grid.u_ms or 0.0
    heard = raw[~np.isnan(raw)]
    if grid.u_ms is None and len(heard):
        # A click whose delay is not known: read against what is usual in this take.
        usual, grid_u = float(np.median(heard)), median_u(heard)
        if not np.isfinite(grid_u):
            return [None] * len(match.events)  # one note alone says nothing of what is usual
    relative = grid.source == "fitted" or grid.u_ms is None
    u = np.hypot(own_u, grid_u)
    return [
        None
        if np.isnan(raw[i])
        else NoteTiming(float(due.time_s[i]) + usual / 1000.0, float(raw[i]) - usual, float(u[i]), relative)
        for i in range(len(raw))
    ]


def slurs_in_a_room(timings: Sequence[NoteTiming | None], match: Match) -> list[NoteTiming | None]:
    """Timings as a microphone in a room has them: it holds the pitch before a slur, so that the new one takes
    over later, by an unknown part of the room's fall.
    """
    slurred = [e.notes[0].event.articulation in SLURRED for e in match.events]
    return [
        replace(t, u_ms=float(np.hypot(t.u_ms, TIMING.room_slur_u_ms))) if t is not None and slur else t
        for t, slur in zip(timings, slurred, strict=True)
    ]


def summarise_timing(
    match: Match,
    timings: Sequence[NoteTiming | None],
    drill: Drill,
    grid: Grid,
    levels_db: Sequence[float | None] = (),
    together_ms: float | None = None,
) -> TimingSummary | None:
    """What the errors of a take have in common; levels_db: deviations of the same events, where they are known."""
    known = [(i, t) for i, t in enumerate(timings) if t is not None]
    if len(known) < TIMING.least_notes:
        return None
    errors = np.array([t.error_ms for _, t in known])
    beats = np.array([drill.played_beat(match.events[i].beat) for i, _ in known])
    relative = known[0][1].relative
    drift = _drift(errors, beats, drill, grid)
    played = [n is not None for n in match.heard]
    change, change_u = after_string_change(
        match,
        [t.error_ms if t is not None and i and played[i - 1] else None for i, t in enumerate(timings)],
    )
    swing = _swing(match, drill)
    return TimingSummary(
        bias_ms=None if relative else round(float(np.median(errors)), 2),
        jitter_ms=round(robust_sd(errors), 2),
        drift_ms_per_beat=rounded(drift, 3),
        string_change_ms=rounded(change, 2),
        u_bias_ms=None if relative else round(float(np.hypot(median_u(errors), grid.u_ms or 0.0)), 2),
        u_string_change_ms=rounded(change_u, 2),
        tempo_bpm=_tempo(match, drill),
        swing=rounded(swing, 3),
        together_ms=together_ms,
        groups=_groups(match, timings, drill, levels_db),
        paces=_paces(match, timings, drill, levels_db),
    )


def _drift(errors: FloatArray, beats: FloatArray, drill: Drill, grid: Grid) -> float | None:
    """ms a beat: of the errors, or of the fitted tempo against the asked one."""
    if grid.source == "fitted":
        if drill.tempo is None or grid.bpm is None or abs(grid.bpm / drill.tempo.bpm - 1.0) > TIMING.other_tempo:
            return None
        return 60_000.0 / grid.bpm - 60_000.0 / drill.tempo.bpm
    if np.ptp(beats) <= 0:
        return None
    return median_slope(errors, beats)


def _tempo(match: Match, drill: Drill) -> float | None:
    """Beats a minute that were played: the slope of the onsets over the beats between neighbours."""
    pairs = [
        (drill.played_beat(e.beat), n.onset_s) for e, n in zip(match.events, match.heard, strict=True) if n is not None
    ]
    slopes = [(t1 - t0) / (b1 - b0) for (b0, t0), (b1, t1) in zip(pairs, pairs[4:], strict=False) if b1 > b0]
    slope = float(np.median(slopes)) if slopes else 0.0
    return round(60.0 / slope, 2) if slope > 0 and drill.tempo else None


def after_string_change(match: Match, values: Sequence[float | None]) -> tuple[float | None, float | None]:
    """Mean of an event's value after a change of string less that of events on the string before, and its expanded
    uncertainty.

    values: of every event, None where it has none. (None, None) where either kind has fewer than TIMING.least_notes.
    """
    after: dict[bool, list[float]] = {True: [], False: []}
    for change, value in zip(_changes_of_string(match), values, strict=True):
        if change is not None and value is not None:
            after[change].append(value)
    if min(len(after[True]), len(after[False])) < TIMING.least_notes:
        return None, None
    difference = float(np.mean(after[True]) - np.mean(after[False]))
    return difference, STATISTICS.coverage * float(np.sqrt(sum(np.var(v, ddof=1) / len(v) for v in after.values())))


def _swing(match: Match, drill: Drill) -> float | None:
    """Share of the beat the first of two eighths takes, median over beats played as two eighths."""
    if drill.tempo is None:
        return None
    by_beat = {round(e.beat, 4): n.onset_s for e, n in zip(match.events, match.heard, strict=True) if n is not None}

    def later_s(beat: float, by: float) -> float | None:
        return by_beat.get(round(beat + by, 4))

    shares = [
        (half_s - time_s) / (next_s - time_s)
        for beat, time_s in by_beat.items()
        if abs(beat - round(beat)) < TIMING.on_beat
        and (half_s := later_s(beat, 0.5)) is not None
        and (next_s := later_s(beat, 1.0)) is not None
        and later_s(beat, 0.25) is None
    ]
    return float(np.median(shares)) if len(shares) >= TIMING.least_notes else None


def group_places(match: Match, drill: Drill) -> list[int | None]:
    """Each event's place in its group, from 1: from accent to accent, from pick to pick in a slurred line, else in
    its beat.
    """
    events = [e.notes[0].event for e in match.events]
    accents = sum(e.accent for e in events)
    picked = sum(e.articulation not in SLURRED for e in events)
    places: list[int | None] = []
    place = 0
    for event, asked in zip(events, match.events, strict=True):
        if accents > 1:
            first = event.accent
        elif 1 < picked <= len(events) // 2:
            first = event.articulation not in SLURRED
        else:
            beat = asked.beat
            first = abs(beat - round(beat)) < TIMING.on_beat
        place = 1 if first or not places else place + 1
        places.append(place if place <= TIMING.most_group else None)
    return places


def _groups(
    match: Match, timings: Sequence[NoteTiming | None], drill: Drill, levels_db: Sequence[float | None]
) -> tuple[GroupPlace, ...]:
    """Errors and levels by place in the group: what rushes inside it, and whether its first note is a habit."""
    errors: dict[int, list[float]] = defaultdict(list)
    levels: dict[int, list[float]] = defaultdict(list)
    for i, place in enumerate(group_places(match, drill)):
        timing = timings[i]
        if place is None or timing is None:
            continue
        errors[place].append(timing.error_ms)
        level = levels_db[i] if levels_db else None
        if level is not None:
            levels[place].append(level)
    if len(errors) < 2:
        return ()
    return tuple(
        GroupPlace(
            place=place,
            count=len(found),
            error_ms=round(float(np.median(found)), 2),
            u=round(median_u(np.array(found)), 2),
            level_db=round(float(np.median(levels[place])), 2) if levels[place] else None,
        )
        for place, found in sorted(errors.items())
        if len(found) >= TIMING.least_notes
    )


def _paces(
    match: Match, timings: Sequence[NoteTiming | None], drill: Drill, levels_db: Sequence[float | None]
) -> tuple[Pace, ...]:
    """The same figure slow and fast: evenness by the length of the slots."""
    by_slot: dict[float, list[int]] = defaultdict(list)
    for i, event in enumerate(match.events):
        if timings[i] is not None:
            by_slot[round(event.notes[0].event.length, 4)].append(i)
    enough = {slot: found for slot, found in by_slot.items() if len(found) >= TIMING.least_notes}
    if len(enough) < 2:
        return ()
    paces = []
    for slot, found in sorted(enough.items()):
        errors = np.array([t.error_ms for i in found if (t := timings[i]) is not None])
        levels = [v for i in found if levels_db and (v := levels_db[i]) is not None]
        paces.append(
            Pace(
                slot_beats=slot,
                notes_per_s=round(1.0 / (slot * drill.seconds_per_beat), 2),
                count=len(found),
                bias_ms=round(float(np.median(errors)), 2),
                jitter_ms=round(robust_sd(errors), 2),
                spread_db=round(robust_sd(np.array(levels)), 2) if len(levels) >= TIMING.least_notes else None,
            )
        )
    return tuple(paces)


def fastest_even_run_nps(match: Match, drill: Drill, *, tolerance_ms: float | None = None) -> float | None:
    """The most notes a second held for TIMING.even_run_s with a jitter inside the tolerance; None where no run is
    that long.

    Notes of the drill and extras alike: what counts is what was played. tolerance_ms: of the drill, else by its
    profile.
    """
    onsets = np.array([n.onset_s for n in match.notes])
    if len(onsets) < TIMING.even_run_notes:
        return None
    share, most, least = onset_tolerance_ms(drill.profile)
    best = _fastest(
        onsets, TIMING.even_run_s, TIMING.even_run_notes, tolerance_ms or 0.0, share, most, least, TIMING.almost
    )
    return round(float(best), 2) if best > 0 else None


@njit(cache=True)
def _fastest(onsets, least_s, least_notes, given_ms, share, most_ms, least_ms, almost):  # type: ignore[no-untyped-def]
    best = 0.0
    n = len(onsets)
    for first in range(n - least_notes + 1):
        for last in range(first + least_notes - 1, n):
            count = last - first
            # The last note sounds for its slot, too.
            if (onsets[last] - onsets[first]) * (count + 1) / count < least_s * almost:
                continue
            numbers = np.arange(count + 1)
            times = onsets[first : last + 1]
            mean_k, mean_t = numbers.mean(), times.mean()
            slope = ((numbers - mean_k) * (times - mean_t)).sum() / ((numbers - mean_k) ** 2).sum()
            rest = np.abs(times - mean_t - slope * (numbers - mean_k))
            slot_ms = 1000.0 * slope
            allowed = given_ms if given_ms > 0 else min(most_ms, max(least_ms, share * slot_ms))
            if np.median(rest) * MAD_TO_SD * 1000.0 <= allowed and rest.max() * 1000.0 <= 0.5 * slot_ms:
                best = max(best, 1.0 / slope)
            # Longer runs from here hold this one: the shortest that is long enough is the fastest or as fast.
            break
    return best


def _changes_of_string(match: Match) -> list[bool | None]:
    """Whether each event follows one on another string; None for the first of a repeat."""
    found: list[bool | None] = [None]
    for before, after in pairwise(match.events):
        same_repeat = before.notes[0].repeat == after.notes[0].repeat
        found.append(before.notes[0].note.string != after.notes[0].note.string if same_repeat else None)
    return found
