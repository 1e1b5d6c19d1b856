"""The drill: what a student is asked to play, note by note. Format `fortimetra-drill`, version 1."""

from __future__ import annotations

import math
from collections.abc import Iterator
from dataclasses import dataclass
from typing import Annotated, Literal, Self

from pydantic import Field, field_validator, model_validator

from fortimetra.model.base import Document, Model
from fortimetra.model.guitar import Guitar, checked_tuning, pitch_midi
from fortimetra.model.hand import DampingSchool, Finger, Push, Slide, Stroke, VibratoAsked
from fortimetra.model.tolerance import Measure, Profile, Tolerances
from fortimetra.units import midi_to_hz

Family = Literal[
    "set_up", "fretted_then_bend", "bend_ladder", "prebend", "unison_bend", "curl", "bend_in_scale",
    "vibrato_fretted", "vibrato_bent", "finger_pairs", "slur_vs_pick", "legato_cycle", "tapping",
    "alternate_picking", "fastest_run", "sweep", "muted_double_stops", "bottleneck", "mute_check",
    "low_string_muting", "long_note_noise", "stop_and_rest", "slides", "free",
]  # fmt: skip
Articulation = Literal["pick", "palm_mute", "hammer", "pull", "tap", "slide", "strum", "repluck", "none"]
BendKind = Literal["bend", "prebend", "release", "unison", "curl"]

MAX_EVENTS = 2_000
MAX_MEMBERS = 60
MAX_ASKED_NOTES = 20_000
MAX_FRET = 36
MAX_BEND_CENTS = 500.0
NOMINAL_BPM = 60.0
# Slurs of the light school may be so much softer than picked notes.
LIGHT_SLUR_DB = 8.0
# Articulations that sound without a stroke of the picking hand.
SLURRED = frozenset({"hammer", "pull", "slide"})
UNSTRUCK = SLURRED | {"tap", "none"}
ON_GRID = 1e-3


