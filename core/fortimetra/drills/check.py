"""Can this be played? What stands in the way is said with its place; nothing is changed.

Reach: fingers span so many mm along the neck, more frets high up than low down. Pull-offs, slides and re-plucks
need a note before them on the same string; a hammer-on does not. A bend is judged by what it asks of the string.
"""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass, replace
from typing import Literal

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
    hand: tuple[float, float, float] | None = None  # lowest and highest place in mm, and the beat
    frets = guitar.frets if guitar else 24
    scale = guitar.scale_mm if guitar else SCALE_MM
    for event in drill.events:
        fretted = [n.fret for n in event.notes if n.fret]
        found += _slurs(event, on_string)
        found += _bends(event, drill, guitar)
        far = max([*fretted, (event.slide and event.slide.from_fret) or 0], default=0)
        if far > frets:
            found.append(_say("error", "beyond_fretboard", event, f"fret {far} of a guitar with {frets}"))
        if fretted:
            low, high = (float(fret_mm(f, scale_mm=scale)) for f in (min(fretted), max(fretted)))
            if high - low > REACH_MM:
                found.append(
                    _say(
                        "error",
                        "reach",
                        event,
                        f"frets {min(fretted)} and {max(fretted)} at once are too far apart for one hand",
                    )
                )
            if hand is not None and event.articulation != "tap":
                away = max(0.0, high - hand[0] - REACH_MM, hand[1] - low - REACH_MM)
                seconds = (event.beat - hand[2]) * drill.seconds_per_beat
                if away > SHIFT_MM_PER_S * seconds:
                    found.append(_say("warning", "shift", event, "the hand has to jump further than there is time for"))
            if event.articulation != "tap":
                hand = (low, high, event.beat)
        for note in event.notes:
            on_string[note.string] = event
        if not event.notes:
            on_string.clear()
    by_id = {e.id: e for e in drill.events}
    return [replace(p, text=f"{drill.place(by_id[p.event]).capitalize()}: {p.text}.") for p in found]


def _say(level: Literal["error", "warning"], code: str, event: Event, text: str) -> Problem:
    return Problem(level, code, event.id, event.beat, text)


def _slurs(event: Event, on_string: dict[int, Event]) -> Iterator[Problem]:
    if event.articulation not in {"hammer", "pull", "slide", "repluck"}:
        return
    for note in event.notes:
        before = on_string.get(note.string)
        fret = next((n.fret for n in before.notes if n.string == note.string), None) if before else None
        names = {"hammer": "a hammer-on", "pull": "a pull-off", "slide": "a slide", "repluck": "a bend struck again"}
        name = names[event.articulation]
        if (before is None or fret is None) and event.articulation == "hammer" and note.fret:
            continue  # the fingertip alone can sound a string
        if before is None or fret is None:
            yield _say(
                "error", "slur_from_nothing", event, f"{name} needs a note sounding on string {note.string} before it"
            )
        elif event.articulation == "repluck":
            if before.bend is None:
                yield _say(
                    "error", "repluck_without_bend", event, f"{name} needs a bend on string {note.string} before it"
                )
        elif note.fret is not None and (
            (event.articulation == "hammer" and note.fret <= fret)
            or (event.articulation == "pull" and note.fret >= fret)
            or (event.articulation == "slide" and note.fret == fret)
        ):
            yield _say("error", "slur_direction", event, f"{name} from fret {fret} cannot sound fret {note.fret}")


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
    if guitar is not None and note.string <= len(guitar.strings):
        string = guitar.strings[note.string - 1]
        heavy = string.wound or string.gauge_mm > HEAVY_GAUGE_MM
        if most > ACOUSTIC_BEND_CENTS and (guitar.kind in {"steel_acoustic", "nylon"} or heavy):
            yield _say(
                "warning",
                "bend_heavy",
                event,
                f"on this guitar's string {note.string} about a half step is the comfortable limit",
            )
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
