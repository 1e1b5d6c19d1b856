"""The drill card, put together: what a family teaches, this drill's own hands and strings, and what a teacher wrote
instead.
"""

from __future__ import annotations

from collections.abc import Mapping
from typing import Literal, get_args

from fortimetra.card.clean import clean_means
from fortimetra.card.teaching import (
    BREAKS,
    LIGHT_SLURS,
    NOTES_PER_CLICK,
    OVERLEARN,
    STRONG_SLURS,
    TEACHING,
    TEMPO_STEPS,
    Teaching,
)  # fmt: skip
from fortimetra.coach.cautions import STRAIN, for_drill
from fortimetra.drills.check import check
from fortimetra.model.base import Model
from fortimetra.model.drill import SLURRED, Drill, Event
from fortimetra.model.guitar import Guitar
from fortimetra.model.posture import Posture
from fortimetra.player.shown import Shown
from fortimetra.technique.damping import DampingPlan, damping_plan, push_of
from fortimetra.technique.damping_words import strings_words
from fortimetra.technique.strokes import StrokePlan, stroke_plan
from fortimetra.workbench.sympathy import Risk, risks

SectionName = Literal["purpose", "listen", "fretting", "picking", "practise", "compare"]
SECTION_NAMES: tuple[SectionName, ...] = get_args(SectionName)
TITLES: dict[SectionName, str] = {
    "purpose": "What it is for",
    "listen": "Listen first",
    "fretting": "Fretting hand",
    "picking": "Picking hand",
    "practise": "How to practise",
    "compare": "With and without",
}
MOST_LINE_CHARS, MOST_LINES = 400, 12
# More shapes than this are not looked at on a card.
MOST_SHAPES = 8
PRACTISE_BY_SCHOOL = {"tempo_steps": TEMPO_STEPS, "notes_per_click": NOTES_PER_CLICK, "overlearn": OVERLEARN}


class Section(Model):
    """Some lines of a card. own: a teacher wrote them for this drill or for its family."""

    name: SectionName
    title: str
    lines: tuple[str, ...]
    own: Literal["drill", "family"] | None = None


class UsualFault(Model):
    """What goes wrong, what it sounds like, and how the simulated student plays it; null: it cannot."""

    says: str
    sounds: str
    shown: Shown | None = None


class SilentStep(Model):
    """A step before the first sound; not judged."""

    says: str
    seconds: int


class Shape(Model):
    """A posture that recurs: where it is first, at how many events, and at which frets the first finger stands then."""

    posture: Posture
    events: tuple[str, ...]
    place: str


class Said(Model):
    """A caution, or what stands in the way of playing the drill."""

    code: str
    text: str


class Card(Model):
    """One page a drill."""

    title: str
    family: str
    sections: tuple[Section, ...]
    clean: tuple[str, ...]
    wrong: tuple[UsualFault, ...]
    silent: tuple[SilentStep, ...] = ()
    shapes: tuple[Shape, ...] = ()
    more_shapes: int = 0
    moves: tuple[str, ...] = ()
    quiet_words: tuple[str, ...] = ()
    answers: tuple[Risk, ...] = ()
    strokes: StrokePlan
    cautions: tuple[Said, ...] = ()
    problems: tuple[Said, ...] = ()
    strings: int


def card(drill: Drill, *, guitar: Guitar | None = None) -> Card:
    """The card of a drill, as the house teaches it."""
    teaching = TEACHING[drill.family]
    plan = damping_plan(drill)
    shapes, more = _shapes(drill, plan)
    return Card(
        title=drill.title,
        family=drill.family,
        sections=_sections(drill, teaching),
        clean=clean_means(drill),
        wrong=tuple(
            UsualFault(says=w.says, sounds=w.sounds, shown=_fitting(w.shown, drill)) for w in teaching.wrong
        ),
        silent=tuple(SilentStep(says=s.says, seconds=s.seconds) for s in teaching.silent),
        shapes=shapes,
        more_shapes=more,
        moves=plan.moves,
        quiet_words=_quiet_words(drill, plan),
        answers=risks(drill, guitar=guitar),
        strokes=stroke_plan(drill),
        cautions=_cautions(drill, guitar),
        problems=_problems(drill, plan, guitar),
        strings=len(drill.tuning),
    )  # fmt: skip


def in_short(made: Card) -> list[str]:
    """Three or four lines for a lesson sheet: how to practise it, who keeps the strings quiet, and the first of what
    is clean.
    """
    lines = [line for s in made.sections if s.name == "practise" for line in s.lines[:1]]
    quiet = " ".join(made.quiet_words)
    return [*lines, *([f"Quiet: {quiet}"] if quiet else []), *made.clean[:1]]


def with_own(made: Card, own: Mapping[tuple[str, SectionName], tuple[str, ...]]) -> Card:
    """A card with what a teacher wrote instead, by ("drill" or "family", section); a drill's words stand before its
    family's.
    """
    given = {s.name: s for s in made.sections}
    found = []
    for name in SECTION_NAMES:
        whose: Literal["drill", "family"]
        for whose in ("drill", "family"):
            if (whose, name) in own:
                found.append(Section(name=name, title=TITLES[name], lines=own[whose, name], own=whose))
                break
        else:
            found += [given[name]] if name in given else []
    return made.model_copy(update={"sections": tuple(found)})


def _sections(drill: Drill, teaching: Teaching) -> tuple[Section, ...]:
    given: dict[SectionName, tuple[str, ...]] = {
        "purpose": (teaching.purpose,),
        "listen": teaching.listen,
        "fretting": (*teaching.fretting, *_pushes(drill), *_force(drill)),
        "picking": teaching.picking,
        "practise": (*teaching.practise, PRACTISE_BY_SCHOOL[drill.school.speed]),
        "compare": (teaching.compare,) if teaching.compare else (),
    }
    return tuple(Section(name=n, title=TITLES[n], lines=given[n]) for n in SECTION_NAMES if given[n])


