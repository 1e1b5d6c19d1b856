"""Fretted, then bend: play the target fretted, come back, bend up to it, hold, re-pluck, and the target again."""

from __future__ import annotations

from fortimetra.model.drill import Bend, Drill, DrillNote, Event, Tempo
from fortimetra.model.guitar import STANDARD_TUNING
from fortimetra.model.tolerance import Profile

SIZE_NAMES = {100: "half", 200: "full", 300: "three-fret"}


def fretted_then_bend(
    *,
    title: str,
    string: int,
    fret: int,
    target_cents: int = 200,
    repeats: int = 4,
    bpm: float = 60.0,
    profile: Profile = "steady",
    re_pluck: bool = False,
    tuning: tuple[str | float, ...] = STANDARD_TUNING,
) -> Drill:
    """One bend against its fretted target.

    fret: the fret that is bent; the target is target_cents / 100 frets higher on the same string. A repeat takes two
    bars of four: target, back, bend held for two beats, re-pluck (if asked), target again.
    """
    up = round(target_cents / 100)
    target, bent = DrillNote(string=string, fret=fret + up), DrillNote(string=string, fret=fret)
    bend = Bend(kind="bend", target_cents=float(target_cents), reference="target")
    events = [
        Event(id="target", beat=0, length=1, articulation="pick", notes=(target,)),
        Event(id="back", beat=1, length=1, articulation="pick", notes=(bent,)),
        Event(id="bend", beat=2, length=2, articulation="pick", notes=(bent,), bend=bend),
    ]
    if re_pluck:
        events.append(Event(id="again", beat=4, length=2, articulation="repluck", notes=(bent,), bend=bend))
        events.append(Event(id="check", beat=6, length=2, articulation="pick", notes=(target,)))
    else:
        events.append(Event(id="check", beat=4, length=2, articulation="pick", notes=(target,)))
        events.append(Event(id="rest", beat=6, length=2, articulation="none"))
    return Drill(
        format="fortimetra-drill",
        version=1,
        title=title,
        family="fretted_then_bend",
        tuning=tuning,
        tempo=Tempo(bpm=bpm),
        repeats=repeats,
        profile=profile,
        measures=("pitch", "bend"),
        events=tuple(events),
    )


def starter_drills() -> list[Drill]:
    """What a new studio begins with: half and full bends on the strings that are bent most."""
    return [
        fretted_then_bend(
            title="String 3: half bend at fret 7", string=3, fret=7, target_cents=100, bpm=60, profile="starting"
        ),
        fretted_then_bend(title="String 3: full bend at fret 7", string=3, fret=7, target_cents=200, bpm=66),
        fretted_then_bend(title="String 2: full bend at fret 8, struck again", string=2, fret=8, bpm=66, re_pluck=True),
        fretted_then_bend(title="String 2: full bend at fret 13", string=2, fret=13, bpm=72, profile="exacting"),
        fretted_then_bend(title="String 1: half bend at fret 5", string=1, fret=5, target_cents=100, bpm=63),
        fretted_then_bend(
            title="String 4: half bend at fret 9", string=4, fret=9, target_cents=100, bpm=60, profile="starting"
        ),
    ]
