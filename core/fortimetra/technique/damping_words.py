"""A damping plan in words."""

from __future__ import annotations

from collections.abc import Sequence

from fortimetra.model.posture import Damper

FINGER_NAMES = {"1": "first", "2": "second", "3": "ring", "4": "little", "thumb": "thumb"}


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


def damping_lines(dampers: Sequence[Damper], unreachable: Sequence[int], *, strummed: bool) -> tuple[str, ...]:
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
            if strummed
            else "stop it with a free finger as soon as there is time"
        )
        lines.append(f"Nothing reaches {strings_words(unreachable)}: players {instead}.")
    return tuple(lines)
