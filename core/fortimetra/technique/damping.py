"""Who keeps which string quiet: for every event of a drill, for every string that must not sound, a part of a hand.

A string is quiet where something touches it lightly. What can touch it follows from the shape: the tip of a fretting
finger leans on the next thicker string, a flat first finger lies over the thinner ones, the pad of the finger that
holds the thinnest note lies on the next string, an idle finger can be laid across the thick ones; the picking hand
has the side of its thumb (or palm) for the thick strings and its free fingers for the thin ones, but not while it
strikes them. All of it is common practice, no source; so are the shares by which each keeps a string quiet.

Each event has several ways to place the hands. The plan is the shortest path over them (dynamic programming): the
least risk of a ringing string, by the school of the drill, with as little moving as can be.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from functools import lru_cache
from itertools import combinations, pairwise
from typing import Literal

import numpy as np

from fortimetra.model.base import Model
from fortimetra.model.drill import SLURRED, Drill, DrillNote, Event
from fortimetra.model.hand import DampingSchool, Push
from fortimetra.model.posture import Damper, Held, Part, Posture
from fortimetra.technique.fingers import with_hands

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
# The palm follows inward to string 3; nearer it chokes what is played.
INNERMOST_PALM = 3
PAD_REACH, IDLE_REACH, FREE_REACH, MOST_BETWEEN = 2, 2, 3, 3
# A note this long leaves time to tuck the pick away and lay the fingers down.
LONG_S = 0.9
# Thumbs that lie low behind the neck: the thumb does not come over.
LOW_THUMB = frozenset(
    {"finger_pairs", "slur_vs_pick", "legato_cycle", "tapping", "alternate_picking", "fastest_run", "sweep", "slides"}
)

FINGER_NAMES = {"1": "first", "2": "second", "3": "ring", "4": "little", "thumb": "thumb"}


class DampingPlan(Model):
    """A drill's plan. moves: events at which a damping part has to move; those are the places to practise."""

    school: DampingSchool
    postures: tuple[Posture, ...] = ()
    moves: tuple[str, ...] = ()

    def at(self, event: str) -> Posture | None:
        """The posture of an event."""
        return next((p for p in self.postures if p.event == event), None)


@dataclass(frozen=True)
class _Reach:
    """A part in place: the strings it keeps quiet."""

    part: Part
    finger: str | None
    strings: frozenset[int]


@dataclass(frozen=True)
class _Scene:
    """What matters of an event for damping; equal scenes have equal ways."""

    family: str
    strings: int
    notes: tuple[tuple[int, int, str | None], ...]  # string, fret, finger of what sounds
    open_also: frozenset[int]  # strings that sound on from earlier events
    struck: frozenset[int]  # muted strings that are struck
    hand: int  # the fret under the first finger; 0 where the hand is free
    bend: Push | None  # which way a string is pushed
    helpers: frozenset[str]
    strike: Literal["pick", "strum", "pluck", "slur", "tap", "rest"]
    slow: bool

    @property
    def sounding(self) -> frozenset[int]:
        return frozenset(s for s, _, _ in self.notes) | self.open_also

    @property
    def quiet(self) -> frozenset[int]:
        return frozenset(range(1, self.strings + 1)) - self.sounding


def damping_plan(drill: Drill) -> DampingPlan:
    """Who keeps which string quiet, all through a drill. Fingers that it does not name are proposed."""
    events = with_hands(drill.events)
    school = drill.school.damping
    placed = _scenes(drill, events)
    if not placed:
        return DampingPlan(school=school)
    ways = [_ways(scene) for _, scene, _ in placed]
    costs = [
        np.array([_cost(scene, way, school, just) for way in found])
        for (_, scene, just), found in zip(placed, ways, strict=True)
    ]
    chosen = _shortest(ways, costs)
    postures, moves = [], []
    before: tuple[_Reach, ...] | None = None
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


def _scenes(drill: Drill, events: Sequence[Event]) -> list[tuple[Event, _Scene, frozenset[int]]]:
    """Each event with its scene and the strings that were played just before it."""
    found = []
    ringing: list[tuple[float, int]] = []  # sounds until, string
    before: frozenset[int] = frozenset()
    # The hand stands where its first note will be, also while another begins.
    hand = next((h for e in events if (h := _hand_at(e.notes))), 0)
    for event in events:
        ringing = [(to, s) for to, s in ringing if to > event.beat + 1e-6]
        sounds = tuple((n.string, n.fret or 0, n.finger) for n in event.notes if not n.muted)
        own = frozenset(s for s, _, _ in sounds)
        hand = _hand_at(event.notes) or hand
        also = frozenset(s for _, s in ringing) - own
        scene = _Scene(
            family=drill.family,
            strings=len(drill.tuning),
            notes=sounds,
            open_also=also,
            struck=frozenset(n.string for n in event.notes if n.muted),
            hand=hand,
            bend=_pushed(event),
            helpers=frozenset(event.bend.helpers) if event.bend else frozenset(),
            strike=_strike(event, drill.family),
            slow=event.length * drill.seconds_per_beat >= LONG_S,
        )
        found.append((event, scene, before - scene.sounding))
        before = scene.sounding
        ringing = [(to, s) for to, s in ringing if s not in own]
        longest = event.beat + event.length
        ringing += [(longest, s) for s in own if event.let_ring or event.voice > 1]
    return found


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


