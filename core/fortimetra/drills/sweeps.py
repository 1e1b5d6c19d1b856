"""Generators of sweeps: arpeggios in one motion through the strings, with the plan of strokes and where they turn."""

from __future__ import annotations

from dataclasses import dataclass

from fortimetra.drills.generator import Generator
from fortimetra.drills.scales import CHORDS, NAMES, open_midi
from fortimetra.drills.score import KEY, PER_CLICK, Score, common, fret_input, sections, wrong
from fortimetra.model.drill import Articulation, Drill
from fortimetra.model.form import Input, Values, whole, word
from fortimetra.model.hand import Stroke
from fortimetra.model.tolerance import Measure

SWEPT: tuple[Measure, ...] = ("pitch", "timing", "level", "length", "noise")


@dataclass(frozen=True)
class _Step:
    string: int
    fret: int
    articulation: Articulation = "pick"


def _arpeggio(key: str, quality: str, position: int, count: int) -> list[_Step]:
    """One chord tone a string, from the thickest of so many strings on."""
    tones = {(NAMES.index(key) + step) % 12 for step in CHORDS[quality]}
    found = []
    for string in range(count, 0, -1):
        frets = [f for f in range(max(0, position - 1), position + 5) if (open_midi(string) + f) % 12 in tones]
        if not frets:
            raise wrong(f"Position: string {string} has no note of {key} {quality} there; try another.")
        found.append(_Step(string, min(frets, key=lambda f: abs(f - position - 1))))
    return found


def _above(step: _Step, key: str, quality: str) -> _Step:
    """The next chord tone up the same string, within a hand."""
    tones = {(NAMES.index(key) + s) % 12 for s in CHORDS[quality]}
    found = next((f for f in range(step.fret + 1, step.fret + 7) if (open_midi(step.string) + f) % 12 in tones), None)
    if found is None or found > 24:
        raise wrong(f"Slurs at the turns: string {step.string} has no chord tone within a hand above fret {step.fret}.")
    return _Step(step.string, found, "hammer")


def _below(step: _Step, key: str, quality: str) -> _Step:
    """The next chord tone down the same string, within a hand."""
    tones = {(NAMES.index(key) + s) % 12 for s in CHORDS[quality]}
    found = next(
        (f for f in range(step.fret - 1, max(-1, step.fret - 7), -1) if (open_midi(step.string) + f) % 12 in tones),
        None,
    )
    if found is None:
        raise wrong(f"Slurs at the turns: string {step.string} has no chord tone within a hand below fret {step.fret}.")
    return _Step(step.string, found)


def _figure(values: Values, key: str, quality: str, position: int) -> list[_Step]:
    up = _arpeggio(key, quality, position, int(word(values, "count")))
    way = word(values, "way")
    if way == "up":
        return up
    if way == "down":
        return up[::-1]
    slurs = word(values, "slurs")
    if slurs == "none":
        return [*up, *up[-2:0:-1]]
    # The pick strikes the upper note of the thinnest string; the finger pulls off to the lower one on the way back.
    high = _above(up[-1], key, quality)
    top = [_Step(high.string, high.fret), _Step(up[-1].string, up[-1].fret, "pull")]
    bottom = [up[0]]
    if slurs == "pull above, hammer below":
        bottom = [_below(up[0], key, quality), _Step(up[0].string, up[0].fret, "hammer")]
    return [*bottom, *up[1:-1], *top, *up[-2:0:-1]]


def _write(score: Score, figure: list[_Step], times: int, length: float) -> None:
    """Strokes: down toward the thinner strings, up toward the thicker; each further string of a motion goes on in
    it.
    """
    steps = figure * times
    last: Stroke | None = None
    before: _Step | None = None
    for index, step in enumerate(steps):
        stroke: Stroke | None = None
        if step.articulation == "pick":
            after = next((s for s in steps[index + 1 :] if s.string != step.string), None)
            going: Stroke = "down" if after is None or after.string < step.string else "up"
            if before is not None and before.string != step.string and last is not None:
                came: Stroke = "down" if step.string < before.string else "up"
                same = last.endswith(came)
                stroke = ("sweep_down" if came == "down" else "sweep_up") if same else came
            else:
                stroke = going
            last = stroke
        score.note(step.string, step.fret, length, step.articulation, stroke=stroke)
        before = step


