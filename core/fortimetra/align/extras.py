"""What was played that nobody asked for, by name: double hit, stutter, restart, or just extra."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from typing import Literal

import numpy as np

from fortimetra.align.match import Match
from fortimetra.align.settings import EXTRAS
from fortimetra.hear.notes import HeardNote
from fortimetra.model.drill import Drill
from fortimetra.units import FloatArray

ExtraKind = Literal["extra", "double_hit", "stutter", "restart"]


@dataclass(frozen=True)
class NamedExtra:
    """An extra note, what it is, and the asked event it stands nearest to (its place in the match)."""

    note: HeardNote
    kind: ExtraKind
    near: int


def double_limit_s(slot_s: float) -> float:
    """How soon after a note a second attack counts as a double hit."""
    return min(EXTRAS.double_s, EXTRAS.double_share * slot_s)


def name_extras(match: Match, drill: Drill) -> tuple[NamedExtra, ...]:
    """Every extra note of a match with its kind."""
    chosen = match.extras
    heard = [(note.onset_s, i) for i, note in enumerate(match.heard) if note is not None]
    if not heard or not chosen:
        return ()
    onsets = np.array([t for t, _ in heard])
    places = [i for _, i in heard]
    runs = _restarts(match, chosen)
    named = []
    for number, extra in enumerate(chosen):
        nearest = int(np.argmin(np.abs(onsets - extra.onset_s)))
        before = int(np.searchsorted(onsets, extra.onset_s)) - 1
        of = _doubled(extra, before, match, drill, onsets, places)
        kind: ExtraKind = "extra"
        if number in runs:
            kind = "restart"
        elif of is not None:
            kind, nearest = "double_hit", nearest if of == before else of
        elif _same(extra, match, places[nearest]) or (before >= 0 and _same(extra, match, places[before])):
            kind = "stutter"
        named.append(NamedExtra(extra, kind, places[nearest]))
    return tuple(named)


def _doubled(
    extra: HeardNote, before: int, match: Match, drill: Drill, onsets: FloatArray, places: Sequence[int]
) -> int | None:
    """The place in onsets of the note that an extra is the second stroke of: of the one before it, else of the next,
    where it has its pitch or none.
    """

    def within(place: int, apart_s: float) -> bool:
        slot_s = match.events[places[place]].notes[0].event.length * drill.seconds_per_beat
        return apart_s <= double_limit_s(slot_s)

    if before >= 0 and within(before, extra.onset_s - onsets[before]):
        return before
    after = before + 1
    if after == len(onsets) or not within(after, onsets[after] - extra.onset_s):
        return None
    return after if np.isnan(extra.start_midi) or _same(extra, match, places[after]) else None


def _same(extra: HeardNote, match: Match, index: int) -> bool:
    """Whether an extra has the pitch of an asked event."""
    asked = match.events[index].start_midi + match.offset_cents / 100.0
    return bool(abs(extra.start_midi - asked) < EXTRAS.same_semitones)


def _restarts(match: Match, extras: Sequence[HeardNote]) -> set[int]:
    """Extras that follow one another with the pitches of a stretch of the drill: a passage begun and begun again."""
    asked = np.array([e.start_midi for e in match.events]) + match.offset_cents / 100.0
    taken = np.array([n.onset_s for n in match.heard if n is not None])
    found: set[int] = set()
    first = 0
    while first < len(extras):
        last = first
        while last + 1 < len(extras) and not np.any(
            (taken > extras[last].onset_s) & (taken < extras[last + 1].onset_s)
        ):
            last += 1
        count = last - first + 1
        if count >= EXTRAS.least_restart_notes and count <= len(asked):
            played = np.array([n.start_midi for n in extras[first : last + 1]])
            stretches = np.lib.stride_tricks.sliding_window_view(asked, count)
            agree = (np.abs(stretches - played[None, :]) < EXTRAS.same_semitones).mean(axis=1)
            if agree.max() >= EXTRAS.restart_share:
                found |= set(range(first, last + 1))
        first = last + 1
    return found
