"""Which strokes are notes: strokes rather than chances, the first of two, its double, and what begins nothing."""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Sequence
from dataclasses import dataclass, field, replace

import numpy as np

from fortimetra.align.extras import double_limit_s, name_extras
from fortimetra.align.match import AskedEvent, Match, misfit_semitones
from fortimetra.align.settings import EXTRAS, LISTEN, MATCH
from fortimetra.hear.contour import Contour
from fortimetra.hear.notes import HeardNote, pitchless_note
from fortimetra.hear.onsets import Candidates
from fortimetra.hear.salience import Salience
from fortimetra.hear.settings import NOTES, ONSETS
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
        limit = _limit_s(event, drill)
        first = next((e for e in extras if EXTRAS.one_attack_s <= note.onset_s - e.onset_s <= limit), None)
        if first is not None and not _swells(contour, first.onset_s, note.onset_s):
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


def with_double_hits(matched: Match, candidates: Candidates, contour: Contour, drill: Drill) -> Match:
    """Second attacks too soft to stand alone: just after a note, where nothing else rises, they are its double."""
    rises = _rises_after(matched, candidates, drill)
    single = tuple(n for n in matched.extras if not _too_soft_a_double(n, matched, drill, contour, rises))
    matched = replace(matched, extras=single)
    taken = np.array([n.onset_s for n in matched.notes])
    doubles = []
    for number, (event, note) in enumerate(zip(matched.events, matched.heard, strict=True)):
        if note is None:
            continue
        near = _near_after(note, event, candidates, drill)
        for i in range(near.start, near.stop):
            time, contrast_db = float(candidates.time_s[i]), float(candidates.contrast_db[i])
            after_s = time - note.onset_s
            if (
                np.min(np.abs(taken - time)) < EXTRAS.one_attack_s
                or not _second_attack(float(candidates.rise_db[i]), contrast_db, after_s)
                or rises[event.main_midi].comes_every_time(number, after_s, contrast_db)
                or _swells(contour, note.onset_s, time)
            ):
                continue
            double = pitchless_note(contour, time, time + 2.0 * LISTEN.least_note_s, least_s=LISTEN.least_note_s)
            if double is not None:
                doubles.append(replace(double, rise_db=ONSETS.rise_db))
    if not doubles:
        return matched
    return replace(matched, extras=tuple(sorted([*matched.extras, *doubles], key=lambda n: n.onset_s)))


def _near_after(note: HeardNote, event: AskedEvent, candidates: Candidates, drill: Drill) -> slice:
    """The candidates that may be a note's double."""
    within_s = (note.onset_s + EXTRAS.one_attack_s, note.onset_s + _limit_s(event, drill))
    return slice(*np.searchsorted(candidates.time_s, within_s).tolist())


def _limit_s(event: AskedEvent, drill: Drill) -> float:
    """How soon after an event a second stroke is its double."""
    return double_limit_s(event.notes[0].event.length * drill.seconds_per_beat)


@dataclass
class _RisesAfter:
    """What rises just after the notes of one pitch: how many notes there are, and of each rise which note it is after
    and by how much, s.
    """

    notes: int = 0
    after: list[tuple[int, float]] = field(default_factory=list)

    def comes_every_time(self, number: int, after_s: float, contrast_db: float) -> bool:
        """Whether something rises as long after most other notes of this pitch as after note `number`.

        A room answers a pitch in its own time, and a body swells: to the millisecond the same after every stroke. A
        hand that strikes twice is not so even. What breaks what rings is a stroke however often it comes.
        """
        if contrast_db >= LISTEN.every_time_contrast_db or self.notes <= LISTEN.every_time_notes:
            return False
        same = {n for n, s in self.after if n != number and abs(s - after_s) < LISTEN.every_time_s}
        return len(same) >= LISTEN.every_time_share * (self.notes - 1)


def _rises_after(matched: Match, candidates: Candidates, drill: Drill) -> dict[float, _RisesAfter]:
    """What rises just after notes, by their pitch."""
    found: dict[float, _RisesAfter] = defaultdict(_RisesAfter)
    for number, (event, note) in enumerate(zip(matched.events, matched.heard, strict=True)):
        if note is None:
            continue
        near = _near_after(note, event, candidates, drill)
        rises = candidates.time_s[near][candidates.rise_db[near] >= LISTEN.every_time_rise_db]
        found[event.main_midi].notes += 1
        found[event.main_midi].after += [(number, time - note.onset_s) for time in rises.tolist()]
    return found


def doubles_of(matched: Match, drill: Drill) -> set[int]:
    """Ids of the extras that follow a note as its double hit."""
    return {id(e.note) for e in name_extras(matched, drill) if e.kind == "double_hit"}


def _too_soft_a_double(
    extra: HeardNote, matched: Match, drill: Drill, contour: Contour, rises: dict[float, _RisesAfter]
) -> bool:
    for number, (event, note) in enumerate(zip(matched.events, matched.heard, strict=True)):
        if note is not None and note.onset_s < extra.onset_s:
            after = extra.onset_s - note.onset_s
            if after <= _limit_s(event, drill):
                return (
                    not _second_attack(extra.rise_db, extra.contrast_db, after)
                    or rises[event.main_midi].comes_every_time(number, after, extra.contrast_db)
                    or _swells(contour, note.onset_s, extra.onset_s)
                )
    return False


def _second_attack(rise_db: float, contrast_db: float, after_s: float) -> bool:
    """Whether a rise just after a note is a second attack: many single notes swell once more by less.

    What swells follows from what went before, what a pick does to a string does not: the least contrast speaks for a
    stroke, and a clear one for a soft stroke.
    """
    if after_s < LISTEN.double_least_s:
        return False
    broken = contrast_db >= LISTEN.double_broken_contrast_db and rise_db >= LISTEN.double_broken_rise_db
    clear = contrast_db >= ONSETS.clear_db and rise_db >= LISTEN.double_soft_rise_db
    return rise_db >= LISTEN.double_rise_db or broken or clear


def _swells(contour: Contour, first_s: float, second_s: float) -> bool:
    """Whether what looks like a second attack is the first one arriving: before it there is far less."""
    level = contour.level_dbfs
    before = level[contour.frames(first_s + 0.005, second_s - 0.003)]
    after = level[contour.frames(second_s + 0.005, second_s + 0.03)]
    return not len(before) or not len(after) or float(after.max() - before.max()) > LISTEN.swell_db