@lru_cache(maxsize=4096)
def _ways(scene: _Scene) -> tuple[tuple[_Reach, ...], ...]:
    """Every way to have the parts of both hands in place: what lies there by itself, and any of the rest."""
    given = tuple(r for r in _by_themselves(scene) if r.strings)
    rest = [r for r in _placeable(scene) if r.strings]
    # Only one idle finger is laid down at a time.
    return tuple(
        (*given, *some)
        for count in range(len(rest) + 1)
        for some in combinations(rest, count)
        if len({r.part for r in some}) == len(some)
    )


def _by_themselves(scene: _Scene) -> list[_Reach]:
    """What touches a string because a note is held."""
    if scene.strike == "rest":
        return []
    quiet, found = scene.quiet, []
    if any(finger == "slide" for _, _, finger in scene.notes):
        return [_Reach("behind_slide", None, quiet)]
    for string, fret, finger in scene.notes:
        if not fret or finger not in {"1", "2", "3", "4"}:
            continue
        if scene.bend is not None:
            # The moving string pushes its neighbour along: touched, but not held still.
            step = 1 if scene.bend == "toward_thicker" else -1
            found.append(_Reach("bending_finger", finger, quiet & {string + step}))
            if step > 0:
                continue
        found.append(_Reach("tip", finger, quiet & {string + 1}))
    thinnest = min(((s, f, g) for s, f, g in scene.notes if f), default=None)
    if thinnest is not None and thinnest[2] in {"2", "3", "4"} and thinnest[0] == min(scene.sounding):
        reach = {thinnest[0] - k for k in range(1, PAD_REACH + 1)}
        found.append(_Reach("pad", thinnest[2], quiet & reach))
    return found


def _placeable(scene: _Scene) -> list[_Reach]:
    """What can be laid on strings besides."""
    return [*_of_fretting_hand(scene), *_of_picking_hand(scene)]


def _of_fretting_hand(scene: _Scene) -> list[_Reach]:
    quiet = scene.quiet
    found: list[_Reach] = []
    if any(finger == "slide" for _, _, finger in scene.notes):
        return found
    fretted = [(s, f, g) for s, f, g in scene.notes if f]
    used = {g for _, _, g in fretted} | set(scene.helpers)
    if scene.strike == "rest":
        # The hand that held the notes lies on all strings, without pressing.
        return [_Reach("underside", None, quiet)]
    flat = _flat(scene, fretted)
    if flat:
        found.append(_Reach("underside", "1" if fretted else None, flat))
    low = max(scene.sounding) if scene.sounding else 0
    idle = next((f for f in ("2", "3", "1") if f not in used), None)
    across = quiet & {low + k for k in range(1, IDLE_REACH + 1)}
    if not fretted and across:
        # An open string sounds and the hand is free: a finger touches what is next to it.
        found.append(_Reach("idle_finger", "1", across))
    # It is laid down in a shape that is held, not while single notes run.
    if fretted and idle is not None and scene.strike in {"strum", "pluck"}:
        if across:
            found.append(_Reach("idle_finger", idle, across))
        between = frozenset(s for s in quiet if min(scene.sounding) < s < low)
        if len(scene.notes) > 1 and between:
            found.append(_Reach("idle_finger", idle, frozenset(sorted(between)[-1:])))
    if scene.family not in LOW_THUMB and fretted and scene.strings in quiet:
        found.append(_Reach("thumb_over", "thumb", frozenset({scene.strings})))
    return found


def _flat(scene: _Scene, fretted: Sequence[tuple[int, int, str | None]]) -> frozenset[int]:
    """Strings under the first finger laid flat: the thinner ones that nothing open has to sound on."""
    own = [(s, f) for s, f, g in fretted if g == "1"]
    others = [s for s, f, g in fretted if g != "1"]
    opened = {s for s, f, _ in scene.notes if not f} | set(scene.open_also)
    if not fretted:
        # Nothing is held: the hand lies over what is thinner than the open string that sounds.
        return scene.quiet & frozenset(range(1, min(scene.sounding, default=1)))
    # Where it holds no note it lies behind the note that is held, if the hand leaves it there.
    if not own and scene.hand == 0:
        return frozenset()
    from_string = max(s for s, _ in own) if own else max(others)
    under = frozenset(range(1, from_string))
    if under & opened:
        return frozenset()
    # Where it holds two notes at once it presses what lies between them.
    pressed = frozenset(range(min(s for s, _ in own), from_string)) if len(own) > 1 else frozenset()
    return scene.quiet & under - pressed


