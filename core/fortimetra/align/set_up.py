"""Which heard note is which string of a set-up take, whatever order, tuning or gaps it has.

The whole guitar may be off by up to a fifth: the shift that explains most notes is taken out first. Then the notes
are paired in the order asked (cheapest alignment by pitch alone), and, if that leaves notes over that another order
explains, by pitch alone (assignment problem; Kuhn's method in scipy).
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
from scipy.optimize import linear_sum_assignment

from fortimetra.align.match import AskedEvent, Match, asked_events
from fortimetra.align.settings import SETUP_MATCH
from fortimetra.errors import TakeError
from fortimetra.hear.notes import HeardNote
from fortimetra.model.drill import Drill
from fortimetra.units import FloatArray


@dataclass(frozen=True)
class SetupMatch:
    """match.heard[i] is the note of event i or None. in_order: False where another order explains more."""

    match: Match
    in_order: bool


def match_set_up(heard: Sequence[HeardNote], drill: Drill) -> SetupMatch:
    """Pair the notes of a set-up take.

    Raises TakeError(code="wrong_drill") where fewer than half of the open strings and twelfth frets are there.
    """
    events = asked_events(drill)
    asked = np.array([e.start_midi for e in events])
    pitch = np.array([n.plain_midi for n in heard])
    shift = _shift(pitch, asked)
    distance = np.abs(pitch[:, None] - shift - asked[None, :])
    ordered = _in_order(distance)
    free = _by_pitch(distance)
    in_order = _fitting(ordered, distance) >= _fitting(free, distance)
    pairs = ordered if in_order else free
    if _fitting(pairs, distance) < SETUP_MATCH.min_share * len(events):
        raise TakeError(
            "wrong_drill",
            f"This does not look like a set-up take: {_fitting(pairs, distance)} of {len(events)} open strings and "
            "12th frets fit. Play each open string and its 12th fret, or choose the drill that was played.",
        )
    return SetupMatch(_as_match(heard, events, pairs, 100.0 * shift), in_order)


def _as_match(
    heard: Sequence[HeardNote], events: tuple[AskedEvent, ...], pairs: list[int], offset_cents: float
) -> Match:
    used = set(pairs)
    return Match(
        events,
        tuple(heard[i] if i >= 0 else None for i in pairs),
        tuple(n for i, n in enumerate(heard) if i not in used),
        offset_cents,
    )


def _fitting(pairs: list[int], distance: FloatArray) -> int:
    return sum(i >= 0 and distance[i, j] < SETUP_MATCH.near_semitones for j, i in enumerate(pairs))


def _shift(pitch: FloatArray, asked: FloatArray) -> float:
    """Semitones the whole guitar is off: the shift under which most asked notes are heard, the smallest of equals."""
    candidates = (pitch[:, None] - asked[None, :]).ravel()
    candidates = np.append(candidates[np.abs(candidates) <= SETUP_MATCH.most_shift_semitones], 0.0)
    near = np.abs(pitch[None, :, None] - candidates[:, None, None] - asked[None, None, :]) < SETUP_MATCH.near_semitones
    explained = near.any(axis=1).sum(axis=1)
    best = candidates[explained == explained.max()]
    middle = float(best[np.argmin(np.abs(best))])
    rest = pitch[:, None] - middle - asked[None, :]
    close = rest[np.abs(rest) < SETUP_MATCH.near_semitones]
    return middle + (float(np.median(close)) if len(close) else 0.0)


def _in_order(distance: FloatArray) -> list[int]:
    """For each asked note the heard one, both in order of time, or -1."""
    n, m = distance.shape
    cost = np.where(distance <= SETUP_MATCH.most_misfit_semitones, distance, np.inf)
    total = np.zeros((n + 1, m + 1))
    total[:, 0] = SETUP_MATCH.extra_cost * np.arange(n + 1)
    total[0, :] = SETUP_MATCH.missed_cost * np.arange(m + 1)
    for i in range(1, n + 1):
        for j in range(1, m + 1):
            total[i, j] = min(
                total[i - 1, j - 1] + cost[i - 1, j - 1],
                total[i - 1, j] + SETUP_MATCH.extra_cost,
                total[i, j - 1] + SETUP_MATCH.missed_cost,
            )
    pairs = [-1] * m
    i, j = n, m
    while i and j:
        if total[i, j] == total[i - 1, j - 1] + cost[i - 1, j - 1]:
            pairs[j - 1] = i - 1
            i, j = i - 1, j - 1
        elif total[i, j] == total[i - 1, j] + SETUP_MATCH.extra_cost:
            i -= 1
        else:
            j -= 1
    return pairs


def _by_pitch(distance: FloatArray) -> list[int]:
    """For each asked note the heard one that fits it best, each used once, or -1."""
    cost = np.minimum(distance, SETUP_MATCH.most_misfit_semitones)
    rows, columns = linear_sum_assignment(cost)
    pairs = [-1] * distance.shape[1]
    for i, j in zip(rows, columns, strict=True):
        if distance[i, j] < SETUP_MATCH.most_misfit_semitones:
            pairs[int(j)] = int(i)
    return pairs
