"""How loud notes are where a room answers one pitch more than the next."""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Sequence
from dataclasses import replace

import numpy as np

from fortimetra.align.match import Match
from fortimetra.measure.level import AmongItsLike, NoteLevel, reference_u, way_of
from fortimetra.measure.settings import LEVEL, STATISTICS


def in_a_room(levels: Sequence[NoteLevel | None], match: Match, fall_ms: float) -> list[NoteLevel | None]:
    """Levels as a microphone in a room has them: louder at one pitch than at the next, at each by the same in every
    repeat.

    What the other notes of a pitch deviate by, played alike, is the room's and the hand's: the room's share is taken
    off as far as both are usual (the mean of one of two normal quantities whose sum is known), and what is not known of
    it is added to the uncertainty. Where a pitch comes once, nothing is known of it. Only what makes a note more equal
    is taken off: one soft note of two does not make the other loud. Accents have to differ, and nothing is taken off
    them.

    fall_ms: how long the room takes to fall by 20 dB. What it still holds of a pitch adds to the next note of that
    pitch or takes away from it, as their phases happen to lie (`_u_again`).
    """
    by_place: dict[tuple[object, ...], dict[int, tuple[float, float]]] = defaultdict(dict)
    for i, n in enumerate(levels):
        if n is not None and n.deviation_db is not None:
            by_place[_place(match, i)][i] = (n.level_db, n.deviation_db)
    return [
        None
        if n is None
        else _without_room(n, [v for k, v in by_place[_place(match, i)].items() if k != i], _u_again(n.before, fall_ms))
        for i, n in enumerate(levels)
    ]


def _u_again(before: float, fall_ms: float) -> float:
    """The expanded uncertainty of a level under which the same pitch still sounds in the room, dB.

    Of two tones of one frequency, the weaker with a share s of the power, the level scatters with their phases by
    20/ln(10) · √(s/2). before: power of the note before when this one began, against its own: a share of it is the
    room's, and falls evenly in dB (ISO 3382-1) over the time that is read.
    """
    per_s = np.log(10.0) * 2.0 / (0.001 * fall_ms)
    kept = (np.exp(-per_s * LEVEL.from_s) - np.exp(-per_s * LEVEL.to_s)) / (per_s * (LEVEL.to_s - LEVEL.from_s))
    return float(STATISTICS.coverage * 20.0 / np.log(10.0) * np.sqrt(0.5 * LEVEL.room_share * kept * before))


def _place(match: Match, index: int) -> tuple[object, ...]:
    """Where an event is played and how: its like are louder or softer by the same in a room."""
    return way_of(match, index), tuple((n.note.string, n.note.fret) for n in match.events[index].notes)


def _without_room(note: NoteLevel, others: Sequence[tuple[float, float]], u_again_db: float) -> NoteLevel:
    """others: levels and deviations of the other notes of its place. u_again_db: of `_u_again`."""
    if note.deviation_db is None or note.u_deviation_db is None:
        return note
    share, usual_db = 0.0, 0.0
    if others and note.way != "accented":
        scatter = (LEVEL.hand_u_db / STATISTICS.coverage) ** 2 / len(others)
        share = LEVEL.room_db**2 / (LEVEL.room_db**2 + LEVEL.pitch_hand_db**2 + scatter)
        usual_db = float(np.median([deviation for _, deviation in others]))
    u_room = float(np.hypot(STATISTICS.coverage * LEVEL.room_db * np.sqrt(1.0 - share), u_again_db))
    u_db = float(np.hypot(note.u_deviation_db, u_room))
    like = None
    if share and len(others) >= LEVEL.least_notes - 1:
        levels = np.array([level for level, _ in others])
        own_db = note.level_db - float(np.median(levels))
        u_own = float(np.sqrt(note.u_db**2 + reference_u(levels) ** 2 + u_again_db**2))
        like = AmongItsLike(own_db, u_own, (1.0 - share) * usual_db, u_db)
    deviation_db = min(note.deviation_db, note.deviation_db - share * usual_db, key=abs)
    u_louder_db = None if note.u_louder_db is None else float(np.hypot(note.u_louder_db, u_room))
    return replace(note, deviation_db=deviation_db, u_deviation_db=u_db, like=like, u_louder_db=u_louder_db)
