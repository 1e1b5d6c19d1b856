"""Who keeps which string quiet: for every event of a drill, for every string that must not sound, a part of a hand.

A string is quiet where something touches it lightly. What can touch it follows from the shape (`reaches`). The shares
by which each part keeps a string quiet are common practice, no source.

Each event has several ways to place the hands. The plan is the shortest path over them (dynamic programming): the
least risk of a ringing string, by the school of the drill, with as little moving as can be.
"""

from __future__ import annotations

from collections.abc import Sequence
from functools import lru_cache
from itertools import pairwise
from typing import Literal

import numpy as np

from fortimetra.model.base import Model
from fortimetra.model.drill import SLURRED, Drill, DrillNote, Event
from fortimetra.model.hand import DampingSchool, Push
from fortimetra.model.posture import Damper, Held, Part, Posture
from fortimetra.technique.damping_words import damping_lines, part_words
from fortimetra.technique.fingers import with_hands
from fortimetra.technique.reaches import Reach, Scene, ways_of

FRETTING: frozenset[Part] = frozenset(
    {"tip", "underside", "pad", "idle_finger", "thumb_over", "bending_finger", "behind_slide"}
)
# The share of times each part keeps a string quiet when it is where it belongs.
KEEPS: dict[Part, float] = {
    "tip": 0.85, "underside": 0.9, "pad": 0.75, "idle_finger": 0.8, "thumb_over": 0.6, "bending_finger": 0.4,
    "behind_slide": 0.5, "palm": 0.9, "free_fingers": 0.8, "picking_finger": 0.9,
}  # fmt: skip
# What it costs to have a part in place; tips and pads lie there by themselves.
EFFORT: dict[Part, float] = {
    "tip": 0.0, "pad": 0.0, "bending_finger": 0.0, "behind_slide": 0.0, "underside": 0.15, "idle_finger": 0.5,
    "thumb_over": 0.6, "palm": 0.25, "free_fingers": 0.5, "picking_finger": 0.3,
}  # fmt: skip
MOVING: frozenset[Part] = frozenset({"idle_finger", "thumb_over", "palm", "free_fingers", "picking_finger"})
OTHER_HAND = 1.2
WITH_TIME = 0.4
RINGING = 4.0
# A string that was just played or is struck has more to say than one that only answers.
JUST_PLAYED = 2.0
PER_MOVE = 0.35
# A note this long leaves time to tuck the pick away and lay the fingers down.
LONG_S = 0.9


class DampingPlan(Model):
    """A drill's plan. moves: events at which a damping part has to move; those are the places to practise."""

    school: DampingSchool
    postures: tuple[Posture, ...] = ()
    moves: tuple[str, ...] = ()

    def at(self, event: str) -> Posture | None:
        """The posture of an event."""
        return next((p for p in self.postures if p.event == event), None)


def damping_plan(drill: Drill) -> DampingPlan:
    """Who keeps which string quiet, all through a drill. Fingers that it does not name are proposed."""
    events = with_hands(drill.events)
    school = drill.school.damping
    placed = _scenes(drill, events)
    if not placed:
        return DampingPlan(school=school)
    ways = [ways_of(scene) for _, scene, _ in placed]
    costs = [
        np.array([_cost(scene, way, school, just) for way in found])
        for (_, scene, just), found in zip(placed, ways, strict=True)
    ]
    chosen = _shortest(ways, costs)
    postures, moves = [], []
    before: tuple[Reach, ...] | None = None
    for (event, scene, _), found, at in zip(placed, ways, chosen, strict=True):
        way = found[at]
        # At a rest both hands stop everything together: no place of its own to practise.
        stopped = scene.strike == "rest"
        moved = () if before is None or stopped else _moved(before, way)
        if moved:
            moves.append(event.id)
        postures.append(_posture(event, scene, way, school, moved))
        before = before if stopped else way
    return DampingPlan(school=school, postures=tuple(postures), moves=tuple(moves))


def _scenes(drill: Drill, events: Sequence[Event]) -> list[tuple[Event, Scene, frozenset[int]]]:
    """Each event with its scene and the strings that were played just before it."""
    found = []
    ringing: list[tuple[float, int]] = []  # sounds until, string
    before: frozenset[int] = frozenset()
    # The hand stands where its first note will be, also while another begins.
    hand = next((h for e in events if (h := _hand_at(e.notes))), 0)
    for event in events:
        ringing = [(to, s) for to, s in ringing if to > event.beat + 1e-6]
        hand = _hand_at(event.notes) or hand
        scene = _scene(drill, event, hand, frozenset(s for _, s in ringing))
        found.append((event, scene, before - scene.sounding))
        before = scene.sounding
        own = frozenset(s for s, _, _ in scene.notes)
        ringing = [(to, s) for to, s in ringing if s not in own]
        if event.let_ring or event.voice > 1:
            ringing += [(event.beat + event.length, s) for s in own]
    return found


def _scene(drill: Drill, event: Event, hand: int, ringing: frozenset[int]) -> Scene:
    """One event. hand: the fret under the first finger; ringing: strings that sound on from earlier events."""
    sounds = tuple((n.string, n.fret or 0, n.finger) for n in event.notes if not n.muted)
    return Scene(
        family=drill.family,
        strings=len(drill.tuning),
        notes=sounds,
        open_also=ringing - {s for s, _, _ in sounds},
        struck=frozenset(n.string for n in event.notes if n.muted),
        hand=hand,
        bend=_pushed(event),
        helpers=frozenset(event.bend.helpers) if event.bend else frozenset(),
        strike=_strike(event, drill.family),
        slow=event.length * drill.seconds_per_beat >= LONG_S,
    )


