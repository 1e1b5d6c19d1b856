"""Short phrases of our own that put the figures to use: two to four bars, two techniques each, transposable, in five
levels.

Notation, a token a note: STRING.FRET:BEATS. Before it h hammer-on, p pull-off, s slide from the note before, t tap, m
palm muted; after the fret bN bent by N half steps, ~ vibrato, ! accent. `r:BEATS` is a rest; `5.7+4.9:1` two notes
together; `x` for a fret is a muted string. A number of beats may be a fraction (1/3).
"""

from __future__ import annotations

import re
from dataclasses import dataclass
from fractions import Fraction

from fortimetra.drills.generator import Generator
from fortimetra.drills.scales import NAMES
from fortimetra.drills.score import KEY, Score, bend, common, push_of, wrong
from fortimetra.model.drill import Articulation, Drill, DrillNote
from fortimetra.model.form import Input, Values, word
from fortimetra.model.hand import Slide, VibratoAsked
from fortimetra.model.tolerance import Measure

TOKEN = re.compile(
    r"^(?P<way>[hpstm]?)(?P<notes>[0-9.x+]+)(?P<bend>b[123])?(?P<vibrato>~)?(?P<accent>!)?:(?P<beats>[0-9./]+)$"
)
WAYS: dict[str, Articulation] = {"": "pick", "h": "hammer", "p": "pull", "s": "slide", "t": "tap", "m": "palm_mute"}


@dataclass(frozen=True)
class Lick:
    """A phrase in A. level: 1 to 5. uses: its two techniques. idea: what its range, rhythm, tension and rest follow."""

    name: str
    level: int
    uses: tuple[str, str]
    idea: str
    bpm: int
    text: str


