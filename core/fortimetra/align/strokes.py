"""Which strokes are notes: strokes rather than chances, the first of two, its double, and what begins nothing."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import replace

import numpy as np

from fortimetra.align.doubles import limit_s, swells
from fortimetra.align.match import AskedEvent, Match, misfit_semitones
from fortimetra.align.settings import EXTRAS, LISTEN, MATCH
from fortimetra.hear.contour import Contour
from fortimetra.hear.notes import HeardNote
from fortimetra.hear.salience import Salience
from fortimetra.hear.settings import NOTES
from fortimetra.model.drill import SLURRED, Drill


def strokes_for_chances(
    matched: Match, found: Sequence[HeardNote], told: Salience, drill: Drill, fixed: frozenset[int]
) -> Match:
    """Picked notes at the stroke that is heard, where the search took a soft rise beside it, nearer to where the note
    was due, and left the stroke over. In a room, and where drive lifts what is left of a note, the bands rise without
    one.

    found: everything that may be a note; told: what the spectrum says of each. fixed: events that somebody has
    pointed at.
    """
    heard, off = list(matched.heard), list(matched.told_semitones)
    strokes = _left_over(matched, found, told)
    edges = [-np.inf, *(n.onset_s if n is not None else np.nan for n in heard), np.inf]
    for i, (event, note) in enumerate(zip(matched.events, heard, strict=True)):
        if note is None or i in fixed or not _is_a_chance(note, event):
            continue
        lies = float(np.nanmax(edges[: i + 1])), float(np.nanmin(edges[i + 2 :]))
        length_s = event.notes[0].event.length * drill.seconds_per_beat
        stroke = _clearer(note, strokes, event, lies, length_s, matched.offset_cents)
        if stroke is not None:
            heard[i], edges[i + 1] = stroke, stroke.onset_s
            if off:
                off[i] = 0.0
    used = {id(n) for n in heard if n is not None}
    extras = tuple(n for n in matched.extras if id(n) not in used)
    return replace(matched, heard=tuple(heard), extras=extras, told_semitones=tuple(off))


def _left_over(matched: Match, found: Sequence[HeardNote], told: Salience) -> list[HeardNote]:
    """Clear strokes with a pitch that are no note and belong to no other attempt."""
    taken = {id(n) for n in matched.heard if n is not None} | {id(n) for a in matched.attempts for n in a.notes}
    return [
        n
        for n, tonal in zip(found, told.tonal, strict=True)
        if n.stands_alone and n.kind == "attack" and id(n) not in taken and tonal > MATCH.tonal[0]
    ]


def _is_a_chance(note: HeardNote, event: AskedEvent) -> bool:
    """Whether a picked note was found at a soft rise."""
    return note.rise_db < NOTES.alone_firm_rise_db and event.notes[0].event.articulation not in SLURRED


def _clearer(
    note: HeardNote,
    strokes: Sequence[HeardNote],
    event: AskedEvent,
    lies: tuple[float, float],
    length_s: float,
    offset_cents: float,
) -> HeardNote | None:
    """The stroke near a soft rise that is the event rather than it; lies: between which times, the notes beside it."""
    reach_s = min(LISTEN.stroke_s, LISTEN.stroke_share * length_s)
    near = [
        n
        for n in strokes
        if abs(n.onset_s - note.onset_s) < reach_s
        and lies[0] < n.onset_s < lies[1]
        and n.rise_db > note.rise_db + LISTEN.clearer_stroke_db
        and _may_be(n, event, offset_cents)
    ]
    return max(near, key=lambda n: (not np.isnan(n.start_midi), n.rise_db), default=None)


def _may_be(note: HeardNote, event: AskedEvent, offset_cents: float) -> bool:
    """Whether a stroke's pitch is that of an event, as far as it lasts long enough to have one."""
    return np.isnan(note.start_midi) or misfit_semitones(note, event, offset_cents) < MATCH.fits_semitones


def begins_something(note: HeardNote, contour: Contour) -> bool:
    """Whether an extra begins something: it has a pitch or is very clear, and the sound does not fall as where a note
    is stopped.
    """
    if np.isnan(note.start_midi) and note.contrast_db < LISTEN.clear_extra_db:
        return False
    if note.kind == "step":
        return True
    return not _falls(note, contour)


def _falls(note: HeardNote, contour: Contour) -> bool:
    """Whether the sound falls where a note seems to begin: something stops there."""
    before = contour.level_dbfs[contour.frames(note.onset_s - 0.03, note.onset_s - 0.005)]
    after = contour.level_dbfs[contour.frames(note.onset_s + 0.005, note.onset_s + 0.03)]
    return bool(len(before) and len(after) and float(after.max()) <= float(before.mean()) - LISTEN.falls_db)


def first_of_doubles(matched: Match, contour: Contour, drill: Drill, fixed: frozenset[int]) -> Match:
    """Of two strokes for one note the first is the note, the second its double; soft chances that are far too soft
    are none, unless the asked pitch comes with them.
    """
    heard, extras = list(matched.heard), list(matched.extras)
    before: HeardNote | None = None
    known = [n.level_dbfs for n in heard if n is not None]
    usual = float(np.median(known)) if known else 0.0
    for i, (event, note) in enumerate(zip(matched.events, matched.heard, strict=True)):
        if note is None or i in fixed:
            continue
        way = event.notes[0].event.articulation
        # A slide is as loud as what is left of its string.
        silent = way != "slide" and note.level_dbfs < usual - LISTEN.silent_db
        comes = _comes_with_its_pitch(note, before, event, matched.offset_cents)
        if silent if way in SLURRED or comes else _no_note(note, contour, usual):
            heard[i] = None
            continue
        before = note
        limit = limit_s(event, drill)
        first = next((e for e in extras if EXTRAS.one_attack_s <= note.onset_s - e.onset_s <= limit), None)
        if first is not None and not swells(contour, first.onset_s, note.onset_s):
            heard[i] = first
            extras[extras.index(first)] = note
    return replace(matched, heard=tuple(heard), extras=tuple(sorted(extras, key=lambda n: n.onset_s)))


def _comes_with_its_pitch(note: HeardNote, before: HeardNote | None, event: AskedEvent, offset_cents: float) -> bool:
    """Whether the asked pitch is heard from a soft rise on, and another one before it: that is a note, however softly
    it was struck.
    """
    return (
        before is not None
        and len(event.notes) == 1
        and note.end_s - note.onset_s >= LISTEN.brief_s
        and abs(note.start_midi - before.main_midi) > EXTRAS.same_semitones
        and misfit_semitones(note, event, offset_cents) < MATCH.fits_semitones
    )


def _no_note(note: HeardNote, contour: Contour, usual_dbfs: float) -> bool:
    """Whether an attack is none: the sound falls there, and it stops at once or hardly anything rises; or it is unsure
    and far softer than the notes.
    """
    if (note.hardly_rises or note.end_s - note.onset_s < LISTEN.brief_s) and _falls(note, contour):
        return True
    sure = note.strong and note.contrast_db >= LISTEN.sure_db
    return not sure and note.level_dbfs < usual_dbfs - LISTEN.far_too_soft_db
