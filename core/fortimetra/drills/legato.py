"""Generators of legato cycles over two strings, and of tapping."""

from __future__ import annotations

from fortimetra.drills.generator import Generator
from fortimetra.drills.scales import CHORDS, NAMES, SCALES, notes_a_string, open_midi, positions_of
from fortimetra.drills.score import (
    FORCE,
    KEY,
    Score,
    common,
    fret_input,
    frets_list,
    scale_input,
    string_input,
    strings_list,
    wrong,
)
from fortimetra.drills.slurs import ACROSS, POSITION, TIMES, slur_to, slurred_line
from fortimetra.model.drill import Drill
from fortimetra.model.form import Input, Values, whole, word

SIXTEENTH = 0.25
CYCLES = ("2+2", "3+2", "2+3", "3+3", "4+3")
SHAPES = {
    "whole tones": (0, 2, 4),
    "half, then whole": (0, 1, 3),
    "whole, then half": (0, 2, 3),
    "stretched": (0, 2, 5),
}


def _figure(thick: list[tuple[int, int]], thin: list[tuple[int, int]], way: str) -> list[tuple[int, int]]:
    """One cycle: up by hammer-ons, down by pull-offs, or up the thick string and down the thin one."""
    return {"up": thick + thin, "down": thin[::-1] + thick[::-1], "round": thick + thin[::-1]}[way]


def _cycle(values: Values) -> Drill:
    string, position, way = whole(values, "string"), whole(values, "position"), word(values, "way")
    shape = SHAPES[word(values, "shape")]
    counts = [int(n) for n in word(values, "group").split("+")]
    # Four on a string: one more above the shape, or inside one that is stretched already.
    four = (*shape, shape[-1] + 1) if shape[-1] < 5 else (*shape[:2], shape[1] + 1, shape[2])
    places = {2: (shape[0], shape[-1]), 3: shape, 4: four}
    thick, thin = (
        [(s, position + step) for step in places[count]] for s, count in zip((string + 1, string), counts, strict=True)
    )
    figure = _figure(thick, thin, way)
    notes = [figure[i % len(figure)] for i in range(16 * whole(values, "bars"))]
    score = Score()
    slurred_line(score, notes, SIXTEENTH)
    score.to_bar()
    return score.drill(
        f"Legato {word(values, 'group')} over sixteenths, {way}, {word(values, 'shape')}: strings {string + 1} and {string}, position {position}",
        "legato_cycle", ACROSS, values,
    )  # fmt: skip


def _through_positions(values: Values) -> Drill:
    key, scale, string = word(values, "key"), word(values, "scale"), whole(values, "string")
    counts = [int(n) for n in word(values, "group").split("+")]
    steps = SCALES[scale]
    if len(steps) != 7:
        raise wrong("Scale: cycles through positions need a scale of seven notes.")
    score = Score()
    for position in positions_of(key, steps, low=whole(values, "position"))[: whole(values, "count")]:
        thick = notes_a_string(key, steps, position, counts[0], (string + 1,))
        least = open_midi(string + 1) + thick[-1][1] + 1 - open_midi(string)
        thin = notes_a_string(key, steps, max(position, least), counts[1], (string,))
        figure = _figure(thick, thin, word(values, "way"))
        if max(f for _, f in figure) - min(f for _, f in figure) > 7:
            raise wrong("Notes in a cycle: so many do not lie under one hand here; choose fewer.")
        slurred_line(score, [figure[i % len(figure)] for i in range(16)], SIXTEENTH)
    return score.drill(
        f"Legato {word(values, 'group')} through positions, {word(values, 'way')}: {key} {scale}, strings {string + 1} and {string}",
        "legato_cycle", ACROSS, values,
    )  # fmt: skip


def _tapping(values: Values) -> Drill:
    string, tapped = whole(values, "string"), whole(values, "tap")
    frets = sorted({whole(values, "low"), whole(values, "high")})
    if word(values, "middle").strip():
        frets = sorted({*frets, *frets_list(word(values, "middle"), label="Fret between")})
    low, high = frets[0], frets[-1]
    if len(frets) < 2 or not high < tapped:
        raise wrong(f"Frets: the tap ({tapped}) lies above the fretted notes, low ({low}) under high ({high}).")
    pulled = word(values, "pull") == "with a pull"
    # Down from the tap and up again: as four even notes with two fretted ones, as three fretted ones allow otherwise.
    line = [*reversed(frets), *frets[1:]] if pulled else frets
    score = Score()
    score.note(string, low, SIXTEENTH)
    score.rest(1.0 - SIXTEENTH)
    for _ in range(whole(values, "times")):
        score.note(string, tapped, SIXTEENTH, "tap")
        before = tapped if pulled else None
        if not pulled:
            # The tapping finger is lifted: nothing sounds on, and the fretting hand hammers from nothing.
            score.rest(SIXTEENTH)
        for fret in line:
            score.note(string, fret, SIXTEENTH, "hammer" if before is None else slur_to(fret, before))
            before = fret
    score.to_bar()
    more = "" if len(frets) == 2 else f" {' '.join(map(str, frets[1:-1]))}"
    how = "" if pulled else ", without the pull"
    return score.drill(
        f"Tapping: string {string}, frets {low}{more} {high} and {tapped}{how}",
        "tapping", ("pitch", "timing", "level", "length", "noise"), values,
    )  # fmt: skip


