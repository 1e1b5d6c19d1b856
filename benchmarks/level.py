"""How well volume and length are read: notes of other makers' guitars in runs, against the same notes alone.

Level: errors relative to each run's median (the product's levels are relative, too), beside librosa's frame RMS at
the onsets. Velocity: FluidSynth's notes against the concave law of SoundFont 2.04, 8.4.1. Overlap: two strings, the
first stopped at known times after the second begins. `./run bench level [--quick]`.
"""

from __future__ import annotations

import sys
import time
from collections import defaultdict
from collections.abc import Sequence
from pathlib import Path

import numpy as np
from fortimetra.measure.level import note_levels
from fortimetra.measure.overlap import overlap_of
from fortimetra.measure.settings import OVERLAP
from fortimetra.sound.decode import resampled
from fortimetra.units import midi_to_hz

from benchmarks._lines import START_S, Guitar, Line, Played, drill_of, guitars, in_folder, lines
from benchmarks._notes import RATE_HZ, Samples
from benchmarks._sounds import under
from benchmarks.time import drilled

CONDITIONS = ("clean", "noise")
PAIRS = (
    (45, 50),
    (50, 55),
    (52, 55),
    (55, 59),
    (57, 60),
    (59, 64),
    (62, 64),
    (52, 57),
    (60, 57),
    (64, 59),
    (55, 50),
    (50, 48),
)
OVERLAPS_S = (0.0, 0.02, 0.04, 0.08, 0.15)


def librosa_levels(sound: Samples, onsets_s: Samples) -> Samples:
    """Frame RMS (2048 samples) at each onset and 85 ms on, the loudest, dB."""
    import librosa

    rms = 20 * np.log10(librosa.feature.rms(y=sound, frame_length=2048, hop_length=256)[0] + 1e-9)
    at = np.round(onsets_s * RATE_HZ / 256).astype(int)
    return np.array([rms[a : a + 15].max(initial=-180.0) for a in at])


def levels_table(corpus: Sequence[Line]) -> None:
    """Relative level of every note of every run."""
    print("level of notes in runs against the same notes alone, each run about its median")
    print("reader       condition  a second  notes  median dB  90 % dB  in u  s per s")
    for condition in CONDITIONS:
        errors: dict[tuple[str, float], list[float]] = defaultdict(list)
        inside: dict[float, list[bool]] = defaultdict(list)
        spent = heard = 0.0
        for line in corpus:
            sound = under(line.samples, condition)
            match = drilled(sound, line.drill).match
            if match is None:
                continue
            began = time.perf_counter()
            found = note_levels(sound.astype(np.float32), match, rate_hz=RATE_HZ)
            spent += time.perf_counter() - began
            heard += len(sound) / RATE_HZ
            known = [i for i, n in enumerate(found) if n is not None]
            if len(known) < 6:
                continue
            true = line.alone_db[known]
            true = true - np.median(true)
            own = np.array([n.level_db for n in found if n is not None])
            own = own - np.median(own)
            errors["fortimetra", line.speed] += list(own - true)
            inside[line.speed] += [
                abs(e) <= n.u_db for e, n in zip(own - true, (n for n in found if n is not None), strict=True)
            ]
            other = librosa_levels(sound, line.onsets_s[known])
            errors["librosa rms", line.speed] += list(other - np.median(other) - true)
        for (reader, speed), values in sorted(errors.items()):
            size = np.abs(np.array(values))
            ours = reader == "fortimetra"
            print(
                f"{reader:12} {condition:9} {speed:9} {len(size):6} {np.median(size):9.2f} "
                f"{np.percentile(size, 90):8.2f} "
                + (f"{np.mean(inside[speed]):6.2f} {spent / heard:7.4f}" if ours else "")
            )


