"""What the levels of a take have in common: strings, slurs, taps, accents, a drift."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np

from fortimetra.align.match import Match
from fortimetra.measure.level import NoteLevel, Way, reference_u
from fortimetra.measure.settings import LEVEL
from fortimetra.measure.timing import after_string_change
from fortimetra.medians import median_slope, robust_sd
from fortimetra.model.drill import Drill
from fortimetra.model.summary import LevelSummary, StringLevel
from fortimetra.model.verdict import Verdict
from fortimetra.units import rounded


def summarise_levels(match: Match, levels: Sequence[NoteLevel | None], drill: Drill) -> LevelSummary | None:
    """What the levels of a take have in common."""
    known = [(i, n) for i, n in enumerate(levels) if n is not None]
    if len(known) < LEVEL.least_notes:
        return None
    strings = _strings(match, known)
    deficit, deficit_u = _slur_deficit(match, known)
    limit = drill.limits()["slur_deficit_db"]
    change, change_u = after_string_change(
        match, [None if n is None or n.way == "accented" else n.deviation_db for n in levels]
    )
    by_string = _by_way(match, known, "picked")
    rest = np.concatenate([np.array(v) - np.median(v) for v in by_string.values()]) if by_string else np.empty(0)
    return LevelSummary(
        spread_db=round(robust_sd(rest), 2) if len(rest) >= LEVEL.least_notes else None,
        slur_deficit_db=rounded(deficit, 2),
        accent_lift_db=_accent_lift(known),
        u_slur_deficit_db=rounded(deficit_u, 2),
        slur_verdict=_at_most(deficit, deficit_u, limit),
        tap_excess_db=_tap_excess(match, known),
        string_change_db=rounded(change, 2),
        u_string_change_db=rounded(change_u, 2),
        drift_db_per_min=_drift(match, known),
        strings=strings,
    )


def _at_most(value: float | None, u: float | None, limit: float) -> Verdict | None:
    if value is None or u is None:
        return None
    if value + u <= limit:
        return "inside"
    return "outside" if value - u > limit else "unclear"


def _strings(match: Match, known: list[tuple[int, NoteLevel]]) -> tuple[StringLevel, ...]:
    by_string = _by_way(match, known, "picked")
    return tuple(
        StringLevel(
            string=string,
            count=len(values),
            level_db=round(float(np.median(values)), 2),
            spread_db=round(robust_sd(np.array(values)), 2),
        )
        for string, values in sorted(by_string.items())
        if len(values) >= LEVEL.least_notes
    )


def _by_way(match: Match, known: list[tuple[int, NoteLevel]], way: Way) -> dict[int, list[float]]:
    found: dict[int, list[float]] = {}
    for i, note in known:
        if note.way == way:
            found.setdefault(match.events[i].lead.note.string, []).append(note.level_db)
    return found


def _slur_deficit(match: Match, known: list[tuple[int, NoteLevel]]) -> tuple[float | None, float | None]:
    """Median picked less median slurred on the strings that have both, weighted by their slurs."""
    picked, slurred = _by_way(match, known, "picked"), _by_way(match, known, "slurred")
    both = [s for s in slurred if picked.get(s) and len(slurred[s]) >= LEVEL.least_slurred]
    if not both:
        return None, None
    weight = np.array([float(len(slurred[s])) for s in both])
    weight /= weight.sum()
    deficits = np.array([np.median(picked[s]) - np.median(slurred[s]) for s in both])
    us = np.array([np.hypot(reference_u(np.array(picked[s])), reference_u(np.array(slurred[s]))) for s in both])
    return float(weight @ deficits), float(np.sqrt((weight**2) @ us**2 + LEVEL.method_u_db**2))


def _tap_excess(match: Match, known: list[tuple[int, NoteLevel]]) -> float | None:
    """Median tapped less median of the other notes of the string."""
    tapped = _by_way(match, known, "tapped")
    differences = []
    for string, values in tapped.items():
        others = [n.level_db for i, n in known if n.way != "tapped" and match.events[i].lead.note.string == string]
        if len(values) >= LEVEL.least_slurred and len(others) >= LEVEL.least_slurred:
            differences.append(float(np.median(values) - np.median(others)))
    return round(float(np.mean(differences)), 2) if differences else None


def _accent_lift(known: list[tuple[int, NoteLevel]]) -> float | None:
    lifts = [n.deviation_db for _, n in known if n.way == "accented" and n.deviation_db is not None]
    return round(float(np.median(lifts)), 2) if len(lifts) >= 2 else None


def _drift(match: Match, known: list[tuple[int, NoteLevel]]) -> float | None:
    """dB a minute, over the deviations; None for takes too short to say."""
    pairs = [
        (heard.onset_s / 60.0, n.deviation_db)
        for i, n in known
        if (heard := match.heard[i]) is not None and n.deviation_db is not None and n.way == "picked"
    ]
    if len(pairs) < 2 * LEVEL.least_notes:
        return None
    minutes, values = (np.array(v) for v in zip(*pairs, strict=True))
    if np.ptp(minutes) <= LEVEL.drift_minutes:
        return None
    return round(median_slope(values, minutes), 2)
