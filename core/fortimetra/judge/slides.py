"""Verdicts on slides: in time where they arrive, and alive there. Whether they are in tune is the pitch of the note."""

from __future__ import annotations

from collections.abc import Mapping, Sequence

from fortimetra.align.match import Match
from fortimetra.judge.settings import SLIDES_JUDGED
from fortimetra.judge.verdict import at_least_verdict, together, verdict
from fortimetra.measure.settings import SLIDE
from fortimetra.measure.slide import SlideMeasured
from fortimetra.model.analysis import NoteFound, SlideFound
from fortimetra.model.drill import Drill
from fortimetra.model.hand import Slide
from fortimetra.model.tolerance import onset_limit_ms
from fortimetra.model.verdict import Verdict
from fortimetra.units import rounded


def judge_slides(
    notes: Sequence[NoteFound], match: Match, slides: Mapping[int, SlideMeasured], drill: Drill
) -> list[NoteFound]:
    """The notes with what is said of their slides, and with their one verdict over it too."""
    per_event = [i for i, event in enumerate(match.events) for _ in event.notes]
    return [
        note if note.status == "missed" else _judged(note, i, match, slides.get(i), drill)
        for note, i in zip(notes, per_event, strict=True)
    ]


def _judged(note: NoteFound, i: int, match: Match, read: SlideMeasured | None, drill: Drill) -> NoteFound:
    asked = match.events[i].notes[0]
    slide, heard = asked.event.slide, match.heard[i]
    if slide is None or heard is None or len(match.events[i].notes) > 1:
        return note
    counts = bool({"pitch", "timing"} & set(drill.measures))
    if read is None:
        found = SlideFound(
            travel_ms=None, arrives_s=None, level_change_db=None, late_ms=None, u=None, verdict="unclear"
        )
        reasons = (*note.reasons, "slide_not_followed")
        clean = together([*([note.clean] if note.clean else []), "unclear"]) if counts else note.clean
        return note.model_copy(update={"slide": found, "clean": clean, "reasons": tuple(dict.fromkeys(reasons))})
    verdicts: list[Verdict] = []
    if read.level_change_db is not None and slide.from_fret is None:
        # A stroke falls by as much in its first moments by itself.
        verdicts.append(at_least_verdict(read.level_change_db, SLIDE.level_u_db, SLIDES_JUDGED.lost_db))
    late_ms = _late_ms(slide, read.arrives_s - heard.onset_s, drill)
    if late_ms is not None and late_ms > 0:
        slot_s = asked.event.length * drill.seconds_per_beat
        limit = onset_limit_ms(drill.profile, slot_s, drill.tolerances.onset_ms)
        verdicts.append(verdict(late_ms, read.u_arrives_ms, limit))
    judged: Verdict = together(verdicts)
    clean = together([v for v in (note.clean, judged) if v is not None]) if counts else note.clean
    found = SlideFound(
        travel_ms=round(read.travel_ms, 1),
        arrives_s=round(read.arrives_s, 4),
        level_change_db=rounded(read.level_change_db, 1),
        late_ms=rounded(late_ms, 1),
        u=round(read.u_arrives_ms, 1),
        verdict=judged,
    )
    return note.model_copy(update={"slide": found, "clean": clean})


def _late_ms(slide: Slide, after_s: float, drill: Drill) -> float | None:
    """How late a slide arrives that is struck on the beat; None for one that has to be there on the beat."""
    if slide.from_fret is None or slide.length is None:
        return None
    return 1000.0 * (after_s - slide.length * drill.seconds_per_beat)