def _sweep(values: Values) -> Drill:
    key, quality, position = word(values, "key"), word(values, "chord"), whole(values, "position")
    figure = _figure(values, key, quality, position)
    score = Score()
    for length in sections(values):
        _write(score, figure, whole(values, "times"), length)
        score.to_bar()
    slurs = word(values, "slurs")
    more = "" if slurs == "none" or word(values, "way") != "round" else f", {slurs}"
    return score.drill(
        f"Sweep, {word(values, 'count')} strings, {word(values, 'way')}{more}: {key} {quality}, position {position}",
        "sweep", SWEPT, values,
    )  # fmt: skip


def _two_shapes(values: Values) -> Drill:
    key, position = word(values, "key"), whole(values, "position")
    second_key, second = word(values, "second_key"), whole(values, "second")
    score = Score()
    for length in sections(values):
        for _ in range(whole(values, "times")):
            _write(score, _figure(values, key, word(values, "chord"), position), 1, length)
            _write(score, _figure(values, second_key, word(values, "second_chord"), second), 1, length)
        score.to_bar()
    return score.drill(
        f"Two sweeps in turn, {word(values, 'count')} strings: {key} {word(values, 'chord')} at {position}, {second_key} {word(values, 'second_chord')} at {second}",
        "sweep", SWEPT, values,
    )  # fmt: skip


COUNT = Input("count", "Strings", "3", choices=("2", "3", "4", "5"))
SWEEP_WAY = Input("way", "Direction", "round", choices=("up", "down", "round"))
TURNS = Input("slurs", "Slurs at the turns", "none", choices=("none", "pull above", "pull above, hammer below"))
QUALITY = tuple(list(CHORDS)[:4])
GENERATORS = (
    Generator(
        "sweep", "sweep", "Sweep", "An arpeggio one note a string, each stopped as the next sounds; in circles with slurs where it turns.",
        (KEY, Input("chord", "Chord", "minor", choices=QUALITY), fret_input(5, name="position", label="Position", high=15),
         COUNT, SWEEP_WAY, TURNS, PER_CLICK, Input("times", "Times", 4.0, "", 1.0, 32.0, whole=True), *common(*SWEPT)),
        _sweep, (
            {"count": "2", "way": "up"}, {"count": "2", "way": "down"}, {}, {"slurs": "pull above", "per_click": "3"}, {"way": "up", "key": "E", "chord": "major", "position": "7"},
            {"way": "down", "key": "E", "chord": "major", "position": "7"}, {"count": "5", "key": "D", "chord": "major", "position": "9"},
            {"count": "5", "slurs": "pull above, hammer below", "key": "C", "chord": "minor", "position": "10", "per_click": "3"},
            {"chord": "diminished", "key": "B", "position": "6", "slurs": "pull above", "per_click": "3"},
        ),
    ),
    Generator(
        "sweep_shapes", "sweep", "Two shapes in turn", "Two sweeps one after the other along the neck.",
        (KEY, Input("chord", "First chord", "minor", choices=QUALITY), fret_input(5, name="position", label="First position", high=15),
         Input("second_key", "Second key", "D", choices=NAMES), Input("second_chord", "Second chord", "minor", choices=QUALITY),
         fret_input(10, name="second", label="Second position", high=15), COUNT, SWEEP_WAY, TURNS, PER_CLICK, Input("times", "Times", 2.0, "", 1.0, 16.0, whole=True), *common(*SWEPT)),
        _two_shapes, ({}, {"key": "G", "chord": "major", "position": "3", "second_key": "C", "second_chord": "major", "second": "8"}),
    ),
)  # fmt: skip
