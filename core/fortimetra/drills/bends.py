"""Generators of bends: ladder, pre-bend, unison, curl, bends inside a scale, and the fretted target first."""

from __future__ import annotations

from fortimetra.drills.fretted_then_bend import fretted_then_bend
from fortimetra.drills.generator import Generator
from fortimetra.drills.score import (
    BPM,
    KEY,
    PROFILE,
    REPEATS,
    SCALES,
    Score,
    fret_input,
    frets_list,
    in_position,
    open_midi,
    string_input,
)
from fortimetra.errors import DrillError
from fortimetra.model.drill import Bend, Drill, DrillNote
from fortimetra.model.form import Input, Values, number, whole, word

SIZES = {"half": 100, "full": 200, "three frets": 300}
SIZE = Input("size", "Bend", "full", choices=tuple(SIZES))


def _size(values: Values) -> int:
    return SIZES[word(values, "size")]


def _fretted(values: Values) -> Drill:
    string, fret, size = whole(values, "string"), whole(values, "fret"), _size(values)
    again = word(values, "again") == "yes"
    return fretted_then_bend(
        title=f"String {string}: {word(values, 'size')} bend at fret {fret}" + (", struck again" if again else ""),
        string=string,
        fret=fret,
        target_cents=size,
        repeats=whole(values, "repeats"),
        bpm=number(values, "bpm"),
        profile=word(values, "profile"),  # type: ignore[arg-type]
        re_pluck=again,
    )


def _ladder(values: Values) -> Drill:
    string, first, size = whole(values, "string"), whole(values, "fret"), _size(values)
    score = Score()
    for fret in range(first, first + whole(values, "positions")):
        target = score.note(string, fret + size // 100, 2.0)
        for _ in range(whole(values, "times")):
            bend = Bend(kind="bend", target_cents=float(size), reference=target)
            score.note(string, fret, 2.0, bend=bend)
        score.to_bar()
    last = first + whole(values, "positions") - 1
    title = f"Bend ladder: string {string}, {word(values, 'size')}, frets {first} to {last}"
    return score.drill(title, "bend_ladder", ("pitch", "bend"), values)


def _prebend(values: Values) -> Drill:
    string, fret, size = whole(values, "string"), whole(values, "fret"), _size(values)
    score = Score()
    target = score.note(string, fret + size // 100, 1.0)
    score.note(string, fret, 1.0)
    score.note(string, fret, 2.0, bend=Bend(kind="prebend", target_cents=float(size), reference=target))
    return score.drill(
        f"Pre-bend and release: string {string}, {word(values, 'size')} at fret {fret}",
        "prebend",
        ("pitch", "bend"),
        values,
    )


def _unison(values: Values) -> Drill:
    string, fret, size = whole(values, "string"), whole(values, "fret"), _size(values)
    bent = string + 1
    bent_fret = open_midi(string) + fret - size // 100 - open_midi(bent)
    score = Score()
    notes = [DrillNote(string=bent, fret=bent_fret), DrillNote(string=string, fret=fret)]
    score.together(notes, 3.0, bend=Bend(kind="unison", target_cents=float(size)))
    score.rest(1.0)
    return score.drill(
        f"Unison bend: string {bent} up to string {string} at fret {fret}",
        "unison_bend",
        ("bend", "noise"),
        values,
    )


def _curl(values: Values) -> Drill:
    string, fret = whole(values, "string"), whole(values, "fret")
    low, high = number(values, "low"), number(values, "high")
    if low >= high:
        raise DrillError("drill_invalid", f"At least: {low:g} cents is not under {high:g}.")
    score = Score()
    score.note(string, fret, 1.0)
    score.note(string, fret, 1.0, bend=Bend(kind="curl", target_cents=(low, high)))
    score.rest(2.0)
    return score.drill(
        f"Curl: string {string}, fret {fret}, {low:g} to {high:g} cents, stopped at the top",
        "curl",
        ("pitch", "bend", "noise"),
        values,
    )


def _in_scale(values: Values) -> Drill:
    key, scale, position = word(values, "key"), word(values, "scale"), whole(values, "position")
    notes = in_position(key, SCALES[scale], position, strings=(1, 2, 3, 4))
    bent = set(frets_list(word(values, "degrees"), label="Bent notes"))
    score = Score()
    for place, (string, fret) in enumerate(notes, 1):
        below = [
            f for s, f in in_position(key, SCALES[scale], max(0, fret - 3), strings=(string,), reach=2) if f < fret
        ]
        step = fret - below[-1] if below else 0
        if place in bent and 1 <= step <= 3 and fret - step >= 1:
            score.note(string, fret - step, 1.0, bend=Bend(kind="bend", target_cents=100.0 * step))
        else:
            score.note(string, fret, 0.5)
    if not any(e.bend for e in score.events):
        raise DrillError(
            "drill_invalid",
            f"Bent notes: none of {sorted(bent)} can be reached by a bend here; the run has {len(notes)} notes.",
        )
    score.to_bar()
    return score.drill(
        f"Bends in {key} {scale}, position {position}",
        "bend_in_scale",
        ("pitch", "bend", "timing"),
        values,
    )


GENERATORS = (
    Generator(
        "fretted_then_bend", "Fretted, then bend",
        "The fretted target, back, the bend held, and the target again.",
        (string_input(), fret_input(), SIZE, Input("again", "Struck again while held", "no", choices=("no", "yes")), BPM, REPEATS, PROFILE),
        _fretted, ({"string": "2", "fret": "8", "again": "yes"}, {"string": "1", "fret": "5", "size": "half"}),
    ),
    Generator(
        "bend_ladder", "Bend ladder", "The same bend several times, then one fret up.",
        (string_input(4), fret_input(5), SIZE, Input("positions", "Positions", 4.0, "", 1.0, 12.0, whole=True),
         Input("times", "Times at each", 4.0, "", 1.0, 8.0, whole=True), BPM, PROFILE),
        _ladder, ({"size": "half"}, {"string": "2", "fret": "8"}),
    ),
    Generator(
        "prebend", "Pre-bend and release", "Bent silently, then struck, then let down to the fretted note.",
        (string_input(2), fret_input(8), SIZE, BPM, REPEATS, PROFILE), _prebend,
        ({"size": "half"}, {"string": "3", "fret": "9"}),
    ),
    Generator(
        "unison_bend", "Unison bend", "Two strings struck together, the lower one bent up to the higher.",
        (string_input(2, label="Steady string", high=5), fret_input(10), SIZE, BPM, REPEATS, PROFILE), _unison,
        ({}, {"string": "1", "fret": "12"}),
    ),
    Generator(
        "curl", "Curl", "A bend that stays under a half step and is muted at its top.",
        (string_input(3), fret_input(6), Input("low", "At least", 20.0, "cents", 5.0, 200.0),
         Input("high", "At most", 80.0, "cents", 10.0, 250.0), BPM, REPEATS, PROFILE),
        _curl, ({}, {"string": "4", "fret": "5", "high": "60"}),
    ),
    Generator(
        "bend_in_scale", "Bend in a scale", "A scale run in which chosen notes are reached by a bend.",
        (KEY, Input("scale", "Scale", "minor pentatonic", choices=tuple(SCALES)), fret_input(5, name="position", label="Position"),
         Input("degrees", "Bent notes, counted in the run", "4 7"), BPM, REPEATS, PROFILE),
        _in_scale, ({}, {"key": "D", "position": "10", "degrees": "3 6"}),
    ),
)  # fmt: skip