def _pushes(drill: Drill) -> tuple[str, ...]:
    """Which way each string that bends is moved, and why."""
    ways: dict[str, set[int]] = {}
    for event in drill.events:
        if event.bend is not None:
            string = event.notes[0].string
            ways.setdefault(event.bend.direction or push_of(string), set()).add(string)
    lines = []
    if toward := ways.get("toward_thicker"):
        lines.append(f"{_upper(strings_words(sorted(toward)))}: push toward the thicker strings, where there is room.")
    if pulled := ways.get("toward_thinner"):
        lines.append(
            f"{_upper(strings_words(sorted(pulled)))}: pull toward the thinner strings; pushed the other "
            "way it would leave the neck."
        )
    return tuple(lines)


def _upper(text: str) -> str:
    return text[:1].upper() + text[1:]


def _force(drill: Drill) -> tuple[str, ...]:
    if not any(e.articulation in SLURRED - {"slide"} for e in drill.events):
        return ()
    return LIGHT_SLURS if drill.school.slur_force == "light" else STRONG_SLURS


def _fitting(shown: Shown | None, drill: Drill) -> Shown | None:
    """As it can be played in this drill: a string that rings has to be one that is not played."""
    if shown is None:
        return None
    if shown.slur_db and not any(e.articulation in SLURRED | {"tap"} for e in drill.events):
        return None
    if shown.ring_string is None:
        return shown
    played = {n.string for e in drill.events for n in e.notes if not n.muted}
    free = [s for s in range(1, len(drill.tuning) + 1) if s not in played]
    if not free:
        return None
    return shown.model_copy(update={"ring_string": min(free, key=lambda s: abs(s - (shown.ring_string or 1)))})


def _shape_key(posture: Posture) -> tuple[object, ...]:
    lowest = min((h.fret for h in posture.held if h.fret), default=0)
    held = tuple((h.string, h.fret - lowest if h.fret else -1, h.finger) for h in posture.held)
    return held, tuple((d.string, d.part, d.finger) for d in posture.quiet), posture.unreachable


def _shapes(drill: Drill, plan: DampingPlan) -> tuple[tuple[Shape, ...], int]:
    """Different postures in the order they come, the same hand at another fret counted as one; how many were left
    out.
    """
    by_id: dict[str, Event] = {e.id: e for e in drill.events}
    grouped: dict[tuple[object, ...], list[Posture]] = {}
    for posture in plan.postures:
        if by_id[posture.event].notes:
            grouped.setdefault(_shape_key(posture), []).append(posture)
    rows = list(grouped.values())
    kept = sorted(sorted(rows, key=len, reverse=True)[:MOST_SHAPES], key=lambda r: r[0].beat)
    shapes = tuple(
        Shape(posture=row[0], events=tuple(p.event for p in row), place=drill.place(by_id[row[0].event]))
        for row in kept
    )
    return shapes, len(rows) - len(kept)


def _quiet_words(drill: Drill, plan: DampingPlan) -> tuple[str, ...]:
    """Whose job each string is, over the whole drill."""
    jobs: dict[int, dict[str, int]] = {}
    alone: set[int] = set()
    for posture in plan.postures:
        if not posture.held:
            continue
        for damper in posture.quiet:
            row = jobs.setdefault(damper.string, {})
            row[damper.says] = row.get(damper.says, 0) + 1
        alone |= set(posture.unreachable)
    grouped: dict[str, list[int]] = {}
    for string, row in sorted(jobs.items()):
        grouped.setdefault(max(row, key=row.__getitem__), []).append(string)
    lines = [f"{_upper(strings_words(strings))}: {words}." for words, strings in grouped.items()]
    if alone:
        lines.append(f"{_upper(strings_words(sorted(alone)))}: nothing reaches it everywhere; see the shapes.")
    return tuple(lines)


def _cautions(drill: Drill, guitar: Guitar | None) -> tuple[Said, ...]:
    found = [Said(code=c.code, text=c.text) for c in for_drill(drill, guitar)]
    strains = any(e.bend or e.vibrato or e.articulation in {"hammer", "pull"} for e in drill.events)
    if strains:
        found.append(Said(code=STRAIN.code, text=STRAIN.text))
    elif drill.family in {"fastest_run", "alternate_picking", "sweep"}:
        found.append(Said(code="breaks", text=BREAKS))
    return tuple(found)


def _problems(drill: Drill, plan: DampingPlan, guitar: Guitar | None) -> tuple[Said, ...]:
    found = [Said(code=p.code, text=p.text) for p in check(drill, guitar=guitar) if p.level == "error"]
    tube = any(n.finger == "slide" for e in drill.events for n in e.notes)
    fretted = any(n.fret and n.finger in {"1", "2", "3", "4"} for e in drill.events for n in e.notes)
    if tube and fretted:
        found.append(
            Said(
                code="slide_and_fingers",
                text=(
                    "Some notes are for the slide and some for fingers: say for each hand which finger wears the slide."
                ),
            )
        )
    never = {s for p in plan.postures for s in p.unreachable}
    if never:
        found.append(
            Said(
                code="unreachable",
                text=(
                    "More strings to keep quiet than hands have parts for: nothing reaches "
                    f"{strings_words(sorted(never))} everywhere."
                ),
            )
        )
    return tuple({(s.code, s.text): s for s in found}.values())
