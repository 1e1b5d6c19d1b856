"""Cautions that the plan or a drill makes relevant. Common practice, no source; no medical advice.

What belongs to one place stands there: a hum that may be a grounding fault in the set-up advice, hearing beside the
click, consent where a student is added.
"""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import dataclass

from fortimetra.coach.settings import CAUTIONS
from fortimetra.model.drill import Drill
from fortimetra.model.guitar import Guitar


@dataclass(frozen=True)
class Caution:
    """A code that stays, and what is said."""

    code: str
    text: str


STRAIN = Caution(
    "strain",
    "Warm up, keep the touch as light as the sound allows, and take a break at least every 20 to 25 minutes. A tense "
    "forearm, a hard grip and long unbroken runs are common causes of overuse.",
)
PAIN = Caution(
    "pain",
    "Pain, numbness or tingling: stop, and do not practise through it. See a doctor or physiotherapist; "
    "nothing here is "
    "medical advice.",
)
WIDE_BEND = Caution(
    "wide_bend",
    "A half step is the comfortable limit for bends on heavy strings and on acoustic guitars; "
    "this drill asks for more.",
)
BREAKING = Caution("breaking", "Strings can break under a far bend: keep your face away from them.")
ALL = {c.code: c for c in (STRAIN, PAIN, WIDE_BEND, BREAKING)}


def heavy(guitar: Guitar) -> bool:
    """Whether wide bends are uncomfortable on it: an acoustic, or heavy strings."""
    return guitar.kind in ("steel_acoustic", "nylon") or guitar.strings[0].gauge_mm >= CAUTIONS.heavy_gauge_mm


def widest_bend_cents(drill: Drill) -> float:
    """The farthest a drill bends a string."""
    return max((e.bend.middle_cents for e in drill.events if e.bend is not None), default=0.0)


def for_drill(drill: Drill, guitar: Guitar | None) -> list[Caution]:
    """What a drill makes relevant on a guitar."""
    bend = widest_bend_cents(drill)
    found = []
    if guitar is not None and bend > CAUTIONS.comfortable_bend_cents and heavy(guitar):
        found.append(WIDE_BEND)
    if bend > CAUTIONS.comfortable_bend_cents:
        found.append(BREAKING)
    return found


def for_day(minutes: float, drills: Iterable[Drill], guitar: Guitar | None) -> list[Caution]:
    """What a day's work makes relevant, each once."""
    found = [STRAIN] if minutes >= CAUTIONS.long_minutes else []
    found += [c for d in drills for c in for_drill(d, guitar)]
    return list(dict.fromkeys(found))