# Invented for this library.
LICKS = (
    Lick("Harbour steps", 1, ("picking", "vibrato"), "Two short questions on the way up, and a long answer on the root.", 72,
         "4.7:1 3.5:1 3.7:1 r:1 3.5:1 4.7:1 r:2 4.5:1/2 4.7:1/2 3.5:1 3.7:1 3.5:1 4.7~:4"),
    Lick("Low tide", 1, ("picking", "muting"), "A low riff with silence after each pair; the last note stays.", 80,
         "6.5:1/2 6.5:1/2 r:1 6.8:1/2 6.5:1/2 r:1 5.5:1/2 5.7:1/2 r:1 6.8:1 6.5:1 6.5:1/2 6.5:1/2 r:1 6.8:1/2 6.5:1/2 r:1 5.7:1 5.5:1 6.5:2"),
    Lick("First light", 1, ("hammer-ons", "vibrato"), "Each bar climbs one string by a hammer-on and waits.", 69,
         "4.5:1/2 h4.7:3/2 r:2 3.5:1/2 h3.7:3/2 r:2 2.5:1/2 h2.8:1/2 2.5:1 3.7:2 3.5:1 4.7~:3"),
    Lick("Rope and cleat", 1, ("pull-offs", "picking"), "The same fall twice, the second time to the root.", 72,
         "1.8:1/2 p1.5:1/2 2.8:1 r:2 2.8:1/2 p2.5:1/2 3.7:1 r:2 1.8:1/2 p1.5:1/2 2.8:1/2 p2.5:1/2 3.7:1 3.5:1 4.7:4"),
    Lick("Two gulls", 1, ("slides", "vibrato"), "One call slides up, the other comes back down to rest.", 66,
         "3.5:1 s3.7:1 r:2 2.8:1 s2.5:1 r:2 3.7:1 3.5:1 4.7:1 4.5:1 4.7~:4"),
    Lick("Counting buoys", 1, ("picking", "staccato"), "Short notes with equal silence, then one that is let be.", 84,
         "5.5:1/2 r:1/2 5.7:1/2 r:1/2 4.5:1/2 r:1/2 4.7:1/2 r:1/2 3.5:1/2 r:1/2 4.7:1/2 r:1/2 4.5:1/2 r:1/2 5.7:1/2 r:1/2 5.5:1/2 r:1/2 5.7:1/2 r:1/2 6.5:2"),
    Lick("Leaning mast", 2, ("half bends", "vibrato"), "The second leans up to the third, twice short and once long.", 69,
         "3.7:1 2.5:1/2 2.8:1/2 2.5:1 r:1 2.10b2:2 2.8:1 2.5:1 3.7:1 3.5:1 4.7~:2 r:1 3.7b2:1 3.5:1 4.7:1"),
    Lick("Wet planks", 2, ("hammer-ons", "pull-offs"), "A turn of three fingers passed down the strings.", 76,
         "1.5:1/2 h1.8:1/2 p1.5:1/2 2.8:1/2 r:2 2.5:1/2 h2.8:1/2 p2.5:1/2 3.7:1/2 r:2 3.5:1/2 h3.7:1/2 p3.5:1/2 4.7:1/2 4.5:1 4.7:5"),
    Lick("Engine room", 2, ("palm muting", "stops"), "A pulse on the low root, two chords that stop on the off-beat.", 92,
         "m6.5:1/2 m6.5:1/2 m6.5:1/2 6.8+5.10:1/2 r:1 m6.5:1/2 m6.5:1/2 m6.5:1/2 m6.5:1/2 6.10+5.12:1/2 r:1/2 6.8+5.10:1/2 r:1/2 6.5+5.7:1 m6.5:1/2 m6.5:1/2 m6.5:1/2 6.8+5.10:1/2 r:1 6.10+5.12:1 6.5+5.7:4"),
    Lick("Ladder down", 2, ("picking", "pull-offs"), "Down the box in pairs, each pair a step lower, until it rests.", 76,
         "1.8:1/2 p1.5:1/2 2.8:1/2 p2.5:1/2 3.7:1/2 p3.5:1/2 4.7:1/2 p4.5:1/2 r:1 5.7:1 5.5:1 r:1 4.7:1/2 p4.5:1/2 5.7:1 5.5:1 6.8:1 6.5:4"),
    Lick("Fog signal", 2, ("unison pitches", "vibrato"), "One pitch on two strings, then its neighbour asks and it answers.", 66,
         "2.10:2 1.5:2 r:1 1.8:1 2.10:1 1.5:1 2.8:1 3.7:1 2.5:1 r:1 4.7~:4"),
    Lick("Tar and twine", 2, ("slides", "double stops"), "Thirds slide along a pair of strings and settle.", 72,
         "3.6+2.5:1 s3.7+2.7:1 r:2 3.9+2.9:1 s3.7+2.7:1 r:2 3.6+2.5:1 3.7+2.7:1 3.6+2.5:2 4.7:4"),
    Lick("Three short", 3, ("triplets", "hammer-ons"), "Triplets climb from the root and stop on the seventh, then come home.", 72,
         "4.7:1/3 3.5:1/3 h3.7:1/3 2.5:1/3 h2.8:1/3 2.5:1/3 1.5:1 r:1 1.8:1/3 p1.5:1/3 2.8:1/3 2.5:1/3 3.7:1/3 3.5:1/3 4.7:1 r:1 4.5:1/3 h4.7:1/3 3.5:1/3 3.7:1 4.7~:2"),
    Lick("Squall line", 3, ("full bends", "pull-offs"), "A cry on the fourth bent to the fifth, and a fall away from it.", 76,
         "3.7b2:2 2.5:1/2 3.7:1/2 p3.5:1/2 4.7:1/2 r:1 3.7b2:1 2.5:1/2 2.8:1/2 2.5:1 r:1 3.7:1/2 p3.5:1/2 4.7:2"),
    Lick("Paper boats", 3, ("sixths", "slides"), "Sixths walk up three steps and slide back one.", 69,
         "3.6+1.5:1 r:1 3.7+1.7:1 s3.9+1.9:1 r:1 3.7+1.7:1 3.6+1.5:1 r:1 3.4+1.4:1 3.6+1.5:1 3.2+1.2:2 r:1 3.6+1.5:3"),
    Lick("Night watch", 3, ("octaves", "muting"), "Octaves with a quiet string between, two calls and a reply below.", 80,
         "5.7+3.9:1/2 r:1/2 5.7+3.9:1/2 r:1/2 5.10+3.12:1 r:1 5.7+3.9:1/2 r:1/2 5.5+3.7:1/2 r:1/2 6.8+4.10:1 r:1 6.5+4.7:4"),
    Lick("Net floats", 3, ("string skipping", "picking"), "High notes answer low ones across a string that stays quiet.", 84,
         "4.7:1/2 2.5:1/2 4.7:1/2 2.8:1/2 3.5:1/2 1.5:1/2 3.7:1/2 1.8:1/2 r:1 2.8:1/2 4.7:1/2 2.5:1/2 4.5:1/2 3.5:1 r:1 4.7:3"),
    Lick("Salt on glass", 3, ("vibrato on bends", "half bends"), "A bend that is held and sung, then let go by step.", 63,
         "2.8b2~:3 r:1 2.8:1 2.5:1 3.7:1 r:1 3.7b2~:2 3.5:1 4.7:1 r:1 4.5:1 4.7~:2"),
    Lick("Winch", 3, ("legato", "repeated figure"), "One figure of four goes round three times and lets go.", 80,
         "2.5:1/4 h2.7:1/4 h2.8:1/4 p2.7:1/4 2.5:1/4 h2.7:1/4 h2.8:1/4 p2.7:1/4 2.5:1/4 h2.7:1/4 h2.8:1/4 p2.7:1/4 2.5:1 r:1 3.7:1 3.5:1 r:1 4.7:4"),
    Lick("Keel", 4, ("sweeps", "pull-offs"), "A minor triad up in one motion, its top pulled off, and a long root.", 72,
         "3.5:1/3 2.5:1/3 1.5:1/3 1.8:1/3 p1.5:1/3 2.5:1/3 3.5:1 r:1 4.7:1/3 3.5:1/3 2.5:1/3 1.5:1 2.5:1 3.5:1 4.7~:4"),
    Lick("Cross current", 4, ("legato", "string change"), "Groups of five against sixteenths, caught on the beat.", 72,
         "3.5:1/4 h3.7:1/4 h3.9:1/4 2.5:1/4 h2.8:1/4 p2.5:1/4 3.9:1/4 p3.7:1/4 p3.5:1/4 4.7:1/4 r:1/2 3.5:1/4 h3.7:1/4 2.5:1/2 r:1 2.8:1/2 p2.5:1/2 3.7:1 4.7:3 r:1 4.5:1 4.7:3"),
    Lick("Lamp room", 4, ("tapping", "pull-offs"), "A tapped fifth falls through the triad, twice; then plain words.", 72,
         "2.5:1/4 r:3/4 t2.12:1/4 p2.8:1/4 p2.5:1/4 h2.8:1/4 t2.12:1/4 p2.8:1/4 p2.5:1/4 h2.8:1/4 2.5:1 r:1 2.8:1/2 2.5:1/2 3.7:1 3.5:1 4.7~:4"),
    Lick("Split rock", 4, ("bends against a string", "double stops"), "The bent fourth meets the open-handed fifth and rubs until it is one.", 69,
         "3.7b2:2 2.5:1 r:1 3.7b2:1 2.5:1 2.8:1/2 2.5:1/2 r:1 3.7:1 3.5:1 4.7:1 r:1 3.5+2.5:4"),
    Lick("Running lights", 4, ("alternate picking", "accents"), "Three notes a string with accents on four: it limps until it lands.", 84,
         "6.5!:1/4 6.7:1/4 6.8:1/4 5.5:1/4 5.7!:1/4 5.8:1/4 4.5:1/4 4.7:1/4 4.9!:1/4 3.5:1/4 3.7:1/4 3.9:1/4 2.6:1 r:1 2.8:1/2 2.6:1/2 2.5:1 3.7:1 r:1 4.7:4"),
    Lick("Undertow", 4, ("slides", "legato"), "One finger draws the line down the neck, position by position.", 72,
         "1.12:1/2 p1.10:1/2 s1.8:1 r:1 2.10:1/2 p2.8:1/2 s2.5:1 r:1 3.7:1/2 p3.5:1/2 4.7:1 4.5:1 5.7:1 r:1 4.7~:4"),
    Lick("Break of swell", 5, ("full bends", "rests"), "Long bends placed late, each after a longer silence.", 66,
         "r:1 2.8b2:2 r:1 r:2 1.8b2:2 r:1 1.5:1/2 2.8:1/2 2.5:1 3.7b2:1 3.5:1 4.7~:3"),
    Lick("Iron stair", 5, ("sweeps", "two shapes"), "A minor and its neighbour, swept in turn, settle on the first.", 76,
         "4.7:1/4 3.5:1/4 2.5:1/4 1.5:1/4 2.5:1/4 3.5:1/4 4.7:1/2 r:1 4.5:1/4 3.5:1/4 2.6:1/4 1.5:1/4 2.6:1/4 3.5:1/4 4.5:1/2 r:1 4.7:1/4 3.5:1/4 2.5:1/4 1.5:1/4 1.8:1/2 p1.5:1/2 2.5:1 3.5:1 4.7~:4"),
    Lick("Storm glass", 5, ("tapping", "bends"), "A bend, the same pitch tapped above it, and the fall back.", 69,
         "2.8b2:2 2.8:1/2 p2.5:1/2 r:1 t2.12:1/4 p2.8:1/4 p2.5:1/4 h2.8:1/4 t2.13:1/4 p2.8:1/4 p2.5:1/4 h2.8:1/4 2.5:1 r:1 3.7b2:1 2.5:1 3.7:1/2 p3.5:1/2 4.7:3 r:2"),
    Lick("Eight bells", 5, ("alternate picking", "string skipping"), "Sixteenths over four strings, doubled at the top, cut off and answered.", 80,
         "4.5:1/4 4.7:1/4 2.5:1/4 2.8:1/4 3.5:1/4 3.7:1/4 1.5:1/4 1.8:1/4 1.8!:1/4 1.8:1/4 1.5:1/4 2.8:1/4 r:1 2.5:1/4 2.8:1/4 3.7:1/4 3.5:1/4 4.7:1 r:1 4.5:1 4.7~:4"),
    Lick("Mooring song", 5, ("vibrato on bends", "slides"), "A tune on three strings: asks, asks higher, answers at home.", 63,
         "3.5:1 s3.7~:2 r:1 2.8:1 s2.10b2~:2 r:1 1.8:1 p1.5:1 2.8b2:1 2.5:1 3.7:1 3.5:1 4.7~:2"),
    Lick("Last ferry", 5, ("legato", "palm muting"), "A muted pulse under the line until the line takes over.", 88,
         "m6.5:1/2 m6.5:1/2 4.5:1/4 h4.7:1/4 3.5:1/2 m6.5:1/2 m6.5:1/2 3.7:1/4 p3.5:1/4 4.7:1/2 m6.5:1/2 m6.5:1/2 3.5:1/4 h3.7:1/4 2.5:1/4 h2.8:1/4 r:1 2.5:1/2 3.7:1/2 3.5:1/4 h3.7:1/4 p3.5:1/2 4.7:1 r:1 6.5+5.7:4"),
)  # fmt: skip
BY_NAME = {lick.name: lick for lick in LICKS}
MEASURES: tuple[Measure, ...] = ("pitch", "bend", "vibrato", "timing", "noise")


