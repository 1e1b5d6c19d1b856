"""Generators of alternate picking: figures, scales, skips, triads, runs; and the same fast and slow."""

from __future__ import annotations

from collections.abc import Sequence
from itertools import pairwise

from fortimetra.drills.generator import Generator
from fortimetra.drills.scales import (
    CHORDS,
    NAMES,
    SCALES,
    along_string,
    in_position,
    notes_a_string,
    open_midi,
    positions_of,
    there_and_back,
)
from fortimetra.drills.score import (
    BPM,
    KEY,
    PER_CLICK,
    PROFILE,
    REPEATS,
    WAY,
    Score,
    common,
    fret_input,
    judged,
    numbers,
    scale_input,
    sections,
    string_input,
    strings_list,
    wrong,
)
from fortimetra.drills.slurs import POSITION
from fortimetra.model.drill import Drill
from fortimetra.model.form import Input, Values, number, whole, word
from fortimetra.model.hand import Finger, Stroke
from fortimetra.model.tolerance import Measure

PICKED: tuple[Measure, ...] = ("pitch", "timing", "level")
ACCENT = Input("accent", "Accent every", 4.0, "notes, 0: none", 0.0, 12.0, whole=True)
FIRST = Input("first", "First stroke", "down", choices=("down", "up"))
OTHER: dict[Stroke, Stroke] = {"down": "up", "up": "down"}
FRETS_BY_FINGER: dict[str, Finger] = {"1": "1", "2": "2", "3": "3", "4": "4"}


def picked_line(
    score: Score, notes: Sequence[tuple[int, int]], length: float, *, accent: int = 0, first: str = "down"
) -> None:
    """Notes of (string, fret) in strict alternation."""
    stroke: Stroke = "down" if first == "down" else "up"
    for index, (string, fret) in enumerate(notes):
        score.note(string, fret, length, accent=accent > 0 and index % accent == 0, stroke=stroke)
        stroke = OTHER[stroke]


def _sections(score: Score, values: Values, notes: Sequence[tuple[int, int]]) -> None:
    """The line once with each number of notes a click that the form asks for."""
    accent = whole(values, "accent") if "accent" in values else 0
    first = word(values, "first") if "first" in values else "down"
    for length in sections(values):
        picked_line(score, notes, length, accent=accent, first=first)
        score.to_bar()


def figure_of(text: str, position: int, strings: Sequence[int]) -> list[tuple[int, int, Finger]]:
    """(string, fret, finger) of an order of fingers as "1 2 3 4 / 4 3 2 1": a stroke goes to the next string.

    Raises DrillError naming the field.
    """
    parts = text.split("/")
    if len(parts) > len(strings):
        raise wrong(f"Fingers: {len(parts)} strings are written, and the drill has {len(strings)}.")
    found: list[tuple[int, int, Finger]] = []
    for part, string in zip(parts, strings, strict=False):
        fingers = numbers(part, label="Fingers", low=1, high=4, example="1 2 4 or 1 2 3 4 / 4 3 2 1")
        found += [(string, position + finger - 1, FRETS_BY_FINGER[str(finger)]) for finger in fingers]
    return found


