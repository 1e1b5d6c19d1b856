"""Notes and contour as JAMS (JSON Annotated Music Specification; Humphrey et al., Proc. ISMIR, 2014)."""

from __future__ import annotations

import jams
import numpy as np

from fortimetra.pipeline import Measured


def jams_text(found: Measured) -> str:
    """One JAMS document: note_hz for heard notes, pitch_contour for the contour."""
    analysis, contour = found.analysis, found.contour
    document = jams.JAMS()
    document.file_metadata.duration = analysis.take.duration_s
    tools = f"fortimetra {analysis.core_version}"
    notes = jams.Annotation(namespace="note_hz", duration=analysis.take.duration_s)
    for note in analysis.notes:
        if note.onset_s is not None and note.end_s is not None and note.pitch and note.pitch.median_hz:
            notes.append(
                time=note.onset_s, duration=note.end_s - note.onset_s, value=note.pitch.median_hz, confidence=None
            )
    pitch = jams.Annotation(namespace="pitch_contour", duration=analysis.take.duration_s)
    for time, hz, confidence in zip(contour.time_s, contour.f0_hz, contour.confidence, strict=True):
        voiced = not np.isnan(hz)
        pitch.append(
            time=float(time),
            duration=0.0,
            value={"index": 0, "frequency": round(float(hz), 3) if voiced else 0.0, "voiced": voiced},
            confidence=round(float(confidence), 3),
        )
    for annotation in (notes, pitch):
        annotation.annotation_metadata.annotation_tools = tools
        annotation.annotation_metadata.data_source = "program"
        document.annotations.append(annotation)
    return str(document.dumps(indent=None)) + "\n"
