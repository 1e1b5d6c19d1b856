"""Strings that a finger or a slide presses although it should only touch them: where to listen for that.

A finger that lies on a string to keep it quiet lies at its own fret; pressed too hard it frets the string there. Under
a slide every string lies, at the slide's fret. Common practice, no source.
"""

from __future__ import annotations

from collections.abc import Collection, Sequence
from typing import NamedTuple


class Place(NamedTuple):
    """A string and a fret."""

    string: int
    fret: int


def pressed_places(sounding: Sequence[Place], quiet: Collection[int], *, slide: bool) -> set[tuple[int, int]]:
    """(string, fret) at which strings that should be quiet may be pressed by what stops those that sound.

    quiet: strings that lie under the hand and should not sound. A finger reaches the strings between those that sound
    and one beside them; the first finger, at the lowest fret, lies flat over all thinner ones.

    >>> sorted(pressed_places([Place(6, 3), Place(5, 5)], range(1, 5), slide=False))
    [(1, 3), (2, 3), (3, 3), (4, 3), (4, 5)]
    >>> sorted(pressed_places([Place(3, 7), Place(1, 7)], [2, 4, 5, 6], slide=True))
    [(2, 7), (4, 7), (5, 7), (6, 7)]
    """
    fretted = [s for s in sounding if s.fret > 0]
    if not fretted:
        return set()
    frets = {s.fret for s in fretted}
    if slide:
        return {(string, fret) for string in quiet for fret in frets}
    first = min(fretted, key=lambda s: (s.fret, -s.string))
    thinnest, thickest = min(s.string for s in sounding), max(s.string for s in sounding)
    near = {(string, fret) for string in quiet if thinnest - 1 <= string <= thickest + 1 for fret in frets}
    return near | {(string, first.fret) for string in quiet if string < first.string}