def write(lick: Lick, *, up: int = 0) -> Score:
    """The phrase, so many frets up the neck.

    Raises DrillError for a token that means nothing, or notes past the neck.
    """
    score = Score()
    before: dict[int, int] = {}
    for token in lick.text.split():
        if token.startswith("r:"):
            score.rest(float(Fraction(token[2:])))
            before.clear()
            continue
        found = TOKEN.match(token)
        if found is None:
            raise wrong(f"{lick.name}: {token!r} is no note.")
        notes = []
        for place in found["notes"].split("+"):
            string, fret = place.split(".")
            notes.append(DrillNote(string=int(string), fret=int(fret) + up))
        first = notes[0]
        more: dict[str, object] = {"accent": found["accent"] is not None}
        if found["bend"]:
            more["bend"] = bend(first.string, 100.0 * int(found["bend"][1:]))
        if found["vibrato"]:
            line = "top" if found["bend"] else "bottom"
            more["vibrato"] = VibratoAsked.model_validate({"return": line, "direction": push_of(first.string)})
        if found["way"] == "s":
            more["slide"] = Slide()
        score.together(notes, float(Fraction(found["beats"])), WAYS[found["way"]], **more)
        before.update({n.string: n.fret or 0 for n in notes})
    score.to_bar()
    return score


def _lick(values: Values) -> Drill:
    lick = BY_NAME[word(values, "lick")]
    up = (NAMES.index(word(values, "key")) - NAMES.index("A")) % 12
    # The nearer way: up to five frets up, else down where the phrase leaves room.
    lowest = min(int(f) for f in re.findall(r"\.(\d+)", lick.text))
    up = up if up <= 6 or lowest + up - 12 < 1 else up - 12
    drill = write(lick, up=up).drill(f"{lick.name}, in {word(values, 'key')}", "free", MEASURES, values)
    kinds = {"bend": any(e.bend for e in drill.events), "vibrato": any(e.vibrato for e in drill.events)}
    return drill.model_copy(
        update={"measures": tuple(m for m in drill.measures if kinds.get(m, True)) or drill.measures}
    )


GENERATORS = (
    Generator(
        "lick", "free", "Licks", "A short phrase of two to four bars that puts two techniques to use, in any key.",
        (Input("lick", "Phrase", LICKS[0].name, choices=tuple(BY_NAME)), KEY, *common(*MEASURES)),
        _lick, tuple({"lick": lick.name, "bpm": str(lick.bpm), "repeats": "2"} for lick in LICKS),
    ),
)  # fmt: skip
