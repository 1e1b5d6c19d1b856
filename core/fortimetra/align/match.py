"""Which heard note is which asked one: the cheapest way through both, over all repeats.

Method: dynamic programming over pairs (heard note, asked event), each pair costing what pitch and the time since
the last pair say against it, each note left out on either side costing too (global alignment with gaps; Needleman
& Wunsch, J. Mol. Biol. 48(3), 1970). The whole take is solved at once, so one wrong note does not shift the rest.
Costs are in units of "one semitone wrong", capped: they say what is likelier, not how clean it is. Rises too soft to be an
attack by themselves take part: leaving one out costs little, and taking one for an asked note costs the more the less clear
it is. What is sought decides, so a soft note is found where the drill has one and nowhere else.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from typing import Any

import numpy as np
from numba import njit
from numpy.typing import NDArray

from fortimetra.errors import TakeError
from fortimetra.hear.notes import HeardNote
from fortimetra.hear.onsets import CLEAR_DB
from fortimetra.hear.salience import Salience
from fortimetra.model.drill import SLURRED, AskedNote, Drill
from fortimetra.units import A4_HZ, FloatArray, hz_to_midi

MISSED_COST = 1.4
EXTRA_COST = 0.8
OUTSIDE_EXTRA_COST = 0.15
PITCH_COST_PER_SEMITONE = 0.8
PITCH_COST_MOST = 1.3
TOGETHER_COST = 0.3
TEMPO_COST_PER_OCTAVE = 1.5
FREE_TEMPO_COST_PER_OCTAVE = 0.2
TEMPO_COST_MOST = 1.6
FITS_SEMITONES = 0.75
REACH = 8
REACH_HEARD = 24
# A rise of no contrast at all, taken for a picked note, one of the pitch that sounds already, a slurred one.
UNCLEAR_COST = (0.4, 0.9, 0.2)
CLEAR_CONTRAST_DB = 12.0
# Notes shorter than this are told by the spectrum after their attack rather than by their contour.
CONTOUR_FROM_S = 0.12
SALIENCE_COST = 2.2
TOLD_AS_ASKED, TOLD_AS_ASKED_SHORT = 0.1, 0.2
BAND = 500
WHICH_REPEAT_COST = 1e-6
# What a person said is what: free, not played, or the place of its heard note. Worth more than any path without it.
FREE, NOT_PLAYED = -2, -1
PINNED_WORTH = 1e4
LOOKS_WRONG_SHARE = 0.34


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


@dataclass(frozen=True)
class Match:
    """heard[i] is the heard note of asked event i, or None; extras are heard notes nobody asked for, inside the playing."""

    events: tuple[AskedEvent, ...]
    heard: tuple[HeardNote | None, ...]
    extras: tuple[HeardNote, ...]
    offset_cents: float
    told_semitones: tuple[float | None, ...] = ()

    @property
    def notes(self) -> list[HeardNote]:
        """Everything that was heard inside the playing, in order of time."""
        return sorted([n for n in self.heard if n is not None] + list(self.extras), key=lambda n: n.onset_s)

    def fits(self, index: int) -> bool:
        """Whether event `index` was played at about its pitch."""
        return self.misfit_semitones(index) < FITS_SEMITONES

    def misfit_semitones(self, index: int) -> float:
        """How far from what is asked event `index` was played; infinite where it was not heard or has no pitch."""
        note = self.heard[index]
        told = self.told_semitones[index] if self.told_semitones else None
        if note is None:
            return float("inf")
        return _misfit(note, self.events[index], self.offset_cents) if told is None else told


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


def match(
    heard: Sequence[HeardNote],
    drill: Drill,
    told: Salience | None = None,
    pinned: NDArray[np.int64] | None = None,
    *,
    first_beat_s: float | None = None,
) -> Match:
    """Pair heard and asked notes.

    told: what the spectrum after each attack holds, where it was looked at; its places are the heard notes.
    pinned: for each asked event the place of the heard note it is, NOT_PLAYED, or FREE, as somebody who listened said.
    first_beat_s: where beat 0 is heard, where the recorder knows; it tells which of several like repeats was played. Without
    it the first of them was. Raises TakeError: no_notes if nothing was heard, wrong_drill if what was heard does not look like the drill.
    """
    events = asked_events(drill)
    if not heard:
        raise no_notes()
    offset = 0.0
    pairs = _pair(heard, events, drill, offset, told, pinned, first_beat_s)
    differences = [
        100.0 * (heard[i].plain_midi - events[j].start_midi)
        for j, i in enumerate(pairs)
        if i >= 0
        and events[j].notes[0].bend is None
        and events[j].start_midi == events[j].main_midi
        and abs(heard[i].plain_midi - events[j].start_midi) < 1.5
    ]
    if len(differences) >= 3 and abs(float(np.median(differences))) > 20.0:
        # A guitar out of tune as a whole: align by what it is tuned to.
        offset = float(np.median(differences))
        pairs = _pair(heard, events, drill, offset, told, pinned, first_beat_s)
    chosen = tuple(heard[i] if i >= 0 else None for i in pairs)
    used = sorted(i for i in pairs if i >= 0)
    spared = set(used)
    extras = (
        tuple(heard[i] for i in range(used[0], used[-1]) if i not in spared and heard[i].stands_alone) if used else ()
    )
    semitones = tuple(
        None if i < 0 else _told_semitones(heard[i], event, told, i, offset)
        for i, event in zip(pairs, events, strict=True)
    )
    result = Match(events, chosen, extras, offset, semitones)
    # What is neither an attack nor a clear rise may be a note of the drill; it does not show that it is this drill.
    fitting = sum(result.fits(j) and _shows(chosen[j]) for j in range(len(events)))
    clear = sum(n.strong for n in heard)
    if fitting < LOOKS_WRONG_SHARE * min(len(events), max(clear, 3)) or fitting < min(2, len(events)):
        raise TakeError(
            "wrong_drill",
            f"This does not look like the drill “{drill.title}”: {fitting} of its {len(events)} notes fit. "
            "Choose the drill that was played; if an echo or another effect was on, record without it.",
        )
    return result


def _shows(note: HeardNote | None) -> bool:
    return note is not None and (note.strong or note.contrast_db >= CLEAR_DB)


def _told_semitones(
    note: HeardNote, event: AskedEvent, told: Salience | None, place: int, offset_cents: float
) -> float | None:
    """Semitones from what is asked where the spectrum has a say; None where the contour alone tells.

    The contour follows one string; where another rings on it may be the wrong one, and a short note has none.
    """
    if told is None or len(event.notes) > 1 or event.start_midi != event.main_midi:
        return None
    asked = event.start_midi + offset_cents / 100.0
    by_contour = _misfit(note, event, offset_cents)
    if told.misfit(place, asked) < (TOLD_AS_ASKED_SHORT if _short(note) else TOLD_AS_ASKED):
        return min(by_contour, 0.0)
    return min(by_contour, abs(told.best_midi(place) - asked)) if _short(note) else None


def _short(note: HeardNote) -> bool:
    return bool(np.isnan(note.start_midi)) or note.end_s - note.onset_s < CONTOUR_FROM_S


def _misfit(note: HeardNote, event: AskedEvent, offset_cents: float) -> float:
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
    return max(low - (note.start_midi - shift), (note.start_midi - shift) - high, 0.0)


def _pair(
    heard: Sequence[HeardNote],
    events: Sequence[AskedEvent],
    drill: Drill,
    offset_cents: float,
    told: Salience | None,
    pinned: NDArray[np.int64] | None,
    first_beat_s: float | None,
) -> list[int]:
    """For each event the index of its heard note, or -1."""
    kinds, kind = np.unique(
        np.array([[e.start_midi, e.main_midi, float(len(e.notes) > 1)] for e in events]), axis=0, return_inverse=True
    )
    pairs = _cheapest(
        np.array([n.onset_s for n in heard]),
        _pitch_costs(heard, kinds, offset_cents, told),
        _unclear_costs(heard),
        np.array([EXTRA_COST * n.clearness**2 for n in heard]),
        np.array([drill.played_beat(e.beat) * drill.seconds_per_beat for e in events]),
        kind.reshape(-1).astype(np.int64),
        _sorts(events),
        TEMPO_COST_PER_OCTAVE if drill.tempo else FREE_TEMPO_COST_PER_OCTAVE,
        np.full(len(events), FREE) if pinned is None else pinned,
        _owners(pinned, len(heard)),
        np.nan if first_beat_s is None else first_beat_s,
    )
    return [int(i) for i in pairs]


def _owners(pinned: NDArray[np.int64] | None, n_heard: int) -> NDArray[np.int64]:
    """For each heard note the event it is pinned to, or FREE."""
    owners = np.full(n_heard, FREE)
    if pinned is not None:
        held = np.flatnonzero(pinned >= 0)
        owners[pinned[held]] = held
    return owners


def _sorts(events: Sequence[AskedEvent]) -> NDArray[np.int64]:
    """Which of UNCLEAR_COST an event takes."""
    sorts = np.zeros(len(events), np.int64)
    for i, event in enumerate(events):
        if event.notes[0].event.articulation in SLURRED:
            sorts[i] = 2
        elif i and events[i - 1].main_midi == event.start_midi:
            sorts[i] = 1
    return sorts


def _unclear_costs(heard: Sequence[HeardNote]) -> FloatArray:
    unclear = np.array([1.0 - max(n.clearness, min(1.0, n.contrast_db / CLEAR_CONTRAST_DB)) for n in heard])
    return np.asarray(unclear[:, None] * np.array(UNCLEAR_COST)[None, :])


def _pitch_costs(
    heard: Sequence[HeardNote], kinds: FloatArray, offset_cents: float, told: Salience | None
) -> FloatArray:
    """What each heard note's pitch says against each kind of event; shape (n_heard, n_kinds)."""
    start = np.array([n.start_midi for n in heard])[:, None] - offset_cents / 100.0
    main = np.array([n.main_midi for n in heard])[:, None] - offset_cents / 100.0
    bent = np.abs(kinds[:, 0] - kinds[:, 1]) > 0.1
    together = kinds[:, 2] > 0.5
    share = np.where(bent, 0.6, 0.5)
    away = share * _semitones(start - kinds[:, 0]) + (1.0 - share) * _semitones(main - kinds[:, 1])
    costs = np.minimum(PITCH_COST_MOST, PITCH_COST_PER_SEMITONE * np.where(np.isnan(away), np.inf, away))
    if told is not None:
        at = np.round(kinds[:, 0] + offset_cents / 100.0).astype(np.int64) - told.lowest_midi
        inside = (at >= 0) & (at < told.score.shape[1])
        worse = told.score.max(axis=1)[:, None] - told.score[:, np.clip(at, 0, told.score.shape[1] - 1)]
        spectral = np.where(inside, np.minimum(PITCH_COST_MOST, SALIENCE_COST * worse), PITCH_COST_MOST)
        costs = np.where(bent[None, :], costs, np.minimum(spectral, costs))
    # Of strings struck together one pitch is heard of several that sound; which, is chance.
    return np.where(together[None, :], TOGETHER_COST, costs)


