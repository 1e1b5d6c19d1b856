"""What the sheet draws and plays: columns of the contour, the waveform's outline, a copy every browser plays."""

from __future__ import annotations

import gzip
import io
import json
from typing import Any

import numpy as np
import soundfile
from fortimetra import CONTOUR_HOP_S, MeasuredTake, Take, resampled

OUTLINE_STEP_S = 0.01
LISTENING_RATE_HZ = 48_000


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
    count = -(-len(mono) // step)
    padded = np.pad(mono, (0, count * step - len(mono))).reshape(count, step)
    return [round(float(v), 3) for v in padded.min(axis=1)], [round(float(v), 3) for v in padded.max(axis=1)]


def listening_copy(take: Take) -> bytes:
    """FLAC, 16 bit, at most 48 kHz."""
    rate = take.sample_rate_hz
    channels = list(take.samples)
    if rate > LISTENING_RATE_HZ:
        channels = [resampled(c, from_hz=rate, to_hz=LISTENING_RATE_HZ) for c in channels]
        rate = LISTENING_RATE_HZ
    out = io.BytesIO()
    soundfile.write(out, np.clip(np.stack(channels, axis=1), -1.0, 1.0), rate, format="FLAC", subtype="PCM_16")
    return out.getvalue()