def _tapped_chord(values: Values) -> Drill:
    key, chord, position = word(values, "key"), word(values, "chord"), whole(values, "position")
    steps = [*CHORDS[chord]]
    score = Score()
    for string in strings_list(values):
        root = position + (NAMES.index(key) - open_midi(string) - position) % 12
        frets = [root + s for s in steps]
        if frets[-2] - frets[0] > 7 or frets[-1] > 24:
            raise wrong(f"Chord: {key} {chord} does not lie on string {string} there; choose a lower position.")
        for _ in range(whole(values, "times")):
            score.note(string, frets[-1], SIXTEENTH, "tap")
            before = frets[-1]
            for fret in [*frets[-2::-1], *frets[1:-1]]:
                score.note(string, fret, SIXTEENTH, slur_to(fret, before))
                before = fret
        score.to_bar()
    return score.drill(
        f"Tapped {key} {chord}: strings {word(values, 'strings')}, from fret {position}",
        "tapping", ("pitch", "timing", "level", "length", "noise"), values,
    )  # fmt: skip


CYCLE_WAY = Input("way", "Direction", "round", choices=("round", "up", "down"))
GROUP = Input("group", "Notes in a cycle, thick + thin string", "3+2", choices=CYCLES)
GENERATORS = (
    Generator(
        "legato_cycle", "legato_cycle", "Legato cycle", "Cycles over two strings in even sixteenths, against groups that do not fit them.",
        (string_input(2, label="Thinner string", high=5), POSITION, GROUP, CYCLE_WAY, Input("shape", "Shape", "whole tones", choices=tuple(SHAPES)),
         Input("bars", "Bars", 3.0, "", 1.0, 12.0, whole=True), FORCE, *common(*ACROSS)),
        _cycle, ({"group": "3+3", "way": "up"}, {}, {"group": "3+3", "string": "3"}, {"group": "2+3", "way": "up", "shape": "whole, then half"},
                 {"group": "3+2", "way": "down", "shape": "half, then whole", "position": "7"},
                 {"group": "4+3", "shape": "half, then whole", "string": "1"}, {"group": "3+3", "shape": "stretched", "position": "9"}),
    ),
    Generator(
        "legato_positions", "legato_cycle", "Legato cycle through positions", "The same cycle a bar in each position of a scale.",
        (KEY, scale_input("major"), string_input(1, label="Thinner string", high=5), fret_input(2, name="position", label="From fret", low=0, high=9), GROUP, CYCLE_WAY,
         Input("count", "Positions", 4.0, "", 2.0, 5.0, whole=True), FORCE, *common(*ACROSS)),
        _through_positions, ({"key": "G"}, {"key": "D", "scale": "dorian", "group": "3+3", "string": "2"}),
    ),
    Generator(
        "tapping", "tapping", "Tapping", "Tap, pull off, pull off, hammer, in even sixteenths; with two or three fretted notes.",
        (string_input(2), fret_input(12, name="tap", label="Tapped fret"), fret_input(5, name="low", label="Low fret"),
         fret_input(8, name="high", label="High fret"), Input("middle", "Fret between, if any", ""),
         Input("pull", "The tap leaves", "with a pull", choices=("with a pull", "without")), Input("times", "Times", 7.0, "", 1.0, 40.0, whole=True),
         *common("pitch", "timing", "level", "length", "noise")),
        _tapping, ({}, {"string": "1", "tap": "14", "low": "7", "high": "10"}, {"middle": "7", "times": "5", "string": "1", "tap": "12"}, {"pull": "without", "string": "3"}),
    ),
    Generator(
        "tapped_chord", "tapping", "Tapped chords", "A triad or a seventh on one string, its highest note tapped, string after string.",
        (KEY, Input("chord", "Chord", "minor", choices=tuple(CHORDS)), Input("strings", "Strings", "2"), fret_input(3, name="position", label="From fret", low=1, high=12),
         TIMES, *common("pitch", "timing", "level", "length", "noise")),
        _tapped_chord, ({"key": "E"}, {"key": "A", "chord": "minor seventh", "strings": "3 2 1"}, {"key": "D", "chord": "major", "strings": "2 1"}),
    ),
)  # fmt: skip
