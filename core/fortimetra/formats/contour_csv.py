"""The contour as CSV: time_s, f0_hz, cents_from_expected, confidence, level_dbfs, note_id, repeat."""

from __future__ import annotations

import csv
import io

import numpy as np

from fortimetra.pipeline import Measured

COLUMNS = ("time_s", "f0_hz", "cents_from_expected", "confidence", "level_dbfs", "note_id", "repeat")


def contour_csv(found: Measured) -> str:
    """One row per frame; f0_hz and cents are empty where unvoiced, note columns outside notes.

    cents_from_expected is relative to the target of the note: the bent pitch of a bend, else the fretted pitch.
    """
    contour = found.contour
    expected = np.full(len(contour.time_s), np.nan)
    ids: list[tuple[str, str]] = [("", "")] * len(contour.time_s)
    for note in found.analysis.notes:
        if note.onset_s is None or note.end_s is None:
            continue
        frames = contour.frames(note.onset_s, note.end_s)
        if note.bend is not None and note.bend.reference_hz is not None:
            expected[frames] = note.bend.reference_hz
        elif note.pitch is not None and note.pitch.median_hz is not None and note.pitch.error_cents is not None:
            expected[frames] = note.pitch.median_hz / 2.0 ** (note.pitch.error_cents / 1200.0)
        ids[frames] = [(note.id, str(note.repeat))] * len(expected[frames])
    cents = 1200.0 * np.log2(contour.f0_hz / expected)
    out = io.StringIO()
    rows = csv.writer(out, lineterminator="\n")
    rows.writerow(COLUMNS)
    for i, time in enumerate(contour.time_s):
        rows.writerow(
            (
                f"{time:.3f}",
                "" if np.isnan(contour.f0_hz[i]) else f"{contour.f0_hz[i]:.3f}",
                "" if np.isnan(cents[i]) else f"{cents[i]:.2f}",
                f"{contour.confidence[i]:.3f}",
                f"{contour.level_dbfs[i]:.1f}",
                *ids[i],
            )
        )
    return out.getvalue()
