"""Which heard note is which asked one: the cheapest way through both, over all repeats.

Method: dynamic programming over pairs (heard note, asked event), each pair costing what pitch and the time since
the last pair say against it, each note left out on either side costing too (global alignment with gaps; Needleman
& Wunsch, J. Mol. Biol. 48(3), 1970). The whole take is solved at once, so one wrong note does not shift the rest.
Two more steps follow what people do: breaking off and beginning again, which goes back to an earlier event of the
same repeat, and stopping for a while, after which the next event follows however long that took. What is heard in
between costs little, it is not of the drill. Of several attempts at an event the last counts. Costs are in units of
"one semitone wrong", capped: they say what is likelier, not how clean it is. Rises too soft to be an attack by
themselves take part: leaving one out costs little, and taking one for an asked note costs the more the less clear it
is. What is sought decides, so a soft note is found where the drill has one and nowhere else.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, replace
from itertools import pairwise

import numpy as np
from numpy.typing import NDArray

from fortimetra.align.cheapest import COSTS, FREE, cheapest
from fortimetra.align.settings import MATCH, SEARCH
from fortimetra.errors import TakeError
from fortimetra.hear.notes import HeardNote
from fortimetra.hear.salience import Salience
from fortimetra.hear.settings import NOTES, ONSETS
from fortimetra.model.drill import SLURRED, AskedNote, Drill
from fortimetra.units import A4_HZ, FloatArray, hz_to_midi


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
    off_cents: float | None = None,
) -> Match:
    """Pair heard and asked notes.

    told: what the spectrum after each attack holds, where it was looked at; its places are the heard notes.
    pinned: for each asked event the place of the heard note it is, NOT_PLAYED, or FREE, as somebody who listened said.
    off_cents: how far everything that is heard lies off the semitones, where it is all alike.
    first_beat_s: where beat 0 is heard, where the recorder knows; it tells which of several like repeats was played.
    Without it the first of them was. Raises TakeError: no_notes if nothing was heard, wrong_drill if what was heard
    does not look like the drill.
    """
    events = asked_events(drill)
    if not heard:
        raise no_notes()
    given = _Given(heard, events, drill, told, pinned, first_beat_s, off_cents)
    result = _paired(given)
    fitting, needed = _fitting(result), min(len(events), max(sum(n.strong for n in heard), 3))
    slower = _slower(result, drill)
    if drill.tempo is not None and (fitting < MATCH.other_pace_share * needed or abs(slower) > MATCH.other_pace):
        # Half or double the tempo is the drill all the same.
        for pace in MATCH.paces:
            other = _paired(replace(given, first_beat_s=None), pace)
            nearer = abs(_slower(other, drill) - np.log2(pace)) < abs(slower)
            if _fitting(other) > fitting or (nearer and _fitting(other) == fitting):
                result, fitting = other, _fitting(other)
    if fitting < MATCH.looks_wrong_share * needed or fitting < min(2, len(events)):
        raise TakeError(
            "wrong_drill",
            f"This does not look like the drill “{drill.title}”: {fitting} of its {len(events)} notes fit. "
            "Choose the drill that was played; if an echo or another effect was on, record without it.",
        )
    return result


@dataclass(frozen=True)
class _Given:
    """What is matched, as `match` takes it."""

    heard: Sequence[HeardNote]
    events: tuple[AskedEvent, ...]
    drill: Drill
    told: Salience | None
    pinned: NDArray[np.int64] | None
    first_beat_s: float | None
    off_cents: float | None


def _paired(given: _Given, pace: float = 1.0) -> Match:
    """The cheapest pairing, a beat taking pace times as long as asked; it may be of a take of another drill."""
    heard, events, drill, told = given.heard, given.events, given.drill, given.told
    offset = 0.0
    path = _path(given, offset, pace)
    pairs = _counting(path, len(events))
    differences = _differences(heard, events, pairs)
    if len(differences) < MATCH.least_offset_notes and given.off_cents is not None:
        differences = [given.off_cents] * MATCH.least_offset_notes
    if _whole_guitar(differences, drill):
        # A guitar out of tune as a whole: align by what it is tuned to.
        offset = float(np.median(differences))
        path = _path(given, offset, pace)
        pairs = _counting(path, len(events))
    spb = pace * drill.seconds_per_beat
    return Match(
        events,
        tuple(heard[i] if i >= 0 else None for i in pairs),
        tuple(heard[i] for i in _inside(path, heard, events, spb) if heard[i].stands_alone),
        offset,
        tuple(
            None if i < 0 else _told_semitones(heard[i], event, told, i, offset)
            for i, event in zip(pairs, events, strict=True)
        ),
        _attempts(path, pairs, heard),
        breaks=_breaks(path, heard, events, spb),
        pace=pace,
    )


def _slower(match: Match, drill: Drill) -> float:
    """By how many octaves of tempo it was played slower than asked: from note to note, the median."""
    rows = [(e.beat, n.onset_s) for e, n in zip(match.events, match.heard, strict=True) if n is not None]
    found = [
        np.log2((t1 - t0) / ((b1 - b0) * drill.seconds_per_beat))
        for (b0, t0), (b1, t1) in pairwise(rows)
        if b1 > b0 and t1 > t0
    ]
    return float(np.median(found)) if found else 0.0


def _fitting(match: Match) -> int:
    """How many notes show that it is this drill. What is neither an attack nor a clear rise may be a note of it; it
    does not show that it is.
    """
    return sum(
        match.fits(j) and _shows(note) and not _elsewhere(note, match.events[j], match.offset_cents)
        for j, note in enumerate(match.heard)
    )


def _elsewhere(note: HeardNote | None, event: AskedEvent, offset_cents: float) -> bool:
    """Whether the contour is far from what is asked, whatever the spectrum says: that does not show that it is this
    drill.

    It may be a slip of the tracker by an octave, or follow another string that rings; but not most of the time.
    """
    if note is None or len(event.notes) > 1 or np.isnan(note.start_midi):
        return False
    return bool(_misfit(note, event, offset_cents) > MATCH.elsewhere_semitones)


def _differences(heard: Sequence[HeardNote], events: Sequence[AskedEvent], pairs: Sequence[int]) -> list[float]:
    """How far each note without a bend or a slide lies off its pitch, cents; of several strings, off the nearest one:
    the contour follows one of them. Or a tone that they make together: of a take of such shapes that counts only where
    most of them say something.
    """
    found, looked, shapes = [], 0, 0
    for i, event in zip(pairs, events, strict=True):
        if i < 0 or event.notes[0].bend is not None or event.start_midi != event.main_midi:
            continue
        shift = event.start_midi - event.notes[0].midi
        asked = [n.midi + shift for n in event.notes if not n.note.muted]
        off = min((heard[i].plain_midi - midi for midi in asked), key=abs, default=np.nan)
        looked, shapes = looked + 1, shapes + (len(asked) > 1)
        if abs(off) < (MATCH.fits_semitones if len(asked) > 1 else 2.0 * MATCH.fits_semitones):
            found.append(100.0 * off)
    return [] if 2 * shapes > looked and 2 * len(found) < looked else found


def _whole_guitar(differences: Sequence[float], drill: Drill) -> bool:
    """Whether what the plain notes are off by is the guitar's: much, or flat all alike, for a finger only makes a
    note sharp.

    A slide sets the pitch itself, and may be flat all alike.
    """
    if len(differences) < MATCH.least_offset_notes:
        return False
    middle = float(np.median(differences))
    if abs(middle) > MATCH.detuned_cents:
        return True
    spread = float(np.median(np.abs(np.array(differences) - middle)))
    return not under_slide(drill) and middle < -MATCH.flat_cents and spread < MATCH.alike_cents


def under_slide(drill: Drill) -> bool:
    """Whether a slide stops the strings: then the hand sets every pitch."""
    return any(n.finger == "slide" for e in drill.events for n in e.notes) or drill.family == "bottleneck"


def _shows(note: HeardNote | None) -> bool:
    return note is not None and (note.strong or note.contrast_db >= ONSETS.clear_db)


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
    if told.misfit(place, asked) < (MATCH.told_as_asked_short if _short(note) else MATCH.told_as_asked):
        return min(by_contour, 0.0)
    return min(by_contour, abs(told.best_midi(place) - asked)) if _short(note) else None


def _short(note: HeardNote) -> bool:
    return bool(np.isnan(note.start_midi)) or note.end_s - note.onset_s < MATCH.contour_from_s


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
    misfit = max(low - (note.start_midi - shift), (note.start_midi - shift) - high, 0.0)
    if event.notes[0].event.articulation == "slide" and not np.isnan(note.main_midi):
        # Heard on its way, it is what it comes to.
        misfit = min(misfit, abs(note.main_midi - shift - event.main_midi))
    return misfit


Path = list[tuple[int, int]]


def _counting(path: Path, n_events: int) -> list[int]:
    """For each event the index of the heard note that counts, the last one, or -1."""
    pairs = [-1] * n_events
    for i, j in path:
        pairs[j] = i
    return pairs


def _attempts(path: Path, pairs: Sequence[int], heard: Sequence[HeardNote]) -> tuple[Attempt, ...]:
    """Passages another attempt took the place of."""
    found: list[Path] = []
    before = -1
    for number, (i, j) in enumerate(path):
        if pairs[j] == i:
            before = -1
            continue
        if before >= 0 and j > path[before][1]:
            found[-1].append((i, j))
        else:
            found.append([(i, j)])
        before = number
    return tuple(Attempt(tuple(heard[i] for i, _ in run), tuple(j for _, j in run)) for run in found)


def _stopped(
    path: Path, number: int, heard: Sequence[HeardNote], events: Sequence[AskedEvent], spb: float, slots: float = 2.0
) -> bool:
    """Whether the student had stopped, or began again, before pair `number` of the path; slots: of how many lengths
    of what is asked a wait is none.
    """
    (i, j), (next_i, next_j) = path[number - 1], path[number]
    asked_s = (events[next_j].beat - events[j].beat) * spb
    return bool(next_j <= j or heard[next_i].onset_s - heard[i].onset_s > slots * asked_s + MATCH.stopped_s)


def _breaks(path: Path, heard: Sequence[HeardNote], events: Sequence[AskedEvent], spb: float) -> tuple[int, ...]:
    return tuple(sorted({path[k][1] for k in range(1, len(path)) if _stopped(path, k, heard, events, spb, 1.0)}))


def _inside(path: Path, heard: Sequence[HeardNote], events: Sequence[AskedEvent], spb: float) -> list[int]:
    """Heard notes between paired ones; not those heard while the student had stopped."""
    found: list[int] = []
    for number in range(1, len(path)):
        i, next_i = path[number - 1][0], path[number][0]
        if not _stopped(path, number, heard, events, spb):
            found += range(i + 1, next_i)
        else:
            # What follows a note closely is still its own: a double hit, a stutter.
            found += [k for k in range(i + 1, next_i) if heard[k].onset_s - heard[i].onset_s < MATCH.near_s]
    return found


def _path(given: _Given, offset_cents: float, pace: float) -> Path:
    """(heard note, asked event) in order of time; an event may come several times, where it was begun again."""
    heard, events, drill = given.heard, given.events, given.drill
    told, pinned, first_beat_s = given.told, given.pinned, given.first_beat_s
    spb = pace * drill.seconds_per_beat
    chords: dict[tuple[int, ...], int] = {}
    for event in events:
        if len(event.notes) > 1:
            chords.setdefault(_pitches(event), len(chords) + 1)
    rows = [
        [e.start_midi, e.main_midi, float(chords[_pitches(e)]) if len(e.notes) > 1 else 0.0] for e in events
    ]  # fmt: skip
    how_tonal = tonal(told, len(heard), tuple(chords), offset_cents) * loudness(heard)
    kinds, kind = np.unique(np.array(rows), axis=0, return_inverse=True)
    asked_s = np.array([drill.played_beat(e.beat) * spb for e in events])
    path = cheapest(
        np.array([n.onset_s for n in heard]),
        _pitch_costs(heard, kinds, tuple(chords), offset_cents, told),
        _unclear_costs(heard) + MATCH.noise_cost * (1.0 - how_tonal[:, None]) * np.array([[1.0, 1.0, 1.0, 0.0]]),
        _leave_costs(heard) * how_tonal,
        asked_s,
        kind.reshape(-1).astype(np.int64),
        _sorts(events),
        MATCH.tempo_cost_per_octave if drill.tempo else MATCH.free_tempo_cost_per_octave,
        np.full(len(events), FREE) if pinned is None else pinned,
        _owners(pinned, len(heard)),
        np.nan if first_beat_s is None else first_beat_s,
        spb if drill.tempo else np.nan,
        np.array([e.notes[0].repeat for e in events], dtype=np.int64),
        _again_costs(events, drill),
        np.array([e.notes[0].event.length * spb for e in events]),
        COSTS,
    )
    return [(int(i), int(j)) for i, j in path]


def tonal(
    told: Salience | None, n_heard: int, chords: Sequence[tuple[int, ...]] = (), offset_cents: float = 0.0
) -> FloatArray:
    """How surely each heard note is of a string, or of strings struck together, 0 to 1; 1 where nothing tells."""
    if told is None:
        return np.ones(n_heard)
    low, high = MATCH.tonal
    best = told.tonal.astype(np.float64)
    if chords:
        best = np.maximum(best, _chord_fits(told, chords, offset_cents).max(axis=1))
    return np.asarray(np.clip((best - low) / (high - low), 0.0, 1.0))


def loudness(heard: Sequence[HeardNote]) -> FloatArray:
    """How loud each heard note is beside those of the take, 0 to 1: far under them hardly anything is a note."""
    level = np.array([n.level_dbfs for n in heard])
    strong = level[np.array([n.strong for n in heard], dtype=bool)]
    if not len(strong):
        return np.ones(len(level))
    under = np.percentile(strong, MATCH.loud_percentile) - level
    soft, gone = MATCH.soft_db
    return np.asarray(np.clip((gone - under) / (gone - soft), 0.0, 1.0))


def _again_costs(events: Sequence[AskedEvent], drill: Drill) -> FloatArray:
    """What it costs to begin again at each event."""
    repeat, bar, anywhere = SEARCH.again_cost
    per_bar = drill.tempo.beats_per_bar if drill.tempo else 0
    costs = np.full(len(events), anywhere)
    last = -1
    for j, event in enumerate(events):
        note = event.notes[0]
        if note.repeat != last:
            costs[j], last = repeat, note.repeat
        elif per_bar and abs(note.event.beat / per_bar - round(note.event.beat / per_bar)) < 1e-6:
            costs[j] = bar
        if note.event.articulation in SLURRED:
            costs[j] = np.inf  # nobody begins with a slur
    return costs


def _owners(pinned: NDArray[np.int64] | None, n_heard: int) -> NDArray[np.int64]:
    """For each heard note the event it is pinned to, or FREE."""
    owners = np.full(n_heard, FREE)
    if pinned is not None:
        held = np.flatnonzero(pinned >= 0)
        owners[pinned[held]] = held
    return owners


def _sorts(events: Sequence[AskedEvent]) -> NDArray[np.int64]:
    """Which of MATCH.unclear_cost an event takes."""
    sorts = np.zeros(len(events), np.int64)
    for i, event in enumerate(events):
        if all(n.note.muted for n in event.notes):
            sorts[i] = 3  # a muted stroke has no pitch to be told from noise by
        elif event.notes[0].event.articulation in SLURRED:
            sorts[i] = 2
        elif i and events[i - 1].main_midi == event.start_midi:
            sorts[i] = 1
    return sorts


def _unclear_costs(heard: Sequence[HeardNote]) -> FloatArray:
    unclear = np.array([1.0 - max(n.clearness, min(1.0, n.contrast_db / MATCH.clear_contrast_db)) for n in heard])
    picked, same, slurred = MATCH.unclear_cost
    weak = MATCH.weak_cost * np.array([1.0 - _firmness(n) for n in heard])
    return np.asarray(unclear[:, None] * np.array([[picked, same, slurred, picked]]) + weak[:, None])


def _leave_costs(heard: Sequence[HeardNote]) -> FloatArray:
    """What it costs that nobody asked for a note, the less the less clear it is."""
    weak = np.array([1.0 - MATCH.weak_share * (1.0 - _firmness(n)) for n in heard])
    return np.asarray(SEARCH.extra_cost * np.array([n.clearness for n in heard]) ** 2 * weak)


def _firmness(note: HeardNote) -> float:
    """How far beyond an attack that is hardly one a rise is, to 1."""
    return min(1.0, max(note.rise_db / NOTES.alone_firm_rise_db, note.contrast_db / MATCH.clear_contrast_db))


def _pitch_costs(
    heard: Sequence[HeardNote],
    kinds: FloatArray,
    chords: Sequence[tuple[int, ...]],
    offset_cents: float,
    told: Salience | None,
) -> FloatArray:
    """What each heard note's pitch says against each kind of event; shape (n_heard, n_kinds).

    kinds: start, main, and for strings struck together the place of their pitches in chords, from 1.
    """
    start = np.array([n.start_midi for n in heard])[:, None] - offset_cents / 100.0
    main = np.array([n.main_midi for n in heard])[:, None] - offset_cents / 100.0
    bent = np.abs(kinds[:, 0] - kinds[:, 1]) > 0.1
    together = kinds[:, 2] > 0.5
    share = np.where(bent, 0.6, 0.5)
    away = share * _semitones(start - kinds[:, 0]) + (1.0 - share) * _semitones(main - kinds[:, 1])
    costs = np.minimum(MATCH.pitch_cost_most, MATCH.pitch_cost_per_semitone * np.where(np.isnan(away), np.inf, away))
    if told is not None:
        at = np.round(kinds[:, 0] + offset_cents / 100.0).astype(np.int64) - told.lowest_midi
        inside = (at >= 0) & (at < told.score.shape[1])
        worse = told.tonal[:, None] - told.score[:, np.clip(at, 0, told.score.shape[1] - 1)]
        spectral = np.where(
            inside, np.minimum(MATCH.pitch_cost_most, MATCH.salience_cost * worse), MATCH.pitch_cost_most
        )
        costs = np.where(bent[None, :], costs, np.minimum(spectral, costs))
    # Of strings struck together one pitch is heard of several that sound; which, is chance.
    costs = np.where(together[None, :], MATCH.together_cost, costs)
    if told is not None and len(chords) > 1:
        costs[:, together] = _chord_costs(told, chords, offset_cents)[:, kinds[together, 2].astype(np.int64) - 1]
    return costs


def _pitches(event: AskedEvent) -> tuple[int, ...]:
    """What sounds of strings struck together, semitones."""
    base = event.start_midi - event.notes[0].midi
    return tuple(sorted(round(n.midi + base) for n in event.notes if not n.note.muted)) or (round(event.start_midi),)


def _chord_costs(told: Salience, chords: Sequence[tuple[int, ...]], offset_cents: float) -> FloatArray:
    """What the spectrum after each attack says against each chord of the drill, beside what fits best: one of them,
    or a single note.

    Shape (n_heard, n_chords).
    """
    fits = _chord_fits(told, chords, offset_cents)
    worse = np.maximum(fits.max(axis=1), told.tonal)[:, None] - fits
    return np.asarray(0.5 * MATCH.together_cost + np.minimum(MATCH.chord_cost_most, MATCH.chord_cost * worse))


def _chord_fits(told: Salience, chords: Sequence[tuple[int, ...]], offset_cents: float) -> FloatArray:
    """How well each chord of the drill fits, shape (n_heard, n_chords).

    The combs of a chord's notes hardly share teeth, so that of the chord is their sum over √k.
    """
    shift = round(offset_cents / 100.0) - told.lowest_midi
    fits = np.empty((len(told.score), len(chords)))
    for number, chord in enumerate(chords):
        at = np.clip(np.array(chord) + shift, 0, told.score.shape[1] - 1)
        fits[:, number] = told.score[:, at].sum(axis=1) / np.sqrt(len(chord))
    return fits


def _semitones(difference: FloatArray) -> FloatArray:
    """An octave off is more often a slip of the tracker than of the hand."""
    away = np.abs(difference)
    return np.where(np.abs(away - 12.0) < 0.6, 1.3, away)
