"""Writing a drill note by note, and what the forms of the generators share."""

from __future__ import annotations

import math
import re
from collections.abc import Mapping, Sequence
from typing import Any

from fortimetra.drills.scales import NAMES, SCALES
from fortimetra.errors import DrillError
from fortimetra.model.drill import MAX_EVENTS, Articulation, Bend, Drill, DrillNote, Event, Family, School, Tempo
from fortimetra.model.form import Input, Values, number, whole, word
from fortimetra.model.guitar import STANDARD_TUNING
from fortimetra.model.hand import Finger, Push, Slide
from fortimetra.model.tolerance import Measure, Tolerances
from fortimetra.technique.fingers import with_hands

HIGHEST_FRET = 24
BPM = Input("bpm", "Tempo", 60.0, "bpm", 20.0, 300.0)
REPEATS = Input("repeats", "Repeats", 4.0, "", 1.0, 50.0, whole=True)
PROFILE = Input("profile", "Tolerances", "steady", choices=("starting", "steady", "exacting"))
KEY = Input("key", "Key", "A", choices=NAMES)
FORCE = Input("force", "Slurs", "as loud as picked", choices=("as loud as picked", "light and even"))
MEASURES: tuple[Measure, ...] = ("pitch", "bend", "vibrato", "timing", "level", "length", "noise")
PER_CLICK = Input(
    "per_click", "Notes per click", "2", choices=("1", "2", "3", "4", "6", "2 then 4", "3 then 6", "1, 2, then 4")
)
WAY = Input("way", "Direction", "up", choices=("up", "down"))


def judged(*measures: Measure) -> Input:
    """What a drill is judged for; any of the seven measures."""
    return Input("judged", "Judged for", " ".join(measures), choices=MEASURES, many=True)


def common(*measures: Measure, repeats: bool = True) -> tuple[Input, ...]:
    """What stands at the end of every form."""
    return (BPM, *((REPEATS,) if repeats else ()), PROFILE, judged(*measures))


def string_input(default: int = 3, *, label: str = "String", low: int = 1, high: int = 6) -> Input:
    """Which string."""
    return Input("string", label, float(default), "", float(low), float(high), whole=True)


def fret_input(default: int = 7, *, name: str = "fret", label: str = "Fret", low: int = 1, high: int = 21) -> Input:
    """Which fret."""
    return Input(name, label, float(default), "", float(low), float(high), whole=True)


def scale_input(default: str = "minor pentatonic") -> Input:
    """Which scale."""
    return Input("scale", "Scale", default, choices=tuple(SCALES))


def wrong(text: str) -> DrillError:
    """What a form cannot mean; text names the field."""
    return DrillError("drill_invalid", text)


def numbers(text: str, *, label: str, low: int, high: int, example: str) -> list[int]:
    """Whole numbers from a text as "5 7 8".

    Raises DrillError naming the field.
    """
    parts = [p for p in re.split(r"[\s,;]+", text.strip()) if p]
    if not parts or not all(p.isdigit() and low <= int(p) <= high for p in parts):
        raise wrong(f"{label}: write numbers from {low} to {high} with spaces, as {example}; got {text!r}.")
    return [int(p) for p in parts]


def frets_list(text: str, *, label: str) -> list[int]:
    """Frets from a text. Raises DrillError naming the field."""
    return numbers(text, label=label, low=0, high=HIGHEST_FRET, example="5 7 8")


def strings_list(values: Values, name: str = "strings", label: str = "Strings") -> list[int]:
    """Strings from a field. Raises DrillError naming it."""
    return numbers(word(values, name), label=label, low=1, high=6, example="3 2 1")


def sections(values: Values) -> list[float]:
    """Lengths of a note in beats, a section of the drill each: of "2 then 4" a half and a quarter."""
    return [1.0 / int(n) for n in re.findall(r"\d+", word(values, "per_click"))]


def push_of(string: int) -> Push:
    """Which way a string is bent: the two lowest would leave the neck toward the thicker side (common practice)."""
    return "toward_thinner" if string >= 5 else "toward_thicker"


