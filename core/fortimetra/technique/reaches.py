"""What the parts of both hands can touch while an event sounds.

The tip of a fretting finger leans on the next thicker string, a flat first finger lies over the thinner ones, the pad
of the finger that holds the thinnest note lies on the next string, an idle finger can be laid across the thick ones;
the picking hand has the side of its thumb (or palm) for the thick strings and its free fingers for the thin ones, but
not while it strikes them. All of it is common practice, no source.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from functools import lru_cache
from itertools import combinations
from typing import Literal

from fortimetra.model.hand import Push
from fortimetra.model.posture import Part

# The palm follows inward to string 3; nearer it chokes what is played.
INNERMOST_PALM = 3
PAD_REACH, IDLE_REACH, FREE_REACH, MOST_BETWEEN = 2, 2, 3, 3
# Thumbs that lie low behind the neck: the thumb does not come over.
LOW_THUMB = frozenset(
    {"finger_pairs", "slur_vs_pick", "legato_cycle", "tapping", "alternate_picking", "fastest_run", "sweep", "slides"}
)


@dataclass(frozen=True)
class Reach:
    """A part in place: the strings it keeps quiet."""

    part: Part
    finger: str | None
    strings: frozenset[int]


@dataclass(frozen=True)
class Scene:
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


@lru_cache(maxsize=4096)
def ways_of(scene: Scene) -> tuple[tuple[Reach, ...], ...]:
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


def _by_themselves(scene: Scene) -> list[Reach]:
    """What touches a string because a note is held."""
    if scene.strike == "rest":
        return []
    quiet, found = scene.quiet, []
    if any(finger == "slide" for _, _, finger in scene.notes):
        return [Reach("behind_slide", None, quiet)]
    for string, fret, finger in scene.notes:
        if fret and finger in {"1", "2", "3", "4"}:
            found += _of_tip(scene, string, finger)
    thinnest = min(((s, f, g) for s, f, g in scene.notes if f), default=None)
    if thinnest is not None and thinnest[2] in {"2", "3", "4"} and thinnest[0] == min(scene.sounding):
        reach = {thinnest[0] - k for k in range(1, PAD_REACH + 1)}
        found.append(Reach("pad", thinnest[2], quiet & reach))
    return found


def _of_tip(scene: Scene, string: int, finger: str) -> list[Reach]:
    """The tip of a finger that holds a string, on the next thicker one; a bend pushes its neighbour along."""
    tip = Reach("tip", finger, scene.quiet & {string + 1})
    if scene.bend is None:
        return [tip]
    # Touched, but not held still.
    pushed = Reach("bending_finger", finger, scene.quiet & {string + (1 if scene.bend == "toward_thicker" else -1)})
    return [pushed] if scene.bend == "toward_thicker" else [pushed, tip]


def _placeable(scene: Scene) -> list[Reach]:
    """What can be laid on strings besides."""
    return [*_of_fretting_hand(scene), *_of_picking_hand(scene)]


def _of_fretting_hand(scene: Scene) -> list[Reach]:
    if any(finger == "slide" for _, _, finger in scene.notes):
        return []
    if scene.strike == "rest":
        # The hand that held the notes lies on all strings, without pressing.
        return [Reach("underside", None, scene.quiet)]
    fretted = [(s, f, g) for s, f, g in scene.notes if f]
    found: list[Reach] = []
    flat = _flat(scene, fretted)
    if flat:
        found.append(Reach("underside", "1" if fretted else None, flat))
    found += _of_idle_finger(scene, {g for _, _, g in fretted}, fretted=bool(fretted))
    if scene.family not in LOW_THUMB and fretted and scene.strings in scene.quiet:
        found.append(Reach("thumb_over", "thumb", frozenset({scene.strings})))
    return found


def _of_idle_finger(scene: Scene, holding: set[str | None], *, fretted: bool) -> list[Reach]:
    """A finger laid over what is thicker, or between two notes. holding: the fingers that hold notes."""
    low = max(scene.sounding) if scene.sounding else 0
    across = scene.quiet & {low + k for k in range(1, IDLE_REACH + 1)}
    if not fretted:
        # An open string sounds and the hand is free: a finger touches what is next to it.
        return [Reach("idle_finger", "1", across)] if across else []
    idle = next((f for f in ("2", "3", "1") if f not in holding | scene.helpers), None)
    # It is laid down in a shape that is held, not while single notes run.
    if idle is None or scene.strike not in {"strum", "pluck"}:
        return []
    found = [Reach("idle_finger", idle, across)] if across else []
    between = sorted(s for s in scene.quiet if min(scene.sounding) < s < low)
    if len(scene.notes) > 1 and between:
        found.append(Reach("idle_finger", idle, frozenset(between[-1:])))
    return found


def _flat(scene: Scene, fretted: Sequence[tuple[int, int, str | None]]) -> frozenset[int]:
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


def _of_picking_hand(scene: Scene) -> list[Reach]:
    quiet, strings = scene.quiet, scene.strings
    if scene.strike == "rest":
        return [Reach("palm", None, quiet)]
    low = max(scene.sounding) if scene.sounding else 0
    high = min(scene.sounding) if scene.sounding else strings + 1
    # The thickest and the thinnest string that are struck.
    struck, topmost = max([low, *scene.struck]), min([high, *scene.struck])
    found = []
    # It lies on the thick strings from the edge inward, up to what it strikes.
    below = frozenset(range(max(struck + 1, INNERMOST_PALM), strings + 1))
    if below and not below & scene.sounding:
        found.append(Reach("palm", None, quiet & below))
    above = frozenset(s for s in range(1, topmost) if topmost - s <= FREE_REACH)
    if above and scene.strike not in {"tap", "strum"}:
        found.append(Reach("free_fingers", None, quiet & above))
    between = frozenset(s for s in quiet if high < s < low)
    if scene.strike == "pluck" and 0 < len(between) <= MOST_BETWEEN:
        found.append(Reach("picking_finger", None, between))
    return found
