"""All generators, and the drills every studio begins with."""

from __future__ import annotations

from dataclasses import dataclass, replace
from functools import cache

from fortimetra.drills import bends, chords, picking, slurs, vibrato
from fortimetra.drills.fretted_then_bend import starter_drills
from fortimetra.drills.generator import Generator, generate
from fortimetra.drills.set_up import set_up
from fortimetra.model.drill import Drill

LEVELS = {"starting": 1, "steady": 2, "exacting": 3}
# What the families of a module are found by.
_TAGGED = (
    (bends.GENERATORS, ("bends", "left hand")),
    (vibrato.GENERATORS, ("vibrato", "left hand")),
    (slurs.GENERATORS, ("slurs", "left hand")),
    (picking.GENERATORS, ("picking", "right hand")),
    (chords.GENERATORS, ("muting", "both hands")),
)
GENERATORS: dict[str, Generator] = {g.family: replace(g, tags=tags) for group, tags in _TAGGED for g in group}


@dataclass(frozen=True)
class BuiltIn:
    """A drill every studio begins with. level: 1 first steps, 2 moving on, 3 advanced."""

    drill: Drill
    level: int
    tags: tuple[str, ...]


@cache
def library() -> tuple[BuiltIn, ...]:
    """The set-up check, the starter bends, and the examples of every family."""
    starters = [BuiltIn(d, LEVELS[d.profile], GENERATORS[d.family].tags) for d in starter_drills()]
    known = {b.drill.title for b in starters}
    made = [
        BuiltIn(generate(g, example), min(3, number), g.tags)
        for g in GENERATORS.values()
        for number, example in enumerate(g.examples, 1)
    ]
    return (BuiltIn(set_up(), 1, ("guitar",)), *starters, *(b for b in made if b.drill.title not in known))


def built_in_drills() -> list[Drill]:
    """The drills of the library alone."""
    return [b.drill for b in library()]