def _of_picking_hand(scene: _Scene) -> list[_Reach]:
    quiet, strings = scene.quiet, scene.strings
    low = max(scene.sounding) if scene.sounding else 0
    high = min(scene.sounding) if scene.sounding else strings + 1
    struck = max([low, *scene.struck]) if scene.sounding | scene.struck else 0
    topmost = min([high, *scene.struck]) if scene.sounding | scene.struck else strings + 1
    if scene.strike == "rest":
        return [_Reach("palm", None, quiet)]
    found = []
    # It lies on the thick strings from the edge inward, up to what it strikes.
    nearest = max(struck + 1, INNERMOST_PALM)
    below = frozenset(range(nearest, strings + 1))
    if below and not below & scene.sounding:
        found.append(_Reach("palm", None, quiet & below))
    above = frozenset(s for s in range(1, topmost) if topmost - s <= FREE_REACH)
    tucked = scene.slow or scene.strike in {"pluck", "slur"}
    if above and scene.strike != "tap" and (tucked or len(above) <= FREE_REACH) and scene.strike != "strum":
        found.append(_Reach("free_fingers", None, quiet & above))
    between = frozenset(s for s in quiet if high < s < low)
    if scene.strike == "pluck" and 0 < len(between) <= MOST_BETWEEN:
        found.append(_Reach("picking_finger", None, between))
    return found


def _cost(scene: _Scene, way: Sequence[_Reach], school: DampingSchool, just_played: frozenset[int]) -> float:
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


def _moved(before: Sequence[_Reach], after: Sequence[_Reach]) -> tuple[str, ...]:
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
def _moves_between(before: tuple[tuple[_Reach, ...], ...], after: tuple[tuple[_Reach, ...], ...]) -> bytes:
    table = np.array([[len(_moved(a, b)) for b in after] for a in before], dtype=np.float64)
    return table.tobytes()


def _shortest(ways: Sequence[tuple[tuple[_Reach, ...], ...]], costs: Sequence[np.ndarray]) -> list[int]:
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
    event: Event, scene: _Scene, way: Sequence[_Reach], school: DampingSchool, moved: tuple[str, ...]
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
        says=_lines(dampers, unreachable, scene),
        moved=tuple(part_words(r.part, r.finger) for r in way if r.part in moved),
    )


def _rank(reach: _Reach, school: DampingSchool) -> float:
    """Whose job a string is called where several reach it: the surest, the school's hand before the other."""
    own = school == "both" or (reach.part in FRETTING) == (school == "fretting_hand")
    return KEEPS[reach.part] - (0.0 if own else 0.2)


def part_words(part: str, finger: str | None = None) -> str:
    """A part of a hand in words.

    >>> part_words("tip", "1"), part_words("palm")
    ('the tip of the first finger', "the side of the picking hand's thumb")
    """
    name = FINGER_NAMES.get(finger or "", "first")
    return {
        "tip": f"the tip of the {name} finger",
        "underside": "the flat first finger" if finger else "the fretting hand, lying flat",
        "pad": f"the pad of the {name} finger",
        "idle_finger": f"the idle {name} finger",
        "thumb_over": "the fretting hand's thumb over the edge",
        "bending_finger": f"the {name} finger, which pushes it along",
        "behind_slide": "the fingers behind the slide",
        "palm": "the side of the picking hand's thumb",
        "free_fingers": "the picking hand's free fingers",
        "picking_finger": "the picking hand's first finger",
    }[part]


def strings_words(strings: Sequence[int]) -> str:
    """ "string 3", "strings 1 to 3", "strings 1 and 4"."""
    strings = sorted(strings)
    if len(strings) == 1:
        return f"string {strings[0]}"
    if strings == list(range(strings[0], strings[-1] + 1)) and len(strings) > 2:
        return f"strings {strings[0]} to {strings[-1]}"
    return f"strings {', '.join(map(str, strings[:-1]))} and {strings[-1]}"


_HOW: dict[str, str] = {
    "tip": "leans on",
    "underside": "lies over",
    "pad": "lies on",
    "idle_finger": "rests across",
    "thumb_over": "touches",
    "bending_finger": "meets",
    "behind_slide": "lie lightly on",
    "palm": "lies on",
    "free_fingers": "rest on",
    "picking_finger": "stays on",
}


def _lines(dampers: Sequence[Damper], unreachable: Sequence[int], scene: _Scene) -> tuple[str, ...]:
    """A sentence a part, and what players do about strings nothing reaches."""
    grouped: dict[tuple[str, str | None], list[int]] = {}
    for damper in dampers:
        grouped.setdefault((damper.part, damper.finger), []).append(damper.string)
    lines = []
    for (part, finger), strings in grouped.items():
        words = part_words(part, finger)
        lines.append(f"{words[0].upper()}{words[1:]} {_HOW[part]} {strings_words(strings)}.")
    if unreachable:
        instead = (
            "pluck the notes with fingers instead of striking through"
            if scene.strike == "strum"
            else "stop it with a free finger as soon as there is time"
        )
        lines.append(f"Nothing reaches {strings_words(unreachable)}: players {instead}.")
    return tuple(lines)