def _alternate(values: Values) -> Drill:
    string, position = whole(values, "string"), whole(values, "position")
    text = word(values, "figure")
    strings = (string,) if word(values, "strings") == "one" else (string + 1, string)
    # One order for every string, where the form does not write one each.
    figure = figure_of(text if "/" in text else " / ".join([text] * len(strings)), position, strings)
    if word(values, "way") == "down":
        figure.reverse()
    accent = whole(values, "accent") or len(figure) // len(strings)
    stroke: Stroke = "up" if word(values, "first") == "up" else "down"
    score = Score()
    for length in sections(values):
        at = stroke
        for index in range(whole(values, "groups") * (len(figure) // len(strings))):
            name, fret, finger = figure[index % len(figure)]
            score.note(name, fret, length, finger=finger, accent=index % accent == 0, stroke=at)
            at = OTHER[at]
        score.to_bar()
    where = f"string {string}" if len(strings) == 1 else f"strings {strings[0]} and {strings[1]}"
    begins = "" if stroke == "down" else ", beginning up"
    return score.drill(
        f"Alternate picking {text}, {word(values, 'way')}: {where}, position {position}, {word(values, 'per_click')} a click{begins}",
        "alternate_picking", PICKED, values,
    )  # fmt: skip


def _one_string_scale(values: Values) -> Drill:
    key, scale, string = word(values, "key"), word(values, "scale"), whole(values, "string")
    frets = along_string(key, SCALES[scale], string, whole(values, "low"), whole(values, "count"))
    each = [(string, f) for f in frets for _ in range(whole(values, "times"))]
    line = {"up": each, "down": each[::-1], "up and down": each + each[::-1]}[word(values, "way")]
    score = Score()
    _sections(score, values, line)
    return score.drill(
        f"Along string {string}: {key} {scale}, {word(values, 'way')}, {whole(values, 'times')} times each, {word(values, 'per_click')} a click",
        "alternate_picking", PICKED, values,
    )  # fmt: skip


def _scale(values: Values) -> Drill:
    key, scale, position = word(values, "key"), word(values, "scale"), whole(values, "position")
    steps, per = SCALES[scale], int(word(values, "per_string"))
    strings = strings_list(values)
    if sorted(strings, reverse=True) != strings or len(set(strings)) != len(strings):
        raise wrong("Strings: write them from thick to thin, as 6 5 4 3 2 1; a gap skips a string.")
    if per == 3 and len(steps) < 6:
        raise wrong("Notes a string: three need a scale of six or seven notes.")
    notes = notes_a_string(key, steps, position, per, strings)
    if max(f for _, f in notes) > 22:
        raise wrong("Position: the line leaves the neck; begin lower.")
    line = {"up": notes, "down": notes[::-1], "up and down": [*there_and_back(notes), notes[0]]}[word(values, "way")]
    score = Score()
    _sections(score, values, line)
    skips = "" if all(a - b == 1 for a, b in pairwise(strings)) else ", strings skipped"
    return score.drill(
        f"{per} notes a string{skips}: {key} {scale}, strings {' '.join(map(str, strings))}, {word(values, 'way')}, position {position}",
        "alternate_picking", PICKED, values,
    )  # fmt: skip


def _triads(values: Values) -> Drill:
    key, quality, position = word(values, "key"), word(values, "chord"), whole(values, "position")
    tones = {(NAMES.index(key) + step) % 12 for step in CHORDS[quality]}
    line = []
    for string in strings_list(values):
        near = [f for f in range(max(0, position - 1), position + 5) if (open_midi(string) + f) % 12 in tones]
        if not near:
            raise wrong(f"Position: string {string} has no note of {key} {quality} there; try another.")
        line.append((string, min(near, key=lambda f: abs(f - position - 1))))
    score = Score()
    _sections(score, values, there_and_back(line) * whole(values, "times"))
    return score.drill(
        f"One note a string: {key} {quality}, strings {word(values, 'strings')}, position {position}",
        "alternate_picking", PICKED, values,
    )  # fmt: skip


def _chromatic(values: Values) -> Drill:
    position, strings = whole(values, "position"), strings_list(values)
    figure = figure_of(word(values, "figure"), 0, (1,))
    score = Score()
    for shift in range(whole(values, "frets")):
        order = strings if shift % 2 == 0 else strings[::-1]
        offsets = [f for _s, f, _finger in figure]
        line = [(s, position + shift + f) for s in order for f in (offsets if shift % 2 == 0 else offsets[::-1])]
        _sections(score, values, line)
    return score.drill(
        f"Four fingers over the strings and up: {word(values, 'figure')}, strings {word(values, 'strings')}, from fret {position}",
        "alternate_picking", PICKED, values,
    )  # fmt: skip


def _positions(values: Values) -> Drill:
    key, scale = word(values, "key"), word(values, "scale")
    steps = SCALES[scale]
    score = Score()
    for index, position in enumerate(positions_of(key, steps, low=whole(values, "position"))[: whole(values, "count")]):
        notes = in_position(key, steps, position, strings=strings_list(values))
        _sections(score, values, notes if index % 2 == 0 else notes[::-1])
    return score.drill(
        f"{key} {scale} through its positions, strings {word(values, 'strings')}, from fret {whole(values, 'position')}",
        "alternate_picking", PICKED, values,
    )  # fmt: skip


def _repeat_run(values: Values) -> Drill:
    key, scale, position = word(values, "key"), word(values, "scale"), whole(values, "position")
    notes = in_position(key, SCALES[scale], position, strings=strings_list(values))
    first, repeated = notes[0], whole(values, "repeated")
    line = [first] * repeated + notes[1 : 1 + whole(values, "run")]
    score = Score()
    _sections(score, values, line * whole(values, "times"))
    return score.drill(
        f"Repeated note, then a run: {key} {scale}, strings {word(values, 'strings')}, position {position}",
        "alternate_picking", PICKED, values,
    )  # fmt: skip


def _fastest(values: Values) -> Drill:
    string, fret, fast = whole(values, "string"), whole(values, "fret"), int(word(values, "per_click"))
    score = Score()
    for per_beat, beats in ((fast, number(values, "fast_beats")), (max(1, fast // 2), number(values, "slow_beats"))):
        picked_line(score, [(string, fret)] * round(per_beat * beats), 1.0 / per_beat)
    score.to_bar()
    return score.drill(f"Fastest even run: string {string}, fret {fret}", "fastest_run", ("timing", "level"), values)


def _fast_slow(values: Values) -> Drill:
    string, position, fast = whole(values, "string"), whole(values, "position"), int(word(values, "per_click"))
    text = word(values, "figure")
    figure = figure_of(text, position, (string + 1, string) if "/" in text and string < 6 else (string,))
    line = [(s, f) for s, f, _finger in figure]
    score = Score()
    for per_beat, times in ((fast, 2 * whole(values, "times")), (fast / 2, whole(values, "times"))):
        picked_line(score, line * times, 1.0 / per_beat)
        score.to_bar()
    return score.drill(
        f"Fast, then half as fast with the same motion: {text}, string {string}, position {position}",
        "fastest_run", PICKED, values,
    )  # fmt: skip


WAYS = Input("way", "Direction", "up", choices=("up", "down", "up and down"))
STRINGS = Input("strings", "Strings", "6 5 4 3 2 1")
GENERATORS = (
    Generator(
        "alternate_picking", "alternate_picking", "Alternate picking", "Any order of fingers on one string or two, up and down in equal shares.",
        (string_input(2, high=5), POSITION, Input("figure", "Fingers, / goes to the next string", "1 2 3 4"),
         Input("strings", "Strings", "two", choices=("one", "two")), WAY, FIRST, PER_CLICK,
         Input("groups", "Groups", 8.0, "", 1.0, 64.0, whole=True), Input("accent", "Accent every", 0.0, "notes, 0: each group", 0.0, 12.0, whole=True), *common(*PICKED)),
        _alternate, (
            {"way": "up"}, {"way": "down"}, {"figure": "1 2 4", "strings": "one", "per_click": "3"},
            {"figure": "1 2 4", "strings": "one", "per_click": "3", "way": "down"}, {"figure": "1 3 4", "strings": "one", "per_click": "3 then 6", "way": "down"},
            {"figure": "1 3 4", "strings": "one", "per_click": "3 then 6"}, {"figure": "1 4 2 3", "strings": "one", "per_click": "2 then 4", "string": "3"},
            {"figure": "1 4 2 3", "strings": "one", "per_click": "2 then 4", "string": "3", "way": "down"},
            {"figure": "1 2 3 4 / 4 3 2 1", "per_click": "4"}, {"figure": "1 2 3 4 / 4 3 2 1", "per_click": "4", "way": "down"},
            {"figure": "1 2 4", "per_click": "3", "first": "up"}, {"figure": "1 3", "per_click": "4", "accent": "3"},
        ),
    ),
    Generator(
        "picking_string", "alternate_picking", "Along one string", "A scale along one string, each note so many times.",
        (KEY, scale_input("major"), string_input(2), fret_input(1, name="low", label="From fret", low=0, high=12), Input("count", "Notes of the scale", 8.0, "", 3.0, 12.0, whole=True),
         Input("times", "Times each", 2.0, "", 1.0, 6.0, whole=True), WAYS, PER_CLICK, ACCENT, *common(*PICKED)),
        _one_string_scale, ({"key": "C"}, {"key": "G", "string": "3", "times": "3", "per_click": "3", "accent": "3", "way": "up and down"}),
    ),
    Generator(
        "picking_scale", "alternate_picking", "Notes a string", "A scale with two or three notes a string over any strings, up, down and back; a gap skips a string.",
        (KEY, scale_input("major"), fret_input(3, name="position", label="Position", low=1, high=15), Input("per_string", "Notes a string", "3", choices=("2", "3")),
         STRINGS, WAYS, FIRST, PER_CLICK, ACCENT, *common(*PICKED)),
        _scale, (
            {"key": "G", "per_click": "3", "accent": "3"}, {"key": "G", "per_click": "3", "accent": "3", "way": "down"},
            {"key": "A", "scale": "natural minor", "position": "5", "strings": "6 5 4", "per_click": "6", "way": "up and down", "accent": "3"},
            {"key": "A", "scale": "minor pentatonic", "position": "5", "per_string": "2", "per_click": "2 then 4", "accent": "4"},
            {"key": "D", "scale": "dorian", "position": "5", "strings": "5 3 1", "per_click": "3", "accent": "3"},
            {"key": "D", "scale": "dorian", "position": "5", "strings": "5 3 1", "per_click": "3", "accent": "3", "way": "down"},
            {"key": "C", "scale": "major", "position": "8", "strings": "4 2", "per_click": "3", "way": "up and down", "accent": "3"},
        ),
    ),
    Generator(
        "picking_triads", "alternate_picking", "One note a string", "Chord tones one a string, up and back in strict alternation.",
        (KEY, Input("chord", "Chord", "minor", choices=tuple(CHORDS)), fret_input(5, name="position", label="Position", high=15), Input("strings", "Strings", "3 2 1"),
         Input("times", "Times", 4.0, "", 1.0, 16.0, whole=True), PER_CLICK, ACCENT, *common(*PICKED)),
        _triads, ({}, {"key": "C", "chord": "major", "strings": "4 3 2", "per_click": "4"}),
    ),
    Generator(
        "picking_chromatic", "alternate_picking", "Four fingers over all strings", "An order of fingers on every string, a fret up, and back.",
        (Input("figure", "Fingers", "1 2 3 4"), STRINGS, fret_input(5, name="position", label="From fret", high=15), Input("frets", "Frets up", 2.0, "", 1.0, 8.0, whole=True),
         PER_CLICK, ACCENT, *common(*PICKED)),
        _chromatic, ({}, {"figure": "1 3 2 4", "position": "7", "per_click": "4"}),
    ),
    Generator(
        "picking_positions", "alternate_picking", "A scale through its positions", "One position after the other along the neck, up in one and down in the next.",
        (KEY, scale_input("dorian"), fret_input(2, name="position", label="From fret", low=0, high=10), Input("count", "Positions", 5.0, "", 2.0, 5.0, whole=True),
         Input("strings", "Strings", "4 3 2 1"), PER_CLICK, ACCENT, *common(*PICKED)),
        _positions, ({"key": "D"}, {"key": "A", "scale": "minor pentatonic", "position": "5", "strings": "6 5 4 3 2 1", "per_click": "4"}),
    ),
    Generator(
        "picking_repeat", "alternate_picking", "Repeated note, then a run", "One note several times, then the scale from it.",
        (KEY, scale_input("natural minor"), POSITION, Input("strings", "Strings", "3 2 1"), Input("repeated", "Times the first note", 4.0, "", 2.0, 12.0, whole=True),
         Input("run", "Notes of the run", 4.0, "", 2.0, 12.0, whole=True), Input("times", "Times", 2.0, "", 1.0, 16.0, whole=True), PER_CLICK, ACCENT, *common(*PICKED)),
        _repeat_run, ({}, {"key": "E", "position": "7", "repeated": "6", "run": "6", "per_click": "6", "accent": "6"}),
    ),
    Generator(
        "fastest_run", "fastest_run", "Fastest even run", "One note as fast as it stays even, then slower with the same motion.",
        (string_input(3), fret_input(7), Input("per_click", "Notes per click", "4", choices=("2", "3", "4", "6")),
         Input("fast_beats", "Beats fast", 4.0, "", 1.0, 32.0, whole=True), Input("slow_beats", "Beats slower", 4.0, "", 1.0, 32.0, whole=True),
         BPM, REPEATS, PROFILE, judged("timing", "level")),
        _fastest, ({"bpm": "120"}, {"string": "1", "bpm": "140"}),
    ),
    Generator(
        "fast_slow", "fastest_run", "A figure fast and slow", "A figure as fast as it stays even, then half as fast with the same motion.",
        (string_input(2, high=5), POSITION, Input("figure", "Fingers, / goes to the next string", "1 2 4"), Input("per_click", "Notes per click", "4", choices=("2", "4", "6")),
         Input("times", "Times", 4.0, "", 1.0, 16.0, whole=True), *common(*PICKED)),
        _fast_slow, ({"bpm": "90", "per_click": "6"}, {"bpm": "100", "figure": "1 2 3 4 / 4 3 2 1", "times": "2"}),
    ),
)  # fmt: skip
