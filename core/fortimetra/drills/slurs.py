"""Generators of slurs: one finger, pairs, groups, runs with four fingers, through a scale, and against the pick."""

from __future__ import annotations

from collections.abc import Sequence

from fortimetra.drills.generator import Generator
from fortimetra.drills.scales import SCALES, in_position, notes_a_string, there_and_back
from fortimetra.drills.score import (
    FORCE,
    KEY,
    PER_CLICK,
    Score,
    common,
    fret_input,
    frets_list,
    scale_input,
    sections,
    string_input,
    strings_list,
    wrong,
)
from fortimetra.model.drill import Articulation, Drill
from fortimetra.model.form import Input, Values, whole, word
from fortimetra.model.hand import Finger
from fortimetra.model.tolerance import Measure

PAIRS = ("1-2", "1-3", "1-4", "2-3", "2-4", "3-4")
ORDERS = {
    "low mid high mid": "0121", "high mid low mid": "2101", "low high mid high": "0212", "low mid high": "012", "high mid low": "210",
}  # fmt: skip
POSITION = fret_input(5, name="position", label="Position", high=17)
SLURS: tuple[Measure, ...] = ("pitch", "timing", "level", "length", "noise")
# Across strings notes may lean into each other: what rings on is noise, not length.
ACROSS: tuple[Measure, ...] = ("pitch", "timing", "level", "noise")
TIMES = Input("times", "Times", 4.0, "", 1.0, 32.0, whole=True)


def slur_to(fret: int, before: int | None) -> Articulation:
    """How the next note on a string is slurred; a repeated note has to be picked."""
    if before is None or fret == before:
        return "pick"
    return "hammer" if fret > before else "pull"


def slurred_line(score: Score, notes: Sequence[tuple[int, int]], length: float) -> None:
    """Notes of (string, fret), each string picked once and slurred after that."""
    last: tuple[int, int] | None = None
    for string, fret in notes:
        before = last[1] if last is not None and last[0] == string else None
        score.note(string, fret, length, slur_to(fret, before))
        last = (string, fret)


def _pairs(values: Values) -> Drill:
    position, kind = whole(values, "position"), word(values, "kind")
    strings = strings_list(values, "string", "Strings")
    chosen = PAIRS if word(values, "pair") == "all" else (word(values, "pair"),)
    score = Score()
    for string in strings:
        for pair in chosen:
            low, high = (position + int(finger) - 1 for finger in pair.split("-"))
            one, two = (f for f in pair.split("-"))
            fingers: dict[int, Finger] = {low: one, high: two}  # type: ignore[dict-item]
            first = high if kind == "pull-offs alone" else low
            if kind == "both":
                score.note(string, low, 0.5, finger=fingers[low])
            for _ in range(whole(values, "times")):
                if kind != "both":
                    score.note(string, first, 0.5, finger=fingers[first])
                if kind != "pull-offs alone":
                    score.note(string, high, 0.5, "hammer", finger=fingers[high])
                if kind != "hammer-ons alone":
                    score.note(string, low, 0.5, "pull", finger=fingers[low])
            score.to_bar()
    where = f"string {strings[0]}" if len(strings) == 1 else f"strings {' '.join(map(str, strings))}"
    more = "" if kind == "both" else f", {kind}"
    return score.drill(
        f"Finger pairs {word(values, 'pair')}{more}: {where}, position {position}", "finger_pairs", SLURS, values
    )


def _one_finger(values: Values) -> Drill:
    string, fret = whole(values, "string"), whole(values, "fret")
    fingers = "1234" if word(values, "finger") == "all" else word(values, "finger")
    nothing = word(values, "begins") == "hammered from nothing"
    score = Score()
    for finger in fingers:
        for _ in range(whole(values, "times")):
            if not nothing:
                score.note(string, 0, 0.5)
            score.note(string, fret, 0.5, "hammer", finger=finger)  # type: ignore[arg-type]
            score.note(string, 0, 0.5, "pull")
            score.rest(0.5 if nothing else 0.0)
        score.to_bar()
    begins = ", hammered from nothing" if nothing else ""
    return score.drill(
        f"One finger from the open string: finger {word(values, 'finger')}, string {string}, fret {fret}{begins}",
        "finger_pairs", SLURS, values,
    )  # fmt: skip


def _groups(values: Values) -> Drill:
    string, order = whole(values, "string"), word(values, "order")
    frets = frets_list(word(values, "frets"), label="Frets")
    if len(frets) != 3 or sorted(set(frets)) != frets:
        raise wrong("Frets: write three rising frets, as 5 7 8.")
    score = Score()
    for length in sections(values):
        line = [(string, frets[int(place)]) for place in ORDERS[order]] * whole(values, "times")
        slurred_line(score, line, length)
        score.to_bar()
    return score.drill(
        f"Slurred groups, {order}: string {string}, frets {word(values, 'frets')}, {word(values, 'per_click')} a click",
        "finger_pairs", SLURS, values,
    )  # fmt: skip


def _run(values: Values) -> Drill:
    position, strings = whole(values, "position"), strings_list(values)
    up = [(s, position + f) for s in strings for f in range(4)]
    down = [(s, position + 3 - f) for s in reversed(strings) for f in range(4)]
    line = {"up": up, "down": down, "up and down": up + down}[word(values, "way")]
    score = Score()
    for length in sections(values):
        slurred_line(score, line, length)
        score.to_bar()
    return score.drill(
        f"Four fingers, only the first picked, {word(values, 'way')}: strings {word(values, 'strings')}, position {position}, {word(values, 'per_click')} a click",
        "finger_pairs", ACROSS, values,
    )  # fmt: skip


