"""Which heard note is which asked one: the cheapest way through both, over all repeats.

Method: dynamic programming over pairs (heard note, asked event), each pair costing what pitch and the time since
the last pair say against it, each note left out on either side costing too (global alignment with gaps; Needleman
& Wunsch, J. Mol. Biol. 48(3), 1970). The whole take is solved at once, so one wrong note does not shift the rest.
Costs are in units of "one semitone wrong", capped: they say what is likelier, not how clean it is.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from typing import Any

import numpy as np
from numba import njit

from fortimetra.errors import TakeError
from fortimetra.hear.notes import HeardNote
from fortimetra.model.drill import AskedNote, Drill
from fortimetra.units import A4_HZ, FloatArray, hz_to_midi

MISSED_COST = 1.2
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
BAND = 500
LOOKS_WRONG_SHARE = 0.34


@dataclass(frozen=True)
class AskedEvent:
    """What one event of one repeat should sound like, before anyone plays it (A4 = 440 Hz scale)."""

    notes: tuple[AskedNote, ...]
    beat: float
    start_midi: float
    main_midi: float


@dataclass(frozen=True)
class Match:
    """heard[i] is the heard note of asked event i, or None; extras are heard notes nobody asked for, inside the playing."""

    events: tuple[AskedEvent, ...]
    heard: tuple[HeardNote | None, ...]
    extras: tuple[HeardNote, ...]
    offset_cents: float

    def fits(self, index: int) -> bool:
        """Whether event `index` was played at about its pitch."""
        note = self.heard[index]
        return note is not None and _misfit(note, self.events[index], self.offset_cents) < FITS_SEMITONES


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
        events.append(AskedEvent(tuple(notes), first.beat, start, main))
    return tuple(events)


def match(heard: Sequence[HeardNote], drill: Drill) -> Match:
    """Pair heard and asked notes.

    Raises TakeError: no_notes if nothing was heard, wrong_drill if what was heard does not look like the drill.
    """
    events = asked_events(drill)
    if not heard:
        raise TakeError("no_notes", "No notes were found in the recording; check the input level and record again.")
    offset = 0.0
    pairs = _pair(heard, events, drill, offset)
    differences = [
        100.0 * (heard[i].plain_midi - events[j].start_midi)
        for j, i in enumerate(pairs)
        if i >= 0 and events[j].notes[0].bend is None and abs(heard[i].plain_midi - events[j].start_midi) < 1.5
    ]
    if len(differences) >= 3 and abs(float(np.median(differences))) > 20.0:
        # A guitar out of tune as a whole: align by what it is tuned to.
        offset = float(np.median(differences))
        pairs = _pair(heard, events, drill, offset)
    chosen = tuple(heard[i] if i >= 0 else None for i in pairs)
    used = sorted(i for i in pairs if i >= 0)
    extras = tuple(heard[i] for i in range(used[0], used[-1]) if i not in set(used)) if used else ()
    result = Match(events, chosen, extras, offset)
    fitting = sum(result.fits(j) for j in range(len(events)))
    if fitting < LOOKS_WRONG_SHARE * min(len(events), max(len(heard), 3)) or fitting < min(2, len(events)):
        raise TakeError(
            "wrong_drill",
            f"This does not look like the drill “{drill.title}”: {fitting} of its {len(events)} notes fit. "
            "Choose the drill that was played; if an echo or another effect was on, record without it.",
        )
    return result


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


def _pair(heard: Sequence[HeardNote], events: Sequence[AskedEvent], drill: Drill, offset_cents: float) -> list[int]:
    """For each event the index of its heard note, or -1."""
    shift = offset_cents / 100.0
    cost = _cheapest(
        np.array([n.onset_s for n in heard]),
        np.array([[n.start_midi - shift, n.main_midi - shift] for n in heard]),
        np.array([e.beat * drill.seconds_per_beat for e in events]),
        np.array([[e.start_midi, e.main_midi, float(len(e.notes) > 1)] for e in events]),
        TEMPO_COST_PER_OCTAVE if drill.tempo else FREE_TEMPO_COST_PER_OCTAVE,
    )
    return [int(i) for i in cost]


@njit(cache=True)
def _pitch_cost(heard: Any, asked: Any) -> float:
    together = asked[2] > 0.5
    if np.isnan(heard[0]):
        return TOGETHER_COST if together else PITCH_COST_MOST
    if together:  # one pitch is heard of several that sound; which, is chance
        return TOGETHER_COST
    start = abs(heard[0] - asked[0])
    main = abs(heard[1] - asked[1])
    if abs(start - 12.0) < 0.6:
        start = 1.3  # an octave off is more often a slip of the tracker than of the hand
    if abs(main - 12.0) < 0.6:
        main = 1.3
    bent = abs(asked[0] - asked[1]) > 0.1
    semitones = 0.6 * start + 0.4 * main if bent else 0.5 * start + 0.5 * main
    return min(PITCH_COST_MOST, PITCH_COST_PER_SEMITONE * semitones)


@njit(cache=True)
def _cheapest(heard_s: FloatArray, heard_midi: Any, asked_s: FloatArray, asked_midi: Any, tempo_cost: float) -> Any:
    n, m = len(heard_s), len(asked_s)
    width = min(m, 2 * BAND + 1)
    total = np.full((n, width), np.inf)
    from_heard = np.full((n, width), -1, np.int32)
    from_asked = np.full((n, width), -1, np.int32)
    base = np.zeros(n, np.int64)
    best, best_i, best_j = np.inf, -1, -1
    for i in range(n):
        base[i] = max(0, min(m - width, i * m // n - width // 2))
        for place in range(width):
            j = base[i] + place
            cost = OUTSIDE_EXTRA_COST * min(i, 20) + MISSED_COST * j
            for back_i in range(max(0, i - REACH), i):
                dt = max(1e-3, heard_s[i] - heard_s[back_i])
                for back_j in range(max(0, j - REACH), j):
                    at = back_j - base[back_i]
                    if at < 0 or at >= width or total[back_i, at] >= cost:
                        continue
                    db = asked_s[j] - asked_s[back_j]
                    tempo = min(TEMPO_COST_MOST, tempo_cost * abs(np.log2(dt / max(db, 1e-3))))
                    way = total[back_i, at] + EXTRA_COST * (i - back_i - 1) + MISSED_COST * (j - back_j - 1) + tempo
                    if way < cost:
                        cost = way
                        from_heard[i, place] = back_i
                        from_asked[i, place] = back_j
            total[i, place] = cost + _pitch_cost(heard_midi[i], asked_midi[j])
            end = total[i, place] + OUTSIDE_EXTRA_COST * min(n - 1 - i, 20) + MISSED_COST * (m - 1 - j)
            if end < best:
                best, best_i, best_j = end, i, j
    pairs = np.full(m, -1, np.int64)
    i, j = best_i, best_j
    while i >= 0:
        pairs[j] = i
        place = j - base[i]
        i, j = from_heard[i, place], from_asked[i, place]
    return pairs
