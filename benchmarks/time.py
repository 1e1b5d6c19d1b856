"""How well onsets are found and told: runs of other makers' guitars with known ticks, beside general onset detectors.

Scores are mir_eval.onset's F at 50, 25 and 10 ms; errors are of what was found within 50 ms; `missed` and `extra` are
of what the product says. Then slurs (FluidSynth, steps of the pitch wheel), faults put in on purpose, clean takes,
the click.
`./run bench time [--quick] [detector …]`.
"""

from __future__ import annotations

import sys
import time
from collections import defaultdict
from collections.abc import Callable, Sequence
from dataclasses import dataclass
from itertools import pairwise
from pathlib import Path

import mir_eval
import numpy as np
from fortimetra import analyse
from fortimetra.align.extras import name_extras
from fortimetra.align.listen import listen
from fortimetra.align.match import Match
from fortimetra.errors import TakeError
from fortimetra.hear.contour import track
from fortimetra.hear.onsets import find_candidates, find_onsets
from fortimetra.model.drill import Drill
from fortimetra.sound.decode import Take

from benchmarks._lines import (
    FIGURES,
    RINGS_ON,
    START_S,
    Guitar,
    Line,
    Played,
    drill_of,
    guitars,
    in_folder,
    line_of,
    lines,
)
from benchmarks._notes import PROGRAMS, RATE_HZ, Samples
from benchmarks._sounds import under
from tests.reference.fluid import Tone, render

CONDITIONS = ("clean", "noise", "drive", "click")
WINDOWS_S = (0.05, 0.025, 0.01)


@dataclass
class Heard:
    """What one detector says of a take: onsets, their u in ms (NaN where it has none), seconds it took."""

    onsets_s: Samples
    u_ms: Samples
    seconds: float
    match: Match | None = None


def timed(run: Callable[[Samples], Samples]) -> Callable[[Samples, Drill], Heard]:
    """A detector that knows no drill."""

    def found(sound: Samples, _drill: Drill) -> Heard:
        began = time.perf_counter()
        onsets = np.sort(run(sound))
        return Heard(onsets, np.full(len(onsets), np.nan), time.perf_counter() - began)

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


def undrilled(sound: Samples) -> Samples:
    """The project's attacks, with no drill to go by."""
    return find_onsets(sound.astype(np.float32), rate_hz=RATE_HZ)


def drilled(sound: Samples, drill: Drill) -> Heard:
    """The product: what it hears with the drill in hand. Times only what onsets and alignment cost."""
    mono = sound.astype(np.float32)
    began = time.perf_counter()
    candidates = find_candidates(mono, rate_hz=RATE_HZ)
    spent = time.perf_counter() - began
    contour = track(mono, rate_hz=RATE_HZ, onsets_s=candidates.strong_s)
    began = time.perf_counter()
    try:
        match = listen(mono, contour, candidates, drill, rate_hz=RATE_HZ)
    except TakeError:
        return Heard(np.empty(0), np.empty(0), spent)
    notes = match.notes
    spent += time.perf_counter() - began
    return Heard(np.array([n.onset_s for n in notes]), np.array([n.onset_u_ms for n in notes]), spent, match)


DETECTORS: dict[str, Callable[[Samples, Drill], Heard]] = {
    "fortimetra": drilled, "without drill": timed(undrilled), "librosa": timed(librosa_onsets),
    "librosa, back": timed(librosa_backtracked), "aubio": timed(aubio_onsets),
}  # fmt: skip


def onsets_table(corpus: Sequence[Line], only: Sequence[str]) -> None:
    """Every detector under every condition; sounds that swell apart."""
    print(
        "detector        sounds    condition   F 50    F 25    F 10   bias ms  median ms  95 % ms "
        " in u   missed  extra   s per s"
    )
    for name, run in DETECTORS.items():
        if only and name not in only:
            continue
        for swelling in (False, True):
            own = [line for line in corpus if line.swells == swelling]
            for condition in CONDITIONS if own else ():
                _row(name, "swelling" if swelling else "plucked", condition, own, run)


