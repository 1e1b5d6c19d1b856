"""A drill at a step of its ladder: another tempo, or more notes to the click."""

from __future__ import annotations

from collections import Counter
from itertools import pairwise

from fortimetra.coach.settings import STEP
from fortimetra.errors import DrillError
from fortimetra.model.drill import Drill, Event
from fortimetra.model.ladder import Step

MOST_PER_CLICK = 12


def _gaps(drill: Drill, *, picked: bool = False) -> list[float]:
    """Beats from each sounding place to the next, over one repeat."""
    wanted: list[Event] = [e for e in drill.events if e.notes and (not picked or e.articulation in {"pick", "strum"})]
    beats = sorted({round(e.beat, 6) for e in wanted})
    return [b - a for a, b in pairwise(beats)]


def notes_per_click(drill: Drill) -> int | None:
    """Notes to a click as written; None where the drill is no even line of notes, or has no click.

    A run in sixteenths has 4, one in triplets 3, a scale in quarters 1. Bends and vibratos take time of their own, so a
    drill with any has none.
    """
    if any(e.bend is not None or e.vibrato is not None for e in drill.events):
        return None
    gaps = Counter(round(g, 3) for g in _gaps(drill))
    if drill.tempo is None or not gaps:
        return None
    gap, times = gaps.most_common(1)[0]
    per_click = round(1.0 / gap) if gap > 0 else 0
    even = times >= STEP.least_even * sum(gaps.values())
    return (
        per_click
        if even and 1 <= per_click <= MOST_PER_CLICK and abs(gap * per_click - 1.0) < MOST_PER_CLICK * STEP.alike
        else None
    )


def at_step(drill: Drill, step: Step) -> Drill:
    """The same notes at a step of the ladder.

    More or fewer notes to a click move every place of the page by the same share; the swing, which belongs to the
    page's eighths, is left out then. Raises DrillError(code="not_even") for another number of notes to the click than
    is written in a drill that is no even line.
    """
    faster = drill.at(step.bpm)
    if step.per_click is None or faster.tempo is None:
        return faster
    written = notes_per_click(drill)
    if written is None:
        raise DrillError(
            "not_even",
            f"{drill.title} is no even line of notes, so it has no notes to a click; let its ladder go by tempo.",
        )
    if written == step.per_click:
        return faster
    share = written / step.per_click
    events = tuple(
        e.model_copy(update={"beat": round(e.beat * share, 6), "length": round(e.length * share, 6)} | _slid(e, share))
        for e in faster.events
    )
    members = tuple(
        m.model_copy(update={"from_beat": round(m.from_beat * share, 6), "to_beat": round(m.to_beat * share, 6)})
        for m in faster.members
    )
    tempo = faster.tempo.model_copy(update={"swing": 0.5})
    return faster.model_copy(update={"events": events, "members": members, "tempo": tempo})


def _slid(event: Event, share: float) -> dict[str, object]:
    slide = event.slide
    if slide is None or slide.length is None:
        return {}
    return {"slide": slide.model_copy(update={"length": round(slide.length * share, 6)})}


def picked_per_second(drill: Drill, step: Step) -> float | None:
    """Fastest picked notes a second at a step; None where nothing is picked in a row."""
    there = at_step(drill, step)
    gaps = [g for g in _gaps(there, picked=True) if g > STEP.alike]
    return 1.0 / (min(gaps) * there.seconds_per_beat) if gaps else None
