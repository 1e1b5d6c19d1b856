"""What is matched to what: the drill's events, what was heard of each, what was broken off, what is not the guitar."""

from __future__ import annotations

from dataclasses import dataclass
from itertools import pairwise

import numpy as np

from fortimetra.align.settings import MATCH
from fortimetra.errors import TakeError
from fortimetra.hear.notes import HeardNote
from fortimetra.model.drill import AskedNote, Drill
from fortimetra.units import A4_HZ, hz_to_midi, midi_to_hz


@dataclass(frozen=True)
class AskedEvent:
    """What one event of one repeat should sound like, before anyone plays it (A4 = 440 Hz scale)."""

    notes: tuple[AskedNote, ...]
    beat: float
    start_midi: float
    main_midi: float

    @property
    def lead(self) -> AskedNote:
        """The first of its notes that is meant to sound."""
        return next((n for n in self.notes if not n.note.muted), self.notes[0])

    def begins_where(self, before: AskedEvent) -> bool:
        """Whether it begins at the pitch at which another one ends."""
        return self.start_midi == before.main_midi

    def sounding_hz(self, lead_midi: float) -> list[float]:
        """The pitches of its strings where the first of them has one, in Hz."""
        return [midi_to_hz(lead_midi + n.midi - self.lead.midi) for n in self.notes if not n.note.muted]

    def most_frets_to(self, other: AskedEvent) -> int:
        """How far the string slides that has the longest way to an event of as many strings."""
        return max(abs((a.note.fret or 0) - (b.note.fret or 0)) for a, b in zip(self.notes, other.notes, strict=True))


@dataclass(frozen=True)
class Attempt:
    """A passage that was broken off and begun again: its notes, and the places of the events they are."""

    notes: tuple[HeardNote, ...]
    events: tuple[int, ...]


@dataclass(frozen=True)
class OtherSound:
    """A cough, a knock, a voice: from when to when, and how loud it is."""

    from_s: float
    to_s: float
    level_dbfs: float


@dataclass(frozen=True)
class Match:
    """heard[i] is the heard note of asked event i, or None; extras are heard notes nobody asked for, inside the
    playing; attempts: what was begun again, in order of time; others: what is not the guitar; breaks: events before
    which the student had stopped, or which were begun again; pace: 2 where it was played at half the tempo.
    """

    events: tuple[AskedEvent, ...]
    heard: tuple[HeardNote | None, ...]
    extras: tuple[HeardNote, ...]
    offset_cents: float
    told_semitones: tuple[float | None, ...] = ()
    attempts: tuple[Attempt, ...] = ()
    others: tuple[OtherSound, ...] = ()
    breaks: tuple[int, ...] = ()
    pace: float = 1.0

    @property
    def notes(self) -> list[HeardNote]:
        """Everything that was heard inside the playing, in order of time."""
        return sorted([n for n in self.heard if n is not None] + list(self.extras), key=lambda n: n.onset_s)

    def aside_s(self, seconds_per_beat: float) -> list[tuple[float, float]]:
        """Stretches between notes that count in which the drill was not played: what was broken off, and stops; from
        when the note before had its time, or the broken-off passage began, to the next note that counts.
        """
        found = []
        tried = np.array([a.notes[0].onset_s for a in self.attempts])
        played = [i for i, n in enumerate(self.heard) if n is not None]
        for before, i in pairwise(played):
            old, new = self.heard[before], self.heard[i]
            assert old is not None and new is not None
            again = tried[(tried > old.onset_s) & (tried < new.onset_s)]
            asked_s = (self.events[i].beat - self.events[before].beat) * seconds_per_beat
            if len(again):
                found.append((float(again[0]), new.onset_s))
            elif i in self.breaks and old.onset_s + asked_s < new.onset_s:
                found.append((old.onset_s + asked_s, new.onset_s))
        return found

    def fits(self, index: int) -> bool:
        """Whether event `index` was played at about its pitch."""
        return self.misfit_semitones(index) < MATCH.fits_semitones

    def misfit_semitones(self, index: int) -> float:
        """How far from what is asked event `index` was played; infinite where it was not heard or has no pitch."""
        note = self.heard[index]
        told = self.told_semitones[index] if self.told_semitones else None
        if note is None:
            return float("inf")
        return misfit_semitones(note, self.events[index], self.offset_cents) if told is None else told


def asked_events(drill: Drill) -> tuple[AskedEvent, ...]:
    """Every sounding event of every repeat, in score order."""
    groups: dict[tuple[int, str], list[AskedNote]] = {}
    for note in drill.asked():
        groups.setdefault((note.repeat, note.event.id), []).append(note)
    shift = hz_to_midi(drill.a4_hz) - hz_to_midi(A4_HZ)
    events = []
    for notes in groups.values():
        first = notes[0]
        start = main = first.midi + shift
        if first.bend is not None and not first.note.muted:
            up = first.bend.middle_cents / 100.0
            held = first.bend.kind in {"prebend", "release"} or first.event.articulation == "repluck"
            start, main = (
                (start + up, start if first.bend.kind in {"prebend", "release"} else start + up)
                if held
                else (start, start + up)
            )
        slide = first.event.slide
        if slide is not None and slide.from_fret is not None and first.note.fret is not None:
            start = main + slide.from_fret - first.note.fret
        events.append(AskedEvent(tuple(notes), first.beat, start, main))
    return tuple(events)


def no_notes() -> TakeError:
    """What is said of a recording in which nothing begins."""
    return TakeError("no_notes", "No notes were found in the recording; check the input level and record again.")


def under_slide(drill: Drill) -> bool:
    """Whether a slide stops the strings: then the hand sets every pitch."""
    return any(n.finger == "slide" for e in drill.events for n in e.notes) or drill.family == "bottleneck"


def misfit_semitones(note: HeardNote, event: AskedEvent, offset_cents: float) -> float:
    """Semitones between what was heard and the nearest asked note of the event, at its start.

    Of strings struck together no one pitch is heard for certain, so none is held against them.
    """
    if len(event.notes) > 1:
        return 0.0
    if np.isnan(note.start_midi):
        return float("inf")
    shift = offset_cents / 100.0
    # A bend may be caught on its way: from its start to its end, both inclusive, fits.
    low, high = sorted((event.start_midi, event.main_midi))
    misfit = max(low - (note.start_midi - shift), (note.start_midi - shift) - high, 0.0)
    if event.notes[0].event.articulation == "slide" and not np.isnan(note.main_midi):
        # Heard on its way, it is what it comes to.
        misfit = min(misfit, abs(note.main_midi - shift - event.main_midi))
    return misfit
