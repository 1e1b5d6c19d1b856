"""Habits of hands: one kind of fault each, made all through a take, and the causes that fit it.

What causes fit which fault is common practice, no source. The take is otherwise a clean player's (`_players`). Sizes
are over the drill's tolerances by what a teacher would surely hear.
"""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass, replace
from itertools import pairwise

import numpy as np
from fortimetra.model.drill import Drill

from benchmarks._players import RISE_S, Also, Course, Step

Change = Callable[[Drill, list[Step], np.random.Generator], list[Step]]
Where = Callable[[Step], bool]


@dataclass(frozen=True)
class Habit:
    """One kind of fault: in which drill, how the steps change, and which causes fit."""

    name: str
    drill: str
    change: Change
    fits: frozenset[str]


def _each(where: Where, **fields: object) -> Change:
    return lambda drill, steps, rng: [replace(s, **fields) if where(s) else s for s in steps]  # type: ignore[arg-type]


def _all(step: Step) -> bool:
    return bool(step.event.notes)


def _bent(step: Step) -> bool:
    return step.event.bend is not None


def _is(*articulations: str) -> Where:
    return lambda step: step.event.articulation in articulations


def _finger(name: str) -> Where:
    return lambda s: s.event.articulation == "hammer" and s.event.notes[0].finger == name


# -- courses of pitch -----------------------------------------------------------------------------------------


def _fine(course: Course, seconds: float) -> Course:
    time = np.arange(0.0, seconds, 0.02)
    return [(float(t), float(c)) for t, c in zip(time, np.interp(time, *zip(*course, strict=True)), strict=True)]


def _sinks(cents_per_s: float) -> Callable[[Course, float], Course]:
    def shape(course: Course, seconds: float) -> Course:
        return [(t, c - cents_per_s * max(0.0, t - 0.25)) for t, c in _fine(course, seconds)]

    return shape


def _wavers(cents: float) -> Callable[[Course, float], Course]:
    def shape(course: Course, seconds: float) -> Course:
        return [
            (t, c + (cents * float(np.sin(2 * np.pi * 1.7 * (t - 0.25))) if t > 0.25 else 0.0))
            for t, c in _fine(course, seconds)
        ]

    return shape


def _lands(cents: float) -> Callable[[Course, float], Course]:
    return lambda course, seconds: [*course[:-1], (course[-1][0], course[-1][1] + cents)]


def _held_off(cents: float) -> Callable[[Course, float], Course]:
    """All of a vibrato that much higher, once it has begun."""
    return lambda course, seconds: [(t, c + (cents if t > 0.25 else 0.0)) for t, c in course]


def _swings(
    rng: np.random.Generator, *, width: float = 0.0, time: float = 0.0, scale: float = 1.0
) -> Callable[[Course, float], Course]:
    """Vibratos whose cycles differ by these shares in width and time (SD), all scaled."""

    def shape(course: Course, seconds: float) -> Course:
        # It swings where the course is given every 10 ms.
        begins = next((i for i, (a, b) in enumerate(pairwise(course)) if 0.005 < b[0] - a[0] < 0.015), len(course) - 1)
        head, tail = course[:begins], course[begins:]
        if len(tail) < 10:
            return course
        base = tail[0][1]
        at, values = np.array([t for t, _ in tail]), np.array([c for _, c in tail]) - base
        knots = np.arange(at[0], at[-1] + 0.2, 0.2)
        wide = np.interp(at, knots, np.clip(rng.normal(1.0, width, len(knots)), 0.2, 2.0)) if width else 1.0
        if time:
            rate = np.interp(at, knots, np.clip(rng.normal(1.0, time, len(knots)), 0.4, 1.8))
            warped = at[0] + np.concatenate(([0.0], np.cumsum(np.diff(at) * rate[:-1])))
            values = np.interp(np.minimum(warped, at[-1]), at, values)
        return head + [(float(t), float(base + scale * v)) for t, v in zip(at, values * wide, strict=True)]

    return shape