def _row(name: str, sounds: str, condition: str, own: Sequence[Line], run: Callable[[Samples, Drill], Heard]) -> None:
    scores: dict[float, list[float]] = defaultdict(list)
    errors, us, spent, heard, missed, extra, asked = [], [], 0.0, 0.0, 0, 0, 0
    for line in own:
        found = run(under(line.samples, condition), line.drill)
        spent += found.seconds
        heard += len(line.samples) / RATE_HZ
        for window in WINDOWS_S:
            scores[window].append(mir_eval.onset.f_measure(line.onsets_s, found.onsets_s, window=window)[0])
        for i, j in mir_eval.util.match_events(line.onsets_s, found.onsets_s, 0.05):
            errors.append(1000 * (found.onsets_s[j] - line.onsets_s[i]))
            us.append(found.u_ms[j])
        asked += len(line.onsets_s)
        if found.match is not None:
            missed += sum(n is None for n in found.match.heard)
            extra += len(found.match.extras)
        elif name == "fortimetra":
            missed += len(line.onsets_s)
    size = np.abs(np.array(errors))
    inside = np.mean(size <= np.array(us)) if not np.isnan(us).all() else float("nan")
    print(
        f"{name:15} {sounds:9} {condition:9} "
        + " ".join(f"{np.mean(scores[w]):7.3f}" for w in WINDOWS_S)
        + f" {np.median(errors):8.2f} {np.median(size):9.2f} {np.percentile(size, 95):9.2f} {inside:6.2f}"
        + (f" {missed / asked:8.3f} {extra / asked:6.3f}" if name == "fortimetra" else " " * 16)
        + f" {spent / heard:9.4f}"
    )


def legato(groups: Sequence[Sequence[int]], speed: float, program: int, folder: Path, rng: np.random.Generator):
    """Groups whose first note is picked and the others are steps of the pitch wheel, 2 ms long: sound, truth, keys,
    ways.
    """
    slot, at = 1.0 / speed, START_S
    tones, truth, keys, ways = [], [], [], []
    for group in groups:
        late = [0.0, *(round(float(x), 3) for x in rng.normal(0, HAND_OFF_S, len(group) - 1))]
        bend = [(0.0, 0.0)]
        for i in range(1, len(group)):
            step = round(i * slot + late[i], 3)
            bend += [(step - 0.004, 100.0 * (group[i - 1] - group[0])), (step, 100.0 * (group[i] - group[0]))]
        bend.append((len(group) * slot - 0.01, 100.0 * (group[-1] - group[0])))
        tones.append(Tone(group[0], round(at, 3), len(group) * slot - 0.005, tuple(bend)))
        truth += [round(at, 3), *(round(at, 3) + round(i * slot + late[i], 3) - 0.001 for i in range(1, len(group)))]
        keys += group
        ways += ["pick", *("hammer" if b > a else "pull" for a, b in pairwise(group))]
        at += len(group) * slot
    sound = analyse_free(render(tones, folder, program=program, rate_hz=RATE_HZ))
    return sound, np.array(truth), keys, ways


HAND_OFF_S = 0.004
LEGATO = ([[62, 64, 65, 64]] * 4, [[64, 66, 67]] * 5, [[55, 57, 55, 57, 55, 57]] * 3)


def analyse_free(path: Path) -> Samples:
    """The guitar of a file."""
    from fortimetra import load_take

    return load_take(path).guitar().astype(np.float64)


