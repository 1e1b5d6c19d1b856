"""Generators of bends: against a target, up a ladder, bent before they are struck, in unison, as curls."""

from __future__ import annotations

from fortimetra.drills.generator import Generator
from fortimetra.drills.scales import NAMES, open_midi
from fortimetra.drills.score import (
    BPM,
    PROFILE,
    Score,
    bend,
    common,
    fret_input,
    judged,
    string_input,
    strings_list,
    wrong,
)
from fortimetra.model.drill import Drill, DrillNote
from fortimetra.model.form import Input, Values, number, whole, word
from fortimetra.model.hand import Finger
from fortimetra.units import midi_to_name

SIZES = {"half": 100, "full": 200, "three frets": 300}
SIZE = Input("size", "Bend", "full", choices=tuple(SIZES))
SAME, NEXT, OPEN = "fretted on the same string", "fretted on the next string", "an open string"
TARGET = Input("target", "Target", SAME, choices=(SAME, NEXT, OPEN))
FINGER = Input("finger", "Bending finger", "3", choices=("1", "2", "3"))
ARRIVES = Input("arrives", "Arrived within", 0.0, "beats, 0: not judged", 0.0, 4.0)


def size_of(values: Values) -> int:
    """Cents of the bend a form asks for."""
    return SIZES[word(values, "size")]


def target_place(string: int, fret: int, cents: int, where: str) -> DrillNote:
    """Where the target of a bend is played.

    Raises DrillError where it is not on the neck there.
    """
    sounds = open_midi(string) + fret + cents // 100
    if where == OPEN:
        found = next((s for s in range(1, 7) if open_midi(s) == sounds and s != string), None)
        if found is None:
            raise wrong(f"Target: no open string sounds {midi_to_name(sounds)}; choose another fret or bend.")
        return DrillNote(string=found, fret=0)
    other = string if where == SAME else string - 1
    if other < 1:
        raise wrong("Target: there is no string next to string 1 on the thin side; choose another string.")
    at = sounds - open_midi(other)
    if at < 0:
        raise wrong(f"Target: string {other} has no {midi_to_name(sounds)}; bend further up the neck.")
    return DrillNote(string=other, fret=at)


def _fretted(values: Values) -> Drill:
    string, fret, size = whole(values, "string"), whole(values, "fret"), size_of(values)
    again, where = word(values, "again") == "yes", word(values, "target")
    finger, arrives = word(values, "finger"), number(values, "arrives") or None
    score = Score()
    place = target_place(string, fret, size, where)
    target = score.together([place], 1.0)
    score.note(string, fret, 1.0)
    # The first finger pulls alone, the second has one behind it.
    helpers: dict[str, tuple[Finger, ...]] = {"1": (), "2": ("1",), "3": ("1", "2")}
    asked = bend(string, float(size), reference=target, arrives_beats=arrives, helpers=helpers[finger])
    score.note(string, fret, 2.0, finger=finger, bend=asked)  # type: ignore[arg-type]
    if again:
        held = asked.model_copy(update={"arrives_beats": None})
        score.note(string, fret, 2.0, "repluck", finger=finger, bend=held)  # type: ignore[arg-type]
    score.together([place], 2.0)
    score.to_bar()
    more = "" if where == SAME else f", target on {'the next string' if where == NEXT else where}"
    more += f", finger {finger}" if finger != "3" else ""
    return score.drill(
        f"String {string}: {word(values, 'size')} bend at fret {fret}{', struck again' if again else ''}{more}",
        "fretted_then_bend",
        ("pitch", "bend"),
        values,
    )


