"""Generators of muting: what must not sound is asked for too. Mute checks, quiet low strings, long notes, stops,
staccato.
"""

from __future__ import annotations

import re

from fortimetra.drills.bends import SIZE, SIZES
from fortimetra.drills.generator import Generator
from fortimetra.drills.scales import SCALES, in_position, open_midi, there_and_back
from fortimetra.drills.score import (
    KEY,
    PER_CLICK,
    Score,
    bend,
    common,
    fret_input,
    frets_list,
    numbers,
    scale_input,
    sections,
    string_input,
    wrong,
)
from fortimetra.model.drill import Articulation, Drill, DrillNote
from fortimetra.model.form import Input, Values, number, whole, word
from fortimetra.model.hand import Finger
from fortimetra.model.tolerance import Measure

QUIET: tuple[Measure, ...] = ("noise", "level", "length")


def power_chord(root: int, fret: int, sounding: int, *, all_strings: bool = True) -> list[DrillNote]:
    """One, two or three notes (root, fifth, octave), every other string struck and muted.

    Raises DrillError where a note leaves the neck.
    """
    if root - sounding + 1 < 1:
        raise wrong(f"Strings that sound: from string {root} there are not {sounding}.")
    midi = open_midi(root) + fret
    chord = {root - i: midi + size - open_midi(root - i) for i, size in enumerate((0, 7, 12)[:sounding])}
    fingers: dict[int, Finger] = {root: "1", root - 1: "3", root - 2: "4"}
    notes = [
        DrillNote(string=s, fret=chord[s], finger=fingers[s] if chord[s] else None)
        if s in chord
        else DrillNote(string=s, fret=None, muted=True)
        for s in range(6, 0, -1)
    ]
    return notes if all_strings else [n for n in notes if not n.muted]


def _roots(values: Values) -> list[int]:
    return numbers(word(values, "root"), label="Root on string", low=2, high=6, example="6 5 4")


def _mute_check(values: Values) -> Drill:
    roots, counts = _roots(values), [int(c) for c in re.findall(r"\d", word(values, "sounding"))]
    on = word(values, "rests") == "struck on without a rest"
    score = Score()
    for sounding in counts:
        for root in roots:
            for fret in frets_list(word(values, "frets"), label="Frets"):
                score.together(power_chord(root, fret, sounding), 1.0 if on else 2.0, "strum")
                if not on:
                    score.rest(2.0)
            score.to_bar()
    hand = word(values, "hand")
    more = ("" if not on else ", struck on") + ("" if hand == "either hand" else f", damped by the {hand}")
    return score.drill(
        f"Mute check: all strings struck, {word(values, 'sounding')} sound, roots on string {word(values, 'root')}, frets {word(values, 'frets')}{more}",
        "mute_check", QUIET, values,
    )  # fmt: skip


def _low_strings(values: Values) -> Drill:
    key, scale, position = word(values, "key"), word(values, "scale"), whole(values, "position")
    notes = in_position(key, SCALES[scale], position, strings=(1, 2, 3, 4, 5, 6))
    palm: Articulation = "palm_mute" if word(values, "palm") == "yes" else "pick"
    score = Score()
    for length in sections(values):
        for string, fret in [*there_and_back(notes), notes[0]]:
            # The palm lies on the thick strings it plays; the thin ones sing.
            score.note(string, fret, length, palm if string >= 4 else "pick")
        score.to_bar()
    more = ", thick strings palm-muted" if palm == "palm_mute" else ""
    return score.drill(
        f"Scale over quiet low strings: {key} {scale}, position {position}{more}",
        "low_string_muting", ("pitch", "timing", "level", "noise"), values,
    )  # fmt: skip


def _long_note(values: Values) -> Drill:
    string, fret, length, what = (
        whole(values, "string"),
        whole(values, "fret"),
        number(values, "length"),
        word(values, "what"),
    )
    score = Score()
    parts = {"both in turn": 2, "without damping": 1, "with damping": 1}[word(values, "damping")]
    for _ in range(parts):
        if what == "bend":
            score.note(string, fret, length, bend=bend(string, float(SIZES[word(values, "size")])))
        elif what == "slur":
            score.note(string, fret, length / 2)
            score.note(string, fret + 2, length / 2, "hammer")
        else:
            score.note(string, fret, length)
        score.to_bar()
        score.rest(4.0)
    how = "without and with damping" if parts == 2 else word(values, "damping")
    return score.drill(
        f"Long {what} {how}: string {string}, fret {fret}", "long_note_noise", ("noise", "level", "length"), values
    )


def _rests(values: Values) -> list[float]:
    parts = [p for p in re.split(r"[\s;]+", word(values, "rests").strip()) if p]
    try:
        found = [float(p.replace(",", ".")) for p in parts]
    except ValueError:
        found = []
    if not found or not all(0.25 <= r <= 8 for r in found):
        raise wrong(f"Rests: write beats from 0.25 to 8 with spaces, as 1.5 0.5 1; got {word(values, 'rests')!r}.")
    return found


