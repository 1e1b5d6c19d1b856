"""Generators of double stops: octaves, sixths, thirds, tenths and fifths with the strings between them muted; with a
slide.
"""

from __future__ import annotations

import re

from fortimetra.drills.generator import Generator
from fortimetra.drills.scales import DEGREES, NAMES, SCALES, open_midi
from fortimetra.drills.score import KEY, Score, common, fret_input, push_of, scale_input, string_input, wrong
from fortimetra.model.drill import Articulation, Drill, DrillNote
from fortimetra.model.form import Input, Values, number, whole, word
from fortimetra.model.hand import Finger, Slide, VibratoAsked
from fortimetra.model.tolerance import Measure

# Steps of a scale of seven between the two notes; an octave and a fifth fit any scale.
STEPS = {"thirds": 2, "sixths": 5, "tenths": 9}
FIXED = {"octaves": 12, "fifths": 7}
# What is played on which pairs, thick and thin string (common practice, no source).
PAIRS: dict[str, tuple[tuple[int, int], ...]] = {
    "octaves": ((6, 4), (5, 3), (4, 2), (3, 1), (5, 2), (4, 1), (6, 3)),
    "fifths": ((6, 5), (5, 4), (4, 3)),
    "thirds": ((5, 4), (4, 3), (3, 2), (2, 1)),
    "sixths": ((5, 3), (4, 2), (3, 1)),
    "tenths": ((6, 3), (5, 2), (4, 1)),
}
SHAPES = {f"{name} on {low} and {high}": (name, low, high) for name, pairs in PAIRS.items() for low, high in pairs}
SHAPE = Input("shape", "Shape", "sixths on 3 and 1", choices=tuple(SHAPES))
PLUCKED = Input(
    "struck", "Sounded", "strummed over muted strings", choices=("strummed over muted strings", "plucked together")
)
TOUCH: tuple[Measure, ...] = ("pitch", "timing", "level", "noise")
MOST_REACH = 5


