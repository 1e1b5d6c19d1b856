"""How long measuring takes by stage, family and length, beside a C library's pitch tracking on the same sound.

`./run bench pace [--lengths 20 60 300 900] [--plot docs/speed.svg]`. Both on one core (praat's pitch would use all
there are), in turn, by the processor's time of this process. Times are the best of their turns; a ratio is the median
of the turns' own, so that a slow spell of the machine falls on both. The references are
praat's autocorrelation pitch (parselmouth), on the same sound in the same run: a ratio says the same on any machine.
Asked as the contour is, every 5 ms over a guitar's range, it does the same work; at its defaults, every 10 ms from 75
to 600 Hz, it does less than half of it, and hears nothing above the tenth fret of the first string. Peak memory is
that of a process of its own, with the sound in it. The sound is the simulated student's: what is timed is the work,
not the finding.
"""

from __future__ import annotations

import argparse
import gc
import json
import os
import subprocess
import sys
import tempfile
import time
from collections.abc import Callable, Sequence
from dataclasses import dataclass
from functools import partial
from itertools import pairwise
from pathlib import Path

import numpy as np
import soundfile
from fortimetra.drills.library import built_in_drills
from fortimetra.model.drill import Drill
from fortimetra.pipeline import analyse
from fortimetra.player.faults import Faults
from fortimetra.player.rendering import render
from fortimetra.sound.decode import Take
from numpy.typing import NDArray

from benchmarks._trackers import HIGH_HZ, HOP_S, LOW_HZ

RATE_HZ = 48_000
FAMILIES = (
    "alternate_picking", "legato_cycle", "fretted_then_bend", "vibrato_fretted", "muted_double_stops", "unison_bend",
    "sweep", "low_string_muting",
)  # fmt: skip
LENGTHS_S = (20, 60, 300, 900)
LONG_FAMILY = "alternate_picking"
TURNS = 11  # a shared machine is quick for seconds at a time
PRAAT: dict[str, dict[str, float]] = {
    "praat, same range and step": {"time_step": HOP_S, "pitch_floor": LOW_HZ, "pitch_ceiling": HIGH_HZ},
    "praat, its defaults": {},
}


@dataclass(frozen=True)
class Pace:
    """Seconds of work for a second of sound: of all, by stage, and of the references; notes a second asked. ratios: of
    the work to each reference.
    """

    family: str
    sound_s: float
    notes_per_s: float
    whole: float
    stages: dict[str, float]
    references: dict[str, float]
    ratios: dict[str, float]


def sound_of(family: str, seconds: float) -> tuple[Take, Drill]:
    """So much of a drill of a family, played over and over."""
    drill = next(d for d in built_in_drills() if d.family == family and d.tempo is not None)
    once_s = drill.length_beats * drill.seconds_per_beat
    drill = drill.model_copy(update={"repeats": max(1, round(seconds / once_s))})
    sound, _ = render(drill, Faults(random_ms=4.0, random_cents=3.0, random_db=1.0))
    return Take(np.atleast_2d(sound), RATE_HZ, "0" * 64), drill


def on_one_core() -> None:
    """This process, and what it starts, on one core of those it may use."""
    os.sched_setaffinity(0, {min(os.sched_getaffinity(0))})


def took_s(works: Sequence[Callable[[], object]], turns: int = TURNS) -> NDArray[np.float64]:
    """Times of the processor for each, in turn, after one turn that pays for what is made once; (turns, n_works)."""
    took = np.zeros((turns + 1, len(works)))
    for turn in took:
        for number, work in enumerate(works):
            began = time.process_time()
            work()
            turn[number] = time.process_time() - began
    return took[1:]


def stages_of(take: Take, drill: Drill) -> dict[str, float]:
    """Seconds from each stage to the next, as the pipeline tells them."""
    told: list[tuple[str, float]] = []
    analyse(take, drill=drill, progress=lambda stage, _fraction: told.append((stage, time.process_time())))
    told.append(("", time.process_time()))
    found: dict[str, float] = {}
    for (stage, begun), (_next, ended) in pairwise(told):
        found[stage] = found.get(stage, 0.0) + ended - begun
    return found


def pace_of(family: str, seconds: float) -> Pace:
    """One family at one length."""
    import parselmouth

    take, drill = sound_of(family, seconds)
    # As in a worker: what is loaded stays, and is not looked through for what has gone.
    gc.collect()
    gc.freeze()
    turns = 1 if seconds > 100 else TURNS
    sound = parselmouth.Sound(take.samples[0].astype(np.float64), sampling_frequency=RATE_HZ)
    works = (lambda: analyse(take, drill=drill), *(partial(sound.to_pitch_ac, **asked) for asked in PRAAT.values()))
    took = took_s(works, turns)
    whole, *references = took.min(axis=0)
    # Turn by turn: where the machine is slow for a while, it is so for both.
    ratios = np.median(took[:, :1] / took[:, 1:], axis=0)
    length = take.duration_s
    stages = {name: spent / length for name, spent in stages_of(take, drill).items()}
    notes = sum(bool(e.notes) for e in drill.events) * drill.repeats
    praat = {name: took / length for name, took in zip(PRAAT, references, strict=True)}
    return Pace(family, length, notes / length, whole / length, stages, praat, dict(zip(PRAAT, ratios, strict=True)))


