"""Generators of bends inside a scale: the scale plain, then with named notes reached by a bend from the note below."""

from __future__ import annotations

import re

from fortimetra.drills.bends import SIZE, SIZES
from fortimetra.drills.generator import Generator
from fortimetra.drills.scales import DEGREES, NAMES, SCALES, Place, in_position, open_midi, there_and_back
from fortimetra.drills.score import KEY, Score, bend, common, fret_input, frets_list, scale_input, wrong
from fortimetra.model.drill import Drill, DrillNote
from fortimetra.model.form import Input, Values, number, whole, word

MOST_BEND_FRETS = 3
PLAIN_FIRST = Input("plain", "Plain scale first", "no", choices=("no", "yes"))


def bend_map(text: str) -> dict[int, int]:
    """Pitch classes above the root that are bent, and by how many frets, from "4>5 b7>1".

    Raises DrillError naming the field.
    """
    found: dict[int, int] = {}
    for part in re.split(r"[\s,;]+", text.strip()):
        low, sign, high = part.partition(">")
        if not sign or low not in DEGREES or high not in DEGREES:
            raise wrong(
                f"Bent notes: write scale degrees as 4>5 b7>1 (the note, > and what it is bent to); got {part!r}."
            )
        size = (DEGREES[high] - DEGREES[low]) % 12
        if not 1 <= size <= MOST_BEND_FRETS:
            raise wrong(f"Bent notes: {part} is {size} frets; a bend goes up by one to {MOST_BEND_FRETS}.")
        found[DEGREES[low]] = size
    return found


def _mapped(values: Values) -> Drill:
    key, scale, position = word(values, "key"), word(values, "scale"), whole(values, "position")
    sizes = bend_map(word(values, "map"))
    steps = SCALES[scale]
    for low, size in sizes.items():
        if low not in steps or (low + size) % 12 not in steps:
            raise wrong(
                f"Bent notes: a bend leads from a note of the {scale} scale to another one; one of these does not."
            )
    run = there_and_back(in_position(key, steps, position, strings=(1, 2, 3, 4)))
    root = NAMES.index(key)
    score = Score()
    targets: dict[int, str] = {}
    if word(values, "plain") == "yes":
        for string, fret in run:
            targets[open_midi(string) + fret] = score.note(string, fret, 0.5)
        score.to_bar()
    count = 0
    for string, fret in run:
        up = sizes.get((open_midi(string) + fret - root) % 12)
        # The edge strings have no room at the first frets; an open string cannot be bent.
        if up is not None and fret >= 1:
            count += 1
            reference = targets.get(open_midi(string) + fret + up)
            score.note(string, fret, 1.0, bend=bend(string, 100.0 * up, reference=reference))
            if word(values, "check") == "yes":
                score.together([_beside(string, fret + up)], 1.0)
        else:
            score.note(string, fret, 0.5)
    if not count:
        raise wrong("Bent notes: none of them lies on strings 4 to 1 in this position; choose another position.")
    score.to_bar()
    plain = "plain, then " if word(values, "plain") == "yes" else ""
    check = ", each checked on the next string" if word(values, "check") == "yes" else ""
    return score.drill(
        f"{key} {scale} {plain}bent {word(values, 'map')}, position {position}{check}",
        "bend_in_scale", ("pitch", "bend", "timing", "noise"), values,
    )  # fmt: skip


def _beside(string: int, fret: int) -> DrillNote:
    """The same pitch on the next thinner string, or where there is none on the bent one."""
    if string > 1 and (at := open_midi(string) + fret - open_midi(string - 1)) >= 0:
        return DrillNote(string=string - 1, fret=at)
    return DrillNote(string=string, fret=fret)


def _counted(values: Values) -> Drill:
    key, scale, position = word(values, "key"), word(values, "scale"), whole(values, "position")
    notes = in_position(key, SCALES[scale], position, strings=(1, 2, 3, 4))
    bent = set(frets_list(word(values, "degrees"), label="Bent notes"))
    score = Score()
    for place, (string, fret) in enumerate(notes, 1):
        step = fret - (_below(key, scale, string, fret) or fret)
        if place in bent and 1 <= step <= MOST_BEND_FRETS and fret - step >= 1:
            score.note(string, fret - step, 1.0, bend=bend(string, 100.0 * step))
        else:
            score.note(string, fret, 0.5)
    if not any(e.bend for e in score.events):
        raise wrong(
            f"Bent notes: none of {sorted(bent)} can be reached by a bend here; the run has {len(notes)} notes."
        )
    score.to_bar()
    return score.drill(
        f"Bends in {key} {scale}, position {position}", "bend_in_scale", ("pitch", "bend", "timing", "noise"), values
    )


def _below(key: str, scale: str, string: int, fret: int) -> int | None:
    below: list[Place] = in_position(key, SCALES[scale], max(0, fret - 3), strings=(string,), reach=2)
    return max((f for _, f in below if f < fret), default=None)


def _double_check(values: Values) -> Drill:
    string, fret = whole(values, "string"), whole(values, "fret")
    size = SIZES[word(values, "size")]
    length = number(values, "length")
    score = Score()
    check = _beside(string, fret + size // 100)
    if check.string == string:
        raise wrong("String: the check note lies on the next thinner string; choose strings 2 to 5, up the neck.")
    target = score.together([check], length)
    score.note(string, fret, length, bend=bend(string, float(size), reference=target))
    score.together([check], length)
    score.together([DrillNote(string=string, fret=fret), check], length, bend=bend(string, float(size), kind="unison"))
    score.to_bar()
    return score.drill(
        f"Bend against the next string: string {string}, {word(values, 'size')} at fret {fret}",
        "unison_bend", ("pitch", "bend", "noise"), values,
    )  # fmt: skip


POSITION = fret_input(5, name="position", label="Position", high=19)
GENERATORS = (
    Generator(
        "bend_in_scale", "bend_in_scale", "Bend in a scale", "A scale run in which chosen notes are reached by a bend.",
        (KEY, scale_input(), POSITION, Input("degrees", "Bent notes, counted in the run", "4 7"), *common("pitch", "bend", "timing", "noise")),
        _counted, ({}, {"key": "D", "position": "10", "degrees": "3 6"}),
    ),
    Generator(
        "bend_map", "bend_in_scale", "Scale with bends by degree", "The scale, then the same with named notes bent up to scale notes.",
        (KEY, scale_input(), POSITION, Input("map", "Bent notes, as 4>5", "4>5 b7>1"), PLAIN_FIRST,
         Input("check", "Checked on the next string", "no", choices=("no", "yes")), *common("pitch", "bend", "timing", "noise")),
        _mapped, ({"plain": "yes"}, {"key": "E", "position": "12", "map": "b7>1"}, {"key": "G", "position": "15", "map": "4>5", "check": "yes"}),
    ),
    Generator(
        "bend_checked", "unison_bend", "Bend against the next string", "The check note, the bend, the check again, then both together.",
        (Input("string", "String", 3.0, "", 2.0, 5.0, whole=True), fret_input(9), SIZE, Input("length", "Length", 2.0, "beats", 1.0, 4.0),
         *common("pitch", "bend", "noise")),
        _double_check, ({}, {"string": "2", "fret": "10"}),
    ),
)  # fmt: skip
