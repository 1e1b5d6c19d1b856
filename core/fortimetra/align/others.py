"""Other sounds of a recording: coughs, knocks, chairs, speech.

A string that is struck has partials on one comb; the sound of a room, a throat or a chair has not, or moves. What has
no comb, is not asked for and does not fall as where a string is stopped is such a sound: no missed, extra or ringing
note. While it lasts it hides others, so nothing that only it may have caused is held against a note.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import replace

import numpy as np

from fortimetra.align.costs import loudness, tonal
from fortimetra.align.match import Match, OtherSound
from fortimetra.align.settings import EXTRAS, OTHERS
from fortimetra.hear.contour import Contour
from fortimetra.hear.notes import HeardNote
from fortimetra.hear.salience import Salience
from fortimetra.units import FloatArray


def without_others(matched: Match, found: Sequence[HeardNote], told: Salience, contour: Contour) -> Match:
    """The match with its other sounds named and taken from what was played besides.

    found: everything that may be a note, whose places are those of `told`.
    """
    taken = {id(n) for n in matched.heard if n is not None}
    onsets = np.array([n.onset_s for n in matched.heard if n is not None])
    how, loud = tonal(told, len(found)), loudness(found)
    no_comb = (how < OTHERS.tonal_share) | (told.new < OTHERS.new_tonal)
    candidates = no_comb & (loud > OTHERS.loudness_share) & (np.asarray(told.bright) < OTHERS.finger_share)
    others = [
        note
        for note, may_be in zip(found, candidates, strict=True)
        if may_be and id(note) not in taken and _struck_alone(note, onsets) and not _stops(note, contour)
    ]
    gone = {id(n) for n in others}
    extras = tuple(n for n in matched.extras if id(n) not in gone)
    return replace(matched, extras=extras, others=_stretches(others))


def _struck_alone(note: HeardNote, onsets: FloatArray) -> bool:
    """Whether something clear begins there, that is not a part of an asked note's own attack."""
    after = note.onset_s - onsets
    attack = note.kind == "attack" and (note.strong or note.rise_db >= OTHERS.least_rise_db)
    return attack and not bool(np.any((after > -EXTRAS.one_attack_s) & (after < EXTRAS.double_s)))


def _stops(note: HeardNote, contour: Contour) -> bool:
    """Whether the recording gets softer there, as where a string is stopped."""
    before = contour.level_dbfs[contour.frames(note.onset_s - 0.03, note.onset_s - 0.005)]
    after = contour.level_dbfs[contour.frames(note.onset_s + 0.005, note.onset_s + OTHERS.stops_s)]
    return bool(len(before) and len(after) and float(after.mean()) < float(before.mean()) - OTHERS.stops_db)


def _stretches(others: Sequence[HeardNote]) -> tuple[OtherSound, ...]:
    """What follows closely is the same sound."""
    found: list[OtherSound] = []
    for note in others:
        ends = note.onset_s + OTHERS.lasts_s
        if found and note.onset_s - found[-1].to_s < OTHERS.join_s:
            level_dbfs = max(found[-1].level_dbfs, note.level_dbfs)
            found[-1] = OtherSound(found[-1].from_s, ends, level_dbfs)
        else:
            found.append(OtherSound(note.onset_s - OTHERS.before_s, ends, note.level_dbfs))
    return tuple(found)
