"""What the alignment's pairs cost: how each heard note's pitch, clearness and loudness speak against each event.

All in units of "one semitone wrong", capped; arrays over heard notes, kinds of event or events, as `cheapest` takes
them.
"""

from __future__ import annotations

from collections.abc import Sequence
from functools import lru_cache
from itertools import combinations, product

import numpy as np
from numpy.typing import NDArray

from fortimetra.align.cheapest import FREE
from fortimetra.align.match import AskedEvent
from fortimetra.align.settings import MATCH, SEARCH
from fortimetra.hear.notes import HeardNote
from fortimetra.hear.salience import Salience
from fortimetra.hear.settings import NOTES, ONSETS
from fortimetra.model.drill import SLURRED, Drill
from fortimetra.units import FloatArray

# Difference tones m·f₁ − n·f₂ up to this m and n: the root of a sixth (5 : 3) is 2·f₁ − f₂.
_MOST_ORDER = 3
# Two octaves and a fifth below a chord: its lowest note is the sixth partial there.
_LOWEST_ROOT = 31


def tonal(
    told: Salience | None, n_heard: int, chords: Sequence[tuple[int, ...]] = (), offset_cents: float = 0.0
) -> FloatArray:
    """How surely each heard note is of a string, or of strings struck together, 0 to 1, shape (n_heard,); 1 where
    nothing tells.
    """
    if told is None:
        return np.ones(n_heard)
    low, high = MATCH.tonal
    best = told.tonal.astype(np.float64)
    if chords:
        best = np.maximum(best, _chord_fits(told, chords, offset_cents).max(axis=1))
    return np.asarray(np.clip((best - low) / (high - low), 0.0, 1.0))


def loudness(heard: Sequence[HeardNote]) -> FloatArray:
    """How loud each heard note is beside those of the take, 0 to 1, shape (n_heard,): far under them hardly anything is
    a note.
    """
    level = np.array([n.level_dbfs for n in heard])
    strong = level[np.array([n.strong for n in heard], dtype=bool)]
    if not len(strong):
        return np.ones(len(level))
    under = np.percentile(strong, MATCH.loud_percentile) - level
    soft, gone = MATCH.soft_db
    return np.asarray(np.clip((gone - under) / (gone - soft), 0.0, 1.0))


def again_costs(events: Sequence[AskedEvent], drill: Drill) -> FloatArray:
    """What it costs to begin again at each event, shape (n_events,)."""
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


def owners(pinned: NDArray[np.int64] | None, n_heard: int) -> NDArray[np.int64]:
    """For each heard note the event it is pinned to, or FREE, shape (n_heard,); pinned: shape (n_events,)."""
    owners = np.full(n_heard, FREE)
    if pinned is not None:
        held = np.flatnonzero(pinned >= 0)
        owners[pinned[held]] = held
    return owners


def sorts(events: Sequence[AskedEvent]) -> NDArray[np.int64]:
    """Which of MATCH.unclear_cost each event takes, shape (n_events,)."""
    sorts = np.zeros(len(events), np.int64)
    for i, event in enumerate(events):
        if all(n.note.muted for n in event.notes):
            sorts[i] = 3  # a muted stroke has no pitch to be told from noise by
        elif event.notes[0].event.articulation in SLURRED:
            sorts[i] = 2
        elif i and event.begins_where(events[i - 1]):
            sorts[i] = 1
    return sorts


def unclear_costs(heard: Sequence[HeardNote]) -> FloatArray:
    """What it costs to take each heard note for an event, the more the less clear it is, shape (n_heard, 4): by the
    sorts of `sorts`.
    """
    unclear = np.array([1.0 - max(n.clearness, min(1.0, n.contrast_db / MATCH.clear_contrast_db)) for n in heard])
    picked, same, slurred = MATCH.unclear_cost
    weak = MATCH.weak_cost * np.array([1.0 - _firmness(n) for n in heard])
    return np.asarray(unclear[:, None] * np.array([[picked, same, slurred, picked]]) + weak[:, None])