def child(seconds: float) -> None:
    """Measure, and print this process's peak in kB."""
    take, drill = sound_of(LONG_FAMILY, 5.0)
    analyse(take, drill=drill)
    if seconds:
        analyse(Path(sys.argv[-1]), drill=sound_of_drill(seconds))
    status = dict(line.split(":", 1) for line in Path("/proc/self/status").read_text().splitlines())
    print(status["VmHWM"].split()[0])


def sound_of_drill(seconds: float) -> Drill:
    """The drill of `sound_of`, without its sound."""
    drill = next(d for d in built_in_drills() if d.family == LONG_FAMILY and d.tempo is not None)
    return drill.model_copy(update={"repeats": max(1, round(seconds / (drill.length_beats * drill.seconds_per_beat)))})


def peaks(lengths: list[float]) -> dict[float, float]:
    """Peak memory in MB by length; the sound is made by another process, so that its making is not counted."""
    found = {}
    with tempfile.TemporaryDirectory() as folder:
        for seconds in (0.0, *lengths):
            path = Path(folder) / "sound.wav"
            if seconds:
                soundfile.write(path, sound_of(LONG_FAMILY, seconds)[0].samples[0], RATE_HZ, "PCM_24")
            done = subprocess.run(
                [sys.executable, "-m", "benchmarks.pace", "--child", str(seconds), str(path)],
                capture_output=True, text=True, check=True,
            )  # fmt: skip
            found[seconds] = float(done.stdout.split()[-1]) / 1024
    return found


def print_families(rows: list[Pace]) -> None:
    """A row a family: seconds of work for a second of sound, and where they go."""
    names = list(dict.fromkeys(name for row in rows for name in row.stages))
    heads = ("drill", "s of sound", "notes/s", "s per s", *(f"{n} | ratio" for n in PRAAT), *names)
    print("\n| " + " | ".join(heads) + " |")
    print("|---" * (len(heads) + len(PRAAT)) + "|")
    for row in rows:
        praat = (f"{took:.4f} | {row.ratios[name]:.2f}" for name, took in row.references.items())
        parts = (f"{row.stages.get(name, 0.0):.4f}" for name in names)
        first = (row.family, f"{row.sound_s:.0f}", f"{row.notes_per_s:.1f}", f"{row.whole:.4f}")
        print("| " + " | ".join((*first, *praat, *parts)) + " |")


def plot(rows: list[Pace], memory: dict[float, float], path: Path) -> None:
    """Growth with length, of time and of memory."""
    import matplotlib as mpl

    mpl.use("svg")
    from matplotlib import pyplot as plt

    plt.rcParams["svg.hashsalt"] = "speed"
    figure, (left, right) = plt.subplots(1, 2, figsize=(9, 3.4), layout="constrained")
    by_length = [row for row in rows if row.family == LONG_FAMILY]
    left.plot([r.sound_s for r in by_length], [r.whole * r.sound_s for r in by_length], "o-", color="0.1")
    left.set(xlabel="sound, s", ylabel="work, s", title="Time of a take of picking")
    right.plot(list(memory), list(memory.values()), "o-", color="0.1")
    right.set(xlabel="sound, s", ylabel="MB", title="Peak memory, with the program and the sound")
    for axes in (left, right):
        axes.set(xlim=(0, None), ylim=(0, None))
        axes.grid(color="0.9")
    figure.savefig(path, metadata={"Date": None})


def main() -> int:
    """Print the tables."""
    parser = argparse.ArgumentParser(prog="./run bench pace")
    parser.add_argument("--families", nargs="*", default=list(FAMILIES))
    parser.add_argument("--lengths", nargs="*", type=float, default=list(LENGTHS_S), help="of picking, s")
    parser.add_argument("--plot", type=Path)
    parser.add_argument("--json", type=Path, help="the figures, to be compared with another run's")
    parser.add_argument("--child", type=float, help=argparse.SUPPRESS)
    parser.add_argument("sound", type=Path, nargs="?", help=argparse.SUPPRESS)
    options = parser.parse_args()
    if options.child is not None:
        child(options.child)
        return 0
    on_one_core()
    families = [pace_of(family, 60.0) for family in options.families]
    print_families(families)
    lengths = [pace_of(LONG_FAMILY, seconds) for seconds in options.lengths]
    print_families(lengths)
    memory = peaks(list(options.lengths)) if options.lengths else {}
    if memory:
        print("\n| s of sound | peak MB | beyond the program |\n|---|---|---|")
        for seconds, mb in memory.items():
            print(f"| {seconds:.0f} | {mb:.0f} | {mb - memory[0.0]:.0f} |")
    if options.plot:
        plot(lengths, memory, options.plot)
    if options.json:
        rows = [vars(row) for row in (*families, *lengths)]
        options.json.write_text(json.dumps({"rows": rows, "memory": memory}, indent=1))
    return 0


if __name__ == "__main__":
    sys.exit(main())
