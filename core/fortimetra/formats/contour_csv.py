"""The contour as CSV: time_s, f0_hz, cents_from_expected, confidence, level_dbfs, note_id, repeat."""

from __future__ import annotations

import numpy as np

from fortimetra.formats.curve import Curve
from fortimetra.formats.table_csv import table_csv
from fortimetra.model.analysis import Analysis

COLUMNS = ("time_s", "f0_hz", "cents_from_expected", "confidence", "level_dbfs", "note_id", "repeat")


def contour_csv(analysis: Analysis, curve: Curve) -> str:
    """One row per frame; f0_hz and cents are empty where unvoiced, note columns outside notes.

    cents_from_expected is relative to the target of the note: the bent pitch of a bend, else the fretted pitch.
    """
    expected = np.full(len(curve.time_s), np.nan)
    ids: list[tuple[str, str]] = [("", "")] * len(curve.time_s)
    for note in analysis.notes:
        if note.onset_s is None or note.end_s is None:
            continue
        frames = curve.frames(note.onset_s, note.end_s)
        if note.bend is not None and note.bend.reference_hz is not None:
            expected[frames] = note.bend.reference_hz
        elif note.pitch is not None and note.pitch.median_hz is not None and note.pitch.error_cents is not None:
            expected[frames] = note.pitch.median_hz / 2.0 ** (note.pitch.error_cents / 1200.0)
        ids[frames] = [(note.id, str(note.repeat))] * len(expected[frames])
    cents = 1200.0 * np.log2(curve.f0_hz / expected)
    return table_csv(
        COLUMNS,
        (
            (
                f"{time:.3f}",
                _text(curve.f0_hz[i], 3),
                _text(cents[i], 2),
                _text(curve.confidence[i], 3),
                f"{curve.level_dbfs[i]:.1f}",
                *ids[i],
            )
            for i, time in enumerate(curve.time_s)
        ),
    )


def _text(value: float, digits: int) -> str:
    return "" if np.isnan(value) else f"{value:.{digits}f}"
