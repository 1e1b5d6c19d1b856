"""From notes another program wrote to a drill: strings and frets proposed where they are missing, and a report of what
could not be kept. Shared by the readers of MusicXML and MIDI."""

from __future__ import annotations

from collections.abc import Iterable, Sequence
from dataclasses import dataclass, field
from fractions import Fraction
from typing import Any

from pydantic import ValidationError

from fortimetra.errors import DrillError
from fortimetra.model.base import first_problem
from fortimetra.model.drill import MAX_EVENTS, UNSTRUCK, Drill, bar_and_beat
from fortimetra.model.guitar import pitch_midi
from fortimetra.model.tolerance import Measure
from fortimetra.technique.places import Place, Wanted, propose
from fortimetra.units import midi_to_name

IMPORT_FRETS = 24
PLACES_SHOWN = 3
SLURS = {"hammer", "pull", "slide"}
# A bend of less than this is a curl: audibly sharp, and less than a half step; its corridor is the house default.
CURL_BELOW_CENTS = 75.0
CURL_CENTS = (20.0, 80.0)


class Report:
    """What an import could not keep: a sentence each, with the places it happened at."""

    def __init__(self) -> None:
        self._lines: dict[str, list[str]] = {}

    def add(self, sentence: str, place: str = "") -> None:
        """sentence: without its full stop. place: as "bar 2, beat 3"."""
        places = self._lines.setdefault(sentence, [])
        if place and place not in places:
            places.append(place)

    def sentences(self) -> tuple[str, ...]:
        """One line a kind of loss."""
        lines = []
        for sentence, places in self._lines.items():
            more = len(places) - PLACES_SHOWN
            where = "; ".join(places[:PLACES_SHOWN]) + (f"; and {more} more" if more > 0 else "")
            lines.append(f"{sentence}: {where}." if places else f"{sentence}.")
        return tuple(lines)


@dataclass(frozen=True)
class Imported:
    """A drill that is not kept yet. proposed: events whose strings and frets this program chose. lost: sentences."""

    drill: Drill
    proposed: tuple[str, ...]
    lost: tuple[str, ...]


@dataclass
class ScoreNote:
    """One note of a score. midi: sounding pitch, fretted, before any bend; None for a muted string."""

    midi: float | None
    string: int | None = None
    fret: int | None = None
    muted: bool = False
    finger: str | None = None


@dataclass
class ScoreEvent:
    """Notes struck together, or a rest; `marks` are the drill's own fields (articulation, bend, accent, ...)."""

    beat: Fraction
    length: Fraction
    notes: list[ScoreNote] = field(default_factory=list)
    marks: dict[str, Any] = field(default_factory=dict)


@dataclass(frozen=True)
class Head:
    """What counts for the whole drill; `more` are further fields of the drill."""

    title: str
    tuning: tuple[str | float, ...]
    capo: int
    beats_per_bar: int
    more: dict[str, Any]


def to_drill(events: Sequence[ScoreEvent], head: Head, report: Report) -> Imported:
    """The drill of a score.

    Raises DrillError(code="score_invalid") with bar and beat of what cannot be played, and for a score without notes.
    """
    if not any(e.notes for e in events):
        raise DrillError("score_invalid", "There are no notes in this file.")
    ordered = sorted(events, key=lambda e: (e.beat, not e.notes, e.marks.get("voice", 1)))
    if len(ordered) > MAX_EVENTS:
        place = bar_and_beat(float(ordered[MAX_EVENTS].beat), head.beats_per_bar)
        raise DrillError(
            "score_too_long",
            f"A drill has at most {MAX_EVENTS} notes and rests; this file has {len(ordered)}, and the limit "
            "is passed at "
            f"{place}. Take the part that is to be practised.",
        )
    opens = [pitch_midi(p) + head.capo for p in head.tuning]
    chosen = _places(ordered, opens, head)
    _settle_slurs(ordered, chosen, head, report)
    _settle_strokes(ordered, chosen, head, report)
    made = [_event(number, e, p) for number, (e, p) in enumerate(zip(ordered, chosen, strict=True), 1)]
    proposed = [m["id"] for m, e in zip(made, ordered, strict=True) if any(n.string is None for n in e.notes)]
    try:
        drill = Drill.model_validate(
            {
                "format": "fortimetra-drill",
                "version": 1,
                "title": head.title[:200] or "Untitled",
                "family": "free",
                "tuning": list(head.tuning),
                "capo": head.capo,
                "measures": list(measures_of(ordered)),
                "events": made,
            }
            | head.more
        )
    except ValidationError as error:
        raise DrillError("score_invalid", f"This file makes no drill: {first_problem(error)}.") from error
    return Imported(drill, tuple(proposed), report.sentences())