def leave_costs(heard: Sequence[HeardNote]) -> FloatArray:
    """What it costs that nobody asked for a note, the less the less clear it is, shape (n_heard,)."""
    weak = np.array(
        [MATCH.chance_share if _by_chance(n) else 1.0 - MATCH.weak_share * (1.0 - _firmness(n)) for n in heard]
    )
    return np.asarray(SEARCH.extra_cost * np.array([n.clearness for n in heard]) ** 2 * weak)


def _by_chance(note: HeardNote) -> bool:
    """Whether a rise may come of a room or of drive: neither an attack nor large, and no step of pitch."""
    return note.kind == "attack" and note.contrast_db < ONSETS.clear_db and note.rise_db < NOTES.alone_firm_rise_db


def _firmness(note: HeardNote) -> float:
    """How far beyond an attack that is hardly one a rise is, to 1."""
    return min(1.0, max(note.rise_db / NOTES.alone_firm_rise_db, note.contrast_db / MATCH.clear_contrast_db))


def pitch_costs(
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
    bent = kinds[:, 0] != kinds[:, 1]
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


def pitches(event: AskedEvent) -> tuple[int, ...]:
    """What sounds of strings struck together, semitones."""
    base = event.start_midi - event.notes[0].midi
    return tuple(sorted(round(n.midi + base) for n in event.notes if not n.note.muted)) or (round(event.start_midi),)


def _chord_costs(told: Salience, chords: Sequence[tuple[int, ...]], offset_cents: float) -> FloatArray:
    """What the spectrum after each attack says against each chord of the drill, beside what fits best: one of them,
    or a single note that the chord does not make by itself.

    Shape (n_heard, n_chords).
    """
    fits = _chord_fits(told, chords, offset_cents)
    singles = np.stack([_best_single(told, chord, offset_cents) for chord in chords], axis=1)
    worse = np.maximum(fits.max(axis=1)[:, None], singles) - fits
    return np.asarray(0.5 * MATCH.together_cost + np.minimum(MATCH.chord_cost_most, MATCH.chord_cost * worse))


def _best_single(told: Salience, chord: Sequence[int], offset_cents: float) -> FloatArray:
    """How well the best semitone fits, shape (n_heard,), but for those below a chord that it makes by itself."""
    others = np.ones(told.all_score.shape[1], dtype=bool)
    at = np.array(_roots(tuple(chord)), dtype=np.int64) + round(offset_cents / 100.0) - told.all_midi
    others[at[(at >= 0) & (at < len(others))]] = False
    return np.asarray(told.all_score[:, others].max(axis=1, initial=0.0), dtype=np.float64)


@lru_cache(maxsize=256)
def _roots(chord: tuple[int, ...]) -> tuple[int, ...]:
    """Semitones below a chord that its notes make together: of which all of them are partials, as a fifth and a sixth
    are of one low root, and difference tones (m·f₁ − n·f₂), which drive makes.
    """
    hz = 2.0 ** (np.array(chord) / 12.0)
    found = set()
    for root in range(chord[0] - _LOWEST_ROOT, chord[0]):
        ratio = hz / 2.0 ** (root / 12.0)
        if np.all(np.abs(1200.0 * np.log2(ratio / np.round(ratio))) < MATCH.root_cents):
            found.add(root)
    for low, high in combinations(hz.tolist(), 2):
        for m, n in product(range(1, _MOST_ORDER + 1), repeat=2):
            tone = abs(m * low - n * high)
            if tone > 2.0 ** (-_LOWEST_ROOT / 12.0) * hz[0]:
                found.add(round(12.0 * float(np.log2(tone))))
    return tuple(sorted(root for root in found if root < chord[0]))


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
    return np.where(np.abs(away - 12.0) < MATCH.octave_semitones, MATCH.octave_as_semitones, away)
