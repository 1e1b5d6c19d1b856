"""How loud notes are where a room answers one pitch more than the next."""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Sequence
from dataclasses import replace

import numpy as np

from fortimetra.align.match import Match
from fortimetra.measure.level import AmongItsLike, NoteLevel, reference_u, way_of
from fortimetra.measure.settings import LEVEL, STATISTICS


def in_a_room(levels: Sequence[NoteLevel | None], match: Match) -> list[NoteLevel | None]:
    """Levels as a microphone in a room has them: louder at one pitch than at the next, at each by the same in every
    repeat.

    What the other notes of a pitch deviate by, played alike, is the room's and the hand's: the room's share is taken
    off as far as both are usual (the mean of one of two normal quantities whose sum is known), and what is not known of
    it is added to the uncertainty. Where a pitch comes once, nothing is known of it. Only what makes a note more equal
    is taken off: one soft note of two does not make the other loud. Accents have to differ, and nothing is taken off
    them.
    """
    by_place: dict[tuple[object, ...], dict[int, tuple[float, float]]] = defaultdict(dict)
    for i, n in enumerate(levels):
        if n is not None and n.deviation_db is not None:
            by_place[_place(match, i)][i] = (n.level_db, n.deviation_db)
    return [
        None if n is None else _without_room(n, [v for k, v in by_place[_place(match, i)].items() if k != i])
        for i, n in enumerate(levels)
    ]


def _place(match: Match, index: int) -> tuple[object, ...]:
    """Where an event is played and how: its like are louder or softer by the same in a room."""
    return way_of(match, index), tuple((n.note.string, n.note.fret) for n in match.events[index].notes)


def _without_room(note: NoteLevel, others: Sequence[tuple[float, float]]) -> NoteLevel:
    """others: levels and deviations of the other notes of its place."""
    if note.deviation_db is None or note.u_deviation_db is None:
        return note
    share, usual_db = 0.0, 0.0
    if others and note.way != "accented":
        scatter = (LEVEL.hand_u_db / STATISTICS.coverage) ** 2 / len(others)
        share = LEVEL.room_db**2 / (LEVEL.room_db**2 + LEVEL.pitch_hand_db**2 + scatter)
        usual_db = float(np.median([deviation for _, deviation in others]))
    u_room = STATISTICS.coverage * LEVEL.room_db * float(np.sqrt(1.0 - share))
    u_db = float(np.hypot(note.u_deviation_db, u_room))
    like = None
    if share and len(others) >= LEVEL.least_notes - 1:
        levels = np.array([level for level, _ in others])
        own_db, u_own = note.level_db - float(np.median(levels)), float(np.hypot(note.u_db, reference_u(levels)))
        like = AmongItsLike(own_db, u_own, (1.0 - share) * usual_db, u_db)
    deviation_db = min(note.deviation_db, note.deviation_db - share * usual_db, key=abs)
    u_louder_db = None if note.u_louder_db is None else float(np.hypot(note.u_louder_db, u_room))
    return replace(note, deviation_db=deviation_db, u_deviation_db=u_db, like=like, u_louder_db=u_louder_db)