def _semitones(difference: FloatArray) -> FloatArray:
    """An octave off is more often a slip of the tracker than of the hand."""
    away = np.abs(difference)
    return np.where(np.abs(away - 12.0) < 0.6, 1.3, away)


@njit(cache=True)
def _cheapest(
    heard_s: Any, pitch_cost: Any, unclear_cost: Any, leave_cost: Any, asked_s: Any, kind: Any, sort: Any,
    tempo_cost: float, pinned: Any, owner: Any, first_s: float,
) -> Any:  # fmt: skip
    n, m = len(heard_s), len(asked_s)
    width = min(m, 2 * BAND + 1)
    total = np.full((n, width), np.inf)
    from_heard = np.full((n, width), -1, np.int32)
    from_asked = np.full((n, width), -1, np.int32)
    base = np.zeros(n, np.int64)
    left = np.zeros(n + 1)
    for i in range(n):
        left[i + 1] = left[i] + leave_cost[i]
    outside = OUTSIDE_EXTRA_COST / EXTRA_COST
    most = 20.0 * OUTSIDE_EXTRA_COST
    best, best_i, best_j = np.inf, -1, -1
    for i in range(n):
        base[i] = max(0, min(m - width, i * m // n - width // 2))
        for place in range(width):
            j = base[i] + place
            here = pinned[j] == i
            if not here and (pinned[j] != FREE or owner[i] != FREE):
                continue
            # Of repeats that fit alike the one where the click says, or the first: too little to outweigh anything heard.
            away = float(j) if np.isnan(first_s) else abs(heard_s[i] - first_s - asked_s[j])
            cost = min(most, outside * left[i]) + MISSED_COST * j + WHICH_REPEAT_COST * away
            for back_i in range(max(0, i - REACH_HEARD), i):
                dt = max(1e-3, heard_s[i] - heard_s[back_i])
                skipped = left[i] - left[back_i + 1]
                for back_j in range(max(0, j - REACH), j):
                    at = back_j - base[back_i]
                    if at < 0 or at >= width:
                        continue
                    way = total[back_i, at] + skipped + MISSED_COST * (j - back_j - 1)
                    if way >= cost:
                        continue
                    db = asked_s[j] - asked_s[back_j]
                    way += min(TEMPO_COST_MOST, tempo_cost * abs(np.log2(dt / max(db, 1e-3))))
                    if way < cost:
                        cost = way
                        from_heard[i, place] = back_i
                        from_asked[i, place] = back_j
            total[i, place] = cost + pitch_cost[i, kind[j]] + unclear_cost[i, sort[j]] - (PINNED_WORTH if here else 0.0)
            end = total[i, place] + min(most, outside * (left[n] - left[i + 1])) + MISSED_COST * (m - 1 - j)
            if end < best:
                best, best_i, best_j = end, i, j
    pairs = np.full(m, -1, np.int64)
    i, j = best_i, best_j
    while i >= 0:
        pairs[j] = i
        place = j - base[i]
        i, j = from_heard[i, place], from_asked[i, place]
    return pairs
