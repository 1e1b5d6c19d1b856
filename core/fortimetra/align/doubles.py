"""Strings struck twice: what comes just after a note, and whether a pick or the note itself did it."""

from __future__ import annotations

from collections import defaultdict
from dataclasses import dataclass, field, replace

import numpy as np

from fortimetra.align.extras import double_limit_s, name_extras
from fortimetra.align.match import AskedEvent, Match
from fortimetra.align.settings import EXTRAS, LISTEN
from fortimetra.hear.contour import Contour
from fortimetra.hear.notes import HeardNote, pitchless_note
from fortimetra.hear.onsets import Candidates
from fortimetra.hear.settings import ONSETS
from fortimetra.hear.unlike import risen_unlike_others
from fortimetra.model.drill import SLURRED, Drill
from fortimetra.sound.samples import Samples
from fortimetra.units import FloatArray


def with_double_hits(
    matched: Match, candidates: Candidates, contour: Contour, drill: Drill, *, mono: Samples, rate_hz: int
) -> Match:
    """Second attacks too soft to stand alone: just after a note, where nothing else rises, they are its double. mono:
    float32, shape (n_samples,).
    """
    after = _rises_after(matched, candidates, drill)
    unlike = _unlike_others(matched, drill, mono, rate_hz)
    single = tuple(n for n in matched.extras if not _too_soft_a_double(n, matched, drill, contour, after, unlike))
    matched = replace(matched, extras=single)
    taken = np.array([n.onset_s for n in matched.notes])
    doubles = []
    for number, (event, note) in enumerate(zip(matched.events, matched.heard, strict=True)):
        if note is None:
            continue
        near = _near_after(note, event, candidates, drill)
        seen = zip(candidates.time_s[near], candidates.rise_db[near], candidates.contrast_db[near], strict=True)
        others, own = after[event.main_midi], unlike.get(number, _NOTHING)
        chances = [
            float(t)
            for t, rise, contrast in seen
            if _told(number, t - note.onset_s, rise, contrast, others)
            or own.bears_out(t - note.onset_s, rise, contrast)
        ]
        if own.alone_s is not None and all(abs(t - note.onset_s - own.alone_s) >= ONSETS.same_s for t in chances):
            chances.append(note.onset_s + own.alone_s)
        for time in chances:
            if np.min(np.abs(taken - time)) < EXTRAS.one_attack_s or swells(contour, note.onset_s, time):
                continue
            double = pitchless_note(contour, time, time + 2.0 * LISTEN.least_note_s, least_s=LISTEN.least_note_s)
            if double is not None:
                doubles.append(replace(double, rise_db=ONSETS.rise_db))
    if not doubles:
        return matched
    return replace(matched, extras=tuple(sorted([*matched.extras, *doubles], key=lambda n: n.onset_s)))


@dataclass(frozen=True)
class _Unlike:
    """How far a stroke rises where no other of its pitch does.

    after_s: when, after the stroke, shape (n,); risen_db: how far, -inf where that is not asked; least_db: from where
    on that alone tells, in this take.
    """

    after_s: FloatArray
    risen_db: FloatArray
    least_db: float

    @property
    def alone_s(self) -> float | None:
        """Where it rises so far that nothing else need speak for a second stroke."""
        if self.risen_db.max(initial=-np.inf) < self.least_db:
            return None
        return float(self.after_s[np.argmax(self.risen_db)])

    def bears_out(self, after_s: float, rise_db: float, contrast_db: float) -> bool:
        """Whether a rise that does not tell by itself breaks what rings, and about half of what would tell alone comes
        with it: the three seldom go together by chance.
        """
        if (
            after_s < LISTEN.double_least_s
            or rise_db < LISTEN.double_borne_out_rise_db
            or contrast_db < LISTEN.double_broken_contrast_db
        ):
            return False
        near = np.abs(self.after_s - after_s) <= ONSETS.same_s
        return bool(np.any(self.risen_db[near] >= LISTEN.double_borne_out_share * self.least_db))