def bend(
    string: int, cents: float | tuple[float, float], *, kind: Any = "bend", reference: str | None = None, **more: Any
) -> Bend:
    """A bend with its direction, and the fingers that help the third: behind a full one both, behind a half one the
    second.
    """
    top = cents[1] if isinstance(cents, tuple) else cents
    helpers: tuple[Finger, ...] = ("1", "2") if top > 150.0 else ("2",) if top >= 100.0 else ()
    return Bend(
        kind=kind, target_cents=cents, reference=reference, direction=push_of(string), **({"helpers": helpers} | more)
    )


class Score:
    """A drill being written; the beat goes on with every event."""

    def __init__(self) -> None:
        self.events: list[Event] = []
        self.beat = 0.0

    def note(
        self, string: int, fret: int, length: float, articulation: Articulation = "pick", *, finger: Finger | None = None,
        **more: Any,
    ) -> str:  # fmt: skip
        """One note; its id."""
        return self.together([DrillNote(string=string, fret=fret, finger=finger)], length, articulation, **more)

    def together(
        self, notes: Sequence[DrillNote], length: float, articulation: Articulation = "pick", **more: Any
    ) -> str:
        """Several notes at once; the event's id.

        Raises DrillError for more than a drill holds.
        """
        if len(self.events) >= MAX_EVENTS:
            raise wrong(f"A drill has at most {MAX_EVENTS} notes and rests; this would have more. Make it shorter.")
        if any(n.fret is not None and not 0 <= n.fret <= HIGHEST_FRET for n in notes):
            note = next(n for n in notes if n.fret is not None and not 0 <= n.fret <= HIGHEST_FRET)
            raise wrong(f"This would need fret {note.fret} on string {note.string}; choose other frets.")
        slide = more.get("slide")
        if isinstance(slide, Slide) and slide.from_fret is not None and slide.from_fret > HIGHEST_FRET:
            raise wrong(f"This would need fret {slide.from_fret}, where the slide comes from; choose other frets.")
        name = f"e{len(self.events) + 1}"
        self.events.append(
            Event(
                id=name,
                beat=round(self.beat, 6),
                length=round(length, 6),
                articulation=articulation,
                notes=tuple(notes),
                **more,
            )
        )
        self.beat += length
        return name

    def rest(self, length: float) -> None:
        """Silence, which is judged."""
        if length > 1e-6:
            self.together([], length, "none")

    def to_bar(self, beats: float = 4.0) -> None:
        """Silence to the end of the bar."""
        self.rest(math.ceil(round(self.beat / beats, 6)) * beats - self.beat)

    def drill(self, title: str, family: Family, measures: Sequence[Measure], values: Values, **more: Any) -> Drill:
        """The finished drill in standard tuning; tempo, repeats, tolerances and what it is judged for from the form.

        Fingers and strokes that were not written are proposed.
        Raises DrillError(code="drill_invalid") where nothing is left to be judged.
        """
        chosen = word(values, "judged").split() if "judged" in values else list(measures)
        if not chosen:
            raise wrong("Judged for: choose at least one.")
        light = values.get("force") == "light and even"
        return Drill(
            format="fortimetra-drill",
            version=1,
            title=title[:200],
            family=family,
            tuning=STANDARD_TUNING,
            tempo=Tempo(bpm=number(values, "bpm")),
            repeats=whole(values, "repeats") if "repeats" in values else 1,
            profile=values.get("profile", "steady"),
            school=School(slur_force="light") if light else School(),
            measures=tuple(m for m in MEASURES if m in chosen),
            events=with_hands(self.events),
            **({"tolerances": Tolerances()} | more),
        )


def written(values: Values, name: str, allowed: Mapping[str, Any], *, label: str) -> Any:
    """What a word of a form stands for; the form has checked it."""
    try:
        return allowed[word(values, name)]
    except KeyError:
        raise wrong(f"{label}: choose one of {', '.join(allowed)}.") from None