def _hand_at(notes: Sequence[DrillNote]) -> int:
    hands = [n.fret - int(n.finger) + 1 for n in notes if n.fret and n.finger in {"1", "2", "3", "4"}]
    return max(1, min(hands)) if hands else 0


def _pushed(event: Event) -> Push | None:
    """Which way a string is moved at an event; None where none is."""
    if event.bend is None and event.vibrato is None:
        return None
    said = (event.bend.direction if event.bend else None) or (event.vibrato.direction if event.vibrato else None)
    return said or push_of(event.notes[0].string)


def push_of(string: int) -> Push:
    """Which way a string is bent where nobody says: 1 to 4 toward the thicker side, the others would leave the neck."""
    return "toward_thicker" if string <= 4 else "toward_thinner"


def _strike(event: Event, family: str) -> Literal["pick", "strum", "pluck", "slur", "tap", "rest"]:
    if not event.notes:
        return "rest"
    if event.articulation == "tap":
        return "tap"
    if event.articulation in SLURRED:
        return "slur"
    if family == "bottleneck":
        return "pluck"
    if event.articulation == "strum" or any(n.muted for n in event.notes):
        return "strum"
    if len(event.notes) > 1:
        strings = sorted(n.string for n in event.notes)
        apart = any(b - a > 1 for a, b in pairwise(strings))
        return "pluck" if apart or family == "muted_double_stops" else "strum"
    return "pick"


def _cost(scene: Scene, way: Sequence[Reach], school: DampingSchool, just_played: frozenset[int]) -> float:
    """Risk of a ringing string, and the work of keeping the parts in place."""
    cost = 0.0
    for reach in way:
        effort = EFFORT[reach.part]
        if reach.part == "free_fingers":
            # The pick is tucked away for a long note; while it moves fast these fingers are busy.
            effort *= WITH_TIME if scene.slow else 2.0 if scene.strike == "pick" else 1.0
        first = school == "both" or (reach.part in FRETTING) == (school == "fretting_hand")
        cost += effort * (1.0 if first else 1.0 + OTHER_HAND)
    for string in scene.quiet:
        left = 1.0
        for reach in way:
            if string in reach.strings:
                left *= 1.0 - KEEPS[reach.part]
        weight = JUST_PLAYED if string in just_played or string in scene.struck else 1.0
        cost += RINGING * weight * left
    return cost


def _moved(before: Sequence[Reach], after: Sequence[Reach]) -> tuple[str, ...]:
    """Parts that lie somewhere else than before, or are new, or gone: those that neither lie there by themselves nor
    follow their note as a flat first finger does."""
    was = {r.part: r for r in before if r.part in MOVING}
    now = {r.part: r for r in after if r.part in MOVING}
    return tuple(
        p
        for p in sorted({*was, *now})
        if p not in was or p not in now or (was[p].strings, was[p].finger) != (now[p].strings, now[p].finger)
    )


@lru_cache(maxsize=65536)
def _moves_between(before: tuple[tuple[Reach, ...], ...], after: tuple[tuple[Reach, ...], ...]) -> bytes:
    table = np.array([[len(_moved(a, b)) for b in after] for a in before], dtype=np.float64)
    return table.tobytes()


def _shortest(ways: Sequence[tuple[tuple[Reach, ...], ...]], costs: Sequence[np.ndarray]) -> list[int]:
    total = costs[0]
    back = []
    for step in range(1, len(ways)):
        moves = np.frombuffer(_moves_between(ways[step - 1], ways[step]))
        reached = total[:, None] + PER_MOVE * moves.reshape(len(ways[step - 1]), len(ways[step]))
        back.append(np.argmin(reached, axis=0))
        total = np.min(reached, axis=0) + costs[step]
    chosen = [int(np.argmin(total))]
    for step in reversed(back):
        chosen.append(int(step[chosen[-1]]))
    return chosen[::-1]


def _posture(
    event: Event, scene: Scene, way: Sequence[Reach], school: DampingSchool, moved: tuple[str, ...]
) -> Posture:
    dampers, unreachable = [], []
    for string in sorted(scene.quiet):
        over = [r for r in way if string in r.strings]
        if not over:
            unreachable.append(string)
            continue
        best = max(over, key=lambda r: (_rank(r, school), -len(r.strings)))
        keeps = 1.0
        for reach in over:
            keeps *= 1.0 - KEEPS[reach.part]
        dampers.append(
            Damper(
                string=string,
                part=best.part,
                finger=best.finger,
                sure=keeps <= 0.3,
                says=part_words(best.part, best.finger),
            )
        )
    flat = any(r.part == "underside" for r in way)
    held = tuple(Held(string=s, fret=f, finger=g, flat=flat and g == "1") for s, f, g in scene.notes)
    return Posture(
        event=event.id,
        beat=event.beat,
        held=held,
        sounding=tuple(sorted(scene.sounding)),
        pushed=scene.bend,
        quiet=tuple(dampers),
        unreachable=tuple(unreachable),
        says=damping_lines(dampers, unreachable, strummed=scene.strike == "strum"),
        moved=tuple(part_words(r.part, r.finger) for r in way if r.part in moved),
    )


def _rank(reach: Reach, school: DampingSchool) -> float:
    """Whose job a string is called where several reach it: the surest, the school's hand before the other."""
    own = school == "both" or (reach.part in FRETTING) == (school == "fretting_hand")
    return KEEPS[reach.part] - (0.0 if own else 0.2)
