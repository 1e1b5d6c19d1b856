"""Two analyses of one recording: which verdicts are others, by measure. What a new version of the core changes."""

from __future__ import annotations

from collections import Counter
from collections.abc import Collection

from fortimetra.model.analysis import Analysis, NoteFound
from fortimetra.model.base import Model
from fortimetra.model.verdict import Verdict

# A part of a note's findings, and what a drill calls it that asks for it.
PARTS = {
    "pitch": "pitch", "bend": "bend", "vibrato": "vibrato", "slide": "pitch", "timing": "timing", "level": "level",
    "length": "length", "noise": "noise", "chord": "level",
}  # fmt: skip
NOTE = "note"


class Flip(Model):
    """How many notes had one verdict of a measure and have another; measure "note": on the note as a whole.

    None: there was none, or is none any more.
    """

    measure: str
    before: Verdict | None
    after: Verdict | None
    count: int


def flips(before: Analysis, after: Analysis, measures: Collection[str]) -> tuple[Flip, ...]:
    """What is judged otherwise, of the notes that are asked in both; the most frequent first.

    measures: those the drill asks for.
    """
    old = {(n.id, n.repeat, n.string): n for n in before.notes}
    found: Counter[tuple[str, Verdict | None, Verdict | None]] = Counter()
    for note in after.notes:
        was = old.get((note.id, note.repeat, note.string))
        if was is None:
            continue
        if was.clean != note.clean:
            found[NOTE, was.clean, note.clean] += 1
        for part in PARTS:
            pair = _verdict(was, part), _verdict(note, part)
            if PARTS[part] in measures and None not in pair and pair[0] != pair[1]:
                found[PARTS[part], *pair] += 1
    return tuple(Flip(measure=m, before=a, after=b, count=n) for (m, a, b), n in found.most_common())


def _verdict(note: NoteFound, part: str) -> Verdict | None:
    return getattr(getattr(note, part), "verdict", None)


def added(rows: Collection[Flip]) -> tuple[Flip, ...]:
    """The flips of several takes as one list, the most frequent first."""
    total: Counter[tuple[str, Verdict | None, Verdict | None]] = Counter()
    for row in rows:
        total[row.measure, row.before, row.after] += row.count
    return tuple(Flip(measure=m, before=a, after=b, count=n) for (m, a, b), n in total.most_common())
