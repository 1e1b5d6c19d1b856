"""The notes of a take as a table: one row an asked note of one repeat, every value beside its uncertainty."""

from __future__ import annotations

from collections.abc import Callable

from fortimetra.formats.table_csv import Cell, table_csv
from fortimetra.model.analysis import Analysis, NoteFound

# Column → where it is found; a part that was not measured leaves its cells empty.
_PARTS: dict[str, tuple[str, str]] = {
    "pitch_hz": ("pitch", "median_hz"),
    "pitch_error_cents": ("pitch", "error_cents"),
    "u_pitch_cents": ("pitch", "u"),
    "pitch_verdict": ("pitch", "verdict"),
    "bend_kind": ("bend", "kind"),
    "bend_start_cents": ("bend", "start_cents"),
    "bend_reached_cents": ("bend", "reached_cents"),
    "bend_error_cents": ("bend", "error_cents"),
    "u_bend_cents": ("bend", "u"),
    "bend_rise_ms": ("bend", "rise_ms"),
    "bend_overshoot_cents": ("bend", "overshoot_cents"),
    "hold_sd_cents": ("bend", "hold_sd_cents"),
    "hold_drift_cents_per_s": ("bend", "hold_drift_cents_per_s"),
    "beat_hz": ("bend", "beat_hz"),
    "bend_verdict": ("bend", "verdict"),
    "vibrato_rate_hz": ("vibrato", "rate_hz"),
    "u_vibrato_rate_hz": ("vibrato", "u_rate"),
    "vibrato_rate_cv": ("vibrato", "rate_cv"),
    "vibrato_extent_cents": ("vibrato", "extent_cents"),
    "u_vibrato_extent_cents": ("vibrato", "u_extent"),
    "vibrato_extent_cv": ("vibrato", "extent_cv"),
    "vibrato_return_error_cents": ("vibrato", "return_error_cents"),
    "u_vibrato_return_cents": ("vibrato", "u_return"),
    "vibrato_verdict": ("vibrato", "verdict"),
    "slide_travel_ms": ("slide", "travel_ms"),
    "slide_arrives_s": ("slide", "arrives_s"),
    "u_slide_ms": ("slide", "u"),
    "slide_level_change_db": ("slide", "level_change_db"),
    "slide_verdict": ("slide", "verdict"),
    "grid_s": ("timing", "grid_s"),
    "timing_error_ms": ("timing", "error_ms"),
    "u_timing_ms": ("timing", "u"),
    "timing_verdict": ("timing", "verdict"),
    "level_db": ("level", "level_db"),
    "level_deviation_db": ("level", "deviation_db"),
    "u_level_db": ("level", "u"),
    "level_verdict": ("level", "verdict"),
    "length_ratio": ("length", "length_ratio"),
    "overlap_ms": ("length", "overlap_ms"),
    "length_verdict": ("length", "verdict"),
    "ring_db": ("noise", "worst_ring_db"),
    "ring_string": ("noise", "string"),
    "u_ring_db": ("noise", "u"),
    "decay_ms": ("noise", "decay_ms"),
    "noise_verdict": ("noise", "verdict"),
}
_OWN: dict[str, Callable[[NoteFound], Cell]] = {
    "note_id": lambda n: n.id,
    "repeat": lambda n: n.repeat,
    "string": lambda n: n.string,
    "fret": lambda n: n.fret,
    "status": lambda n: n.status,
    "onset_s": lambda n: n.onset_s,
    "end_s": lambda n: n.end_s,
    "clean": lambda n: n.clean,
    "said": lambda n: n.said,
}
COLUMNS = (*_OWN, *_PARTS, "reasons")


def notes_csv(analysis: Analysis) -> str:
    """The notes of an analysis, as the teacher left it where it was given so."""
    return table_csv(COLUMNS, (_row(note) for note in analysis.notes))


def _row(note: NoteFound) -> list[Cell]:
    row: list[Cell] = [read(note) for read in _OWN.values()]
    for part, name in _PARTS.values():
        found = getattr(note, part)
        row.append(None if found is None else getattr(found, name))
    return [*row, " ".join(note.reasons)]
