"""Patterns in slurs: their time against picked notes, their force, and which kind of slur sets a neighbour ringing."""

from __future__ import annotations

from typing import Literal

from fortimetra.coach.evidence import (
    Judged,
    Pattern,
    ShownBy,
    apart,
    clearly_beyond,
    counted,
    judged,
    key,
    late_ms,
    louder_db,
    middle,
    outside,
)
from fortimetra.coach.patterns_quiet import side_of
from fortimetra.coach.settings import SLUR_CAUSES
from fortimetra.model.analysis import NoteFound
from fortimetra.model.drill import SLURRED

Slur = Literal["hammer", "pull"]
NAMES: dict[Slur, str] = {"hammer": "hammer-ons", "pull": "pull-offs"}


def slurs_out_of_time(sign: int) -> Pattern:
    """Slurred notes that come earlier (sign −1: they hurry) or later than the picked ones of the same take."""

    def find(seen: Judged) -> ShownBy | None:
        if not seen.asks("timing"):
            return None
        notes = judged(seen.played, "timing")
        slurred = [n for n in notes if seen.articulation(n) in SLURRED and seen.articulation(n) != "slide"]
        picked = [n for n in notes if seen.articulation(n) == "pick"]
        found = apart([sign * late_ms(n) for n in slurred], [sign * late_ms(n) for n in picked])
        off = [n for n in outside(slurred, "timing") if sign * late_ms(n) > 0]
        if found is None or not clearly_beyond(*found) or not off:
            return None
        text = (
            f"{counted(len(off), len(slurred), 'slurred notes')} come too {'late' if sign > 0 else 'early'}; "
            f"on average they lie {found[0]:.0f} ms (±{found[1]:.0f}) "
            f"{'behind' if sign > 0 else 'before'} the picked ones."
        )
        return ShownBy(tuple(off), len(slurred), text)

    return find


def slurs_loud(slur: Slur) -> Pattern:
    """Hammer-ons, or pull-offs, that stand out of the line."""

    def find(seen: Judged) -> ShownBy | None:
        if not seen.asks("level"):
            return None
        notes = [n for n in judged(seen.played, "level") if seen.articulation(n) == slur]
        loud = [n for n in outside(notes, "level") if louder_db(n) > 0 and not (n.level and n.level.dies)]
        usual = middle(loud, louder_db)
        if usual is None:
            return None
        text = f"{counted(len(loud), len(notes), NAMES[slur])} are too loud, by {usual:.1f} dB (median)."
        return ShownBy(tuple(loud), len(notes), text)

    return find


def neighbour_rings_at(slur: Slur) -> Pattern:
    """Strings beside the slurred one that begin to ring with hammer-ons, or with pull-offs, more than with the other
    kind.
    """

    def find(seen: Judged) -> ShownBy | None:
        if not seen.asks("noise"):
            return None
        begun: dict[tuple[str, int, int | None], NoteFound] = {}
        for event, note, wanted in seen.rings:
            beside = event.string is not None and side_of(event.string, wanted) is not None
            near = any(abs((event.string or 0) - s) == 1 for s in wanted)
            starts = note.onset_s is not None and abs(event.from_s - note.onset_s) < SLUR_CAUSES.begins_with_s
            if beside and near and starts and seen.articulation(note) == slur:
                begun[key(note)] = note
        others = sum(
            note.onset_s is not None
            and abs(event.from_s - note.onset_s) < SLUR_CAUSES.begins_with_s
            and seen.articulation(note) != slur
            for event, note, _ in seen.rings
        )
        if not begun or others > len(begun):
            return None
        notes = [n for n in judged(seen.played, "noise") if seen.articulation(n) == slur]
        text = f"The string beside begins to ring with {counted(len(begun), len(notes), NAMES[slur])}."
        return ShownBy(tuple(begun.values()), len(notes), text)

    return find