def _shaped(make: Callable[[np.random.Generator], Callable[[Course, float], Course]], where: Where = _all) -> Change:
    return lambda drill, steps, rng: [replace(s, shape=make(rng)) if where(s) else s for s in steps]


# -- time -----------------------------------------------------------------------------------------------------


def _after_change(
    drill: Drill, steps: list[Step], rng: np.random.Generator, *, late_ms: float, against: bool | None = None
) -> list[Step]:
    found = [steps[0]]
    for before, now in pairwise(steps):
        old, new = before.event, now.event
        changes = bool(old.notes and new.notes) and old.notes[0].string != new.notes[0].string
        if changes and against is not None:
            toward_thin = new.notes[0].string < old.notes[0].string
            changes = against == ((old.stroke or "").endswith("down") != toward_thin)
        found.append(replace(now, late_ms=late_ms) if changes else now)
    return found


def _in_groups(late_ms: float) -> Change:
    """Each note of a beat but its first is off, the more the later in the beat."""

    def change(drill: Drill, steps: list[Step], rng: np.random.Generator) -> list[Step]:
        return [
            replace(s, late_ms=late_ms * (0.5 + float(s.event.beat % 1.0)))
            if s.event.notes and s.event.beat % 1.0 > 0.01
            else s
            for s in steps
        ]

    return change


def _tempo(share: float) -> Change:
    """The whole take so much slower."""

    def change(drill: Drill, steps: list[Step], rng: np.random.Generator) -> list[Step]:
        first = steps[0].at_s
        return [
            replace(s, at_s=first + (s.at_s - first) * (1.0 + share), seconds=s.seconds * (1.0 + share)) for s in steps
        ]

    return change


def _swung(drill: Drill, steps: list[Step], rng: np.random.Generator) -> list[Step]:
    late_ms = 1000.0 * drill.seconds_per_beat / 6.0
    return [replace(s, late_ms=late_ms) if s.event.notes and abs(s.event.beat % 1.0 - 0.5) < 0.01 else s for s in steps]


def _after_shift(drill: Drill, steps: list[Step], rng: np.random.Generator) -> list[Step]:
    found = [steps[0]]
    for before, now in pairwise(steps):
        old, new = before.event, now.event
        far = bool(old.notes and new.notes) and abs((old.notes[0].fret or 0) - (new.notes[0].fret or 0)) >= 4
        found.append(replace(now, late_ms=90.0) if far else now)
    return found


def _at_end(drill: Drill, steps: list[Step], rng: np.random.Generator) -> list[Step]:
    start = len(steps) * 2 // 3
    return [
        replace(s, late_ms=float(rng.choice([-1.0, 1.0]) * rng.uniform(60.0, 110.0)))
        if i >= start and s.event.notes and rng.random() < 0.6
        else s
        for i, s in enumerate(steps)
    ]


def _one_event(nth: int, **fields: object) -> Change:
    """One place of the figure, in every repeat."""

    def change(drill: Drill, steps: list[Step], rng: np.random.Generator) -> list[Step]:
        name = [e for e in drill.events if e.notes][nth].id
        return _each(lambda s: s.event.id == name, **fields)(drill, steps, rng)

    return change


# -- strings --------------------------------------------------------------------------------------------------


def _rings(
    string: Callable[[Step, Drill], int | None],
    *,
    share: float = 0.6,
    fret: Callable[[Step], int] = lambda s: 0,
    level_db: float = -12.0,
    where: Where = _all,
) -> Change:
    """A string that rings, or is pressed, under most of the notes."""

    def change(drill: Drill, steps: list[Step], rng: np.random.Generator) -> list[Step]:
        found = []
        for s in steps:
            rung = string(s, drill) if where(s) else None
            if rung is not None and rng.random() < share:
                s = replace(s, also=(Also(rung, fret(s), 0.01, 0.95 * s.seconds, level_db),))
            found.append(s)
        return found

    return change


def _middle(step: Step, drill: Drill) -> int | None:
    strings = [n.string for n in step.event.notes if not n.muted]
    return (
        next((s for s in range(min(strings) + 1, max(strings)) if s not in strings), None) if len(strings) > 1 else None
    )