def _through_scale(values: Values) -> Drill:
    key, scale, position = word(values, "key"), word(values, "scale"), whole(values, "position")
    steps, per = SCALES[scale], int(word(values, "per_string"))
    if per == 3 and len(steps) != 7:
        raise wrong("Notes a string: three need a scale of seven notes.")
    strings = (6, 5, 4, 3, 2, 1)
    notes = (
        in_position(key, steps, position, strings=strings)
        if per == 2
        else notes_a_string(key, steps, position, 3, strings)
    )
    line = {"up": notes, "down": notes[::-1], "up and down": [*there_and_back(notes), notes[0]]}[word(values, "way")]
    score = Score()
    for length in sections(values):
        slurred_line(score, line, length)
        score.to_bar()
    return score.drill(
        f"Slurs through {key} {scale}, {per} notes a string, {word(values, 'way')}: position {position}, {word(values, 'per_click')} a click",
        "slur_vs_pick", ACROSS, values,
    )  # fmt: skip


def _slur_vs_pick(values: Values) -> Drill:
    string, frets = whole(values, "string"), frets_list(word(values, "frets"), label="Frets")
    if len(frets) < 2:
        raise wrong("Frets: write at least two, as 5 7 8 7.")
    score = Score()
    for slurred in (True, False):
        line = [(string, fret) for fret in frets * whole(values, "times")]
        if slurred:
            slurred_line(score, line, 0.5)
        else:
            for at, fret in line:
                score.note(at, fret, 0.5)
        score.to_bar()
        score.rest(4.0)
    return score.drill(
        f"Slurred, then picked: string {string}, frets {word(values, 'frets')}",
        "slur_vs_pick", ("pitch", "timing", "level", "noise"), values,
    )  # fmt: skip


WAYS = Input("way", "Direction", "up and down", choices=("up and down", "up", "down"))
GENERATORS = (
    Generator(
        "finger_pairs", "finger_pairs", "Finger-pair slurs", "Hammer-ons and pull-offs for pairs of fingers, about ten each.",
        (Input("string", "Strings", "3"), POSITION, Input("pair", "Fingers", "1-3", choices=(*PAIRS, "all")),
         Input("kind", "Slurs asked", "both", choices=("both", "hammer-ons alone", "pull-offs alone")),
         Input("times", "Times", 10.0, "", 1.0, 20.0, whole=True), FORCE, *common(*SLURS, repeats=False)),
        _pairs, ({"pair": "1-2"}, {"pair": "all", "times": "5", "string": "2"}, {"pair": "2-4", "kind": "pull-offs alone"},
                 {"pair": "1-3", "kind": "hammer-ons alone", "string": "4"}, {"pair": "3-4", "position": "7", "force": "light and even"}),
    ),
    Generator(
        "one_finger", "finger_pairs", "One finger from the open string", "Every finger alone: hammered on and pulled off the open string.",
        (string_input(3), fret_input(5), Input("finger", "Finger", "all", choices=("all", "1", "2", "3", "4")),
         Input("begins", "Begins", "picked open", choices=("picked open", "hammered from nothing")), TIMES, FORCE, *common(*SLURS, repeats=False)),
        _one_finger, ({}, {"string": "2", "fret": "7", "finger": "4", "times": "8"}, {"begins": "hammered from nothing", "fret": "7", "finger": "1", "times": "8"}),
    ),
    Generator(
        "slur_groups", "finger_pairs", "Slurred groups", "Three frets in an order of three or four, only the first picked.",
        (string_input(2), Input("frets", "Frets", "5 7 8"), Input("order", "Order", "low mid high mid", choices=tuple(ORDERS)), PER_CLICK,
         TIMES, FORCE, *common(*SLURS)),
        _groups, ({}, {"order": "high mid low mid", "string": "3", "per_click": "4"}, {"order": "low high mid high", "frets": "7 9 10", "per_click": "1, 2, then 4"}),
    ),
    Generator(
        "slur_run", "finger_pairs", "Four fingers, one pick", "Four fingers up or down a string, only the first of each four picked.",
        (Input("strings", "Strings", "4 3 2"), POSITION, WAYS, PER_CLICK, FORCE, *common(*ACROSS)),
        _run, ({}, {"strings": "6 5 4 3 2 1", "per_click": "4", "way": "up"}, {"strings": "3 2 1", "per_click": "4", "way": "down", "position": "9"}),
    ),
    Generator(
        "slur_vs_pick", "slur_vs_pick", "Slur against pick", "The same line slurred, then picked.",
        (string_input(2), Input("frets", "Frets", "5 7 8 7"), Input("times", "Times", 4.0, "", 1.0, 16.0, whole=True), FORCE,
         *common("pitch", "timing", "level", "noise")),
        _slur_vs_pick, ({}, {"string": "4", "frets": "7 9 10 9"}, {"string": "3", "frets": "5 7 7 9"}),
    ),
    Generator(
        "slur_scale", "slur_vs_pick", "Slurs through a scale", "Two or three notes a string: up by hammer-ons, down by pull-offs.",
        (KEY, scale_input(), POSITION, Input("per_string", "Notes a string", "2", choices=("2", "3")), WAYS, PER_CLICK, FORCE, *common(*ACROSS)),
        _through_scale, ({}, {"way": "down", "key": "C", "position": "8"}, {"key": "G", "scale": "major", "per_string": "3", "position": "3", "per_click": "3"}),
    ),
)  # fmt: skip