def velocity_table(folder: Path) -> None:
    """Notes of known velocity, one after the other: 40·log10(velocity ratio) dB by the specification."""
    print("\nFluidSynth: level against velocity, dB off 40·log10(v/127), median and largest")
    for guitar in guitars(folder, ("nylon", "steel", "clean")):
        wanted = np.array([-16.0, -12.0, -8.0, -4.0, -2.0, 0.0])
        velocity = np.clip(np.round(127.0 * 10.0 ** (wanted / 40.0)), 20, 127)
        exact = 40.0 * np.log10(velocity / 127.0)
        notes = [Played(57, START_S + 0.6 * i, 0.5, db) for i, db in enumerate(wanted)]
        sound = guitar.play(notes, START_S + 0.6 * len(notes) + 0.5)
        match = drilled(sound, drill_of([57] * len(notes), 1 / 0.6)).match
        if match is None:
            print(f"{guitar.name:8} not heard")
            continue
        found = [n.level_db if n else np.nan for n in note_levels(sound.astype(np.float32), match, rate_hz=RATE_HZ)]
        off = np.array(found) - exact
        off = off - np.nanmedian(off)
        print(f"{guitar.name:8} {np.nanmedian(np.abs(off)):5.2f} {np.nanmax(np.abs(off)):5.2f}")


def overlap_table(folder: Path, quick: bool) -> None:
    """Two strings; truth from the stopped note alone, 20 dB under the other."""
    print("\noverlap: stopped so many ms after the next note: told / hidden, error median, 90 %, in u")
    names = ("electric recorded",) if quick else ("electric recorded", "acoustic recorded", "nylon recorded")
    for guitar in guitars(folder, names):
        for over in OVERLAPS_S:
            errors, inside, hidden = [], [], 0
            for old, new in PAIRS:
                found = _overlap(guitar, old, new, over)
                if found is None:
                    hidden += 1
                else:
                    errors.append(found[0])
                    inside.append(abs(found[0]) <= found[1])
            size = np.abs(np.array(errors)) if errors else np.zeros(1)
            print(
                f"{guitar.name:18} {1000 * over:4.0f} ms  {len(errors):3} / {hidden:2}  {np.median(size):6.1f} "
                f"{np.percentile(size, 90):6.1f} {np.mean(inside) if inside else 0:5.2f}"
            )


def _overlap(guitar: Guitar, old: int, new: int, over_s: float) -> tuple[float, float] | None:
    """Error and u, ms."""
    slot = 0.3
    first, second = Played(old, START_S, slot + over_s), Played(new, START_S + slot, 1.0)
    begins = second.at_s + guitar.audible_after_s(second)
    sound = resampled(guitar.play([first, second], 2.5).astype(np.float32), from_hz=RATE_HZ, to_hz=OVERLAP.rate_hz)
    found = overlap_of(
        sound, rate_hz=OVERLAP.rate_hz, old_hz=midi_to_hz(old), new_hz=midi_to_hz(new),
        old_s=first.at_s + guitar.audible_after_s(first), new_s=begins, until_s=begins + 1.0,
    )  # fmt: skip
    if found is None:
        return None
    step = 44
    alone = [
        np.sqrt(np.convolve(guitar.play([n], 2.5) ** 2, np.ones(882) / 882, "same"))[::step] for n in (first, second)
    ]
    start = round(begins * RATE_HZ / step)
    sounding = np.flatnonzero(alone[0][start:] > 0.1 * alone[1][start : start + round(0.1 * RATE_HZ / step)].max())
    # Recorded notes are cut here within 10 ms; the envelope's window adds half of its 20.
    true_ms = max(0.0, 1000.0 * float(sounding[-1]) * step / RATE_HZ - 10.0) if len(sounding) else 0.0
    return found.ms - true_ms, found.u_ms


def main(quick: bool) -> None:
    """Print the tables."""
    with in_folder() as name:
        folder = Path(name)
        corpus = [line for line in lines(folder, quick=quick) if not line.swells]
        levels_table(corpus)
        velocity_table(folder)
        overlap_table(folder, quick)


if __name__ == "__main__":
    main("--quick" in sys.argv)
