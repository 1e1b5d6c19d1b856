"""Notes struck a fret away and slid into: a stroke and the step of pitch after it, which are one note."""

from __future__ import annotations

from collections.abc import Iterable, Sequence
from dataclasses import replace

from fortimetra.align.match import AskedEvent, Match
from fortimetra.align.settings import MATCH, SLID
from fortimetra.hear.notes import HeardNote
from fortimetra.model.drill import Drill


def slid_into(matched: Match, found: Sequence[HeardNote], drill: Drill) -> Match:
    """The match with each such note whole.

    found: everything that may be a note; what lies before the first matched one is no extra of the match.
    """
    heard, extras = list(matched.heard), list(matched.extras)
    taken = {id(n) for n in heard if n is not None}
    for i, event in enumerate(matched.events):
        slide, note = event.notes[0].event.slide, heard[i]
        if slide is None or slide.from_fret is None or note is None:
            continue
        within_s = (slide.length or 0.0) * drill.seconds_per_beat + SLID.latest_s
        free = [n for n in found if id(n) not in taken and abs(n.onset_s - note.onset_s) < within_s]
        pair = _stroke_and_arrival(note, event, free, matched.offset_cents / 100.0)
        if pair is None:
            continue
        stroke, arrival = pair
        heard[i] = replace(stroke, end_s=arrival.end_s, sounds_to_s=arrival.sounds_to_s, main_midi=arrival.main_midi)
        taken |= {id(stroke), id(arrival)}
        extras = [n for n in extras if n is not stroke and n is not arrival]
    return replace(matched, heard=tuple(heard), extras=tuple(extras))


def _stroke_and_arrival(
    note: HeardNote, event: AskedEvent, free: Sequence[HeardNote], shift: float
) -> tuple[HeardNote, HeardNote] | None:
    """The two halves of a note of which one was matched; free: what else may be a note near it."""
    from_midi, to_midi = event.start_midi + shift, event.main_midi + shift
    if _near(note, to_midi) and not _near(note, from_midi):
        before = [n for n in free if n.strong and n.kind == "attack" and n.onset_s < note.onset_s]
        stroke = _first_near(reversed(before), from_midi)
        return None if stroke is None else (stroke, note)
    arrival = _first_near((n for n in free if n.kind == "step" and n.onset_s > note.onset_s), to_midi)
    return None if arrival is None else (note, arrival)


def _first_near(notes: Iterable[HeardNote], midi: float) -> HeardNote | None:
    return next((n for n in notes if _near(n, midi)), None)


def _near(note: HeardNote, midi: float) -> bool:
    return abs(note.start_midi - midi) < MATCH.fits_semitones
