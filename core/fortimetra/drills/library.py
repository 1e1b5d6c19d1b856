"""All generators, and the drills every studio begins with."""

from __future__ import annotations

from fortimetra.drills import bends, chords, picking, slurs, vibrato
from fortimetra.drills.fretted_then_bend import starter_drills
from fortimetra.drills.generator import Generator, generate
from fortimetra.drills.set_up import set_up
from fortimetra.model.drill import Drill

GENERATORS: dict[str, Generator] = {
    g.family: g
    for g in (*bends.GENERATORS, *vibrato.GENERATORS, *slurs.GENERATORS, *picking.GENERATORS, *chords.GENERATORS)
}


def built_in_drills() -> list[Drill]:
    """The set-up check, the starter bends, and the examples of every family."""
    made = [generate(g, example) for g in GENERATORS.values() for example in g.examples]
    known = {d.title for d in starter_drills()}
    return [set_up(), *starter_drills(), *(d for d in made if d.title not in known)]
