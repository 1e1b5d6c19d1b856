"""Counts of a take. No weighted score."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Literal

import numpy as np

from fortimetra.model.analysis import NoteFound, VibratoFound
from fortimetra.model.drill import Drill
from fortimetra.model.summary import (
    BendsOf,
    Counts,
    LengthSummary,
    LevelSummary,
    MemberCounts,
    NoiseSummary,
    Summary,
    TimingSummary,
    VibratosOf,
)

MEASURED = ("pitch", "bend", "vibrato", "timing", "level", "length", "noise")


def summarise(
    notes: Sequence[NoteFound],
    *,
    measures: Sequence[str],
    extra: int,
    timing: TimingSummary | None = None,
    level: LevelSummary | None = None,
    length: LengthSummary | None = None,
    noise: NoiseSummary | None = None,
    fastest_even_run_nps: float | None = None,
) -> Summary:
    """Counts per measure and overall, beside what the measures say of the take as a whole."""
    by_measure: dict[str, Counts] = {}
    for measure in measures:
        verdicts = [found.verdict for n in notes if (found := getattr(n, measure)) is not None]
        by_measure[measure] = Counts(
            inside=verdicts.count("inside"), outside=verdicts.count("outside"), unclear=verdicts.count("unclear")
        )
    return Summary(
        **_counts(notes),
        extra=extra,
        by_measure=by_measure,
        timing=timing,
        level=level,
        length=length,
        noise=noise,
        fastest_even_run_nps=fastest_even_run_nps,
        bends=_bends(notes),
        vibratos=_vibratos(notes),
    )


def member_counts(drill: Drill, notes: Sequence[NoteFound]) -> tuple[MemberCounts, ...]:
    """What came of each drill of a set, excluded notes left out."""
    beats = {e.id: e.beat for e in drill.events}
    counted = [n for n in notes if n.said != "excluded"]
    return tuple(
        MemberCounts(title=m.title, **_counts([n for n in counted if m.holds(beats.get(n.id, -1.0))]))
        for m in drill.members
    )


def _counts(notes: Sequence[NoteFound]) -> dict[str, int]:
    """Notes by what came of them."""
    played = [n.clean for n in notes if n.status != "missed"]
    return {
        "asked": len(notes),
        "clean": played.count("inside"),
        "not_clean": played.count("outside"),
        "unclear": played.count("unclear"),
        "missed": len(notes) - len(played),
    }


def _bends(notes: Sequence[NoteFound]) -> tuple[BendsOf, ...]:
    """Median error and spread of the bends of each place."""
    groups: dict[tuple[int, int, float], list[tuple[float, float]]] = {}
    for note in notes:
        bend = note.bend
        if bend is None or bend.error_cents is None or bend.u is None or note.string is None or note.fret is None:
            continue
        target = sum(bend.target_cents) / 2 if isinstance(bend.target_cents, tuple) else bend.target_cents
        groups.setdefault((note.string, note.fret, target), []).append((bend.error_cents, bend.u))
    return tuple(
        BendsOf(
            string=string,
            fret=fret,
            target_cents=target,
            count=len(found),
            median_error_cents=round(float(np.median([e for e, _ in found])), 2),
            spread_cents=round(float(np.std([e for e, _ in found], ddof=1)), 2) if len(found) > 1 else None,
            u=round(float(np.median([u for _, u in found])), 2),
        )
        for (string, fret, target), found in sorted(groups.items())
    )


def _vibratos(notes: Sequence[NoteFound]) -> tuple[VibratosOf, ...]:
    """Medians of the vibratos of each string."""
    groups: dict[tuple[int, Literal["fretted", "bent"]], list[VibratoFound]] = {}
    for note in notes:
        if note.vibrato is not None and note.vibrato.rate_hz is not None and note.string is not None:
            groups.setdefault((note.string, "fretted" if note.bend is None else "bent"), []).append(note.vibrato)

    def middle(found: list[VibratoFound], name: str, digits: int) -> float:
        return round(float(np.median([getattr(v, name) or 0.0 for v in found])), digits)

    return tuple(
        VibratosOf(
            string=string,
            on=on,
            count=len(found),
            rate_hz=middle(found, "rate_hz", 2),
            extent_cents=middle(found, "extent_cents", 1),
            rate_cv=middle(found, "rate_cv", 3),
            extent_cv=middle(found, "extent_cv", 3),
        )
        for (string, on), found in sorted(groups.items())
    )
