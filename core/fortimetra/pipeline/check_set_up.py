"""A set-up take: how the guitar is tuned and set, and whether the recording can be judged."""

from __future__ import annotations

from fortimetra.align.grid import NO_GRID
from fortimetra.align.match import no_notes
from fortimetra.align.set_up import SetupMatch, match_set_up
from fortimetra.coach.set_up import advise_set_up
from fortimetra.errors import TakeError
from fortimetra.hear.contour import Contour
from fortimetra.hear.inharmonicity import without_stiffness
from fortimetra.hear.notes import HeardNote, segment
from fortimetra.hear.recording import Recording
from fortimetra.judge.set_up import judge_rig, judge_set_up, plain_level_dbfs, set_up_notes
from fortimetra.judge.summary import summarise
from fortimetra.measure.pitch import plain_readings
from fortimetra.measure.set_up import measure_set_up
from fortimetra.model.analysis import Analysis, Reference
from fortimetra.model.drill import Drill
from fortimetra.model.guitar import Guitar
from fortimetra.pipeline.about import analysis_of, drowned
from fortimetra.pipeline.prepare import Progress
from fortimetra.sound.levels import Levels


def check_set_up(
    recording: Recording, drill: Drill, *, guitar: Guitar | None, tell: Progress
) -> tuple[Analysis, Contour]:
    """Strings, rig and advice. Raises TakeError: no_notes, hum_too_loud, or as `match_set_up`."""
    levels = recording.levels
    heard = segment(recording.contour, recording.onsets.strong_s)
    if not heard:
        raise drowned(levels) or no_notes()
    contour = without_stiffness(recording.contour, heard)
    tell("align", 0.75)
    matched = _matched(heard, drill, levels)
    tell("measure", 0.80)
    readings = plain_readings(contour, matched.match)
    strings, common_cents = measure_set_up(matched.match, readings, drill)
    tell("judge", 0.90)
    rig = judge_rig(recording.take, recording.mono, levels, plain_level_dbfs(matched), recording.onsets.strong_s)
    found = judge_set_up(matched, strings, common_cents, drill=drill, rig=rig, levels=levels)
    found = found.model_copy(update={"advice": advise_set_up(found, levels=levels, drill=drill, guitar=guitar)})
    notes = set_up_notes(matched, readings, strings, drill)
    offsets = tuple(s.offset_cents for s in found.strings)
    analysis = analysis_of(
        recording,
        reference=Reference(a4_hz=drill.a4_hz, string_offset_cents=offsets, grid=NO_GRID),
        notes=notes,
        summary=summarise(notes, measures=drill.measures, extra=0),
        warnings=("detuned",) if common_cents else (),
        setup=found,
    )
    return analysis, contour


def _matched(heard: list[HeardNote], drill: Drill, levels: Levels) -> SetupMatch:
    try:
        return match_set_up(heard, drill)
    except TakeError as error:
        raise drowned(levels) or error from None
