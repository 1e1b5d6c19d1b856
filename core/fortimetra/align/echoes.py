"""What comes back of notes by itself: a delay or a reverb answers every note after the same time, softer."""

from __future__ import annotations

from dataclasses import replace

import numpy as np
from numpy.typing import NDArray

from fortimetra.align.match import Match
from fortimetra.align.settings import ECHOES
from fortimetra.hear.notes import HeardNote
from fortimetra.units import FloatArray


def without_echoes(matched: Match) -> Match:
    """The match without the extras that are echoes of its notes.

    An echo comes after the same time to a millisecond or two, whatever the hand does; extras that a hand plays scatter
    by several. It is softer than its note, and hardly breaks what rings.
    """
    if len(matched.extras) < ECHOES.least:
        return matched
    notes = [n for n in matched.heard if n is not None]
    after_s, soft = _after(matched.extras, notes)
    echoes = soft & _machine_like(np.where(soft, after_s, np.inf))
    if not echoes.any():
        return matched
    return replace(matched, extras=tuple(n for n, echo in zip(matched.extras, echoes, strict=True) if not echo))


def _after(extras: tuple[HeardNote, ...], notes: list[HeardNote]) -> tuple[FloatArray, NDArray[np.bool_]]:
    """How long after the note before it each extra comes, s, infinite where there is none; and whether it is as soft
    beside that, and begins as little, as an echo does.
    """
    onsets = np.array([n.onset_s for n in notes])
    places = np.searchsorted(onsets, [e.onset_s for e in extras]) - 1
    after_s = np.array([e.onset_s - onsets[p] if p >= 0 else np.inf for e, p in zip(extras, places, strict=True)])
    soft = [
        p >= 0 and e.level_dbfs <= notes[p].level_dbfs - ECHOES.softer_db and e.contrast_db < ECHOES.contrast_db
        for e, p in zip(extras, places, strict=True)
    ]
    return after_s, np.array(soft)


def _machine_like(after_s: FloatArray) -> NDArray[np.bool_]:
    """Which of some times lie about one that recurs as no hand's do: enough of them alike, and hardly any beside."""
    with np.errstate(invalid="ignore"):  # of two infinite times
        apart = np.abs(after_s[:, None] - after_s)
    alike = apart <= ECHOES.alike_s
    count, near = np.count_nonzero(alike, axis=1), np.count_nonzero(apart <= ECHOES.hand_s, axis=1)
    recurs = (count >= ECHOES.least) & (count >= ECHOES.share * near)
    return np.asarray(alike[:, recurs].any(axis=1))
