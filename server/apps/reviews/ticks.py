"""A take in miniature."""

from __future__ import annotations

from collections.abc import Collection

from fortimetra import Analysis
from fortimetra.model import NoteFound


def ticks(analysis: Analysis) -> str:
    """One sign per asked note, in score order: clean ".", under "-", over "+", wrong "x", a string rings "r",
    cannot tell "?", missed "0", excluded "_"."""
    measures = analysis.summary.by_measure
    return "".join(_tick(note, measures) for note in analysis.notes)


def _tick(note: NoteFound, measures: Collection[str]) -> str:
    if note.said == "excluded":
        return "_"
    if note.status == "missed":
        return "0"
    if note.clean == "inside":
        return "."
    if note.clean != "outside":
        return "?"
    off = note.deviation(measures)
    if note.status != "wrong_pitch" and off is None and "noise" in measures and note.noise is not None:
        return "r" if note.noise.verdict == "outside" else "x"
    if note.status == "wrong_pitch" or off is None:
        return "x"
    return "-" if off < 0 else "+"