def _stops(values: Values) -> Drill:
    root, sounding = int(word(values, "root")), int(word(values, "sounding"))
    rests, length = _rests(values), number(values, "length")
    palm: Articulation = "palm_mute" if word(values, "palm") == "yes" else "strum" if sounding > 1 else "pick"
    score = Score()
    if word(values, "begins") == "off the beat":
        score.rest(0.5)
    for at, fret in enumerate(frets_list(word(values, "frets"), label="Frets")):
        score.together(power_chord(root, fret, sounding, all_strings=False), length, palm)
        # A stop is not always in the same place.
        score.rest(rests[at % len(rests)])
    score.to_bar()
    off = ", off the beat" if word(values, "begins") == "off the beat" else ""
    more = (", palm-muted" if palm == "palm_mute" else "") + off
    return score.drill(
        f"Stops: riff on string {root}, frets {word(values, 'frets')}, rests {word(values, 'rests')}{more}",
        "stop_and_rest", ("timing", "level", "length", "noise"), values,
    )  # fmt: skip


def _staccato(values: Values) -> Drill:
    string, share = whole(values, "string"), number(values, "share") / 100.0
    frets = frets_list(word(values, "frets"), label="Frets")
    score = Score()
    for slot in sections(values):
        for fret in frets * whole(values, "times"):
            score.note(string, fret, round(slot * share, 6))
            score.rest(round(slot - round(slot * share, 6), 6))
        score.to_bar()
    return score.drill(
        f"Short notes, {number(values, 'share'):g} % of the slot: string {string}, frets {word(values, 'frets')}",
        "stop_and_rest", ("timing", "level", "length", "noise"), values,
    )  # fmt: skip


ROOT = Input("root", "Root on string", "6", choices=("6", "5", "4"))
PALM = Input("palm", "Palm on the strings", "no", choices=("no", "yes"))
GENERATORS = (
    Generator(
        "mute_check", "mute_check", "Power-chord mute check", "All six strings struck; one, two or three sound.",
        (Input("root", "Root on string, several in turn", "6"), Input("sounding", "Strings that sound", "2", choices=("1", "2", "3", "1, 2, then 3")), Input("frets", "Frets", "3 5 7 5"),
         Input("rests", "Between", "a rest", choices=("a rest", "struck on without a rest")), Input("hand", "Damped by", "either hand", choices=("either hand", "fretting hand", "picking hand")),
         *common(*QUIET)),
        _mute_check, (
            {}, {"sounding": "1", "frets": "5"}, {"root": "5", "sounding": "3"}, {"root": "4"}, {"sounding": "1, 2, then 3", "frets": "5"},
            {"root": "6 5 4", "frets": "5"}, {"rests": "struck on without a rest", "frets": "3 5 7 8", "hand": "fretting hand"}, {"root": "5", "sounding": "1", "frets": "3 7", "hand": "fretting hand"},
        ),
    ),
    Generator(
        "low_string_muting", "low_string_muting", "Scale with low strings quiet", "A scale up and down with drive; the strings below stay silent.",
        (KEY, scale_input(), fret_input(5, name="position", label="Position", high=15), PER_CLICK, PALM, *common("pitch", "timing", "level", "noise")),
        _low_strings, ({}, {"key": "G", "scale": "major", "position": "7"}, {"key": "E", "scale": "blues", "position": "7", "palm": "yes"}),
    ),
    Generator(
        "long_note_noise", "long_note_noise", "Noise check on long notes", "A long note, without and then with damping fingers.",
        (string_input(2), fret_input(10), Input("what", "What", "bend", choices=("bend", "note", "slur")), SIZE,
         Input("damping", "Damping", "both in turn", choices=("both in turn", "without damping", "with damping")),
         Input("length", "Length", 8.0, "beats", 2.0, 16.0), *common("noise", "level", "length")),
        _long_note, ({"repeats": "2"}, {"what": "note", "string": "4", "fret": "7", "repeats": "2"}, {"what": "slur", "string": "3", "fret": "7", "repeats": "2"},
                     {"damping": "without damping", "string": "3", "fret": "9", "repeats": "2"}, {"damping": "with damping", "string": "3", "fret": "9", "repeats": "2"}),
    ),
    Generator(
        "stop_and_rest", "stop_and_rest", "Stop and rest", "A riff with rests of several lengths in which nothing sounds.",
        (ROOT, Input("frets", "Frets", "3 5 6 3 8 6"), Input("sounding", "Strings that sound", "2", choices=("1", "2", "3")), Input("length", "Length", 0.5, "beats", 0.25, 2.0),
         Input("rests", "Rests, in beats", "1.5 0.5 1"), Input("begins", "Begins", "on the beat", choices=("on the beat", "off the beat")), PALM,
         *common("timing", "level", "length", "noise")),
        _stops, ({}, {"root": "5", "frets": "2 4 5 7"}, {"frets": "5 5 8 7", "begins": "off the beat", "rests": "0.5 1.5"}, {"root": "5", "sounding": "1", "frets": "3 3 6 5", "palm": "yes", "rests": "0.5 0.5 2.5"}),
    ),
    Generator(
        "staccato", "stop_and_rest", "Short notes", "Notes cut off at a stated share of their slot.",
        (string_input(4), Input("frets", "Frets", "5 7 5 8"), Input("share", "Sounds for", 50.0, "% of the slot", 20.0, 90.0), PER_CLICK, Input("times", "Times", 2.0, "", 1.0, 16.0, whole=True),
         *common("timing", "level", "length", "noise")),
        _staccato, ({"per_click": "1"}, {"string": "5", "frets": "3 5 7 5", "share": "60", "per_click": "1"}, {"string": "3", "per_click": "2", "share": "60"}),
    ),
)  # fmt: skip