_NOTHING = _Unlike(np.zeros(0), np.zeros(0), np.inf)


def _unlike_others(matched: Match, drill: Drill, mono: Samples, rate_hz: int) -> dict[int, _Unlike]:
    """What rises after picked notes that rises after no other of their pitch, by the number of their event."""
    picked = [
        (number, event, note)
        for number, (event, note) in enumerate(zip(matched.events, matched.heard, strict=True))
        if note is not None and len(event.notes) == 1 and event.notes[0].event.articulation not in (*SLURRED, "tap")
    ]
    if not picked:
        return {}
    onsets = np.array([note.onset_s for _, _, note in picked])
    midi = np.array([event.main_midi for _, event, _ in picked])
    ways = [event.notes[0].event.articulation for _, event, _ in picked]
    after_s, risen_db = risen_unlike_others(
        mono, onsets, midi, ways, rate_hz=rate_hz, from_s=LISTEN.double_least_s, until_s=EXTRAS.double_s
    )
    begins = np.sort([n.onset_s for n in matched.heard if n is not None])
    following = np.append(begins, np.inf)[np.searchsorted(begins, onsets, side="right")]
    until = np.minimum([limit_s(event, drill) for _, event, _ in picked], following - onsets - LISTEN.double_clear_s)
    asked = (after_s <= until[:, None]) & np.isfinite(risen_db)
    risen_db = np.where(asked, risen_db, -np.inf)
    best = risen_db.max(axis=1, initial=-np.inf)
    known = best[np.isfinite(best)]
    if not len(known):
        return {}
    least_db = max(LISTEN.double_unlike_db, LISTEN.double_unlike_times * float(np.median(known)))
    return {picked[i][0]: _Unlike(after_s, risen_db[i], least_db) for i in np.flatnonzero(np.isfinite(best))}


def _near_after(note: HeardNote, event: AskedEvent, candidates: Candidates, drill: Drill) -> slice:
    """The candidates that may be a note's double."""
    within_s = (note.onset_s + EXTRAS.one_attack_s, note.onset_s + limit_s(event, drill))
    return slice(*np.searchsorted(candidates.time_s, within_s).tolist())


def limit_s(event: AskedEvent, drill: Drill) -> float:
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
    extra: HeardNote,
    matched: Match,
    drill: Drill,
    contour: Contour,
    after: dict[float, _RisesAfter],
    unlike: dict[int, _Unlike],
) -> bool:
    for number, (event, note) in enumerate(zip(matched.events, matched.heard, strict=True)):
        if note is not None and note.onset_s < extra.onset_s:
            after_s = extra.onset_s - note.onset_s
            if after_s <= limit_s(event, drill):
                own = unlike.get(number, _NOTHING)
                alone = own.alone_s is not None and abs(own.alone_s - after_s) < ONSETS.same_s
                told = (
                    alone
                    or _told(number, after_s, extra.rise_db, extra.contrast_db, after[event.main_midi])
                    or own.bears_out(after_s, extra.rise_db, extra.contrast_db)
                )
                return not told or swells(contour, note.onset_s, extra.onset_s)
    return False


def _told(number: int, after_s: float, rise_db: float, contrast_db: float, others: _RisesAfter) -> bool:
    """Whether a rise after note `number` is a second attack by itself, and none that comes after every note."""
    return _second_attack(rise_db, contrast_db, after_s) and not others.comes_every_time(number, after_s, contrast_db)


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


def swells(contour: Contour, first_s: float, second_s: float) -> bool:
    """Whether what looks like a second attack is the first one arriving: before it there is far less."""
    level = contour.level_dbfs
    before = level[contour.frames(first_s + 0.005, second_s - 0.003)]
    after = level[contour.frames(second_s + 0.005, second_s + 0.03)]
    return not len(before) or not len(after) or float(after.max() - before.max()) > LISTEN.swell_db
