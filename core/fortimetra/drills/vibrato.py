"""Generators of vibrato: on fretted notes, to the click, in several widths, on bends, after a slide."""

from __future__ import annotations

from typing import Any

from fortimetra.drills.bends import SIZE, SIZES
from fortimetra.drills.bends_in_scale import bend_map
from fortimetra.drills.generator import Generator
from fortimetra.drills.scales import NAMES, SCALES, in_position, open_midi
from fortimetra.drills.score import KEY, Score, bend, common, fret_input, push_of, string_input, strings_list, wrong
from fortimetra.model.drill import Drill
from fortimetra.model.form import Input, Values, number, whole, word
from fortimetra.model.hand import Slide, VibratoAsked

KINDS: dict[str, tuple[tuple[float, float], tuple[float, float]]] = {
    "slow and wide": ((1.0, 3.0), (60.0, 160.0)),
    "narrow": ((4.0, 7.0), (15.0, 50.0)),
    "medium": ((4.0, 7.0), (50.0, 100.0)),
    "wide": ((3.5, 6.5), (100.0, 200.0)),
}
KIND = Input("kind", "Vibrato", "slow and wide", choices=(*KINDS, "free"))
LENGTH = Input("length", "Length", 4.0, "beats", 1.0, 16.0)
LINE = Input("line", "Comes back at the", "bottom", choices=("bottom", "centre"))
DIRECTION = Input(
    "direction",
    "Pushed",
    "the usual way",
    choices=("the usual way", "toward the thicker strings", "toward the thinner strings"),
)
PLAIN = Input("plain", "Plain note first", "no", choices=("no", "yes"))
EXTENTS = {"narrow": (15.0, 50.0), "medium": (50.0, 100.0), "wide": (100.0, 200.0)}


def _asked(values: Values, line: str, string: int, **more: Any) -> VibratoAsked:
    rate, extent = KINDS.get(word(values, "kind"), (None, None)) if "kind" in values else (None, None)
    way = word(values, "direction") if "direction" in values else "the usual way"
    push = push_of(string) if way == "the usual way" else "toward_" + way.split()[2]
    return VibratoAsked.model_validate(
        {"return": line, "rate_hz": rate, "extent_cents": extent, "direction": push} | more
    )


def _fretted(values: Values) -> Drill:
    strings, fret, length = strings_list(values), whole(values, "fret"), number(values, "length")
    score = Score()
    for string in strings:
        if word(values, "plain") == "yes":
            score.note(string, fret, length)
        score.note(string, fret, length, vibrato=_asked(values, word(values, "line"), string))
        score.to_bar()
    plain = ", plain first" if word(values, "plain") == "yes" else ""
    return score.drill(
        f"Vibrato, {word(values, 'kind')}{plain}: fret {fret}, strings {word(values, 'strings')}",
        "vibrato_fretted", ("pitch", "vibrato"), values,
    )  # fmt: skip


def _on_click(values: Values) -> Drill:
    string, fret, length = whole(values, "string"), whole(values, "fret"), number(values, "length")
    line = word(values, "line")
    cycles = {"one to four": (1.0, 2.0, 3.0, 4.0), "one and two": (1.0, 2.0), "slow to quick in one note": None}
    rates = cycles[word(values, "cycles")]
    score = Score()
    if rates is None:
        score.note(
            string, fret, 2.0 * length, vibrato=_asked(values, line, string, cycles_per_beat=(1.0, 2.0, 3.0, 4.0))
        )
    for rate in rates or ():
        score.note(string, fret, length, vibrato=_asked(values, line, string, cycles_per_beat=rate))
    score.to_bar()
    if word(values, "free") == "yes":
        score.note(string, fret, length, vibrato=_asked(values, line, string))
        score.to_bar()
    return score.drill(
        f"Vibrato to the click, {word(values, 'cycles')}: string {string}, fret {fret}",
        "vibrato_fretted", ("pitch", "vibrato"), values,
    )  # fmt: skip


def _widths(values: Values) -> Drill:
    string, fret, length = whole(values, "string"), whole(values, "fret"), number(values, "length")
    score = Score()
    for extent in EXTENTS.values():
        score.note(string, fret, length, vibrato=_asked(values, word(values, "line"), string, extent_cents=extent))
    score.to_bar()
    return score.drill(
        f"Vibrato narrow, medium, wide: string {string}, fret {fret}", "vibrato_fretted", ("pitch", "vibrato"), values
    )


