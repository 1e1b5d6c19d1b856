"""Patterns in notes that are others than asked: what was played, and why that may be."""

from __future__ import annotations

from collections import Counter, defaultdict
from collections.abc import Callable
from typing import Literal

from fortimetra.coach.evidence import Judged, Pattern, ShownBy, counted, key
from fortimetra.model.analysis import NoteFound

Why = Literal["fret", "string", "target", "other"]


def played_semitones(note: NoteFound) -> int | None:
    """How many semitones from the asked fret a wrong note was played; None where its pitch was not read."""
    if note.status != "wrong_pitch" or note.pitch is None or note.pitch.error_cents is None:
        return None
    return round(note.pitch.error_cents / 100.0)


def why_wrong(seen: Judged, note: NoteFound) -> Why | None:
    """What a wrong note comes of: a fret beside, the same fret of the string beside, or the note of the figure that
    comes next or was before; None where it is not told.
    """
    off = played_semitones(note)
    if off is None or off == 0 or note.string is None or note.fret is None:
        return None
    if abs(off) <= 2 and note.fret + off >= 0:
        return "fret"
    here = seen.drill.open_midi(note.string)
    beside = [s for s in (note.string - 1, note.string + 1) if 1 <= s <= len(seen.drill.tuning)]
    if any(round(seen.drill.open_midi(s) - here) == off for s in beside):
        return "string"
    if _near_pitch(seen, note, off):
        return "target"
    return "other"


def _near_pitch(seen: Judged, note: NoteFound, off: int) -> bool:
    """Whether what was played is the note before or after in the figure."""
    events = [e for e in seen.drill.events if e.notes]
    places = {e.id: i for i, e in enumerate(events)}
    at = places.get(note.id)
    if at is None or note.string is None or note.fret is None:
        return False
    midi = seen.drill.open_midi(note.string) + note.fret + off
    around = [events[i] for i in (at - 1, at + 1) if 0 <= i < len(events)]
    return any(round(seen.drill.midi(n)) == round(midi) for e in around for n in e.notes if not n.muted)


def wrong_notes(why: Why) -> Pattern:
    """Wrong notes of one reason, with what was played most."""

    def find(seen: Judged) -> ShownBy | None:
        asked = [n for n in seen.notes if n.status in {"played", "wrong_pitch"}]
        wrong = [n for n in asked if why_wrong(seen, n) == why]
        if not wrong:
            return None
        by_place: dict[tuple[str, int | None], list[NoteFound]] = defaultdict(list)
        for note in wrong:
            by_place[note.id, note.string].append(note)
        most = max(by_place.values(), key=len)
        # Of the places where it happens: two wrong notes among hundreds are two wrong notes.
        here = sum((n.id, n.string) in by_place for n in asked)
        text = f"{counted(len(wrong), len(asked), 'notes')} are others than asked: {_said(seen, most, why)}."
        return ShownBy(tuple(wrong), here, text)

    return find


def _said(seen: Judged, notes: list[NoteFound], why: Why) -> str:
    """ "bar 1, beat 3: fret 8 of string 2 instead of fret 7, 3 times"."""
    note = notes[0]
    off = Counter(played_semitones(n) for n in notes).most_common(1)[0][0] or 0
    event = seen.event(note)
    where = note.id if event is None else seen.drill.place(event)
    times = f", {len(notes)} times" if len(notes) > 1 else ""
    asked = f"fret {note.fret} of string {note.string}"
    return f"{where}, {_WHAT[why](note, off)} instead of {asked}{times}"


_WHAT: dict[Why, Callable[[NoteFound, int], str]] = {
    "fret": lambda note, off: f"fret {(note.fret or 0) + off}",
    "string": lambda note, off: f"the string beside it ({off:+d} semitones)".replace("-", "−"),
    "target": lambda note, off: f"the note beside it in the figure ({off:+d} semitones)".replace("-", "−"),
    "other": lambda note, off: f"a note {abs(off)} semitones {'higher' if off > 0 else 'lower'}",
}


def _silent_repeats(seen: Judged) -> list[int]:
    """Repeats of which no note is heard; none where none at all is."""
    heard = {n.repeat for n in seen.notes if n.status != "missed"}
    return sorted({n.repeat for n in seen.notes} - heard) if heard else []


def repeats_missing(seen: Judged) -> ShownBy | None:
    """Whole repeats that are not in the recording."""
    silent = _silent_repeats(seen)
    if not silent:
        return None
    of = len({n.repeat for n in seen.notes})
    which = " and ".join(str(r + 1) for r in silent) if len(silent) < 3 else f"{silent[0] + 1} to {silent[-1] + 1}"
    text = f"{len(silent)} of {of} repeats {'is' if len(silent) == 1 else 'are'} not in the recording: {which}."
    return ShownBy(tuple(n for n in seen.notes if n.repeat in silent), len(seen.notes), text)


def notes_missing(seen: Judged) -> ShownBy | None:
    """Asked notes that are not heard at all, more than one at the same place of the figure; of the repeats that are
    played.
    """
    silent = _silent_repeats(seen)
    missed = [n for n in seen.notes if n.status == "missed" and "not_played" in n.reasons and n.repeat not in silent]
    by_place: dict[tuple[str, int | None], list[NoteFound]] = defaultdict(list)
    for note in missed:
        by_place[note.id, note.string].append(note)
    same = [n for own in by_place.values() if len(own) > 1 for n in own]
    if not same:
        return None
    here = {key(n)[::2] for n in same}
    of = sum((n.id, n.string) in here and n.repeat not in silent for n in seen.notes)
    event = seen.event(same[0])
    where = same[0].id if event is None else seen.drill.place(event)
    text = f"{counted(len(same), of, 'notes')} are not played at the same places, first at {where}."
    return ShownBy(tuple(same), of, text)