def _in_turn(values: Values) -> Drill:
    string, fret = whole(values, "string"), whole(values, "fret")
    score = Score()
    for cents in (100, 200, 300):
        target = score.note(string, fret + cents // 100, 1.0)
        score.note(string, fret, 1.0)
        score.note(string, fret, 2.0, bend=bend(string, float(cents), reference=target))
    return score.drill(
        f"Half, full and three-fret bends in turn: string {string}, fret {fret}",
        "fretted_then_bend",
        ("pitch", "bend"),
        values,
    )


def _ladder(values: Values) -> Drill:
    strings, first = strings_list(values, "string", "String"), whole(values, "fret")
    sizes = list(SIZES.values())[:2] if word(values, "size") == "half, then full" else [size_of(values)]
    score = Score()
    for size in sizes:
        for string in strings:
            for fret in range(first, first + whole(values, "positions")):
                target = score.note(string, fret + size // 100, 2.0)
                for _ in range(whole(values, "times")):
                    score.note(string, fret, 2.0, bend=bend(string, float(size), reference=target))
                score.to_bar()
    last = first + whole(values, "positions") - 1
    where = f"string {strings[0]}" if len(strings) == 1 else f"strings {' '.join(map(str, strings))}"
    return score.drill(
        f"Bend ladder: {where}, {word(values, 'size')}, frets {first} to {last}",
        "bend_ladder",
        ("pitch", "bend"),
        values,
    )


def _prebend(values: Values) -> Drill:
    string, fret, size = whole(values, "string"), whole(values, "fret"), size_of(values)
    score = Score()
    target = score.note(string, fret + size // 100, 1.0)
    score.note(string, fret, 1.0)
    score.note(string, fret, 2.0, bend=bend(string, float(size), kind="prebend", reference=target))
    title = f"Pre-bend and release: string {string}, {word(values, 'size')} at fret {fret}"
    if word(values, "after") == "the same pitch fretted":
        score.note(string, fret, 2.0)
        score.to_bar()
        title += ", fretted after"
    return score.drill(title, "prebend", ("pitch", "bend"), values)


def _held(values: Values) -> Drill:
    string, fret, size = whole(values, "string"), whole(values, "fret"), size_of(values)
    place = target_place(string, fret, size, NEXT)
    score = Score()
    target = score.together([place], 2.0)
    score.note(string, fret, 2.0, bend=bend(string, float(size), reference=target))
    for _ in range(whole(values, "times")):
        # The bend stays up; the check sounds on the string beside it.
        score.note(string, fret, 2.0, "repluck", bend=bend(string, float(size), reference=target))
        score.together([place], 2.0)
    score.to_bar()
    return score.drill(
        f"Bend held and checked, not let down: string {string}, {word(values, 'size')} at fret {fret}",
        "prebend", ("pitch", "bend"), values,
    )  # fmt: skip


def _unison(values: Values) -> Drill:
    string, fret, size = whole(values, "string"), whole(values, "fret"), size_of(values)
    bent = string + 1
    bent_fret = open_midi(string) + fret - size // 100 - open_midi(bent)
    score = Score()
    notes = [DrillNote(string=bent, fret=bent_fret, finger="3"), DrillNote(string=string, fret=fret, finger="1")]
    score.together(notes, 3.0, bend=bend(bent, float(size), kind="unison", helpers=("2",)))
    score.rest(1.0)
    return score.drill(
        f"Unison bend: string {bent} up to string {string} at fret {fret}", "unison_bend", ("bend", "noise"), values
    )


def _corridor(values: Values) -> tuple[float, float]:
    low, high = number(values, "low"), number(values, "high")
    if low >= high:
        raise wrong(f"At least: {low:g} cents is not under {high:g}.")
    return low, high


def _curl(values: Values) -> Drill:
    string, fret = whole(values, "string"), whole(values, "fret")
    low, high = _corridor(values)
    score = Score()
    score.note(string, fret, 1.0)
    score.note(string, fret, 1.0, bend=bend(string, (low, high), kind="curl"))
    score.rest(2.0)
    return score.drill(
        f"Curl: string {string}, fret {fret}, {low:g} to {high:g} cents, stopped at the top",
        "curl", ("pitch", "bend", "noise"), values,
    )  # fmt: skip


def _curl_rhythm(values: Values) -> Drill:
    string, fret, key = whole(values, "string"), whole(values, "fret"), word(values, "key")
    corridor = _corridor(values)
    bass_string = whole(values, "bass")
    if bass_string <= string:
        raise wrong("Bass on string: choose a thicker string than the curl's.")
    bass = min((NAMES.index(key) - open_midi(bass_string) - f) % 12 + f for f in (max(0, fret - 4),))
    score = Score()
    for _ in range(2):
        score.note(bass_string, bass, 0.5)
        score.rest(0.5)
        score.note(string, fret, 0.5)
        score.note(string, fret, 0.5, bend=bend(string, corridor, kind="curl"))
    score.note(bass_string, bass, 0.5)
    score.rest(0.5)
    for _ in range(2):
        score.note(string, fret, 0.5, bend=bend(string, corridor, kind="curl"))
        score.rest(0.5)
    score.to_bar()
    return score.drill(
        f"Curls over a bass note in {key}: string {string}, fret {fret}",
        "curl",
        ("pitch", "bend", "timing", "noise"),
        values,
    )


GENERATORS = (
    Generator(
        "fretted_then_bend", "fretted_then_bend", "Fretted, then bend",
        "The fretted target, back, the bend held, and the target again.",
        (string_input(), fret_input(), SIZE, Input("again", "Struck again while held", "no", choices=("no", "yes")), TARGET,
         FINGER, ARRIVES, *common("pitch", "bend")),
        _fretted, (
            {"string": "2", "fret": "8", "again": "yes"}, {"string": "1", "fret": "5", "size": "half"},
            {"string": "2", "fret": "10", "target": NEXT, "arrives": "1"}, {"string": "4", "fret": "4", "size": "half", "target": OPEN},
            {"string": "5", "fret": "7", "size": "half"}, {"string": "3", "fret": "9", "size": "half", "finger": "1"},
            {"string": "3", "fret": "19"},
        ),
    ),
    Generator(
        "bends_in_turn", "fretted_then_bend", "One, two and three frets in turn", "Three sizes on one place, each against its fretted target.",
        (string_input(2), fret_input(9), *common("pitch", "bend")), _in_turn, ({"string": "3", "fret": "9"}, {"fret": "12"}),
    ),
    Generator(
        "bend_ladder", "bend_ladder", "Bend ladder", "The same bend several times, then one fret up; on one string or several.",
        (Input("string", "Strings", "4"), fret_input(5), Input("size", "Bend", "full", choices=(*SIZES, "half, then full")),
         Input("positions", "Positions", 4.0, "", 1.0, 12.0, whole=True), Input("times", "Times at each", 4.0, "", 1.0, 8.0, whole=True),
         BPM, PROFILE, judged("pitch", "bend")),
        _ladder, ({"size": "half"}, {"string": "2", "fret": "8"}, {"string": "4 3 2 1", "size": "half, then full", "positions": "1", "times": "2"}),
    ),
    Generator(
        "prebend", "prebend", "Pre-bend and release", "Bent silently, then struck, then let down to the fretted note.",
        (string_input(2), fret_input(8), SIZE, Input("after", "After it", "nothing", choices=("nothing", "the same pitch fretted")),
         *common("pitch", "bend")), _prebend,
        ({"size": "half"}, {"string": "3", "fret": "9"}, {"string": "2", "fret": "10", "after": "the same pitch fretted"}),
    ),
    Generator(
        "bend_held", "prebend", "Held and checked", "The bend stays up and is struck again and again, with its target on the next string between.",
        (string_input(3, low=2), fret_input(9), SIZE, Input("times", "Times", 2.0, "", 1.0, 8.0, whole=True), *common("pitch", "bend")),
        _held, ({"string": "3", "fret": "9"}, {"string": "2", "fret": "12", "times": "3"}),
    ),
    Generator(
        "unison_bend", "unison_bend", "Unison bend", "Two strings struck together, the lower one bent up to the higher.",
        (string_input(2, label="Steady string", high=5), fret_input(10), SIZE, *common("bend", "noise")), _unison,
        ({}, {"string": "1", "fret": "12"}),
    ),
    Generator(
        "curl", "curl", "Curl", "A bend that stays under a half step and is muted at its top.",
        (string_input(3), fret_input(6), Input("low", "At least", 20.0, "cents", 5.0, 200.0),
         Input("high", "At most", 80.0, "cents", 10.0, 250.0), *common("pitch", "bend", "noise")),
        _curl, ({}, {"string": "4", "fret": "5", "high": "60"}),
    ),
    Generator(
        "curl_rhythm", "curl", "Curls in a rhythm", "A bass note, and curls in a short rhythm over it, each muted at its top.",
        (Input("key", "Bass note", "A", choices=NAMES), string_input(3), fret_input(5), Input("bass", "Bass on string", 5.0, "", 3.0, 6.0, whole=True),
         Input("low", "At least", 20.0, "cents", 5.0, 200.0), Input("high", "At most", 80.0, "cents", 10.0, 250.0),
         *common("pitch", "bend", "timing", "noise")),
        _curl_rhythm, ({}, {"key": "D", "fret": "10", "bass": "4"}),
    ),
)  # fmt: skip
