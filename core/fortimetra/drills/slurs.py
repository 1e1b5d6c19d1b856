"""Generators of slurs: finger pairs, slurred against picked, cycles of three, four and six, tapping."""

from __future__ import annotations

from itertools import pairwise

from fortimetra.drills.generator import Generator
from fortimetra.drills.score import BPM, PROFILE, REPEATS, Score, fret_input, frets_list, string_input
from fortimetra.errors import DrillError
from fortimetra.model.drill import Articulation, Drill
from fortimetra.model.form import Input, Values, number, whole, word

PAIRS = ("1-2", "1-3", "1-4", "2-3", "2-4", "3-4")
SIXTEENTH = 0.25


def _pairs(values: Values) -> Drill:
    string, position = whole(values, "string"), whole(values, "position")
    chosen = PAIRS if word(values, "pair") == "all" else (word(values, "pair"),)
    score = Score()
    for pair in chosen:
        low, high = (position + int(finger) - 1 for finger in pair.split("-"))
        score.note(string, low, 0.5)
        for _ in range(whole(values, "times")):
            score.note(string, high, 0.5, "hammer")
            score.note(string, low, 0.5, "pull")
        score.to_bar()
    return score.drill(
        f"Finger pairs {word(values, 'pair')}: string {string}, position {position}",
        "finger_pairs",
        ("pitch", "timing", "level", "length", "noise"),
        values,
    )


def _slur_vs_pick(values: Values) -> Drill:
    string, frets = whole(values, "string"), frets_list(word(values, "frets"), label="Frets")
    if len(frets) < 2 or any(a == b for a, b in pairwise(frets)):
        raise DrillError("drill_invalid", "Frets: write at least two, no fret twice in a row, as 5 7 8 7.")
    score = Score()
    for slurred in (True, False):
        for at in range(whole(values, "times") * len(frets)):
            fret, before = frets[at % len(frets)], frets[(at - 1) % len(frets)]
            way: Articulation = "pick" if not slurred or at == 0 else "hammer" if fret > before else "pull"
            score.note(string, fret, 0.5, way)
        score.to_bar()
        score.rest(4.0)
    return score.drill(
        f"Slurred, then picked: string {string}, frets {word(values, 'frets')}",
        "slur_vs_pick",
        ("pitch", "timing", "level"),
        values,
    )


def _cycle(values: Values) -> Drill:
    string, position, size = whole(values, "string"), whole(values, "position"), int(word(values, "group"))
    # Up on the lower string, up on the higher one; each string is picked once.
    per_string = size // 2 if size != 3 else 3
    shape = {2: (0, 2), 3: (0, 2, 4)}[per_string]
    order = (string + 1, string) if size != 3 else (string + 1,)
    figure = [(s, position + step) for s in order for step in shape]
    if size == 3:
        figure += [(string, position + step) for step in shape]
    count = int(number(values, "bars") * 16)
    score = Score()
    for at in range(count):
        this_string, fret = figure[at % len(figure)]
        before = figure[(at - 1) % len(figure)]
        same = at > 0 and before[0] == this_string
        score.note(this_string, fret, SIXTEENTH, "hammer" if same and fret > before[1] else "pick")
    score.to_bar()
    return score.drill(
        f"Legato in {size}s over sixteenths: strings {string + 1} and {string}, position {position}",
        "legato_cycle",
        ("pitch", "timing", "level"),
        values,
    )


def _tapping(values: Values) -> Drill:
    string, tapped = whole(values, "string"), whole(values, "tap")
    low, high = whole(values, "low"), whole(values, "high")
    if not low < high < tapped:
        raise DrillError(
            "drill_invalid", f"Frets: the tap ({tapped}) lies above the fretted notes, low ({low}) under high ({high})."
        )
    score = Score()
    score.note(string, low, SIXTEENTH)
    score.rest(1.0 - SIXTEENTH)
    for _ in range(whole(values, "times")):
        score.note(string, tapped, SIXTEENTH, "tap")
        score.note(string, high, SIXTEENTH, "pull")
        score.note(string, low, SIXTEENTH, "pull")
        score.note(string, high, SIXTEENTH, "hammer")
    score.to_bar()
    return score.drill(
        f"Tapping: string {string}, frets {low} {high} and {tapped}",
        "tapping",
        ("pitch", "timing", "level", "length", "noise"),
        values,
    )


POSITION = fret_input(5, name="position", label="Position", high=17)
GENERATORS = (
    Generator(
        "finger_pairs", "Finger-pair slurs", "Hammer-ons and pull-offs for pairs of fingers, about ten each.",
        (string_input(3), POSITION, Input("pair", "Fingers", "1-3", choices=(*PAIRS, "all")),
         Input("times", "Times", 10.0, "", 1.0, 20.0, whole=True), BPM, PROFILE),
        _pairs, ({"pair": "1-2"}, {"pair": "all", "times": "5", "string": "2"}),
    ),
    Generator(
        "slur_vs_pick", "Slur against pick", "The same line slurred, then picked.",
        (string_input(2), Input("frets", "Frets", "5 7 8 7"), Input("times", "Times", 4.0, "", 1.0, 16.0, whole=True), BPM, REPEATS, PROFILE),
        _slur_vs_pick, ({}, {"string": "4", "frets": "7 9 10 9"}),
    ),
    Generator(
        "legato_cycle", "Legato cycle", "Groups of three, four or six over even sixteenths, across two strings.",
        (string_input(2, label="Higher string", high=5), POSITION, Input("group", "Notes in a group", "3", choices=("3", "4", "6")),
         Input("bars", "Bars", 3.0, "", 1.0, 12.0, whole=True), BPM, REPEATS, PROFILE),
        _cycle, ({}, {"group": "6", "string": "3"}),
    ),
    Generator(
        "tapping", "Tapping", "Tap, pull off, pull off, hammer, in even sixteenths.",
        (string_input(2), fret_input(12, name="tap", label="Tapped fret"), fret_input(5, name="low", label="Low fret"),
         fret_input(8, name="high", label="High fret"), Input("times", "Times", 7.0, "", 1.0, 40.0, whole=True), BPM, REPEATS, PROFILE),
        _tapping, ({}, {"string": "1", "tap": "14", "low": "7", "high": "10"}),
    ),
)  # fmt: skip