def slurs_table(folder: Path, quick: bool) -> None:
    """Slurred notes with no attack at all."""
    rng = np.random.default_rng(4)
    print(
        "\nslurs: steps of pitch without an attack (FluidSynth)\ncondition  a second  notes  missed "
        " bias ms  median ms  95 % ms  in u"
    )
    names = ("steel", "clean") if quick else [p for p in PROGRAMS if p not in ("overdriven", "distorted")]
    for condition in ("clean", "drive"):
        for speed in (3, 8, 12) if quick else (3, 5, 8, 10, 12):
            errors, us, missed = [], [], 0
            for name in names:
                for groups in LEGATO:
                    sound, truth, keys, ways = legato(groups, speed, PROGRAMS[name], folder, rng)
                    found = drilled(under(sound, condition), drill_of(keys, speed, ways))
                    for i, way in enumerate(ways):
                        if way == "pick":
                            continue
                        note = found.match.heard[i] if found.match else None
                        if note is None:
                            missed += 1
                        else:
                            errors.append(1000 * (note.onset_s - truth[i]))
                            us.append(note.onset_u_ms)
            size = np.abs(np.array(errors))
            print(
                f"{condition:9} {speed:9} {len(errors) + missed:6} {missed:7} {np.median(errors):8.2f} "
                f"{np.median(size):10.2f} {np.percentile(size, 95):8.2f} {np.mean(size <= np.array(us)):5.2f}"
            )


def faults_table(folder: Path, quick: bool) -> None:
    """Notes left out, put in and struck twice, at known places: what the alignment says of them."""
    rng = np.random.default_rng(8)
    names = (
        ("steel", "electric recorded")
        if quick
        else ("nylon", "steel", "jazz", "clean", "electric recorded", "acoustic recorded")
    )
    print("\nfaults put in (one note in ten missed, one in ten extra; double hits 25 to 58 ms after the first)")
    print("condition  a second   missed P     R   extra P     R   double P     R")
    for condition in ("clean", "drive"):
        for speed in (4, 8) if quick else (4, 8, 12, 16, 20):
            counts: dict[str, list[int]] = {kind: [0, 0, 0] for kind in ("missed", "extra", "double_hit")}
            for guitar in guitars(folder, names):
                for figure in ("scale", "threes", "skips"):
                    _count_faults(guitar, figure, speed, condition, rng, counts)
            cells = " ".join(f"{h / max(1, s):9.3f} {h / max(1, t):5.3f}" for h, s, t in counts.values())
            print(f"{condition:9} {speed:9} {cells}")


