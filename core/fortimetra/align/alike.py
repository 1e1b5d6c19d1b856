"""Which of several like notes in a row is which: the pairing knows pitches and what lies between two notes; where one
pitch is asked again and again, a sound too many and one too few further on look the same to it as none. The beat
tells.
"""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import replace

import numpy as np

from fortimetra.align.match import Match
from fortimetra.align.settings import ALIKE
from fortimetra.hear.notes import HeardNote
from fortimetra.units import FloatArray


def by_the_beat(
    match: Match, seconds_per_beat: float, fixed: frozenset[int] = frozenset(), *, first_beat_s: float | None = None
) -> Match:
    """The match with the notes of each run of like events paired with the sounds that lie nearest to where they are
    due, by the click or by the notes about them.

    fixed: events whose sound somebody has named. first_beat_s: where the click says that beat 0 lies. A run is changed
    only where that explains the sounds clearly better and the notes before and after are on time.
    """
    for first, last in _runs(match, fixed):
        due_s = _due_s(match, first, last, seconds_per_beat, first_beat_s)
        if np.isfinite(due_s).all():  # else nothing was heard about some of them
            match = _paired_anew(match, first, due_s, seconds_per_beat)
    return match


def _paired_anew(match: Match, first: int, due_s: FloatArray, seconds_per_beat: float) -> Match:
    """The match with one run paired by when its events are due, where that is clearly better."""
    last = first + len(due_s)
    slot_s = float(np.min(np.diff(due_s)))
    old = match.heard[first:last]
    near = [n for n in match.extras if due_s[0] - 0.5 * slot_s < n.onset_s < due_s[-1] + 0.5 * slot_s]
    sounds = sorted([*(n for n in old if n is not None), *near], key=lambda n: n.onset_s)
    places = {id(n): k for k, n in enumerate(sounds)}
    step = np.minimum(
        np.abs(due_s[:, None] - np.array([n.onset_s for n in sounds])[None, :]) / slot_s, ALIKE.farthest_slots
    )
    before = [-1 if n is None else places[id(n)] for n in old]
    after = _cheapest(step)
    if _cost(before, step) - _cost(after, step) < ALIKE.least_gain:
        return match
    changed = [first + place for place, (a, b) in enumerate(zip(before, after, strict=True)) if a != b]
    offset_s = float(due_s[-1]) - match.events[last - 1].beat * seconds_per_beat
    if not _on_time_about(match, changed[0], changed[-1], seconds_per_beat, offset_s, slot_s):
        return match
    return _with_run(match, first, before, after, sounds)


def _with_run(match: Match, first: int, before: list[int], after: list[int], sounds: list[HeardNote]) -> Match:
    """The match with the events from `first` on paired as `after` says: for each its place in sounds, or -1."""
    last = first + len(after)
    told = dict(zip(before, match.told_semitones[first:last], strict=False))
    used, known = set(after), {id(n) for n in sounds}
    left = [n for k, n in enumerate(sounds) if k not in used]
    others = [n for n in match.extras if id(n) not in known]
    return replace(
        match,
        heard=(*match.heard[:first], *(sounds[k] if k >= 0 else None for k in after), *match.heard[last:]),
        told_semitones=(
            *match.told_semitones[:first], *(told.get(k) if k >= 0 else None for k in after),
            *match.told_semitones[last:],
        ) if match.told_semitones else (),
        extras=tuple(sorted([*others, *left], key=lambda n: n.onset_s)),
    )  # fmt: skip


def _runs(match: Match, fixed: frozenset[int]) -> Iterator[tuple[int, int]]:
    """Stretches of single events of one pitch on one string, without a stop or a named sound in them."""
    first = 0
    for i in range(1, len(match.events) + 1):
        goes_on = (
            i < len(match.events)
            and i not in match.breaks
            and not fixed & {i - 1, i}
            and _pitch(match, i) == _pitch(match, i - 1) is not None
        )
        if not goes_on:
            if i - first >= ALIKE.least_notes and any(n is not None for n in match.heard[first:i]):
                yield first, i
            first = i


