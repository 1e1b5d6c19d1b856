"""Generators of vibrato: on fretted notes, and on a held bend."""

from __future__ import annotations

from fortimetra.drills.bends import SIZE, SIZES
from fortimetra.drills.generator import Generator
from fortimetra.drills.score import BPM, PROFILE, REPEATS, Score, fret_input, frets_list, string_input
from fortimetra.errors import DrillError
from fortimetra.model.drill import Bend, Drill, VibratoAsked
from fortimetra.model.form import Input, Values, number, whole, word

KINDS: dict[str, tuple[tuple[float, float], tuple[float, float]]] = {
    "slow and wide": ((1.0, 3.0), (60.0, 160.0)),
    "narrow": ((4.0, 7.0), (15.0, 50.0)),
    "medium": ((4.0, 7.0), (50.0, 100.0)),
    "wide": ((3.5, 6.5), (100.0, 200.0)),
}
KIND = Input("kind", "Vibrato", "slow and wide", choices=(*KINDS, "free"))
LENGTH = Input("length", "Length", 4.0, "beats", 1.0, 16.0)


def _asked(values: Values, line: str) -> VibratoAsked:
    rate, extent = KINDS.get(word(values, "kind"), (None, None))
    return VibratoAsked.model_validate({"return": line, "rate_hz": rate, "extent_cents": extent})


def _fretted(values: Values) -> Drill:
    strings = frets_list(word(values, "strings"), label="Strings")
    if not all(1 <= s <= 6 for s in strings):
        raise DrillError("drill_invalid", "Strings: write strings from 1 to 6 with spaces, as 3 2 1.")
    fret, length = whole(values, "fret"), number(values, "length")
    score = Score()
    for string in strings:
        score.note(string, fret, length, vibrato=_asked(values, word(values, "line")))
        score.to_bar()
    return score.drill(
        f"Vibrato, {word(values, 'kind')}: fret {fret}, strings {word(values, 'strings')}",
        "vibrato_fretted",
        ("pitch", "vibrato"),
        values,
    )


def _bent(values: Values) -> Drill:
    string, fret, size = whole(values, "string"), whole(values, "fret"), SIZES[word(values, "size")]
    score = Score()
    target = score.note(string, fret + size // 100, 2.0)
    bend = Bend(kind="bend", target_cents=float(size), reference=target)
    score.note(string, fret, number(values, "length"), bend=bend, vibrato=_asked(values, "top"))
    score.to_bar()
    return score.drill(
        f"Vibrato on a {word(values, 'size')} bend: string {string}, fret {fret}",
        "vibrato_bent",
        ("pitch", "bend", "vibrato"),
        values,
    )


GENERATORS = (
    Generator(
        "vibrato_fretted", "Vibrato on a fretted note", "Held notes with even vibrato that comes back to the fretted pitch.",
        (Input("strings", "Strings", "3 2 1"), fret_input(7), KIND,
         Input("line", "Comes back at the", "bottom", choices=("bottom", "centre")), LENGTH, BPM, REPEATS, PROFILE),
        _fretted, ({}, {"kind": "medium", "fret": "12"}),
    ),
    Generator(
        "vibrato_bent", "Vibrato on a bend", "A bend, then small dips that come back up to the target each time.",
        (string_input(2), fret_input(8), SIZE, KIND, LENGTH, BPM, REPEATS, PROFILE),
        _bent, ({"kind": "narrow"}, {"string": "3", "fret": "7", "size": "half", "kind": "slow and wide"}),
    ),
)  # fmt: skip
