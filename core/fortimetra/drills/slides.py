"""Generators of slides: along one string, into a note, and both strings of a shape together."""

from __future__ import annotations

from itertools import pairwise

from fortimetra.drills.generator import Generator
from fortimetra.drills.scales import SCALES, along_string
from fortimetra.drills.score import KEY, Score, common, fret_input, frets_list, scale_input, string_input, wrong
from fortimetra.drills.shapes import SHAPES, stop
from fortimetra.model.drill import Drill
from fortimetra.model.form import Input, Values, number, whole, word
from fortimetra.model.hand import Slide
from fortimetra.model.tolerance import Measure

SLID: tuple[Measure, ...] = ("pitch", "timing", "level", "noise")
# Of two strings that slide together the arrival is known to half the way only, and what rings beside them hides in it.
SHAPES_SLID: tuple[Measure, ...] = ("pitch", "level")


def _one_string(values: Values) -> Drill:
    string, length, travels = whole(values, "string"), number(values, "length"), number(values, "travels")
    frets = frets_list(word(values, "frets"), label="Frets")
    if len(frets) < 2 or 0 in frets or any(a == b for a, b in pairwise(frets)):
        raise wrong("Frets: write at least two, none open and none twice in a row, as 5 7 9 7.")
    if travels > length / 2:
        raise wrong(f"Travels for: at most half of a note, {length / 2:g} beats.")
    score = Score()
    for times in range(whole(values, "times")):
        for index, fret in enumerate(frets):
            if index == 0 or (word(values, "struck") == "every second note" and index % 2 == 0):
                score.note(string, fret, length, finger="3" if times % 2 else "1")
            else:
                score.note(string, fret, length, "slide", slide=Slide(length=travels))
        score.to_bar()
    return score.drill(
        f"Slides on string {string}: frets {word(values, 'frets')}, {word(values, 'struck')} struck",
        "slides",
        SLID,
        values,
    )


def _into(values: Values) -> Drill:
    key, scale, string = word(values, "key"), word(values, "scale"), whole(values, "string")
    away = {"one fret below": -1, "two frets below": -2, "one fret above": 1}[word(values, "comes")]
    frets = along_string(key, SCALES[scale], string, max(3, whole(values, "low")), whole(values, "count"))
    score = Score()
    for fret in frets:
        score.note(
            string, fret, number(values, "length"), slide=Slide(from_fret=fret + away, length=number(values, "travels"))
        )
    score.to_bar()
    return score.drill(
        f"Slides into the note from {word(values, 'comes')}: {key} {scale}, string {string}", "slides", SLID, values
    )


def _shape(values: Values) -> Drill:
    interval, low, high = SHAPES[word(values, "shape")]
    key, scale = word(values, "key"), word(values, "scale")
    frets = along_string(key, SCALES[scale], low, max(1, whole(values, "position")), whole(values, "count"))
    length, travels = number(values, "length"), number(values, "travels")
    if travels > length / 2:
        raise wrong(f"Travels for: at most half of a note, {length / 2:g} beats.")
    score = Score()
    line = [*frets, *frets[-2::-1]]
    for index, fret in enumerate(line):
        notes = [n for n in stop(interval, low, high, fret, key, scale) if not n.muted]
        if index % 2 == 0:
            score.together(notes, length)
        else:
            score.together(notes, length, "slide", slide=Slide(length=travels))
    score.to_bar()
    return score.drill(
        f"Shapes slid: {word(values, 'shape')}, {key} {scale}, from fret {whole(values, 'position')}",
        "slides",
        SLID,
        values,
    )


TRAVELS = Input("travels", "Travels for", 0.25, "beats", 0.1, 2.0)
LENGTH = Input("length", "Length", 1.0, "beats", 0.5, 4.0)
GENERATORS = (
    Generator(
        "slides", "slides", "Slides on one string", "Struck, then slid: in tune and in time where it arrives, and still alive.",
        (string_input(3), Input("frets", "Frets", "5 7 9 7"), Input("struck", "Struck", "every second note", choices=("every second note", "only the first note")),
         LENGTH, TRAVELS, Input("times", "Times", 2.0, "", 1.0, 16.0, whole=True), *common(*SLID)),
        _one_string, ({}, {"string": "2", "frets": "8 10", "length": "2"}, {"string": "4", "frets": "7 12 10 5", "length": "2", "travels": "0.5"}),
    ),
    Generator(
        "slide_into", "slides", "Slides into the note", "Each note is struck a fret away and slid into at once.",
        (KEY, scale_input("major"), string_input(2), fret_input(5, name="low", label="From fret", high=12), Input("count", "Notes", 6.0, "", 2.0, 10.0, whole=True),
         Input("comes", "Comes from", "one fret below", choices=("one fret below", "two frets below", "one fret above")), LENGTH, TRAVELS, *common(*SLID)),
        _into, ({"length": "2"}, {"key": "D", "comes": "one fret above", "string": "3", "length": "2"}),
    ),
    Generator(
        "slide_shapes", "slides", "Shapes slid", "Both strings of a shape slid together.",
        (KEY, scale_input("major"), Input("shape", "Shape", "thirds on 3 and 2", choices=tuple(SHAPES)), fret_input(2, name="position", label="From fret", high=12), Input("count", "Places", 4.0, "", 2.0, 8.0, whole=True),
         Input("length", "Length", 2.0, "beats", 0.5, 4.0), TRAVELS, *common(*SHAPES_SLID)),
        _shape, ({"key": "G"}, {"key": "A", "shape": "sixths on 3 and 1"}),
    ),
)  # fmt: skip