def stop(
    interval: str, low: int, high: int, fret: int, key: str, scale: str, *, finger: Finger | None = None
) -> list[DrillNote]:
    """Both notes of an interval on a pair of strings, with what lies between muted.

    Raises DrillError where it is not on the neck, or not under a hand.
    """
    steps = SCALES[scale]
    midi = open_midi(low) + fret
    if interval in FIXED:
        size = FIXED[interval]
    else:
        if len(steps) != 7:
            raise wrong(f"Scale: {interval} need a scale of seven notes.")
        at = steps.index((midi - NAMES.index(key)) % 12)
        far = at + STEPS[interval]
        size = steps[far % 7] - steps[at] + 12 * (far // 7)
    second = midi + size - open_midi(high)
    if second < 0:
        raise wrong("Position: the upper note lies below the nut there; go up the neck.")
    if fret and second and abs(second - fret) > MOST_REACH:
        raise wrong("Shape: the two notes lie too far apart for one hand there; choose other strings.")
    muted = [DrillNote(string=s, fret=None, muted=True) for s in range(low - 1, high, -1)]
    return [DrillNote(string=low, fret=fret, finger=finger), *muted, DrillNote(string=high, fret=second, finger=finger)]


def _along(values: Values, *, finger: Finger | None = None) -> list[list[DrillNote]]:
    interval, low, high = SHAPES[word(values, "shape")]
    key, scale, start = word(values, "key"), word(values, "scale"), whole(values, "position")
    steps, root = SCALES[scale], NAMES.index(key)
    frets = [f for f in range(start, 25) if (open_midi(low) + f - root) % 12 in steps][: whole(values, "count")]
    return [stop(interval, low, high, fret, key, scale, finger=finger) for fret in frets]


def _sounded(notes: list[DrillNote], struck: str) -> tuple[list[DrillNote], Articulation]:
    """Plucked fingers leave the strings between alone; a strum strikes them."""
    if struck == "plucked together":
        return [n for n in notes if not n.muted], "pick"
    return notes, "strum" if len(notes) > 2 else "pick"


def _double_stops(values: Values) -> Drill:
    length, slid = number(values, "length"), word(values, "slid") == "yes"
    score = Score()
    for index, notes in enumerate(_along(values)):
        sounding, way = _sounded(notes, word(values, "struck"))
        if slid and index:
            score.together(
                [n for n in sounding if not n.muted], length, "slide", slide=Slide(length=min(0.25, length / 4))
            )
        else:
            score.together(sounding, length, way)
    score.to_bar()
    more = (", plucked" if word(values, "struck") == "plucked together" else "") + (", slid" if slid else "")
    return score.drill(
        f"Double stops: {word(values, 'shape')}, {word(values, 'key')} {word(values, 'scale')}, from fret {whole(values, 'position')}{more}",
        "muted_double_stops", TOUCH, values,
    )  # fmt: skip


def _through_pairs(values: Values) -> Drill:
    interval, key, scale = word(values, "interval"), word(values, "key"), word(values, "scale")
    position, root = whole(values, "position"), NAMES.index(key)
    score = Score()
    last = -1
    for low, high in PAIRS[interval]:
        if low - high != (1 if interval in {"fifths", "thirds"} else 2 if interval in {"octaves", "sixths"} else 3):
            continue
        frets = [f for f in range(position, position + 5) if (open_midi(low) + f - root) % 12 in SCALES[scale]]
        for fret in frets:
            if open_midi(low) + fret > last:
                notes, way = _sounded(stop(interval, low, high, fret, key, scale), word(values, "struck"))
                score.together(notes, number(values, "length"), way)
                last = open_midi(low) + fret
    if not score.events:
        raise wrong("Position: no note of the scale lies there; choose another position.")
    score.to_bar()
    return score.drill(
        f"{interval.capitalize()} through the string pairs: {key} {scale}, position {position}",
        "muted_double_stops", TOUCH, values,
    )  # fmt: skip


def _bottleneck(values: Values) -> Drill:
    score = Score()
    for notes in _along(values, finger="slide"):
        low, high = notes[0], notes[-1]
        # A straight tube sounds one fret on both strings: what the scale asks for otherwise cannot be played with it.
        level = (
            [low, *notes[1:-1], high.model_copy(update={"fret": low.fret})]
            if word(values, "tube") == "straight"
            else notes
        )
        sounding, way = _sounded(level, word(values, "struck"))
        score.together(sounding, number(values, "length"), way)
    score.to_bar()
    tube = "" if word(values, "tube") == "tilted" else ", straight"
    return score.drill(
        f"Bottleneck: {word(values, 'shape')}, {word(values, 'key')} {word(values, 'scale')}, from fret {whole(values, 'position')}{tube}",
        "bottleneck", TOUCH, values,
    )  # fmt: skip


ROMAN = {"I": "1", "II": "2", "III": "3", "IV": "4", "V": "5", "VI": "6", "bVII": "b7", "VII": "7"}


def _changes(values: Values) -> Drill:
    key, low, high = word(values, "key"), *(int(s) for s in word(values, "pair").split(" and "))
    chords = [c for c in re.split(r"[\s,;]+", word(values, "chords").strip()) if c]
    if not chords or any(c not in ROMAN for c in chords):
        raise wrong(
            f"Chords: write degrees from {', '.join(ROMAN)} with spaces, as I IV V I; got {word(values, 'chords')!r}."
        )
    score = Score()
    slid = word(values, "into") == "yes"
    for chord in chords:
        places = _sixths(NAMES.index(key) + DEGREES[ROMAN[chord]], low, high)
        near = sorted(places, key=lambda p: (abs(p[0] - whole(values, "position")), p[0]))[:2]
        for fret, second in near:
            muted = [DrillNote(string=s, fret=None, muted=True) for s in range(low - 1, high, -1)]
            notes = [
                DrillNote(string=low, fret=fret, finger="slide"),
                *muted,
                DrillNote(string=high, fret=second, finger="slide"),
            ]
            sounding, way = _sounded(notes, word(values, "struck"))
            more = {"slide": Slide(from_fret=fret - 1, length=0.25)} if slid and fret > 1 else {}
            score.together(sounding, 4.0, way, **more)
    into = ", into the note from below" if slid else ""
    return score.drill(
        f"Bottleneck over {' '.join(chords)} in {key}: strings {low} and {high}{into}", "bottleneck", TOUCH, values
    )


def _sixths(root: int, low: int, high: int) -> list[tuple[int, int]]:
    """Frets on a low and a high string that say a chord: its third below and its root above, a sixth, and that
    inverted.
    """
    found = []
    for size, tone in ((8, 4), (9, 7)):
        for fret in range(1, 16):
            second = open_midi(low) + fret + size - open_midi(high)
            if (open_midi(low) + fret - root - tone) % 12 == 0 and 0 <= second <= 17:
                found.append((fret, second))
    return found


def _melody(values: Values) -> Drill:
    key, scale, string = word(values, "key"), word(values, "scale"), whole(values, "string")
    steps, root = SCALES[scale], NAMES.index(key)
    frets = [f for f in range(whole(values, "position"), 20) if (open_midi(string) + f - root) % 12 in steps][:6]
    if len(frets) < 6:
        raise wrong("From fret: the neck ends before the melody does; begin lower.")
    vibrato = VibratoAsked.model_validate({"return": "centre", "direction": push_of(string)})
    score = Score()
    for index, degree in enumerate((0, 1, 2, 4, 3, 2, 1, 0)):
        fret, last = frets[degree], index in {3, 7}
        score.note(
            string, fret, 4.0 if last else 2.0, finger="slide",
            slide=Slide(from_fret=fret - 1, length=0.25) if index % 2 == 0 and fret > 1 else None,
            vibrato=vibrato if last and word(values, "vibrato") == "yes" else None,
        )  # fmt: skip
    score.to_bar()
    damped = word(values, "damping")
    measures: tuple[Measure, ...] = ("pitch", "timing", "noise")
    if word(values, "vibrato") == "yes":
        measures = (*measures, "vibrato")
    return score.drill(
        f"Bottleneck melody on string {string}: {key} {scale}, from fret {whole(values, 'position')}, behind the slide {damped}",
        "bottleneck", measures, values,
    )  # fmt: skip


START = fret_input(2, name="position", label="From fret", low=0, high=12)
COUNT = Input("count", "Double stops", 8.0, "", 2.0, 10.0, whole=True)
LENGTH = Input("length", "Length", 1.0, "beats", 0.5, 8.0)
_STOPS = (KEY, scale_input("major"), SHAPE, START, COUNT, LENGTH, PLUCKED)
GENERATORS = (
    Generator(
        "muted_double_stops", "muted_double_stops", "Muted double stops", "Octaves, sixths, thirds, tenths or fifths along a scale; the strings between and outside stay silent.",
        (*_STOPS, Input("slid", "Slid as a shape", "no", choices=("no", "yes")), *common(*TOUCH)), _double_stops, (
            {}, {"shape": "octaves on 5 and 3", "scale": "minor pentatonic", "position": "3"}, {"shape": "octaves on 6 and 4", "key": "G", "scale": "minor pentatonic", "position": "3", "struck": "plucked together"},
            {"shape": "octaves on 4 and 2", "key": "D", "count": "6"}, {"shape": "octaves on 3 and 1", "key": "C", "count": "5"},
            {"shape": "octaves on 5 and 2", "key": "C", "count": "5", "position": "3"}, {"shape": "octaves on 4 and 1", "key": "E", "count": "5"},
            {"shape": "octaves on 6 and 3", "key": "G", "count": "4", "position": "5"}, {"shape": "thirds on 3 and 2", "key": "G"},
            {"shape": "tenths on 5 and 2", "key": "C", "position": "3", "count": "6"}, {"shape": "fifths on 6 and 5", "scale": "minor pentatonic", "position": "3", "count": "6"},
            {"shape": "sixths on 4 and 2", "key": "G", "struck": "plucked together"},
        ),
    ),
    Generator(
        "shapes_pairs", "muted_double_stops", "Shapes through several pairs", "The scale in one position, as octaves or other shapes from pair to pair of strings.",
        (KEY, scale_input("major"), Input("interval", "Interval", "octaves", choices=tuple(PAIRS)), fret_input(3, name="position", label="Position", low=0, high=12), LENGTH, PLUCKED, *common(*TOUCH)),
        _through_pairs, ({"key": "G"}, {"key": "A", "interval": "sixths", "position": "4"}, {"key": "C", "interval": "thirds", "position": "5"}),
    ),
    Generator(
        "bottleneck", "bottleneck", "Bottleneck double stops", "The same intervals with a slide over the fret wire; every note's pitch is judged.",
        (*_STOPS, Input("tube", "The slide", "tilted", choices=("tilted", "straight")), *common(*TOUCH)), _bottleneck,
        ({"key": "G", "length": "2"}, {"key": "D", "shape": "sixths on 4 and 2", "length": "2"}),
    ),
    Generator(
        "bottleneck_changes", "bottleneck", "Bottleneck over a chord change", "Chord tones of a progression, two bars each.",
        (KEY, Input("chords", "Chords", "I IV V I"), Input("pair", "Strings", "3 and 1", choices=("3 and 1", "4 and 2", "5 and 3")), fret_input(5, name="position", label="Near fret", high=12),
         Input("into", "Into the note from below", "no", choices=("no", "yes")), PLUCKED, *common(*TOUCH)),
        _changes, ({"key": "G", "repeats": "1"}, {"key": "D", "pair": "4 and 2", "repeats": "1", "into": "yes"}),
    ),
    Generator(
        "bottleneck_melody", "bottleneck", "Bottleneck melody", "A melody on one string, into the notes from below, with vibrato over the fret on the long ones.",
        (KEY, scale_input("major"), string_input(2), fret_input(3, name="position", label="From fret", high=10), Input("vibrato", "Vibrato on the long notes", "yes", choices=("yes", "no")),
         Input("damping", "Behind the slide", "damped", choices=("damped", "open")), *common("pitch", "timing", "noise")),
        _melody, ({"repeats": "1"}, {"damping": "open", "repeats": "1"}, {"key": "E", "scale": "minor pentatonic", "string": "1", "vibrato": "no", "repeats": "1"}),
    ),
)  # fmt: skip
