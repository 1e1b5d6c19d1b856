"""Where on the neck: strings and frets for pitches that come without them, with the least work for the hand.

A shortest path over all places each note can be played and all positions of the hand that reach them (dynamic
programming). The costs are common practice, no source: stay in position, then near the last string, then low on the
neck. It is a proposal; a teacher confirms it.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from itertools import product

import numpy as np
from numpy.typing import NDArray

from fortimetra.units import FloatArray
from fortimetra.workbench.strings import fret_mm

# How far the fingers span without moving the hand: five frets at the nut, six in the middle of the neck. And a usual
# scale. Common practice, no source.
REACH_MM = 155.0
SCALE_MM = 648.0
MOST_WAYS = 48
FINGERS = 4
HIGHEST_HAND = 20
PER_FRET_SHIFTED = 0.5
SHIFT = 0.6
PER_STRING_CROSSED = 0.3
PER_FRET_UP = 0.05
PER_FRET_STRETCHED = 0.6
OPEN_STRING = 0.2
PER_FRET_FROM_NUT = 0.12
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
    states = [_states(ways[i]) for i in played]
    total = states[0].cost
    back: list[NDArray[np.intp]] = []
    for step in range(1, len(played)):
        before, after = states[step - 1], states[step]
        shift = np.abs(before.hand[:, None] - after.hand[None, :])
        crossed = np.abs(before.string[:, None] - after.string[None, :])
        move = PER_FRET_SHIFTED * shift + SHIFT * (shift > 0) + PER_STRING_CROSSED * crossed
        if wanted[played[step]].slurred:
            move += OFF_THE_STRING * (crossed > 0)
        reached = total[:, None] + move
        back.append(np.argmin(reached, axis=0))
        total = np.min(reached, axis=0) + after.cost
    chosen = int(np.argmin(total))
    found: list[list[Place]] = [[] for _ in wanted]
    for step in range(len(played) - 1, -1, -1):
        found[played[step]] = list(ways[played[step]][states[step].way[chosen]])
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


@dataclass(frozen=True)
class _States:
    """Ways to play one event, each with every position of the hand that reaches it; all of shape (n_states,)."""

    way: NDArray[np.intp]
    hand: FloatArray  # the fret under the first finger
    string: FloatArray
    cost: FloatArray


def _states(ways: list[tuple[Place, ...]]) -> _States:
    rows = []
    for index, way in enumerate(ways):
        pressed = [fret for _, fret in way if fret]
        opened = sum(fret == 0 for _, fret in way)
        string = sum(s for s, _ in way) / len(way)
        low, high = (min(pressed), max(pressed)) if pressed else (1, HIGHEST_HAND)
        hands = range(max(1, min(low, high - FINGERS + 1)), low + 1) if pressed else range(1, HIGHEST_HAND + 1)
        for hand in hands:
            stretch = max(0, high - hand - FINGERS + 1) if pressed else 0
            cost = PER_FRET_UP * hand + PER_FRET_STRETCHED * stretch
            # Up the neck an open string is a stranger: it rings on, and sounds unlike its neighbours.
            cost += opened * (OPEN_STRING + PER_FRET_FROM_NUT * (hand - 1))
            rows.append((index, hand, string, cost))
    table = np.array(rows, dtype=np.float64)
    return _States(table[:, 0].astype(np.intp), table[:, 1], table[:, 2], table[:, 3])


def _own_cost(ways: list[tuple[Place, ...]]) -> FloatArray:
    states = _states(ways)
    cheapest = np.full(len(ways), np.inf)
    np.minimum.at(cheapest, states.way, states.cost)
    return cheapest
