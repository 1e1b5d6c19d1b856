"""An analysis as the teacher left it: verdicts, counts and causes follow the teacher's word, values stay as
measured.
"""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Sequence
from statistics import median

from fortimetra.coach.conclude import concluded
from fortimetra.coach.settings import WORD
from fortimetra.judge.spread import robust_spread
from fortimetra.judge.summary import member_counts, summarise
from fortimetra.judge.verdict import together
from fortimetra.model.analysis import Analysis, Extra, Measured, NoteFound
from fortimetra.model.drill import Drill
from fortimetra.model.summary import LengthSummary, LevelSummary, TimingSummary
from fortimetra.model.verdict import Verdict
from fortimetra.model.word import Mark, Place


def with_word(analysis: Analysis, drill: Drill, marks: Sequence[Mark]) -> Analysis:
    """The analysis with marks applied in their order, later ones over earlier ones; unchanged without any that count.

    Counts, bends, vibratos and causes are worked out again, and so are the medians and spreads over notes that lose
    some; tempo, drift and groups stay over all notes that were played.
    """
    words = [m for m in marks if m.kind != "comment"]
    if not words:
        return analysis
    by_note: dict[tuple[str, int], list[tuple[Place, Mark]]] = defaultdict(list)
    for mark in words:
        for place in mark.notes:
            by_note[place.id, place.repeat].append((place, mark))
    notes = tuple(_note(n, by_note.get((n.id, n.repeat), ()), drill.measures) for n in analysis.notes)
    extras = tuple(_extra(e, words) for e in analysis.extras)
    old = analysis.summary
    counted = [n for n in notes if n.said != "excluded"]
    fewer = len(counted) < len(notes)
    summary = summarise(
        counted,
        measures=tuple(old.by_measure),
        extra=sum(e.said is None for e in extras),
        timing=_timing(old.timing, counted) if fewer else old.timing,
        level=_level(old.level, counted) if fewer else old.level,
        length=_length(old.length, counted) if fewer else old.length,
        noise=old.noise,
        fastest_even_run_nps=old.fastest_even_run_nps,
    ).model_copy(
        update={"asked": len(notes), "excluded": len(notes) - len(counted), "members": member_counts(drill, notes)}
    )
    said = analysis.model_copy(update={"notes": notes, "extras": extras, "summary": summary})
    return concluded(said, drill)


def _note(note: NoteFound, marks: Sequence[tuple[Place, Mark]], measures: Sequence[str]) -> NoteFound:
    own = [mark for place, mark in marks if place.string is None or place.string == note.string]
    for mark in own:
        if mark.kind == "excluded":
            note = _noted(note, "clean", None).model_copy(update={"said": "excluded", "clean": None})
        elif mark.kind in ("meant", "verdict"):
            told: Verdict = "inside" if mark.kind == "meant" else mark.verdict or "unclear"
            judged = _judged(note, mark.measure, told, measures)
            note = judged if judged.said == "excluded" else judged.model_copy(update={"said": mark.kind})
    return note


def _judged(note: NoteFound, measure: str | None, told: Verdict, measures: Sequence[str]) -> NoteFound:
    """One measure judged otherwise; or the whole note: then what was off in it is not, or it is off though no part of
    it is.
    """
    if measure is None and note.status == "missed" and told == "inside":
        # Left out on purpose: there is nothing to judge.
        return _noted(note, "clean", note.clean).model_copy(update={"said": "excluded", "clean": None})
    asked = [m for m in measures if (part := getattr(note, m)) is not None and part.verdict is not None]
    changed = [measure] if measure in asked else asked if measure is None and told == "inside" else []
    for name in changed:
        part = getattr(note, name)
        if part.verdict != told:
            note = _noted(note, name, part.verdict)
            note = note.model_copy(update={name: part.model_copy(update={"verdict": told})})
    clean = told if measure is None else _clean(note, asked)
    if clean != note.clean:
        note = _noted(note, "clean", note.clean).model_copy(update={"clean": clean})
    return note


def _clean(note: NoteFound, asked: Sequence[str]) -> Verdict | None:
    """What a note's parts say together, with what is off about it beside them: another pitch, its chord."""
    before = {m.measure: m.verdict for m in note.measured}
    was = [before.get(m, getattr(note, m).verdict) for m in asked]
    now: list[Verdict] = [getattr(note, m).verdict for m in asked]
    whole = before.get("clean", note.clean)
    # A whole that was worse than its parts has another reason, which stays.
    if whole is not None and whole != together(v for v in was if v is not None):
        now.append(whole)
    return together(now)


def _noted(note: NoteFound, measure: str, verdict: Verdict | None) -> NoteFound:
    """The note remembering what was measured first."""
    if any(m.measure == measure for m in note.measured):
        return note
    return note.model_copy(update={"measured": (*note.measured, Measured(measure=measure, verdict=verdict))})


def _extra(extra: Extra, marks: Sequence[Mark]) -> Extra:
    for mark in marks:
        here = mark.at_s is not None and not mark.notes and abs(mark.at_s - extra.onset_s) <= WORD.same_sound_s
        if here and mark.kind in ("meant", "excluded"):
            extra = extra.model_copy(update={"said": mark.kind})
    return extra


def _timing(old: TimingSummary | None, notes: Sequence[NoteFound]) -> TimingSummary | None:
    errors = [n.timing.error_ms for n in notes if n.timing is not None and n.timing.error_ms is not None]
    if old is None or not errors:
        return old
    bias = None if old.bias_ms is None else round(median(errors), 2)
    return old.model_copy(update={"bias_ms": bias, "jitter_ms": round(robust_spread(errors), 2)})


def _level(old: LevelSummary | None, notes: Sequence[NoteFound]) -> LevelSummary | None:
    picked = [
        n.level.deviation_db
        for n in notes
        if n.level is not None and n.level.way == "picked" and n.level.deviation_db is not None
    ]
    if old is None or old.spread_db is None or not picked:
        return old
    return old.model_copy(update={"spread_db": round(robust_spread(picked), 2)})


def _length(old: LengthSummary | None, notes: Sequence[NoteFound]) -> LengthSummary | None:
    ratios = [n.length.length_ratio for n in notes if n.length is not None and n.length.length_ratio is not None]
    if old is None or not ratios:
        return old
    return old.model_copy(update={"ratio": round(median(ratios), 3), "spread": round(robust_spread(ratios), 3)})