def bar_and_beat(beat: float, beats_per_bar: int) -> str:
    """A place in words, counted from 1.

    >>> bar_and_beat(5.5, 4)
    'bar 2, beat 2.5'
    """
    bar = int((beat + 1e-6) // beats_per_bar)
    return f"bar {bar + 1}, beat {round(beat - bar * beats_per_bar, 3) + 1:g}"


class Tempo(Model):
    """The click the drill is played to."""

    bpm: Annotated[float, Field(ge=20, le=400, description="Quarter notes per minute.")]
    beats_per_bar: Annotated[int, Field(ge=1, le=16)] = 4
    count_in_beats: Annotated[int, Field(ge=0, le=32)] = 4
    swing: Annotated[float, Field(ge=0.5, le=0.75, description="Share of the beat the first of two eighths takes.")] = (
        0.5
    )

    def swung(self, beat: float) -> float:
        """Where a beat of the page is played: eighths and sixteenths move with the swing, tuplets stay.

        >>> Tempo(bpm=90, swing=0.667).swung(3.5)
        3.667
        """
        whole = math.floor(beat + ON_GRID)
        part = beat - whole
        if self.swing == 0.5 or abs(4.0 * part - round(4.0 * part)) > ON_GRID:
            return beat
        return whole + (
            2.0 * part * self.swing if part <= 0.5 else self.swing + (2.0 * part - 1.0) * (1.0 - self.swing)
        )


class DrillNote(Model):
    """One string and fret. Frets count from the capo."""

    string: Annotated[int, Field(ge=1, le=8, description="1 is the highest string.")]
    fret: Annotated[int, Field(ge=0, le=MAX_FRET)] | None
    muted: Annotated[bool, Field(description="Struck and must not sound.")] = False
    finger: Finger | None = None

    @model_validator(mode="after")
    def _fret_or_muted(self) -> Self:
        if self.fret is None and not self.muted:
            raise ValueError("a note needs a fret, or muted: true")
        return self


class Bend(Model):
    """A bend of notes[0] of its event."""

    kind: BendKind
    target_cents: Annotated[
        float | tuple[float, float],
        Field(description="Cents above the fretted pitch (half 100, full 200), or a corridor [low, high]."),
    ]
    reference: Annotated[str | None, Field(description="Id of the fretted note that sounds the target.")] = None
    arrives_beats: Annotated[
        float | None, Field(gt=0, le=16, description="Beats after the stroke within which the target is reached.")
    ] = None
    direction: Push | None = None
    helpers: Annotated[
        tuple[Finger, ...], Field(max_length=3, description="Fingers that push beside the note's own.")
    ] = ()

    @field_validator("target_cents")
    @classmethod
    def _target(cls, value: float | tuple[float, float]) -> float | tuple[float, float]:
        low, high = value if isinstance(value, tuple) else (value, value)
        if not 0 <= low <= high <= MAX_BEND_CENTS:
            raise ValueError(f"a bend target lies from 0 to {MAX_BEND_CENTS:.0f} cents, low before high")
        return value

    @property
    def middle_cents(self) -> float:
        """The target, or the middle of the corridor."""
        return sum(self.target_cents) / 2 if isinstance(self.target_cents, tuple) else self.target_cents


class Event(Model):
    """One place of the drill: a note, several together, or a rest."""

    id: Annotated[str, Field(min_length=1, max_length=40)]
    beat: Annotated[float, Field(ge=0, description="Quarter-note beats from the start of the drill.")]
    length: Annotated[float, Field(gt=0, description="Quarter-note beats.")]
    articulation: Articulation
    notes: Annotated[tuple[DrillNote, ...], Field(max_length=8)] = ()
    bend: Bend | None = None
    vibrato: VibratoAsked | None = None
    slide: Slide | None = None
    stroke: Stroke | None = None
    accent: bool = False
    let_ring: bool = False
    voice: Annotated[int, Field(ge=1, le=8)] = 1

    @model_validator(mode="after")
    def _consistent(self) -> Self:
        strings = [n.string for n in self.notes]
        if len(set(strings)) != len(strings):
            raise ValueError(f"event {self.id} has two notes on one string")
        if (self.articulation == "none") != (not self.notes):
            raise ValueError(f"event {self.id}: a rest has articulation none and no notes, anything else has notes")
        if self.slide is not None:
            self._check_slide(self.slide)
        if self.stroke is not None and (not self.notes or self.articulation in UNSTRUCK):
            raise ValueError(f"event {self.id}: no stroke of the picking hand sounds it")
        if self.bend is not None:
            self._check_bend(self.bend)
        return self

    def _check_slide(self, slide: Slide) -> None:
        if not self.notes:
            raise ValueError(f"event {self.id}: a rest does not slide")
        if self.articulation == "slide" and slide.from_fret is not None:
            raise ValueError(
                f"event {self.id}: a slide from the note before it has no from_fret; strike it (articulation "
                "pick) there"
            )
        if self.articulation != "slide" and slide.from_fret is None:
            raise ValueError(f"event {self.id}: a struck note that slides needs from_fret, where it comes from")

    def _check_bend(self, bend: Bend) -> None:
        if not self.notes or self.notes[0].fret is None or self.notes[0].muted:
            raise ValueError(f"event {self.id} bends a note that does not sound")
        if bend.kind == "unison" and len(self.notes) != 2:
            raise ValueError(f"event {self.id}: a unison bend has two notes, the bent one first")


class School(Model):
    """Where practitioners disagree, what counts for this drill."""

    speed: Annotated[
        Literal["tempo_steps", "notes_per_click", "overlearn"],
        Field(
            description="How speed is gained: the tempo up in small steps; more notes a click; stay until effortless."
        ),
    ] = "tempo_steps"
    slur_force: Annotated[
        Literal["strong", "light"],
        Field(description="Slurs as loud as picked notes; or light and exact, softer but even."),
    ] = "strong"
    vibrato_return: Annotated[
        Literal["bottom", "top", "centre"],
        Field(description="The line a vibrato returns to where a note does not say."),
    ] = "bottom"
    damping: Annotated[DampingSchool, Field(description="Which hand keeps a string quiet where both could.")] = "both"


class Shelf(Model):
    """Where a drill stands in a library."""

    level: Annotated[int, Field(ge=1, le=3, description="1 first steps, 2 moving on, 3 advanced.")] | None = None
    tags: Annotated[tuple[Annotated[str, Field(min_length=1, max_length=30)], ...], Field(max_length=12)] = ()


class Member(Model):
    """One drill of a set: the events from from_beat up to to_beat."""

    title: Annotated[str, Field(min_length=1, max_length=200)]
    from_beat: Annotated[float, Field(ge=0)]
    to_beat: Annotated[float, Field(gt=0)]

    @model_validator(mode="after")
    def _forward(self) -> Self:
        if self.to_beat <= self.from_beat:
            raise ValueError(f"member {self.title} ends before it begins")
        return self

    def holds(self, beat: float) -> bool:
        """Whether a beat of the drill lies in it."""
        return self.from_beat - ON_GRID <= beat < self.to_beat - ON_GRID


class Drill(Document):
    """What is asked."""

    format: Literal["fortimetra-drill"]
    version: Literal[1]
    title: Annotated[str, Field(min_length=1, max_length=200)]
    family: Family
    a4_hz: Annotated[float, Field(ge=380, le=480)] = 440.0
    tuning: Annotated[
        tuple[str | float, ...],
        Field(
            min_length=4,
            max_length=8,
            description="Open strings without capo, string 1 first: pitch names or MIDI numbers.",
        ),
    ]
    capo: Annotated[int, Field(ge=0, le=12)] = 0
    tempo: Tempo | None
    repeats: Annotated[int, Field(ge=1, le=200)] = 1
    profile: Profile = "steady"
    tolerances: Tolerances = Tolerances()
    school: School = School()
    shelf: Shelf | None = None
    measures: Annotated[tuple[Measure, ...], Field(min_length=1)]
    members: Annotated[
        tuple[Member, ...], Field(max_length=MAX_MEMBERS, description="Of a set: its drills, one after the other.")
    ] = ()
    events: Annotated[tuple[Event, ...], Field(min_length=1, max_length=MAX_EVENTS)]

    @field_validator("tuning")
    @classmethod
    def _tuning(cls, value: tuple[str | float, ...]) -> tuple[str | float, ...]:
        return checked_tuning(value)

    @model_validator(mode="after")
    def _consistent(self) -> Self:
        self._check_references(self._check_order())
        ends = [0.0, *(m.to_beat for m in self.members)]
        if any(m.from_beat < end - ON_GRID for m, end in zip(self.members, ends, strict=False)):
            raise ValueError("the members of a set follow each other")
        if sum(len(e.notes) for e in self.events) * self.repeats > MAX_ASKED_NOTES:
            raise ValueError(f"more than {MAX_ASKED_NOTES} notes over all repeats; use fewer repeats")
        return self

    def _check_order(self) -> dict[str, Event]:
        """The events by their ids, which are their own; they follow each other, on strings that are there."""
        by_id: dict[str, Event] = {}
        beat = 0.0
        for event in self.events:
            if event.id in by_id:
                raise ValueError(f"event id {event.id} is used twice")
            by_id[event.id] = event
            if event.beat < beat:
                raise ValueError(
                    f"event {event.id} at beat {event.beat:g} comes after one at beat {beat:g}; sort by beat"
                )
            beat = event.beat
            for note in event.notes:
                if note.string > len(self.tuning):
                    raise ValueError(f"event {event.id} plays string {note.string} of {len(self.tuning)}")
        return by_id

    def _check_references(self, by_id: dict[str, Event]) -> None:
        for event in self.events:
            reference = event.bend.reference if event.bend else None
            if reference is not None and (
                reference == event.id or reference not in by_id or not by_id[reference].notes
            ):
                raise ValueError(f"event {event.id}: its reference {reference} is no note of this drill")

    def limits(self) -> dict[str, float]:
        """The tolerances that count: the drill's own, else its school's, else its profile's."""
        house = self.tolerances.over(self.profile)
        if self.school.slur_force == "light" and self.tolerances.slur_deficit_db is None:
            house["slur_deficit_db"] = LIGHT_SLUR_DB
        return house

    @property
    def length_beats(self) -> float:
        """Length of one repeat: to the end of its last event, rounded up to a whole bar where there is a tempo."""
        end = max(e.beat + e.length for e in self.events)
        if self.tempo is None:
            return end
        bar = self.tempo.beats_per_bar
        return float(-(-round(end * 1e6) // round(bar * 1e6)) * bar)

    def place(self, event: Event) -> str:
        """Where an event stands, in words; a free drill has no bars."""
        return bar_and_beat(event.beat, self.tempo.beats_per_bar) if self.tempo else f"beat {event.beat + 1:g}"

    def played_beat(self, beat: float) -> float:
        """Where a beat counted over all repeats is played: with the swing, where there is one."""
        return self.tempo.swung(beat) if self.tempo else beat

    @property
    def seconds_per_beat(self) -> float:
        """From the tempo; a free drill is laid out at a nominal 60."""
        return 60.0 / (self.tempo.bpm if self.tempo else NOMINAL_BPM)

    def at(self, bpm: float | None) -> Drill:
        """The same drill at another tempo; as it is where there is none to have or none to change."""
        if self.tempo is None or bpm is None or bpm == self.tempo.bpm:
            return self
        return self.model_copy(update={"tempo": self.tempo.model_copy(update={"bpm": bpm})})

    def on(self, guitar: Guitar) -> Drill:
        """The same frets on this guitar: its tuning, capo and A4.

        Only where the guitar's strings stand in the same intervals, so that the same frets are the same figure; a drill
        that asks for a tuning of its own stays as it is. A set-up check is always that of the guitar.
        """
        if len(guitar.tuning) != len(self.tuning):
            return self
        steps = {round(pitch_midi(a) - pitch_midi(b), 3) for a, b in zip(guitar.tuning, self.tuning, strict=True)}
        if self.family != "set_up" and len(steps) > 1:
            return self
        return self.model_copy(update={"tuning": guitar.tuning, "capo": guitar.capo, "a4_hz": guitar.a4_hz})

    def open_midi(self, string: int) -> float:
        """Sounding pitch of an open string, capo included."""
        return pitch_midi(self.tuning[string - 1]) + self.capo

    def midi(self, note: DrillNote) -> float:
        """Fretted pitch of a note; a muted one has the pitch of its open string."""
        return self.open_midi(note.string) + (note.fret or 0)

    def hz(self, note: DrillNote) -> float:
        """Equal-tempered frequency of a note."""
        return midi_to_hz(self.midi(note), a4_hz=self.a4_hz)

    def asked(self) -> Iterator[AskedNote]:
        """Every note of every repeat in score order."""
        for repeat in range(self.repeats):
            for event in self.events:
                for voice, note in enumerate(event.notes):
                    yield AskedNote(
                        event, note, voice, repeat, repeat * self.length_beats + event.beat, self.midi(note)
                    )


@dataclass(frozen=True)
class AskedNote:
    """One note of one repeat."""

    event: Event
    note: DrillNote
    index: int
    repeat: int
    beat: float
    midi: float

    @property
    def bend(self) -> Bend | None:
        """The bend, if this is the note of the event that is bent."""
        return self.event.bend if self.index == 0 else None
