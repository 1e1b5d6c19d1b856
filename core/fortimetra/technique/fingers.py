"""Fingers and strokes for a drill that does not say them: the least work for the hand, and alternate picking.

Fingers: a shortest path over positions of the hand, one finger a fret (common practice, no source); a bend takes the
third finger where it can. Strokes: down on what stands alone, else down and up in turn. Both are proposals; what is
given stays.
"""

from __future__ import annotations

from collections.abc import Sequence
from typing import cast

import numpy as np

from fortimetra.model.drill import UNSTRUCK, DrillNote, Event
from fortimetra.model.hand import Finger, Stroke
from fortimetra.technique.places import FINGERS, PER_FRET_SHIFTED, SHIFT
from fortimetra.units import FloatArray

HIGHEST_HAND = 22
PER_FRET_STRETCHED = 0.7
PER_FRET_UP = 0.02
OUT_OF_REACH = 50.0
OTHER_FINGER = 3.0
FROM_LOWEST = 0.4
BENDING_FINGER = 3
# Notes at least this far apart are struck down, each by itself.
ALONE_BEATS = 1.0


def with_hands(events: Sequence[Event]) -> tuple[Event, ...]:
    """The events with a finger on every fretted note and a stroke on every quick picked one."""
    return _stroked(_fingered(events))


def _fingered(events: Sequence[Event]) -> list[Event]:
    asks = [i for i, e in enumerate(events) if e.articulation != "tap" and any(n.fret for n in e.notes)]
    if not asks:
        return list(events)
    hands = np.arange(1.0, HIGHEST_HAND + 1.0)
    moved = np.abs(hands[:, None] - hands[None, :])
    move = PER_FRET_SHIFTED * moved + SHIFT * (moved > 0)
    total = _cost(events[asks[0]], hands)
    back = []
    for index in asks[1:]:
        # A slide takes the hand along.
        reached = total[:, None] + move * (0.0 if events[index].articulation == "slide" else 1.0)
        back.append(np.argmin(reached, axis=0))
        total = np.min(reached, axis=0) + _cost(events[index], hands)
    at = int(np.argmin(total))
    places = [at]
    for step in reversed(back):
        at = int(step[at])
        places.append(at)
    found = list(events)
    on_string: dict[int, Finger | None] = {}
    for index, place in zip(asks, reversed(places), strict=True):
        found[index] = _placed(events[index], int(hands[place]), on_string)
        on_string.update({n.string: n.finger for n in found[index].notes if n.fret})
    return [_tapped(e) if e.articulation == "tap" else e for e in found]


def _cost(event: Event, hands: FloatArray) -> FloatArray:
    cost = PER_FRET_UP * hands
    frets = [n.fret for n in event.notes if n.fret]
    if frets and frets.count(min(frets)) > 1 and not _apart(event, min(frets)):
        # The first finger lies over both.
        cost = cost + OTHER_FINGER * np.abs(min(frets) - hands)
    if len(set(frets)) > 1:
        # A shape is held from its lowest fret, so that it is the same wherever the hand takes it.
        cost = cost + FROM_LOWEST * np.abs(min(frets) - hands)
    for fret in {f for f in frets if _apart(event, f)}:
        # Two neighbouring fingers stand on it, so that the first is free to lie flat.
        cost = cost + OTHER_FINGER * np.maximum(0.0, fret - hands - 1.0) + PER_FRET_STRETCHED * (fret == hands)
    for index, note in enumerate(event.notes):
        if note.fret and note.finger not in {"slide", "tap", "thumb"}:
            cost = cost + _cost_of_note(note, note.fret - hands, bent=event.bend is not None and index == 0)
    return np.asarray(cost)


def _cost_of_note(note: DrillNote, offset: FloatArray, *, bent: bool) -> FloatArray:
    """Of reaching a note from each place of the hand. offset: frets from the first finger, shape (n_places,)."""
    stretched = np.maximum(0.0, -offset) + np.maximum(0.0, offset - (FINGERS - 1))
    cost = PER_FRET_STRETCHED * stretched + OUT_OF_REACH * np.maximum(0.0, stretched - 1.0)
    wished = int(note.finger) if note.finger else BENDING_FINGER if bent else None
    return cost if wished is None else cost + OTHER_FINGER * np.abs(offset + 1.0 - wished)


def _placed(event: Event, hand: int, on_string: dict[int, Finger | None]) -> Event:
    notes: list[DrillNote] = []
    used: dict[int, int] = {}  # finger: fret
    for note in sorted(event.notes, key=lambda n: (n.fret or 0, -n.string)):
        if not note.fret or note.finger is not None:
            notes.append(note)
            continue
        if event.articulation == "slide" and on_string.get(note.string) is not None:
            notes.append(note.model_copy(update={"finger": on_string[note.string]}))
            continue
        finger = min(FINGERS, max(1, note.fret - hand + 1))
        # Two notes of one fret: the first finger lies over both, another hands on to its neighbour. With a string
        # between that has to be quiet, one finger would press that too.
        apart = _apart(event, note.fret)
        while finger < FINGERS and finger in used and (used[finger] != note.fret or finger > 1 or apart):
            finger += 1
        used[finger] = note.fret
        notes.append(note.model_copy(update={"finger": cast(Finger, str(finger))}))
    order = {n.string: i for i, n in enumerate(event.notes)}
    return event.model_copy(update={"notes": tuple(sorted(notes, key=lambda n: order[n.string]))})


def _apart(event: Event, fret: int) -> bool:
    """Whether notes at one fret leave a string between them that must not sound."""
    at = [n.string for n in event.notes if n.fret == fret]
    sounding = {n.string for n in event.notes if not n.muted}
    return len(at) > 1 and any(s not in sounding for s in range(min(at), max(at)))


def _tapped(event: Event) -> Event:
    notes = tuple(n if n.finger or not n.fret else n.model_copy(update={"finger": "tap"}) for n in event.notes)
    return event.model_copy(update={"notes": notes})


def _stroked(events: Sequence[Event]) -> tuple[Event, ...]:
    found = []
    last: tuple[float, Stroke] | None = None
    struck = [e.beat for e in events if e.notes and e.articulation not in UNSTRUCK]
    following = iter([*struck[1:], None])
    for event in events:
        if not event.notes or event.articulation in UNSTRUCK:
            found.append(event)
            continue
        stroke = event.stroke or _proposed(event, last, next(following))
        last = (event.beat, stroke or "down")
        found.append(event.model_copy(update={"stroke": stroke}))
    return tuple(found)


def _proposed(event: Event, last: tuple[float, Stroke] | None, next_beat: float | None) -> Stroke | None:
    """The stroke of an event that names none; None where it stands alone. last: beat and stroke of the one before."""
    quick_after = next_beat is not None and next_beat - event.beat < ALONE_BEATS
    if event.articulation == "strum":
        return "down"
    if last is not None and event.beat - last[0] < ALONE_BEATS:
        return "up" if last[1].endswith("down") else "down"
    return "down" if quick_after else None
