"""What the sheet draws and plays: columns of the contour, the waveform's outline, a copy every browser plays."""

from __future__ import annotations

import gzip
import io
import json
from typing import Any

import numpy as np
import soundfile
from fortimetra import CONTOUR_HOP_S, MeasuredTake, Take

OUTLINE_STEP_S = 0.01
BLOCK_FRAMES = 1 << 18  # a long take as a whole would be in memory twice


def curves_file(found: MeasuredTake) -> bytes:
    """Compressed JSON of columns: pitch_cents (above MIDI 0 at A4 = 440; 6900 is 440 Hz; null unvoiced), level_dbfs,
    confidence, outline."""
    contour = found.contour
    with np.errstate(invalid="ignore"):
        cents = 6900.0 + 1200.0 * np.log2(contour.f0_hz / 440.0)
    low, high = _outline(found.take)
    columns: dict[str, Any] = {
        "hop_s": CONTOUR_HOP_S,
        "pitch_cents": [None if np.isnan(c) else round(float(c), 1) for c in cents],
        "level_dbfs": [round(float(v), 1) for v in contour.level_dbfs],
        "confidence": [round(float(v), 3) for v in contour.confidence],
        "outline_step_s": OUTLINE_STEP_S,
        "outline_low": low,
        "outline_high": high,
    }
    return gzip.compress(json.dumps(columns, separators=(",", ":")).encode(), 6, mtime=0)


def _outline(take: Take) -> tuple[list[float], list[float]]:
    mono = take.guitar()
    step = max(1, round(OUTLINE_STEP_S * take.sample_rate_hz))
    starts = np.arange(0, len(mono), step)
    low, high = (extreme.reduceat(mono, starts) for extreme in (np.minimum, np.maximum))
    return [round(float(v), 3) for v in low], [round(float(v), 3) for v in high]


def listening_copy(take: Take) -> bytes:
    """FLAC, 16 bit, at the rate that was measured."""
    channels, count = take.samples.shape
    out = io.BytesIO()
    with soundfile.SoundFile(out, "w", take.sample_rate_hz, channels, "PCM_16", format="FLAC") as file:
        for first in range(0, count, BLOCK_FRAMES):
            file.write(np.clip(take.samples[:, first : first + BLOCK_FRAMES].T, -1.0, 1.0))
    return out.getvalue()
