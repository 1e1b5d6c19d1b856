"""Generators of picking: figures with accents, the fastest even run, sweeps, scales over quiet low strings."""

from __future__ import annotations

from fortimetra.drills.generator import Generator
from fortimetra.drills.score import (
    BPM,
    CHORDS,
    KEY,
    NAMES,
    PROFILE,
    REPEATS,
    SCALES,
    Score,
    fret_input,
    in_position,
    open_midi,
    string_input,
    there_and_back,
)
from fortimetra.drills.slurs import POSITION
from fortimetra.errors import DrillError
from fortimetra.model.drill import Drill
from fortimetra.model.form import Input, Values, number, whole, word

PER_CLICK = Input("per_click", "Notes per click", "2", choices=("1", "2", "3", "4", "6"))
WAY = Input("way", "Direction", "up", choices=("up", "down"))
FIGURES = {"3": (0, 1, 3), "4": (0, 1, 2, 3)}


def _alternate(values: Values) -> Drill:
    string, position, size = whole(values, "string"), whole(values, "position"), word(values, "figure")
    strings = (string,) if word(values, "strings") == "one" else (string + 1, string)
    figure = [(s, position + step) for s in strings for step in FIGURES[size]]
    if word(values, "way") == "down":
        figure.reverse()
    length = 1.0 / int(word(values, "per_click"))
    score = Score()
    for at in range(whole(values, "groups") * int(size)):
        name, fret = figure[at % len(figure)]
        score.note(name, fret, length, accent=at % int(size) == 0)
    score.to_bar()
    where = f"string {string}" if len(strings) == 1 else f"strings {strings[0]} and {strings[1]}"
    return score.drill(
        f"Alternate picking in {size}s, {word(values, 'way')}: {where}, position {position}",
        "alternate_picking",
        ("pitch", "timing", "level"),
        values,
    )


def _fastest(values: Values) -> Drill:
    string, fret, fast = whole(values, "string"), whole(values, "fret"), int(word(values, "per_click"))
    score = Score()
    for per_beat, beats in ((fast, number(values, "fast_beats")), (max(1, fast // 2), number(values, "slow_beats"))):
        for _ in range(round(per_beat * beats)):
            score.note(string, fret, 1.0 / per_beat)
    score.to_bar()
    return score.drill(
        f"Fastest even run: string {string}, fret {fret}",
        "fastest_run",
        ("timing", "level"),
        values,
    )


def _sweep(values: Values) -> Drill:
    key, quality, position = word(values, "key"), word(values, "chord"), whole(values, "position")
    count = int(word(values, "count"))
    tones = {(NAMES.index(key) + step) % 12 for step in CHORDS[quality]}
    notes: list[tuple[int, int]] = []
    for string in range(count, 0, -1):
        frets = [f for f in range(max(0, position - 1), position + 5) if (open_midi(string) + f) % 12 in tones]
        if not frets:
            raise DrillError(
                "drill_invalid", f"Position: string {string} has no note of {key} {quality} there; try another."
            )
        notes.append((string, min(frets, key=lambda f: abs(f - position - 1))))
    way = word(values, "way")
    figure = notes if way == "up" else notes[::-1] if way == "down" else there_and_back(notes)
    length = 1.0 / int(word(values, "per_click"))
    score = Score()
    for _ in range(whole(values, "times")):
        for string, fret in figure:
            score.note(string, fret, length)
    score.to_bar()
    return score.drill(
        f"Sweep, {count} strings, {way}: {key} {quality}, position {position}",
        "sweep",
        ("pitch", "timing", "level", "length", "noise"),
        values,
    )


def _low_strings(values: Values) -> Drill:
    key, scale, position = word(values, "key"), word(values, "scale"), whole(values, "position")
    notes = in_position(key, SCALES[scale], position, strings=(1, 2, 3, 4, 5, 6))
    length = 1.0 / int(word(values, "per_click"))
    score = Score()
    for string, fret in [*there_and_back(notes), notes[0]]:
        score.note(string, fret, length)
    score.to_bar()
    return score.drill(
        f"Scale over quiet low strings: {key} {scale}, position {position}",
        "low_string_muting",
        ("pitch", "timing", "noise"),
        values,
    )


GENERATORS = (
    Generator(
        "alternate_picking", "Alternate picking", "Figures of three or four, the first of each accented, up and down in equal shares.",
        (string_input(2, high=5), POSITION, Input("figure", "Notes in a figure", "4", choices=tuple(FIGURES)),
         Input("strings", "Strings", "two", choices=("one", "two")), WAY, PER_CLICK,
         Input("groups", "Groups", 8.0, "", 1.0, 64.0, whole=True), BPM, REPEATS, PROFILE),
        _alternate, ({"way": "up"}, {"way": "down"}, {"figure": "3", "strings": "one", "per_click": "3"}),
    ),
    Generator(
        "fastest_run", "Fastest even run", "One note as fast as it stays even, then slower with the same motion.",
        (string_input(3), fret_input(7), Input("per_click", "Notes per click", "4", choices=("2", "3", "4", "6")),
         Input("fast_beats", "Beats fast", 4.0, "", 1.0, 32.0, whole=True), Input("slow_beats", "Beats slower", 4.0, "", 1.0, 32.0, whole=True),
         BPM, REPEATS, PROFILE),
        _fastest, ({"bpm": "120"}, {"string": "1", "bpm": "140"}),
    ),
    Generator(
        "sweep", "Sweep", "An arpeggio over two, three or five strings, one note a string, each stopped as the next sounds.",
        (KEY, Input("chord", "Chord", "minor", choices=tuple(CHORDS)), fret_input(5, name="position", label="Position", high=15),
         Input("count", "Strings", "3", choices=("2", "3", "5")), Input("way", "Direction", "round", choices=("up", "down", "round")),
         PER_CLICK, Input("times", "Times", 4.0, "", 1.0, 32.0, whole=True), BPM, REPEATS, PROFILE),
        _sweep, ({}, {"count": "5", "key": "D", "chord": "major", "position": "9"}),
    ),
    Generator(
        "low_string_muting", "Scale with low strings quiet", "A scale up and down with drive; the strings below stay silent.",
        (KEY, Input("scale", "Scale", "minor pentatonic", choices=tuple(SCALES)), fret_input(5, name="position", label="Position", high=15),
         PER_CLICK, BPM, REPEATS, PROFILE),
        _low_strings, ({}, {"key": "G", "scale": "major", "position": "7"}),
    ),
)  # fmt: skip
