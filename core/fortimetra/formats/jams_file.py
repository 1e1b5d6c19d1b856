"""Notes and contour as JAMS (JSON Annotated Music Specification; Humphrey et al., Proc. ISMIR, 2014).

Written as plain JSON after the specification's schema: importing the format's own library takes seven seconds, for a
few dictionaries. The tests read what is written here with that library, which validates it.
"""

from __future__ import annotations

import json
from typing import Any

import numpy as np

from fortimetra.formats.curve import Curve
from fortimetra.model.analysis import Analysis

JAMS_VERSION = "0.3.5"


def jams_text(analysis: Analysis, curve: Curve, *, title: str = "") -> str:
    """One JAMS document: note_hz for heard notes, pitch_contour for the contour."""
    length = analysis.take.duration_s
    notes = [
        _observation(note.onset_s, note.end_s - note.onset_s, note.pitch.median_hz, None)
        for note in analysis.notes
        if note.onset_s is not None and note.end_s is not None and note.pitch and note.pitch.median_hz
    ]
    voiced = ~np.isnan(curve.f0_hz)
    pitch = {
        "time": [round(float(t), 6) for t in curve.time_s],
        "duration": [0.0] * len(curve.time_s),
        "value": [
            {"index": 0, "frequency": round(float(hz), 3) if on else 0.0, "voiced": bool(on)}
            for hz, on in zip(curve.f0_hz, voiced, strict=True)
        ],
        "confidence": [None if np.isnan(c) else round(float(c), 3) for c in curve.confidence],
    }
    document = {
        "annotations": [
            _annotation("note_hz", notes, length, analysis),
            _annotation("pitch_contour", pitch, length, analysis),
        ],
        "file_metadata": {
            "title": title,
            "artist": "",
            "release": "",
            "duration": length,
            "identifiers": {"sha256": analysis.take.sha256},
            "jams_version": JAMS_VERSION,
        },
        "sandbox": {},
    }
    return json.dumps(document, ensure_ascii=False, allow_nan=False) + "\n"


def _observation(time: float, duration: float, value: object, confidence: float | None) -> dict[str, Any]:
    return {"time": time, "duration": duration, "value": value, "confidence": confidence}


def _annotation(namespace: str, observations: Any, length: float, analysis: Analysis) -> dict[str, Any]:
    return {
        "annotation_metadata": {
            "curator": {"name": "", "email": ""},
            "annotator": {},
            "version": "",
            "corpus": "",
            "annotation_tools": f"fortimetra {analysis.core_version}",
            "annotation_rules": "",
            "validation": "",
            "data_source": "program",
        },
        "namespace": namespace,
        "data": observations,
        "sandbox": {},
        "time": 0,
        "duration": length,
    }
