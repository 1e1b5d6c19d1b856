"""A recording without a drill: what was played, without verdicts."""

from __future__ import annotations

from fortimetra.align.grid import NO_GRID
from fortimetra.align.match import no_notes
from fortimetra.hear.contour import Contour
from fortimetra.hear.inharmonicity import without_stiffness
from fortimetra.hear.notes import segment
from fortimetra.hear.recording import Recording
from fortimetra.judge.note import judge_heard
from fortimetra.judge.summary import summarise
from fortimetra.model.analysis import Analysis, Reference
from fortimetra.pipeline.about import analysis_of, drowned
from fortimetra.units import A4_HZ


def transcribe(recording: Recording) -> tuple[Analysis, Contour]:
    """The notes that were heard, each against the nearest tempered pitch. Raises TakeError: no_notes, hum_too_loud."""
    heard = segment(recording.contour, recording.onsets.strong_s)
    if not heard:
        raise drowned(recording.levels) or no_notes()
    contour = without_stiffness(recording.contour, heard)
    notes = judge_heard(contour, heard)
    analysis = analysis_of(
        recording,
        reference=Reference(a4_hz=A4_HZ, string_offset_cents=(), grid=NO_GRID),
        notes=notes,
        summary=summarise(notes, measures=("pitch",), extra=0),
        reasons=("no_drill",),
    )
    return analysis, contour
