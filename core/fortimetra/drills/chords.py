"""Generators of double stops, mute checks, long notes and stops: what must not sound is asked for too."""

from __future__ import annotations

from fortimetra.drills.bends import SIZE, SIZES
from fortimetra.drills.generator import Generator
from fortimetra.drills.score import (
    BPM,
    KEY,
    NAMES,
    PROFILE,
    REPEATS,
    SCALES,
    Score,
    fret_input,
    frets_list,
    open_midi,
    string_input,
)
from fortimetra.errors import DrillError
from fortimetra.model.drill import Bend, Drill, DrillNote, Family
from fortimetra.model.form import Input, Values, number, whole, word

# Strings between the two that sound.
SHAPES = {
    "octaves on 6 and 4": (6, 4),
    "octaves on 5 and 3": (5, 3),
    "sixths on 4 and 2": (4, 2),
    "sixths on 3 and 1": (3, 1),
}
SHAPE = Input("shape", "Shape", "sixths on 3 and 1", choices=tuple(SHAPES))


def _pair(low_string: int, high_string: int, low_fret: int, interval: int) -> tuple[int, int]:
    return low_fret, open_midi(low_string) + low_fret + interval - open_midi(high_string)


def _along_scale(values: Values) -> list[list[DrillNote]]:
    """Double stops up a scale on two strings with the strings between them muted."""
    low, high = SHAPES[word(values, "shape")]
    steps = SCALES[word(values, "scale")]
    if word(values, "shape").startswith("sixths") and len(steps) != 7:
        raise DrillError("drill_invalid", "Scale: sixths need a scale of seven notes.")
    root = NAMES.index(word(values, "key"))
    start = whole(values, "position")
    frets = [f for f in range(start, start + 13) if (open_midi(low) + f - root) % 12 in steps][: whole(values, "count")]
    found = []
    for fret in frets:
        midi = open_midi(low) + fret
        if word(values, "shape").startswith("octaves"):
            interval = 12
        else:
            # A sixth is five steps of the scale up.
            at = steps.index((midi - root) % 12)
            interval = steps[(at + 5) % 7] - steps[at] + (12 if at + 5 >= 7 else 0)
        first, second = _pair(low, high, fret, interval)
        if second < 0:
            raise DrillError("drill_invalid", "Position: the upper note lies below the nut there; go up the neck.")
        muted = [DrillNote(string=s, fret=None, muted=True) for s in range(low - 1, high, -1)]
        found.append([DrillNote(string=low, fret=first), *muted, DrillNote(string=high, fret=second)])
    return found


def _double_stops(values: Values, family: Family = "muted_double_stops", what: str = "Double stops") -> Drill:
    length = number(values, "length")
    score = Score()
    for notes in _along_scale(values):
        score.together(notes, length, "strum" if len(notes) > 2 else "pick")
    score.to_bar()
    return score.drill(
        f"{what}: {word(values, 'shape')}, {word(values, 'key')} {word(values, 'scale')}, from fret {whole(values, 'position')}",
        family,
        ("pitch", "timing", "level", "noise"),
        values,
    )


def _bottleneck(values: Values) -> Drill:
    return _double_stops(values, "bottleneck", "Bottleneck")


def _mute_check(values: Values) -> Drill:
    root, sounding = int(word(values, "root")), int(word(values, "sounding"))
    score = Score()
    for fret in frets_list(word(values, "frets"), label="Frets"):
        chord = {root: fret, root - 1: _pair(root, root - 1, fret, 7)[1]}
        if sounding == 3:
            chord[root - 2] = _pair(root, root - 2, fret, 12)[1]
        notes = [
            DrillNote(string=s, fret=chord[s]) if s in chord else DrillNote(string=s, fret=None, muted=True)
            for s in range(6, 0, -1)
        ]
        score.together(notes, 2.0, "strum")
        score.rest(2.0)
    return score.drill(
        f"Mute check: all strings struck, {sounding} sound, roots on string {root}, frets {word(values, 'frets')}",
        "mute_check",
        ("noise", "level"),
        values,
    )


def _long_note(values: Values) -> Drill:
    string, fret, length = whole(values, "string"), whole(values, "fret"), number(values, "length")
    score = Score()
    for _ in ("without damping", "with damping"):
        if word(values, "what") == "bend":
            score.note(string, fret, length, bend=Bend(kind="bend", target_cents=float(SIZES[word(values, "size")])))
        else:
            score.note(string, fret, length)
        score.to_bar()
        score.rest(4.0)
    return score.drill(
        f"Long {word(values, 'what')} without and with damping: string {string}, fret {fret}",
        "long_note_noise",
        ("noise",),
        values,
    )


def _stops(values: Values) -> Drill:
    root = int(word(values, "root"))
    frets = frets_list(word(values, "frets"), label="Frets")
    score = Score()
    for at, fret in enumerate(frets):
        fifth = _pair(root, root - 1, fret, 7)[1]
        score.together([DrillNote(string=root, fret=fret), DrillNote(string=root - 1, fret=fifth)], 0.5, "strum")
        # Rests of one and a half, a half and one beat: a stop is not always in the same place.
        score.rest((1.5, 0.5, 1.0)[at % 3])
    score.to_bar()
    return score.drill(
        f"Stops: riff on string {root}, frets {word(values, 'frets')}",
        "stop_and_rest",
        ("timing", "length", "noise"),
        values,
    )


ROOT = Input("root", "Root on string", "6", choices=("6", "5", "4"))
_STOPS = (
    KEY, Input("scale", "Scale", "major", choices=tuple(SCALES)), SHAPE,
    fret_input(2, name="position", label="From fret", low=0, high=12), Input("count", "Double stops", 8.0, "", 2.0, 10.0, whole=True),
    Input("length", "Length", 1.0, "beats", 0.5, 8.0), BPM, REPEATS, PROFILE,
)  # fmt: skip
GENERATORS = (
    Generator(
        "muted_double_stops", "Muted double stops", "Sixths or octaves along a scale; the strings between and outside stay silent.",
        _STOPS, _double_stops, ({}, {"shape": "octaves on 5 and 3", "scale": "minor pentatonic", "position": "3"}),
    ),
    Generator(
        "bottleneck", "Bottleneck double stops", "The same intervals with a slide over the fret wire; every note's pitch is judged.",
        _STOPS, _bottleneck, ({"key": "G", "length": "2"}, {"key": "D", "shape": "sixths on 4 and 2", "length": "2"}),
    ),
    Generator(
        "mute_check", "Power-chord mute check", "All six strings struck, two or three sound.",
        (ROOT, Input("sounding", "Strings that sound", "2", choices=("2", "3")), Input("frets", "Frets", "3 5 7 5"), BPM, REPEATS, PROFILE),
        _mute_check, ({}, {"root": "5", "sounding": "3"}, {"root": "4"}),
    ),
    Generator(
        "long_note_noise", "Noise check on long notes", "A long note, without and then with damping fingers.",
        (string_input(2), fret_input(10), Input("what", "What", "bend", choices=("bend", "note")), SIZE,
         Input("length", "Length", 8.0, "beats", 2.0, 16.0), BPM, REPEATS, PROFILE),
        _long_note, ({"repeats": "2"}, {"what": "note", "string": "4", "fret": "7", "repeats": "2"}),
    ),
    Generator(
        "stop_and_rest", "Stop and rest", "A riff with rests in which nothing sounds.",
        (ROOT, Input("frets", "Frets", "3 5 6 3 8 6"), BPM, REPEATS, PROFILE),
        _stops, ({}, {"root": "5", "frets": "2 4 5 7"}),
    ),
)  # fmt: skip
