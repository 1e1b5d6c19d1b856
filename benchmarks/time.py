"""How well attacks are found: runs of another maker's guitars with known ticks, beside general onset detectors.

Truth is when a note becomes audible: 30 dB under its own maximum, read from the same note rendered alone, plus its tick. Scores
are mir_eval.onset's F at 50, 25 and 10 ms, and the error of what was found within 50 ms. `python -m benchmarks.time [--quick]`.
"""

from __future__ import annotations

import sys
import tempfile
import time
from collections import defaultdict
from collections.abc import Callable
from dataclasses import dataclass
from pathlib import Path

import mir_eval
import numpy as np
from fortimetra import load_take
from fortimetra.hear.onsets import find_onsets

from benchmarks._notes import PROGRAMS, RATE_HZ, Samples
from benchmarks._sounds import under
from tests.reference.fluid import Tone, render

CONDITIONS = ("clean", "noise", "drive", "click")
SPEEDS_NPS = (4, 8, 12, 16, 20)
AUDIBLE = 10.0 ** (-30.0 / 20.0)
# Figures of our own: a scale up and down, three and four to a string, a skip, one note repeated.
FIGURES = {
    "scale": (45, 47, 48, 50, 52, 53, 55, 57, 59, 60, 62, 64, 62, 60, 59, 57, 55, 53, 52, 50, 48, 47),
    "threes": (52, 55, 57, 55, 57, 59, 57, 59, 62, 59, 62, 64, 62, 64, 67, 64, 67, 69),
    "one note": (57,) * 20,
    "skips": (45, 57, 48, 60, 52, 64, 55, 67, 57, 69, 55, 67, 52, 64, 48, 60),
}


@dataclass(frozen=True)
class Line:
    """A run and when its notes become audible."""

    name: str
    samples: Samples
    onsets_s: Samples


def audible_after_s(program: int, keys: set[int], folder: Path) -> dict[int, float]:
    """Seconds from the tick to 30 dB under the maximum, per key, from notes alone."""
    tones = [Tone(key, 0.5 + 1.5 * i, 1.0) for i, key in enumerate(sorted(keys))]
    sound = load_take(render(tones, folder, program=program, rate_hz=RATE_HZ, name="alone")).guitar()
    found = {}
    for tone in tones:
        start = round(tone.onset_s * RATE_HZ)
        part = np.abs(sound[start : start + round(0.25 * RATE_HZ)])
        found[tone.midi] = float(np.argmax(part > AUDIBLE * part.max())) / RATE_HZ
    return found


def lines(programs: dict[str, int], speeds: tuple[int, ...]) -> list[Line]:
    """Every figure at every speed on every guitar; notes end when the next begins, or ring a little into it."""
    found = []
    rng = np.random.default_rng(3)
    with tempfile.TemporaryDirectory() as name:
        folder = Path(name)
        for guitar, program in programs.items():
            after = audible_after_s(program, {k for keys in FIGURES.values() for k in keys}, folder)
            for figure, keys in FIGURES.items():
                for speed in speeds:
                    slot = 1.0 / speed
                    # Human hands: a few ms off, some notes softer.
                    ticks = np.round(0.5 + np.arange(len(keys)) * slot + rng.normal(0, 0.004, len(keys)), 3)
                    ring = 0.0 if figure in {"scale", "one note"} else 0.6 * slot
                    tones = [
                        Tone(key, float(t), slot + ring, velocity=int(np.clip(rng.normal(95, 14), 50, 127)))
                        for key, t in zip(keys, ticks, strict=True)
                    ]
                    sound = load_take(render(tones, folder, program=program, rate_hz=RATE_HZ)).guitar()
                    truth = np.array([t + after[k] for k, t in zip(keys, ticks, strict=True)])
                    found.append(Line(f"{guitar} {figure} {speed}/s", sound.astype(np.float64), truth))
    return found


def librosa_onsets(sound: Samples) -> Samples:
    """librosa's default detector."""
    import librosa

    return librosa.onset.onset_detect(y=sound, sr=RATE_HZ, hop_length=256, units="time")


def librosa_backtracked(sound: Samples) -> Samples:
    """The same, moved back to where the energy begins to rise."""
    import librosa

    return librosa.onset.onset_detect(y=sound, sr=RATE_HZ, hop_length=256, units="time", backtrack=True)


def aubio_onsets(sound: Samples) -> Samples:
    """aubio's default detector."""
    import aubio

    detector = aubio.onset("default", 1024, 256, RATE_HZ)
    mono = sound.astype(np.float32)
    return np.array([detector.get_last_s() for i in range(0, len(mono) - 256, 256) if detector(mono[i : i + 256])[0]])


def ours(sound: Samples) -> Samples:
    """The project's attacks, with no drill to go by."""
    return find_onsets(sound.astype(np.float32), rate_hz=RATE_HZ)


DETECTORS: dict[str, Callable[[Samples], Samples]] = {
    "fortimetra": ours, "librosa": librosa_onsets, "librosa, back": librosa_backtracked, "aubio": aubio_onsets,
}  # fmt: skip


def main(quick: bool, only: list[str]) -> None:
    """Print the table."""
    programs = {k: v for k, v in PROGRAMS.items() if not quick or k in {"steel", "clean", "overdriven"}}
    runs = lines(programs, SPEEDS_NPS[::2] if quick else SPEEDS_NPS)
    print(f"{len(runs)} runs, {sum(len(r.onsets_s) for r in runs)} notes\n")
    print("detector        condition   F 50    F 25    F 10   bias ms  median ms  95 % ms  s per s")
    worst: dict[str, list[tuple[float, str]]] = defaultdict(list)
    for name, run in DETECTORS.items():
        if only and name not in only:
            continue
        for condition in CONDITIONS:
            scores: dict[float, list[float]] = defaultdict(list)
            errors: list[float] = []
            spent = heard = 0.0
            for line in runs:
                sound = under(line.samples, condition)
                began = time.perf_counter()
                found = np.sort(run(sound))
                spent += time.perf_counter() - began
                heard += len(sound) / RATE_HZ
                for window in (0.05, 0.025, 0.01):
                    scores[window].append(mir_eval.onset.f_measure(line.onsets_s, found, window=window)[0])
                pairs = mir_eval.util.match_events(line.onsets_s, found, 0.05)
                errors += [1000 * (found[j] - line.onsets_s[i]) for i, j in pairs]
                worst[f"{name} {condition}"].append((scores[0.01][-1], line.name))
            size = np.sort(np.abs(np.array(errors)))
            print(
                f"{name:15} {condition:9} "
                + " ".join(f"{np.mean(scores[w]):7.3f}" for w in (0.05, 0.025, 0.01))
                + f" {np.median(errors):8.2f} {np.median(size):9.2f} {size[int(0.95 * len(size))]:9.2f} {spent / heard:9.4f}"
            )
    if "--worst" in sys.argv:
        for key, rows in worst.items():
            print(key, sorted(rows)[:12])


if __name__ == "__main__":
    main("--quick" in sys.argv, [a for a in sys.argv[1:] if not a.startswith("--")])