def _count_faults(
    guitar: Guitar, figure: str, speed: float, condition: str, rng: np.random.Generator, counts: dict[str, list[int]]
) -> None:
    """Adds right, said and true numbers of each kind."""
    keys, slot = FIGURES[figure], 1.0 / speed
    chosen = rng.permutation(np.arange(1, len(keys) - 1))
    each = max(1, len(keys) // 10)
    missed, extra = set(chosen[:each]), set(chosen[each : 2 * each])
    doubled = set(chosen[2 * each : 3 * each]) if speed <= 8 else set()
    notes: list[Played] = []
    extras_s, doubles_s = [], []
    for i, key in enumerate(keys):
        if i in missed:
            continue
        at = round(START_S + i * slot + float(rng.normal(0, HAND_OFF_S)), 3)
        level = float(rng.normal(-5, 1.5))
        if i in doubled:
            gap = round(float(rng.uniform(0.025, min(0.058, 0.38 * slot))), 3)
            notes += [Played(key, at, gap, level - 3.0), Played(key, at + gap, slot - gap, level)]
            doubles_s.append(at + gap)
        elif i in extra:
            middle = round(at + 0.5 * slot, 3)
            notes += [
                Played(key, at, 0.5 * slot, level),
                Played(key + int(rng.choice((-3, 4))), middle, 0.5 * slot, level),
            ]
            extras_s.append(middle)
        else:
            notes.append(Played(key, at, slot, level))
    sound = guitar.play(notes, START_S + len(keys) * slot + 1.0)
    match = drilled(under(sound, condition), drill_of(keys, speed)).match
    if match is None:
        for kind, number in (("missed", len(missed)), ("extra", len(extras_s)), ("double_hit", len(doubles_s))):
            counts[kind][2] += number
        return
    said = {i for i, n in enumerate(match.heard) if n is None}
    named = name_extras(match, drill_of(keys, speed))
    _add(counts["missed"], len(said & missed), len(said), len(missed))
    for kind, true in (("extra", extras_s), ("double_hit", doubles_s)):
        own = [e.note.onset_s for e in named if (e.kind == "double_hit") == (kind == "double_hit")]
        right = sum(any(abs(t - o) < 0.03 for o in own) for t in true)
        _add(counts[kind], right, len(own), len(true))


def _add(count: list[int], right: int, said: int, true: int) -> None:
    count[0] += right
    count[1] += said
    count[2] += true


def clean_table(folder: Path, quick: bool) -> None:
    """Clean takes through the whole product with a click at a known place: how many notes are called outside."""
    print(
        "\nclean takes, hands 4 ms (sd) off, steady tolerances: notes called outside, of all\ncondition "
        "  notes  timing  level  length  dies  extra"
    )
    rng = np.random.default_rng(12)
    names = ("steel", "clean", "electric recorded") if quick else None
    for condition in ("clean", "noise", "drive"):
        total, outside, dies, extra = 0, dict.fromkeys(("timing", "level", "length"), 0), 0, 0
        for guitar in guitars(folder, names):
            if guitar.name in ("overdriven", "distorted"):
                continue
            for figure in FIGURES:
                if figure in RINGS_ON:
                    continue  # these ring into each other, and are said to
                line = line_of(guitar, figure, 4, rng, hand_db=0.7)
                take = Take(under(line.samples, condition)[None, :].astype(np.float32), RATE_HZ, "0" * 64)
                found = analyse(take, drill=line.drill)
                extra += len(found.extras)
                for note in found.notes:
                    total += 1
                    dies += "dies" in note.reasons
                    for measure in outside:
                        part = getattr(note, measure)
                        outside[measure] += part is not None and part.verdict == "outside"
        print(
            f"{condition:9} {total:7} {outside['timing']:7} {outside['level']:6} {outside['length']:7} "
            f"{dies:5} {extra:6}"
        )


def click_table(folder: Path) -> None:
    """A click mixed under the guitar at stated levels: is it found, and where."""
    print("\nclick heard with the guitar: dB under the guitar, found, error of its phase ms")
    rng = np.random.default_rng(2)
    (guitar,) = guitars(folder, ("clean",))
    for under_db in (0, 10, 20, 30, 36):
        found, errors = 0, []
        for figure in ("scale", "threes", "skips"):
            line = line_of(guitar, figure, 4, rng)
            lead = round(4.0 * RATE_HZ)
            sound = np.concatenate((np.zeros(lead), line.samples))
            spb = line.drill.seconds_per_beat
            first = START_S + 4.0 - 8 * spb
            top = np.max(np.abs(sound))
            burst = np.sin(2 * np.pi * 1175 * np.arange(round(0.03 * RATE_HZ)) / RATE_HZ)
            burst *= np.exp(-np.arange(len(burst)) / (0.006 * RATE_HZ))
            for k in range(int((len(sound) / RATE_HZ - first) / spb)):
                at = round((first + k * spb) * RATE_HZ)
                sound[at : at + len(burst)] += burst[: len(sound) - at] * top * 10 ** (-under_db / 20)
            sound += np.random.default_rng(1).standard_normal(len(sound)) * 1e-5
            result = analyse(Take(sound[None, :].astype(np.float32), RATE_HZ, "0" * 64), drill=line.drill)
            grid = result.reference.grid
            if grid.source == "audible" and grid.first_beat_s is not None:
                found += 1
                errors.append(1000 * (grid.first_beat_s - (first + 8 * spb)))
        print(f"{under_db:4} {found} of 3 {np.round(errors, 2)}")


def main(quick: bool, only: list[str]) -> None:
    """Print the tables."""
    with in_folder() as name:
        folder = Path(name)
        corpus = lines(folder, quick=quick)
        print(f"{len(corpus)} runs, {sum(len(line.onsets_s) for line in corpus)} notes, 4 to 20 a second\n")
        onsets_table(corpus, only)
        if not only or "fortimetra" in only:
            slurs_table(folder, quick)
            faults_table(folder, quick)
            clean_table(folder, quick)
            click_table(folder)


if __name__ == "__main__":
    main("--quick" in sys.argv, [a for a in sys.argv[1:] if not a.startswith("-")])
