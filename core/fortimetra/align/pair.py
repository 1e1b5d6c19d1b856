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

from fortimetra.align.cheapest import COSTS, FREE, AskedArrays, HeardArrays, Pulse, cheapest
from fortimetra.align.costs import (
    again_costs,
    leave_costs,
    loudness,
    owners,
    pitch_costs,
    pitches,
    sorts,
    tonal,
    unclear_costs,
)  # fmt: skip
from fortimetra.align.match import AskedEvent, Attempt, Match, asked_events, misfit_semitones, no_notes, under_slide
from fortimetra.align.settings import MATCH
from fortimetra.align.swings import Swings, asked_swings, swing_costs
from fortimetra.errors import TakeError
from fortimetra.hear.notes import HeardNote
from fortimetra.hear.salience import Salience
from fortimetra.hear.settings import ONSETS
from fortimetra.model.drill import Drill


def match(
    heard: Sequence[HeardNote],
    drill: Drill,
    told: Salience | None = None,
    pinned: NDArray[np.int64] | None = None,
    *,
    first_beat_s: float | None = None,
    off_cents: float | None = None,
    swings: Swings | None = None,
) -> Match:
    """Pair heard and asked notes.

    told: what the spectrum after each attack holds, where it was looked at; its places are the heard notes.
    pinned: for each asked event the place of the heard note it is, NOT_PLAYED, or FREE, as somebody who listened said;
    shape (n_events,).
    off_cents: how far everything that is heard lies off the semitones, where it is all alike.
    swings: how quickly each heard note's pitch swings, where only that tells notes of one pitch apart.
    first_beat_s: where beat 0 is heard, where the recorder knows; it tells which of several like repeats was played.
    Without it the first of them was. Raises TakeError: no_notes if nothing was heard, wrong_drill if what was heard
    does not look like the drill.
    """
    events = asked_events(drill)
    if not heard:
        raise no_notes()
    given = _Given(heard, events, drill, told, pinned, first_beat_s, off_cents, swings)
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
    swings: Swings | None


def _paired(given: _Given, pace: float = 1.0) -> Match:
    """The cheapest pairing, a beat taking pace times as long as asked; it may be of a take of another drill."""
    heard, events, drill, told = given.heard, given.events, given.drill, given.told
    offset = 0.0
    path = _path(given, offset, pace)
    pairs = _counting(path, len(events))
    differences = _differences(heard, events, pairs)
    if len(differences) < MATCH.least_offset_notes and given.off_cents is not None:
        differences = [given.off_cents] * MATCH.least_offset_notes
    if whole_guitar(differences, drill):
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
    return bool(misfit_semitones(note, event, offset_cents) > MATCH.elsewhere_semitones)


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


def whole_guitar(differences: Sequence[float], drill: Drill) -> bool:
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
    by_contour = misfit_semitones(note, event, offset_cents)
    if told.misfit(place, asked) < (MATCH.told_as_asked_short if _short(note) else MATCH.told_as_asked):
        return min(by_contour, 0.0)
    return min(by_contour, abs(told.best_midi(place) - asked)) if _short(note) else None


def _short(note: HeardNote) -> bool:
    return bool(np.isnan(note.start_midi)) or note.end_s - note.onset_s < MATCH.contour_from_s


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


def _tempo_cost(drill: Drill, *, clicked: bool) -> float:
    """What it costs that the time between two notes is twice or half of what is asked."""
    if drill.tempo is None:
        return MATCH.free_tempo_cost_per_octave
    return MATCH.clicked_tempo_cost_per_octave if clicked else MATCH.tempo_cost_per_octave


def _path(given: _Given, offset_cents: float, pace: float) -> Path:
    """(heard note, asked event) in order of time; an event may come several times, where it was begun again."""
    events, drill, first_beat_s = given.events, given.drill, given.first_beat_s
    spb = pace * drill.seconds_per_beat
    chords = tuple(dict.fromkeys(pitches(e) for e in events if len(e.notes) > 1))
    kinds, kind = np.unique(_kinds(given, chords, pace), axis=0, return_inverse=True)
    path = cheapest(
        _heard_arrays(given, kinds, chords, offset_cents),
        AskedArrays(
            np.array([drill.played_beat(e.beat) * spb for e in events]),
            kind.reshape(-1).astype(np.int64),
            sorts(events),
            np.full(len(events), FREE) if given.pinned is None else given.pinned,
            np.array([e.notes[0].repeat for e in events], dtype=np.int64),
            again_costs(events, drill),
            np.array([e.notes[0].event.length * spb for e in events]),
            np.array([e.notes[0].event.articulation != "slide" for e in events]),
        ),
        Pulse(
            np.nan if first_beat_s is None else first_beat_s,
            spb if drill.tempo else np.nan,
            _tempo_cost(drill, clicked=first_beat_s is not None),
        ),
        COSTS,
    )
    return [(int(i), int(j)) for i, j in path]


def _kinds(given: _Given, chords: tuple[tuple[int, ...], ...], pace: float) -> NDArray[np.float64]:
    """What is asked of each event, a row of five: where its pitch starts and where it goes (MIDI), its chord (0: none,
    else its number from 1), the rate (Hz) and width (cents) of its vibrato, -1 where none is asked or none tells.
    """
    events, drill = given.events, given.drill
    nothing = np.zeros(len(events))
    swing = Swings(nothing, nothing)
    if given.swings is not None:
        swing = asked_swings(events, drill.at(drill.tempo.bpm / pace if drill.tempo else None))
    number = [float(chords.index(pitches(e)) + 1) if len(e.notes) > 1 else 0.0 for e in events]
    pitch = [[e.start_midi, e.main_midi] for e in events]
    return np.column_stack([pitch, number, np.nan_to_num(swing.hz, nan=-1.0), np.nan_to_num(swing.cents, nan=-1.0)])


def _heard_arrays(
    given: _Given, kinds: NDArray[np.float64], chords: tuple[tuple[int, ...], ...], offset_cents: float
) -> HeardArrays:
    """What is heard, with what it would cost as each of the kinds, as something unclear, and left out."""
    heard = given.heard
    how_tonal = tonal(given.told, len(heard), chords, offset_cents) * loudness(heard)
    told_unclear = MATCH.noise_cost * (1.0 - how_tonal[:, None]) * np.array([[1.0, 1.0, 1.0, 0.0]])
    costs = pitch_costs(heard, kinds, chords, offset_cents, given.told)
    if given.swings is not None:
        open_ = np.where(kinds < 0.0, np.nan, kinds)
        costs = costs + swing_costs(given.swings, Swings(open_[:, 3], open_[:, 4]))
    return HeardArrays(
        np.array([n.onset_s for n in heard]),
        costs,
        unclear_costs(heard) + told_unclear,
        leave_costs(heard) * how_tonal,
        owners(given.pinned, len(heard)),
    )