def _named(string: int) -> Callable[[Step, Drill], int | None]:
    return lambda step, drill: None if string in {n.string for n in step.event.notes if not n.muted} else string


def _beside(step: Step, drill: Drill) -> int | None:
    string = step.event.notes[0].string
    return string - 1 if string > 1 else None


def _lowest_fret(step: Step) -> int:
    return min(n.fret or 0 for n in step.event.notes if not n.muted and n.fret)


def _after_stops(drill: Drill, steps: list[Step], rng: np.random.Generator) -> list[Step]:
    """What is played is held into the rest."""
    return [
        replace(s, held=1.0 + 0.5 / s.seconds) if s.event.notes and not after.event.notes else s
        for s, after in zip(steps, [*steps[1:], steps[0]], strict=True)
    ]


def _twice(drill: Drill, steps: list[Step], rng: np.random.Generator) -> list[Step]:
    return [
        replace(
            s, also=(Also(s.event.notes[0].string, s.event.notes[0].fret or 0, 0.04, 0.8 * s.seconds - 0.04, -1.0),)
        )
        if s.event.notes and rng.random() < 0.3
        else s
        for s in steps
    ]


def _scattered_levels(drill: Drill, steps: list[Step], rng: np.random.Generator) -> list[Step]:
    return [
        replace(s, level_db=float(rng.choice([-7.0, 6.0]))) if s.event.notes and rng.random() < 0.35 else s
        for s in steps
    ]


def _bend_by_fret(drill: Drill, steps: list[Step], rng: np.random.Generator) -> list[Step]:
    low = min(s.event.notes[0].fret or 0 for s in steps if _bent(s))
    return [replace(s, cents=8.0 - 16.0 * ((s.event.notes[0].fret or 0) - low)) if _bent(s) else s for s in steps]


def _dies(drill: Drill, steps: list[Step], rng: np.random.Generator) -> list[Step]:
    """Two of four bends of a place end while they rise."""
    return [replace(s, held=(0.05 + 0.6 * RISE_S) / s.seconds) if _bent(s) and s.repeat % 2 else s for s in steps]


def _on_string(step: Step, drill: Drill, off: int) -> int:
    note = step.event.notes[0]
    return round(drill.open_midi(note.string + off) - drill.open_midi(note.string))


def _other_string(nths: Sequence[int]) -> Change:
    def change(drill: Drill, steps: list[Step], rng: np.random.Generator) -> list[Step]:
        names = {[e for e in drill.events if e.notes][n].id for n in nths}
        return [
            replace(s, frets_off=_on_string(s, drill, -1 if s.event.notes[0].string > 1 else 1))
            if s.event.id in names
            else s
            for s in steps
        ]

    return change


def _held_into_next(drill: Drill, steps: list[Step], rng: np.random.Generator) -> list[Step]:
    """Notes of one string each that ring on under the next."""
    return [
        replace(s, also=(Also(s.event.notes[0].string, s.event.notes[0].fret or 0, 0.97 * s.seconds, 0.25, -5.0),))
        if s.event.notes
        else s
        for s in steps
    ]


def _fits(*codes: str) -> frozenset[str]:
    return frozenset(codes)


