"""Pitch trackers behind one shape: mono samples in, times and Hz (NaN unvoiced) out.

librosa pyin (Mauch & Dixon 2014) and yin (de Cheveigné & Kawahara 2002), praat-parselmouth (Boersma 1993), pyworld
harvest (Morise 2017), aubio yinfft, swift-f0 (a small neural network whose weights ship in its package).
"""

from __future__ import annotations

import warnings
from collections.abc import Callable
from functools import cache

import numpy as np
from fortimetra.hear.contour import track
from fortimetra.hear.inharmonicity import without_stiffness
from fortimetra.hear.notes import segment
from fortimetra.hear.onsets import find_onsets

from benchmarks._notes import RATE_HZ, Samples

Track = tuple[Samples, Samples]
LOW_HZ, HIGH_HZ = 58.0, 1500.0
HOP_S = 0.005


def ours(sound: Samples) -> Track:
    """The project's contour, with no drill to go by."""
    mono = sound.astype(np.float32)
    onsets = find_onsets(mono, rate_hz=RATE_HZ)
    contour = track(mono, rate_hz=RATE_HZ, onsets_s=onsets)
    contour = without_stiffness(contour, segment(contour, onsets))
    return contour.time_s, contour.f0_hz


def pyin(sound: Samples) -> Track:
    """librosa.pyin with its own resolution of ten cents; a finer one takes minutes for a second of sound."""
    import librosa

    hop = round(HOP_S * RATE_HZ)
    f0, _voiced, _p = librosa.pyin(sound, fmin=LOW_HZ, fmax=HIGH_HZ, sr=RATE_HZ, frame_length=4096, hop_length=hop)
    return np.arange(len(f0)) * hop / RATE_HZ, f0


def yin(sound: Samples) -> Track:
    """librosa.yin."""
    import librosa

    hop = round(HOP_S * RATE_HZ)
    f0 = librosa.yin(sound, fmin=LOW_HZ, fmax=HIGH_HZ, sr=RATE_HZ, frame_length=4096, hop_length=hop)
    return np.arange(len(f0)) * hop / RATE_HZ, f0


def praat(sound: Samples) -> Track:
    """Autocorrelation, very accurate."""
    import parselmouth

    found = parselmouth.Sound(sound, RATE_HZ).to_pitch_ac(
        time_step=HOP_S, pitch_floor=LOW_HZ, pitch_ceiling=HIGH_HZ, very_accurate=True
    )
    f0 = found.selected_array["frequency"]
    return found.xs(), np.where(f0 > 0, f0, np.nan)


def world(sound: Samples) -> Track:
    """harvest, then stonemask."""
    import pyworld

    f0, time = pyworld.harvest(sound, RATE_HZ, f0_floor=LOW_HZ, f0_ceil=HIGH_HZ, frame_period=1000 * HOP_S)
    f0 = pyworld.stonemask(sound, f0, time, RATE_HZ)
    return time, np.where(f0 > 0, f0, np.nan)


def aubio_yinfft(sound: Samples) -> Track:
    """aubio's own default."""
    import aubio

    hop = round(HOP_S * RATE_HZ)
    detector = aubio.pitch("yinfft", 4096, hop, RATE_HZ)
    detector.set_unit("Hz")
    mono = sound.astype(np.float32)
    f0 = np.array([detector(mono[i : i + hop])[0] for i in range(0, len(mono) - hop, hop)])
    # It looks back over its window: the middle of it is meant.
    return (np.arange(len(f0)) + 1) * hop / RATE_HZ - 2048 / RATE_HZ, np.where(f0 > 0, f0, np.nan)


def neural(sound: Samples) -> Track:
    """swift-f0."""
    import librosa
    import swift_f0

    rate = swift_f0.SAMPLE_RATE
    if not _MODEL:
        _MODEL.append(swift_f0.SwiftF0(threads=1))
    found = _MODEL[0].detect(librosa.resample(sound, orig_sr=RATE_HZ, target_sr=rate).astype(np.float32), rate)
    return np.asarray(found.timestamps), np.where(found.confidence >= 0.5, found.pitch_hz, np.nan)


_MODEL: list = []


TRACKERS: dict[str, Callable[[Samples], Track]] = {
    "fortimetra": ours,
    "pyin": pyin,
    "yin": yin,
    "praat": praat,
    "world": world,
    "aubio": aubio_yinfft,
    "swift-f0": neural,
}


@cache
def available() -> dict[str, Callable[[Samples], Track]]:
    """Those whose packages are there; each is run once, so that none is timed while it loads."""
    warnings.filterwarnings("ignore")
    tone = 0.3 * np.sin(2 * np.pi * 220 * np.arange(RATE_HZ) / RATE_HZ)
    found = {}
    for name, run in TRACKERS.items():
        try:
            run(tone)
        except ImportError:
            print(f"{name} is not installed; left out")
            continue
        found[name] = run
    return found