def _event(number: int, event: ScoreEvent, places: Sequence[tuple[int, int]]) -> dict[str, Any]:
    """The event of a drill, with a string and a fret for each of its notes."""
    marks = {"articulation": "pick"} | event.marks
    if not event.notes:
        marks = {"articulation": "none"} | {k: v for k, v in marks.items() if k in {"id", "voice"}}
    return {
        "id": str(marks.pop("id", f"e{number}")),
        "beat": round(float(event.beat), 6),
        "length": round(float(event.length), 6),
        "notes": [
            {"string": s, "fret": None if n.muted and n.fret is None else f, "muted": n.muted, "finger": n.finger}
            for n, (s, f) in zip(event.notes, places, strict=True)
        ],
    } | marks


def _settle_slurs(events: Sequence[ScoreEvent], places: Sequence[list[Place]], head: Head, report: Report) -> None:
    """A slur that has no note before it on its string, or goes nowhere, is picked; one the wrong way is turned.

    A hammer-on that names itself may come from nothing: the finger alone sounds it.
    """
    fret_on: dict[int, int] = {}
    for event, where in zip(events, places, strict=True):
        slur = event.marks.get("articulation")
        if (slur in SLURS or slur == "any") and where:
            string, fret = where[0]
            before = fret_on.get(string)
            if slur == "hammer" and before is None and fret > 0:
                pass
            elif before is None or before == fret:
                event.marks["articulation"] = "pick"
                report.add(
                    "A slur that cannot be played on one string is taken as picked",
                    bar_and_beat(float(event.beat), head.beats_per_bar),
                )
            elif slur != "slide":
                event.marks["articulation"] = "hammer" if fret > before else "pull"
        fret_on.update(dict(where))
        if not event.notes:
            fret_on.clear()


def _settle_strokes(events: Sequence[ScoreEvent], places: Sequence[list[Place]], head: Head, report: Report) -> None:
    """A stroke on a note that no pick sounds is dropped; a slide from nowhere begins one fret away."""
    for event, where in zip(events, places, strict=True):
        place = bar_and_beat(float(event.beat), head.beats_per_bar)
        if event.marks.get("stroke") and event.marks.get("articulation", "pick") in UNSTRUCK:
            del event.marks["stroke"]
            report.add("Strokes on notes that are not struck were left out", place)
        side = event.marks.pop("from_side", None)
        if side is None or not where or event.marks.get("slide") or event.marks.get("articulation") in UNSTRUCK:
            continue
        fret = where[0][1]
        if fret == 0:
            report.add("An open string is not slid into", place)
            continue
        event.marks["slide"] = {"from_fret": fret - 1 if side == "below" else fret + 1}
        report.add("A slide from an unstated place is taken as one fret long", place)


def measures_of(events: Iterable[ScoreEvent]) -> tuple[Measure, ...]:
    """What counts in a drill of unknown purpose: everything its notes can show."""
    marks = [e.marks for e in events]
    found: list[Measure] = ["pitch"]
    if any(m.get("bend") for m in marks):
        found.append("bend")
    if any(m.get("vibrato") for m in marks):
        found.append("vibrato")
    return (*found, "timing", "level", "noise")


def _places(events: Sequence[ScoreEvent], opens: Sequence[float], head: Head) -> list[list[Place]]:
    wanted = [
        Wanted(
            tuple(0.0 if n.midi is None else n.midi for n in e.notes),
            tuple(None if n.string is None else (n.string, n.fret or 0) for n in e.notes),
            slurred=e.marks.get("articulation") in {*SLURS, "any"},
        )
        for e in events
        if e.notes
    ]
    found, impossible = propose(wanted, opens, frets=IMPORT_FRETS)
    if impossible:
        event = [e for e in events if e.notes][impossible[0]]
        more = f" ({len(impossible) - 1} more like it)" if len(impossible) > 1 else ""
        raise DrillError("off_the_fretboard", _off(event, opens, head.beats_per_bar) + more + ".")
    left = iter(found)
    return [next(left) if event.notes else [] for event in events]


def _off(event: ScoreEvent, opens: Sequence[float], beats_per_bar: int) -> str:
    """Why an event has no place on the fretboard."""
    place = bar_and_beat(float(event.beat), beats_per_bar).capitalize()
    names = " and ".join(midi_to_name(n.midi) for n in event.notes if n.midi is not None)
    if len(event.notes) > 1:
        return f"{place}: {names} cannot be played together on this tuning"
    low, high = midi_to_name(min(opens)), midi_to_name(max(opens) + IMPORT_FRETS)
    return f"{place}: {names} is not on the fretboard; this tuning reaches from {low} to {high}"
