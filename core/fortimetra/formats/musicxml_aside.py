"""What a score does not say of a drill, written beside it and taken back where the notes still agree.

It stands in a `miscellaneous-field`, MusicXML's own place for such things (W3C MusicXML 4.0).
"""

from __future__ import annotations

from collections.abc import Sequence
from fractions import Fraction
from typing import Any
from xml.etree.ElementTree import Element

from pydantic import ValidationError

from fortimetra.formats.score_in import Head, Report, ScoreEvent
from fortimetra.formats.written import exact
from fortimetra.model.base import Model
from fortimetra.model.drill import Articulation, Bend, Drill, Family, Member, School, Tempo
from fortimetra.model.hand import Finger, Slide, Stroke, VibratoAsked
from fortimetra.model.tolerance import Measure, Profile, Tolerances

FIELD = "fortimetra-drill"
SAME_SWING = 0.002


class AsideEvent(Model):
    """What a score does not say of an event. at: its strings, in the drill's order; length: of a rest."""

    beat: float
    at: tuple[int, ...]
    length: float | None = None
    id: str
    articulation: Articulation
    bend: Bend | None = None
    vibrato: VibratoAsked | None = None
    voice: int = 1
    slide: Slide | None = None
    stroke: Stroke | None = None
    fingers: tuple[Finger | None, ...] = ()


class Aside(Model):
    """What a score does not say of a drill."""

    family: Family
    a4_hz: float
    tempo: Tempo | None
    profile: Profile
    tolerances: Tolerances
    school: School
    measures: tuple[Measure, ...]
    members: tuple[Member, ...] = ()
    events: tuple[AsideEvent, ...]


def aside_of(drill: Drill) -> Aside:
    """What a score does not say of this drill."""
    events = tuple(
        AsideEvent(
            beat=e.beat,
            at=tuple(n.string for n in e.notes),
            length=None if e.notes else e.length,
            id=e.id,
            articulation=e.articulation,
            bend=e.bend,
            vibrato=e.vibrato,
            voice=e.voice,
            slide=e.slide,
            stroke=e.stroke,
            fingers=tuple(n.finger for n in e.notes) if any(n.finger for n in e.notes) else (),
        )
        for e in drill.events
    )
    head = {name: getattr(drill, name) for name in Aside.model_fields if name != "events"}
    return Aside(events=events, **head)


def read_aside(root: Element, report: Report) -> Aside | None:
    """What an export of ours wrote beside the score; None where there is none, or it cannot be read."""
    for element in root.iterfind("identification/miscellaneous/miscellaneous-field"):
        if element.get("name") == FIELD:
            try:
                return Aside.model_validate_json(element.text or "")
            except ValidationError:
                report.add("What this program had written beside the score could not be read and was left out")
    return None


def take_back(aside: Aside, events: list[ScoreEvent], head: Head, report: Report) -> None:
    """What this program wrote beside the score, where the score still says the same."""
    if head.more["tempo"] is not None and aside.tempo is not None:
        _tempo_back(head.more["tempo"], aside.tempo)
    head.more.update({n: getattr(aside, n) for n in Aside.model_fields if n not in {"events", "tempo"}})
    _split_rests(events, [s for s in aside.events if not s.at])
    by_place = {_place(e.beat, [n.string or 0 for n in e.notes]): e for e in events}
    same = [_event_back(s, by_place.get(_place(s.beat, s.at))) for s in aside.events]
    if not (_ids_kept(events) and all(same)):
        report.add("The notes were changed after they were exported; what no longer fits them was left out")


def _place(beat: Fraction | float, strings: Sequence[int]) -> tuple[float, tuple[int, ...]]:
    return round(float(beat), 5), tuple(sorted(strings))


def _tempo_back(tempo: dict[str, Any], aside: Tempo) -> None:
    tempo["count_in_beats"] = aside.count_in_beats
    if abs(aside.swing - tempo.get("swing", 0.5)) < SAME_SWING:
        tempo["swing"] = aside.swing


def _ids_kept(events: list[ScoreEvent]) -> bool:
    """Whether every event has an id of its own; else all lose theirs, and bends what they refer to."""
    ids = {e.marks.get("id") for e in events}
    if None not in ids and len(ids) == len(events):
        return True
    for event in events:
        event.marks.pop("id", None)
        if event.marks.get("bend"):
            event.marks["bend"] |= {"reference": None}
    return False


def _event_back(saved: AsideEvent, event: ScoreEvent | None) -> bool:
    """Whether the score still says of an event what was written; what it has no word for is put back."""
    if event is None:
        return False
    event.marks |= {"id": saved.id, "voice": saved.voice}
    if not event.notes:
        return True
    same = True
    event.notes.sort(key=lambda n, at=saved.at: at.index(n.string))  # type: ignore[misc]
    for name in ("bend", "vibrato"):
        mark = getattr(saved, name)
        if (mark is None) == (event.marks.get(name) is None):
            event.marks[name] = None if mark is None else mark.model_dump(by_alias=True)
        else:
            same = False
    if saved.articulation in {"strum", "repluck", "hammer"} and "articulation" not in event.marks:
        event.marks["articulation"] = saved.articulation
    if saved.slide is not None:
        event.marks |= {"slide": saved.slide.model_dump(), "from_side": None}
    if saved.stroke is not None and event.marks.get("stroke") == saved.stroke.removeprefix("sweep_"):
        event.marks["stroke"] = saved.stroke
    for single, finger in zip(event.notes, saved.fingers, strict=False):
        if finger in {None, "tap", "slide"} and single.finger is None:
            single.finger = finger
    return same


def _split_rests(events: list[ScoreEvent], saved: list[AsideEvent]) -> None:
    """Rests that follow each other stand as one in the score; they are several again where they fill the same time."""
    spans = sorted((exact(s.beat), exact(s.length or 0.0)) for s in saved)
    for event in [e for e in events if not e.notes]:
        inside = [(b, n) for b, n in spans if event.beat <= b and b + n <= event.beat + event.length]
        ends = [event.beat, *(b + n for b, n in inside)]
        if len(inside) > 1 and [b for b, _ in inside] == ends[:-1] and ends[-1] == event.beat + event.length:
            events.remove(event)
            events += [ScoreEvent(b, n) for b, n in inside]
