"""Can this be played? What stands in the way is said with its place; nothing is changed.

Reach: fingers span so many mm along the neck, more frets high up than low down. Pull-offs, slides and re-plucks
need a note before them on the same string; a hammer-on does not. A bend is judged by what it asks of the string.
"""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass, replace
from typing import Literal, NamedTuple

from fortimetra.model.drill import Drill, Event
from fortimetra.model.guitar import Guitar
from fortimetra.technique.places import REACH_MM, SCALE_MM
from fortimetra.workbench.strings import fret_mm

# A hand moves along the neck at about this speed between two notes.
SHIFT_MM_PER_S = 1500.0
MOST_BEND_CENTS = 300.0
ACOUSTIC_BEND_CENTS = 100.0
HEAVY_GAUGE_MM = 0.48
SAME_PITCH_CENTS = 1.0
SLURS = {"hammer": "a hammer-on", "pull": "a pull-off", "slide": "a slide", "repluck": "a bend struck again"}


@dataclass(frozen=True)
class Problem:
    """What is wrong where. An error cannot be played; a warning is hard, or risky."""

    level: Literal["error", "warning"]
    code: str
    event: str
    beat: float
    text: str


def check(drill: Drill, *, guitar: Guitar | None = None) -> list[Problem]:
    """Everything that stands in the way of playing a drill, in the order of its events."""
    found: list[Problem] = []
    on_string: dict[int, Event] = {}
    hand: _Hand | None = None
    frets = guitar.frets if guitar else 24
    scale = guitar.scale_mm if guitar else SCALE_MM
    for event in drill.events:
        found += _slurs(event, on_string)
        found += _bends(event, drill, guitar)
        far = max([*_fretted(event), (event.slide and event.slide.from_fret) or 0], default=0)
        if far > frets:
            found.append(_say("error", "beyond_fretboard", event, f"fret {far} of a guitar with {frets}"))
        at = _hand_at(event, scale)
        if at is not None:
            found += _reaches(event, at, hand, drill.seconds_per_beat)
            hand = hand if event.articulation == "tap" else at
        on_string |= {note.string: event for note in event.notes}
        if not event.notes:
            on_string.clear()
    by_id = {e.id: e for e in drill.events}
    return [replace(p, text=f"{drill.place(by_id[p.event]).capitalize()}: {p.text}.") for p in found]


class _Hand(NamedTuple):
    """Where the fretting hand is: its lowest and highest place from the nut, and since which beat."""

    low_mm: float
    high_mm: float
    beat: float


def _fretted(event: Event) -> list[int]:
    return [n.fret for n in event.notes if n.fret]


def _hand_at(event: Event, scale_mm: float) -> _Hand | None:
    """Where an event needs the hand; None where it frets nothing."""
    frets = _fretted(event)
    if not frets:
        return None
    low_mm, high_mm = (float(fret_mm(f, scale_mm=scale_mm)) for f in (min(frets), max(frets)))
    return _Hand(low_mm, high_mm, event.beat)


def _reaches(event: Event, at: _Hand, before: _Hand | None, seconds_per_beat: float) -> Iterator[Problem]:
    """What one hand cannot span at once, or get to in time."""
    if at.high_mm - at.low_mm > REACH_MM:
        frets = _fretted(event)
        text = f"frets {min(frets)} and {max(frets)} at once are too far apart for one hand"
        yield _say("error", "reach", event, text)
    if before is None or event.articulation == "tap":
        return
    away_mm = max(0.0, at.high_mm - before.low_mm - REACH_MM, before.high_mm - at.low_mm - REACH_MM)
    if away_mm > SHIFT_MM_PER_S * (at.beat - before.beat) * seconds_per_beat:
        yield _say("warning", "shift", event, "the hand has to jump further than there is time for")


def _say(level: Literal["error", "warning"], code: str, event: Event, text: str) -> Problem:
    return Problem(level, code, event.id, event.beat, text)


def _slurs(event: Event, on_string: dict[int, Event]) -> Iterator[Problem]:
    if event.articulation not in SLURS:
        return
    for note in event.notes:
        before = on_string.get(note.string)
        fret = next((n.fret for n in before.notes if n.string == note.string), None) if before else None
        if before is None or fret is None:
            # The fingertip alone can sound a string.
            if event.articulation != "hammer" or not note.fret:
                yield _needs(event, "slur_from_nothing", f"a note sounding on string {note.string}")
        elif event.articulation == "repluck":
            if before.bend is None:
                yield _needs(event, "repluck_without_bend", f"a bend on string {note.string}")
        elif note.fret is not None and not _leads(event.articulation, fret, note.fret):
            text = f"{SLURS[event.articulation]} from fret {fret} cannot sound fret {note.fret}"
            yield _say("error", "slur_direction", event, text)


def _needs(event: Event, code: str, what: str) -> Problem:
    return _say("error", code, event, f"{SLURS[event.articulation]} needs {what} before it")


def _leads(articulation: str, from_fret: int, to_fret: int) -> bool:
    """Whether a slur can go from one fret to another."""
    if articulation == "slide":
        return to_fret != from_fret
    return to_fret > from_fret if articulation == "hammer" else to_fret < from_fret


def _bends(event: Event, drill: Drill, guitar: Guitar | None) -> Iterator[Problem]:
    bend = event.bend
    if bend is None:
        return
    note = event.notes[0]
    most = bend.target_cents[1] if isinstance(bend.target_cents, tuple) else bend.target_cents
    if note.fret == 0:
        yield _say("error", "bend_open", event, "an open string cannot be bent")
        return
    if most > MOST_BEND_CENTS:
        yield _say(
            "warning",
            "bend_far",
            event,
            f"a bend of {most:g} cents is more than three frets' worth; strings break, keep the face away",
        )
    if guitar is not None and most > ACOUSTIC_BEND_CENTS and _heavy(guitar, note.string):
        text = f"on this guitar's string {note.string} about a half step is the comfortable limit"
        yield _say("warning", "bend_heavy", event, text)
    if bend.reference is not None and not isinstance(bend.target_cents, tuple):
        reference = next(e for e in drill.events if e.id == bend.reference)
        sounds = drill.midi(reference.notes[0])
        if abs(100.0 * (sounds - drill.midi(note)) - bend.target_cents) > SAME_PITCH_CENTS:
            yield _say(
                "error",
                "reference_pitch",
                event,
                f"its reference {bend.reference} does not sound the target of the bend",
            )


def _heavy(guitar: Guitar, number: int) -> bool:
    """Whether a guitar's string is hard to bend."""
    if number > len(guitar.strings):
        return False
    string = guitar.strings[number - 1]
    return guitar.kind in {"steel_acoustic", "nylon"} or string.wound or string.gauge_mm > HEAVY_GAUGE_MM