HABITS: tuple[Habit, ...] = (
    Habit("bends stop short", "String 3: full bend at fret 7", _each(_bent, cents=-34.0), _fits("bend_flat")),
    Habit("bends go past", "String 2: full bend at fret 13", _each(_bent, cents=32.0), _fits("bend_sharp")),
    Habit("bends off by fret", "Bend ladder: string 4, half", _bend_by_fret, _fits("bends_change_along", "bend_flat")),
    Habit("holds sink", "String 3: full bend at fret 7", _shaped(lambda rng: _sinks(60.0), _bent), _fits("hold_sinks")),
    Habit(
        "holds waver", "Bend ladder: string 2, full", _shaped(lambda rng: _wavers(28.0), _bent), _fits("hold_wavers")
    ),
    Habit("bends die", "String 3: half bend at fret 9, finger 1", _dies, _fits("bends_die", "bends_choke")),
    Habit(
        "pre-bends flat",
        "Pre-bend and release: string 3, full at fret 9",
        _each(_bent, cents=-34.0),
        _fits("prebend_flat"),
    ),
    Habit(
        "releases land sharp",
        "Pre-bend and release: string 2, full at fret 10",
        _shaped(lambda rng: _lands(32.0), _bent),
        _fits("landing_off"),
    ),
    Habit("unisons under", "Unison bend: string 3", _each(_bent, by_string={3: (0.0, -30.0)}), _fits("unison_under")),
    Habit("unisons past", "Unison bend: string 2", _each(_bent, by_string={2: (0.0, 30.0)}), _fits("unison_past")),
    Habit("curls too wide", "Curl: string 3", _each(_bent, cents=60.0), _fits("curl_wide")),
    Habit(
        "vibrato never back",
        "Vibrato, slow and wide",
        _shaped(lambda rng: _held_off(32.0)),
        _fits("vibrato_never_back"),
    ),
    Habit(
        "vibrato tops flat",
        "Vibrato on a full bend",
        _shaped(lambda rng: _held_off(-30.0), _bent),
        _fits("vibrato_tops_flat", "bend_flat"),
    ),
    Habit(
        "vibrato uneven in width",
        "Vibrato, medium: fret 12",
        _shaped(lambda rng: _swings(rng, width=0.5)),
        _fits("vibrato_uneven_width"),
    ),
    Habit(
        "vibrato uneven in time",
        "Vibrato, medium: fret 12",
        _shaped(lambda rng: _swings(rng, time=0.5)),
        _fits("vibrato_uneven_rate"),
    ),
    Habit(
        "vibrato too narrow",
        "Vibrato, wide, plain first",
        _shaped(lambda rng: _swings(rng, scale=0.35), lambda s: s.event.vibrato is not None),
        _fits("vibrato_narrow"),
    ),
    Habit(
        "dips uneven",
        "Vibrato on a half bend",
        _shaped(lambda rng: _swings(rng, width=0.5), _bent),
        _fits("vibrato_dips_uneven"),
    ),
    Habit(
        "late after string changes",
        "3 notes a string: A natural minor",
        lambda d, s, r: _after_change(d, s, r, late_ms=75.0),
        _fits("late_after_string_change"),
    ),
    Habit(
        "late against the stroke",
        "3 notes a string: G major, strings 6 5 4 3 2 1, up",
        lambda d, s, r: _after_change(d, s, r, late_ms=75.0, against=True),
        _fits("change_against_stroke", "late_after_string_change"),
    ),
    Habit("groups rushed", "Alternate picking 1 2 3 4 / 4 3 2 1, up", _in_groups(-55.0), _fits("rushes_inside")),
    Habit("groups drag", "Alternate picking 1 2 3 4 / 4 3 2 1, down", _in_groups(55.0), _fits("drags_inside")),
    Habit("runs away", "Along string 2: C major", _tempo(-0.045), _fits("rushes")),
    Habit("falls behind", "Along string 2: C major", _tempo(0.045), _fits("drags")),
    Habit("sixteenths as triplets", "Alternate picking 1 3, up", _tempo(1.0 / 3.0), _fits("other_division")),
    Habit(
        "eighths swing",
        "Alternate picking 1 2 3 4, up: strings 3 and 2, position 5, 2 a click",
        _swung,
        _fits("eighths_swing", "drags_inside"),
    ),
    Habit("late as a whole", "Alternate picking 1 2 4, up: string 2", _each(_all, late_ms=70.0), _fits("all_late")),
    Habit("late after shifts", "Two sweeps in turn, 3 strings: A minor", _after_shift, _fits("late_after_shift")),
    Habit(
        "hammers weak",
        "Slurred groups, low mid high mid",
        _each(_is("hammer"), level_db=-9.0),
        _fits("hammer_weak", "slurs_drop", "weak_finger"),
    ),
    Habit(
        "pulls weak",
        "Slurred groups, low mid high mid",
        _each(_is("pull"), level_db=-9.0),
        _fits("pull_weak", "slurs_drop"),
    ),
    Habit(
        "one finger weak", "Finger pairs all", _each(_finger("4"), level_db=-9.0), _fits("weak_finger", "hammer_weak")
    ),
    Habit(
        "slurs hurry",
        "Slurs through A minor pentatonic",
        _each(_is("hammer", "pull"), late_ms=-75.0),
        _fits("slurs_hurry", "rushes_inside"),
    ),
    Habit(
        "slurs drag",
        "Slurs through A minor pentatonic",
        _each(_is("hammer", "pull"), late_ms=75.0),
        _fits("slurs_drag", "drags_inside"),
    ),
    Habit("pulls hook", "Slurred groups, high mid low mid", _each(_is("pull"), level_db=5.5), _fits("pull_hooks")),
    Habit("taps loud", "Tapping: string 2", _each(_is("tap"), level_db=5.5), _fits("tap_loud")),
    Habit(
        "accents missing",
        "Alternate picking 1 2 3 4 / 4 3 2 1, up",
        _each(lambda s: s.event.accent, level_db=-5.0),
        _fits("accents_missing"),
    ),
    Habit("volume uneven", "Along string 3: G major", _scattered_levels, _fits("volume_uneven")),
    Habit("notes ring on", "Sweep, 3 strings, up: E major", _held_into_next, _fits("bleeds")),
    Habit(
        "notes too short",
        "Finger pairs 1-3, hammer-ons alone",
        _each(_all, held=0.45),
        _fits("notes_short", "hammer_weak"),
    ),
    Habit("double hits", "Along string 2: C major", _twice, _fits("double_hits")),
    Habit("middle string rings", "Double stops: sixths on 3 and 1", _rings(_middle), _fits("middle_rings")),
    Habit("low strings ring", "Scale over quiet low strings: G major", _rings(_named(6)), _fits("low_strings_ring")),
    Habit(
        "high strings ring",
        "Mute check: all strings struck, 2 sound, roots on string 6, frets 3",
        _rings(_named(1)),
        _fits("high_strings_ring", "above_rings"),
    ),
    Habit(
        "neighbour rings with hammers",
        "Finger pairs 1-3, hammer-ons alone",
        _rings(_beside, where=_is("hammer")),
        _fits("joint_collapses"),
    ),
    Habit(
        "neighbour rings with pulls",
        "Finger pairs 2-4, pull-offs alone",
        _rings(_beside, where=_is("pull")),
        _fits("neighbour_slurred"),
    ),
    Habit("stops late", "Stops: riff on string 5", _after_stops, _fits("stop_late", "still_fretted")),
    Habit(
        "middle pressed under the slide",
        "Bottleneck: sixths on 3 and 1",
        _rings(_middle, fret=_lowest_fret),
        _fits("strings_pressed"),
    ),
    Habit(
        "high strings barred",
        "Mute check: all strings struck, 2 sound, roots on string 6, frets 3",
        _rings(_named(3), fret=_lowest_fret),
        _fits("strings_pressed"),
    ),
    Habit(
        "slide flat",
        "Bottleneck over I IV V I in G",
        _each(_all, by_string=dict.fromkeys(range(1, 7), (0.0, -32.0))),
        _fits("slide_behind"),
    ),
    Habit("a fret beside", "Alternate picking 1 2 4, down: string 2", _one_event(5, frets_off=1), _fits("wrong_fret")),
    Habit(
        "a string beside",
        "Scale over quiet low strings: A minor",
        _other_string((3, 9)),
        _fits("wrong_string", "wrong_order"),
    ),
    Habit(
        "one string of the shape missing",
        "Double stops: sixths on 3 and 1",
        _each(_all, by_string={1: None}),
        _fits("shape_not_held", "chord_unequal"),
    ),
    Habit(
        "always the same note",
        "Alternate picking 1 2 3 4, up: strings 3 and 2",
        _one_event(6, late_ms=85.0),
        _fits("same_note_timing"),
    ),
    Habit(
        "worse at the end", "Alternate picking 1 2 3 4, down: strings 3 and 2", _at_end, _fits("worse_at_end_timing")
    ),
)