def _pitch(match: Match, i: int) -> tuple[int, float, float] | None:
    event = match.events[i]
    if len(event.notes) != 1 or event.notes[0].note.muted:
        return None
    return event.notes[0].note.string, event.start_midi, event.main_midi


def _due_s(match: Match, first: int, last: int, seconds_per_beat: float, first_beat_s: float | None) -> FloatArray:
    """When the events of a run are due: by what was heard of it and about it, without crossing a stop; where there is a
    click, on its beats.
    """
    begins, ends = _section(match, first)
    around = range(max(begins, first - ALIKE.around), min(ends, last + ALIKE.around))
    beat = np.array([match.events[i].beat for i in around])
    late_s = (
        np.array([np.nan if (n := match.heard[i]) is None else n.onset_s for i in around]) - beat * seconds_per_beat
    )
    own = np.arange(first, last) - around.start
    due = np.empty(last - first)
    for place, k in enumerate(own):
        near = late_s[max(0, k - ALIKE.around) : k + ALIKE.around + 1]
        offset_s = float(np.nanmedian(near)) if np.isfinite(near).any() else np.nan
        if first_beat_s is not None and np.isfinite(offset_s):
            # A student may be off by whole beats.
            offset_s = first_beat_s + round((offset_s - first_beat_s) / seconds_per_beat) * seconds_per_beat
        due[place] = beat[k] * seconds_per_beat + offset_s
    return due


def _on_time_about(
    match: Match, first: int, last: int, seconds_per_beat: float, offset_s: float, slot_s: float
) -> bool:
    """Whether the notes before and after a stretch are on time: who slips and stays late has left out no note."""
    begins, ends = _section(match, first)
    after = [i for i in range(last + 1, ends) if match.heard[i] is not None][: ALIKE.neighbours]
    before = [i for i in range(begins, first) if match.heard[i] is not None][-ALIKE.neighbours :]

    def off_s(events: list[int]) -> float:
        found = [
            n.onset_s - match.events[i].beat * seconds_per_beat - offset_s
            for i in events
            if (n := match.heard[i]) is not None
        ]
        return float(np.median(np.abs(found))) if found else 0.0

    return bool(after) and max(off_s(before), off_s(after)) < ALIKE.on_time_slots * slot_s


def _section(match: Match, event: int) -> tuple[int, int]:
    """The events between the stops about one: the first, and the one after the last."""
    return (
        max((b for b in match.breaks if b <= event), default=0),
        min((b for b in match.breaks if b > event), default=len(match.events)),
    )


def _cost(pairs: list[int], step: FloatArray) -> float:
    """Of a pairing, in slots: how far sounds are from where they are due, and what is left over on either side."""
    paired = [(j, k) for j, k in enumerate(pairs) if k >= 0]
    left = sum(step.shape) - 2 * len(paired)
    return float(sum(step[j, k] for j, k in paired)) + ALIKE.left_over * left


def _cheapest(step: FloatArray) -> list[int]:
    """For each event the sound it is, in order, or -1; the pairing of least cost. step: shape (n_events, n_sounds)."""
    rows, columns = step.shape
    best = np.zeros((rows + 1, columns + 1))
    best[:, 0] = np.arange(rows + 1) * ALIKE.left_over
    best[0, :] = np.arange(columns + 1) * ALIKE.left_over
    for j in range(1, rows + 1):
        row = np.minimum(best[j - 1, :-1] + step[j - 1], best[j - 1, 1:] + ALIKE.left_over)
        for k in range(1, columns + 1):
            best[j, k] = min(row[k - 1], best[j, k - 1] + ALIKE.left_over)
    found = [-1] * rows
    j, k = rows, columns
    while j > 0 and k > 0:
        if np.isclose(best[j, k], best[j - 1, k - 1] + step[j - 1, k - 1]):
            found[j - 1] = k - 1
            j, k = j - 1, k - 1
        elif np.isclose(best[j, k], best[j - 1, k] + ALIKE.left_over):
            j -= 1
        else:
            k -= 1
    return found
