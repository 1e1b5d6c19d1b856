"""All generators, and the drills every studio begins with."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field, replace
from functools import cache

from fortimetra.drills import (
    bends,
    bends_in_scale,
    legato,
    licks,
    muting,
    picking,
    shapes,
    slides,
    slurs,
    sweeps,
    vibrato,
)
from fortimetra.drills.fretted_then_bend import starter_drills
from fortimetra.drills.generator import Generator, generate
from fortimetra.drills.partner import partner_values
from fortimetra.drills.set_up import set_up
from fortimetra.errors import DrillError
from fortimetra.model.drill import Drill
from fortimetra.technique.fingers import with_hands

LEVELS = {"starting": 1, "steady": 2, "exacting": 3}
# What the generators of a module are found by.
_TAGGED = (
    (bends.GENERATORS, ("bends", "left hand")),
    (bends_in_scale.GENERATORS, ("bends", "left hand")),
    (vibrato.GENERATORS, ("vibrato", "left hand")),
    (slurs.GENERATORS, ("slurs", "left hand")),
    (legato.GENERATORS, ("slurs", "left hand")),
    (picking.GENERATORS, ("picking", "right hand")),
    (sweeps.GENERATORS, ("picking", "right hand")),
    (shapes.GENERATORS, ("muting", "both hands")),
    (muting.GENERATORS, ("muting", "both hands")),
    (slides.GENERATORS, ("slides", "left hand")),
    (licks.GENERATORS, ("licks",)),
)
# What a family needs beside a guitar.
NEEDS = {"bottleneck": "needs a slide", "low_string_muting": "with drive", "stop_and_rest": "with drive"}
GENERATORS: dict[str, Generator] = {
    g.name: replace(g, tags=(*tags, NEEDS[g.family]) if g.family in NEEDS else tags)
    for group, tags in _TAGGED
    for g in group
}


@dataclass(frozen=True)
class BuiltIn:
    """A drill every studio begins with. level: 1 first steps, 2 moving on, 3 advanced.

    form, values: what made it, if a form did. partner: the title of the same figure the other way. after: the title
    of what should be safe first, the nearest easier example of its form.
    """

    drill: Drill
    level: int
    tags: tuple[str, ...]
    form: str = ""
    values: Mapping[str, str] = field(default_factory=dict)
    partner: str = ""
    after: str = ""


@cache
def library() -> tuple[BuiltIn, ...]:
    """The set-up check, the starter bends, and the examples of every form."""
    starters = [
        BuiltIn(
            d.model_copy(update={"events": with_hands(d.events)}),
            LEVELS[d.profile],
            GENERATORS[d.family].tags,
            d.family,
        )
        for d in starter_drills()
    ]
    known = {b.drill.title for b in starters}
    made = [
        BuiltIn(generate(g, example), *_shelved(g, number, example), g.name, example)
        for g in GENERATORS.values()
        for number, example in enumerate(g.examples, 1)
    ]
    titles = {b.drill.title for b in made}
    made = [replace(b, partner=p if (p := _partner(b)) in titles else "") for b in made]
    rest = [*starters, *(b for b in made if b.drill.title not in known)]
    return (BuiltIn(set_up(), 1, ("guitar",)), *(replace(b, after=_after(b, rest)) for b in rest))


def _after(built_in: BuiltIn, among: Sequence[BuiltIn]) -> str:
    """The last example of the form, before this one, that is a level easier; licks stand by themselves."""
    if built_in.form == "lick":
        return ""
    own = [b for b in among if b.form == built_in.form]
    easier = [b for b in own[: own.index(built_in)] if b.level < built_in.level]
    nearest = max((b.level for b in easier), default=0)
    return next((b.drill.title for b in easier if b.level == nearest), "")


def _shelved(generator: Generator, number: int, example: Mapping[str, str]) -> tuple[int, tuple[str, ...]]:
    """Level and tags: of a lick its own, of a form's examples by their order, the easier first."""
    lick = licks.BY_NAME.get(example.get("lick", ""))
    if lick is None:
        return 1 + 3 * (number - 1) // max(3, len(generator.examples)), generator.tags
    return (lick.level + 1) // 2, (*generator.tags, f"lick level {lick.level}", *lick.uses)


def _partner(built_in: BuiltIn) -> str:
    """The title the same figure has the other way."""
    generator = GENERATORS[built_in.form]
    others = partner_values(generator, built_in.values)
    if others is None:
        return ""
    try:
        return generate(generator, others).title
    except DrillError:
        return ""


def built_in_drills() -> list[Drill]:
    """The drills of the library alone."""
    return [b.drill for b in library()]
