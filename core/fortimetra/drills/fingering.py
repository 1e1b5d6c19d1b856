"""Where on the neck: strings and frets for pitches that come without them, with the least work for the hand.

A shortest path over all places each note can be played (dynamic programming). The costs are common practice, no source:
stay in position, then near the last string, then low on the neck. It is a proposal; a teacher confirms it.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from itertools import product

import numpy as np

from fortimetra.drills.check import REACH_MM, SCALE_MM
from fortimetra.units import FloatArray
from fortimetra.workbench.strings import fret_mm

MOST_WAYS = 48
PER_FRET_MOVED = 1.0
PER_STRING_CROSSED = 0.35
PER_FRET_UP = 0.06
PER_FRET_SPREAD = 0.4
OPEN_STRING = 0.5
PAST_AN_OPEN_STRING = 1.0
OFF_THE_STRING = 100.0
PITCH_TOLERANCE = 0.02

Place = tuple[int, int]


@dataclass(frozen=True)
class Wanted:
    """Notes struck together: their sounding MIDI pitches, and places that are already known (or None).

    slurred: sounds on from the notes before, so that it stays on their string.
    """

    midi: tuple[float, ...]
    known: tuple[Place | None, ...]
    slurred: bool = False


def propose(
    wanted: Sequence[Wanted], open_midi: Sequence[float], *, frets: int = 22
) -> tuple[list[list[Place]], list[int]]:
    """(string, fret) of every note, and the indices that cannot be played (their list is empty).

    open_midi: sounding open strings, string 1 first.
    """
    ways = [_ways(w, open_midi, frets) for w in wanted]
    impossible = [i for i, w in enumerate(ways) if not w]
    played = [i for i, w in enumerate(ways) if w]
    if not played:
        return [[] for _ in wanted], impossible
    places = [_place(ways[i]) for i in played]
    costs = [_own_cost(ways[i]) for i in played]
    total = costs[0]
    back: list[FloatArray] = []
    for step in range(1, len(played)):
        before, after = places[step - 1], places[step]
        move = PER_FRET_MOVED * np.abs(before[:, None, 0] - after[None, :, 0])
        # An open string leaves the hand free, but in a drill it also rings on: it is no free ride up the neck.
        move = np.where(np.isnan(move), PAST_AN_OPEN_STRING, move)
        move += PER_STRING_CROSSED * np.abs(before[:, None, 1] - after[None, :, 1])
        if wanted[played[step]].slurred:
            move += OFF_THE_STRING * (before[:, None, 1] != after[None, :, 1])
        reached = total[:, None] + move
        back.append(np.argmin(reached, axis=0))
        total = np.min(reached, axis=0) + costs[step]
    chosen = int(np.argmin(total))
    found: list[list[Place]] = [[] for _ in wanted]
    for step in range(len(played) - 1, -1, -1):
        found[played[step]] = list(ways[played[step]][chosen])
        if step:
            chosen = int(back[step - 1][chosen])
    return found, impossible


def places_of(midi: float, open_midi: Sequence[float], *, frets: int) -> list[Place]:
    """Every (string, fret) that sounds a pitch.

    >>> places_of(64.0, (64.0, 59.0, 55.0), frets=12)
    [(1, 0), (2, 5), (3, 9)]
    """
    return [
        (i + 1, round(midi - pitch))
        for i, pitch in enumerate(open_midi)
        if -PITCH_TOLERANCE <= midi - pitch <= frets + PITCH_TOLERANCE
        and abs(midi - pitch - round(midi - pitch)) <= PITCH_TOLERANCE
    ]


def _ways(wanted: Wanted, open_midi: Sequence[float], frets: int) -> list[tuple[Place, ...]]:
    each = [
        [known] if known is not None else places_of(midi, open_midi, frets=frets)
        for midi, known in zip(wanted.midi, wanted.known, strict=True)
    ]
    found = []
    for way in product(*each):
        if len({string for string, _ in way}) < len(way):
            continue
        pressed = [fret for _, fret in way if fret]
        known = all(k is not None for k in wanted.known)
        if (
            pressed
            and not known
            and fret_mm(max(pressed), scale_mm=SCALE_MM) - fret_mm(min(pressed), scale_mm=SCALE_MM) > REACH_MM
        ):
            continue
        found.append(way)
    if len(found) > MOST_WAYS:
        order = np.argsort(_own_cost(found), kind="stable")[:MOST_WAYS]
        found = [found[i] for i in order]
    return found


def _place(ways: list[tuple[Place, ...]]) -> FloatArray:
    """(hand, string) of each way: the lowest pressed fret (NaN where all strings are open) and the middle string."""
    hand = [min((fret for _, fret in way if fret), default=np.nan) for way in ways]
    string = [sum(s for s, _ in way) / len(way) for way in ways]
    return np.array([hand, string], dtype=np.float64).T


def _own_cost(ways: list[tuple[Place, ...]]) -> FloatArray:
    costs = []
    for way in ways:
        pressed = [fret for _, fret in way if fret]
        spread = max(pressed) - min(pressed) if pressed else 0
        costs.append(
            PER_FRET_UP * (min(pressed) if pressed else 0)
            + PER_FRET_SPREAD * spread
            + OPEN_STRING * sum(fret == 0 for _, fret in way)
        )
    return np.array(costs)
