"""Counts of a take. No weighted score."""

from __future__ import annotations

from collections.abc import Sequence

from fortimetra.model.analysis import Counts, NoteFound, Summary

MEASURED = ("pitch", "bend", "vibrato", "timing", "level", "length", "noise")


def summarise(notes: Sequence[NoteFound], *, measures: Sequence[str], extra: int) -> Summary:
    """Counts per measure and overall."""
    by_measure: dict[str, Counts] = {}
    for measure in measures:
        verdicts = [found.verdict for n in notes if (found := getattr(n, measure)) is not None]
        by_measure[measure] = Counts(
            inside=verdicts.count("inside"), outside=verdicts.count("outside"), unclear=verdicts.count("unclear")
        )
    played = [n for n in notes if n.status != "missed"]
    return Summary(
        asked=len(notes),
        clean=sum(n.clean == "inside" for n in played),
        not_clean=sum(n.clean == "outside" for n in played),
        unclear=sum(n.clean == "unclear" for n in played),
        missed=sum(n.status == "missed" for n in notes),
        extra=extra,
        by_measure=by_measure,
        timing=None,
        level=None,
        fastest_even_run_nps=None,
    )