def _bent(values: Values) -> Drill:
    string, fret, size = whole(values, "string"), whole(values, "fret"), SIZES[word(values, "size")]
    score = Score()
    target = score.note(string, fret + size // 100, 2.0)
    asked = bend(string, float(size), reference=target)
    score.note(string, fret, number(values, "length"), bend=asked, vibrato=_asked(values, "top", string))
    score.to_bar()
    return score.drill(
        f"Vibrato on a {word(values, 'size')} bend: string {string}, fret {fret}",
        "vibrato_bent", ("pitch", "bend", "vibrato", "noise"), values,
    )  # fmt: skip


def _box(values: Values) -> Drill:
    key, position, length = word(values, "key"), whole(values, "position"), number(values, "length")
    sizes = bend_map(word(values, "map"))
    root = NAMES.index(key)
    score = Score()
    for string, fret in reversed(in_position(key, SCALES["natural minor"], position, strings=(1, 2, 3))):
        size = sizes.get((open_midi(string) + fret - root) % 12)
        if size is None or fret < 1:
            continue
        target = score.note(string, fret + size, 2.0)
        score.note(
            string,
            fret,
            length,
            bend=bend(string, 100.0 * size, reference=target),
            vibrato=_asked(values, "top", string),
        )
        score.to_bar()
    if not score.events:
        raise wrong("Bends: none of them lies on strings 3 to 1 in this position; choose another position.")
    return score.drill(
        f"Vibrato on the bends of the box: {key} minor, position {position}",
        "vibrato_bent", ("pitch", "bend", "vibrato", "noise"), values,
    )  # fmt: skip


def _after_slide(values: Values) -> Drill:
    string, low, high = whole(values, "string"), whole(values, "low"), whole(values, "high")
    if low == high:
        raise wrong("To fret: a slide goes to another fret.")
    length = number(values, "length")
    score = Score()
    score.note(string, low, 1.0)
    score.note(
        string, high, length, "slide", slide=Slide(length=0.25), vibrato=_asked(values, word(values, "line"), string)
    )
    score.to_bar()
    return score.drill(
        f"Slide, then vibrato: string {string}, fret {low} to {high}",
        "vibrato_fretted",
        ("pitch", "vibrato", "timing"),
        values,
    )


GENERATORS = (
    Generator(
        "vibrato_fretted", "vibrato_fretted", "Vibrato on a fretted note", "Held notes with even vibrato that comes back to the fretted pitch.",
        (Input("strings", "Strings", "3 2 1"), fret_input(7), KIND, LINE, DIRECTION, PLAIN, LENGTH, *common("pitch", "vibrato")),
        _fretted, ({}, {"kind": "medium", "fret": "12"}, {"kind": "wide", "strings": "3 2", "fret": "9", "plain": "yes"},
                   {"kind": "medium", "strings": "6 5 4", "fret": "5"}),
    ),
    Generator(
        "vibrato_click", "vibrato_fretted", "Vibrato to the click", "One, two, three and four cycles a beat, then free; or slow to quick in one note.",
        (string_input(3), fret_input(7), Input("cycles", "Cycles a beat", "one to four", choices=("one and two", "one to four", "slow to quick in one note")),
         Input("free", "Then free", "yes", choices=("yes", "no")), LINE, LENGTH, *common("pitch", "vibrato")),
        _on_click, ({"cycles": "one and two"}, {"string": "2", "fret": "10"}, {"cycles": "slow to quick in one note", "fret": "9", "free": "no"}),
    ),
    Generator(
        "vibrato_widths", "vibrato_fretted", "Narrow, medium, wide", "Three widths on one note, each even.",
        (string_input(2), fret_input(8), LINE, LENGTH, *common("pitch", "vibrato")), _widths, ({}, {"string": "3", "fret": "12"}),
    ),
    Generator(
        "vibrato_bent", "vibrato_bent", "Vibrato on a bend", "A bend, then small dips that come back up to the target each time.",
        (string_input(2), fret_input(8), SIZE, KIND, LENGTH, *common("pitch", "bend", "vibrato", "noise")),
        _bent, ({"kind": "narrow"}, {"string": "3", "fret": "7", "size": "half", "kind": "slow and wide"}),
    ),
    Generator(
        "vibrato_box", "vibrato_bent", "Vibrato on the bends of a box", "The usual bends of a minor box, each with its target first and vibrato on top.",
        (KEY, fret_input(5, name="position", label="Position", high=17), Input("map", "Bends, as 4>5", "2>b3 4>5 b7>1"), KIND, LENGTH,
         *common("pitch", "bend", "vibrato", "noise")),
        _box, ({"kind": "narrow"}, {"key": "D", "position": "10", "kind": "medium"}),
    ),
    Generator(
        "vibrato_slide", "vibrato_fretted", "Slide, then vibrato", "A slide up to a note that is held with vibrato.",
        (string_input(3), fret_input(5, name="low", label="From fret"), fret_input(9, name="high", label="To fret"), KIND, LINE, LENGTH,
         *common("pitch", "vibrato", "timing")),
        _after_slide, ({"kind": "medium"}, {"string": "2", "low": "10", "high": "8", "kind": "narrow"}),
    ),
)  # fmt: skip
