"""Strings struck twice, and notes that go on under the next: how many are said, and what is said of neither.

`./run bench strokes [--chains straight,amp,phone] [--guitars clean,steel,jazz,…] [--jobs 2]`. Whole drills of the
library by clean hands; FluidSynth's guitars and one recorded by somebody else, never the simulated student. Every
fourth single note is struck again about 40 or 50 ms later (by HAND_S more or less, as a hand does; the string stops at
the second stroke); of every second note before a change of string the end is 40, 100 or 180 ms late, of which 60 are
allowed.
"""

from __future__ import annotations

import argparse
import sys
import zlib
from collections import Counter, defaultdict
from concurrent.futures import ProcessPoolExecutor
from dataclasses import dataclass, replace
from itertools import pairwise

import numpy as np
from fortimetra import Analysis, Drill, TakeError

from benchmarks._lines import HAND_S
from benchmarks._players import SOUNDS_SHARE, Also, Step, clean_steps, play_steps
from benchmarks.takes import drill_of, judged_through

TWICE_MS = (0.0, 40.0, 50.0)
OVER_MS = (0.0, 40.0, 100.0, 180.0)
TWICE_DRILLS = (
    "Along string 2: C major, up, 2 times each, 2 a click",
    "Scale over quiet low strings: G major, position 7",
    "Finger pairs 1-2: string 3, position 5",
    "Alternate picking 1 2 3 4, up: strings 3 and 2, position 5, 2 a click",
)
OVER_DRILLS = (
    "Scale over quiet low strings: G major, position 7",
    "Sweep, 2 strings, up: A minor, position 5",
    "Alternate picking 1 2 3 4, up: strings 3 and 2, position 5, 2 a click",
)
SHORTEST_S = 0.12
NEAR_S = 0.035


@dataclass(frozen=True)
class Case:
    """One take. kind: struck twice, or going on; ms: after how long, or for how long; 0: neither."""

    kind: str
    ms: float
    title: str
    guitar: str
    chain: str


def struck_twice(steps: list[Step], ms: float, rng: np.random.Generator) -> tuple[list[Step], list[float]]:
    """The steps with every fourth single note struck twice, and when."""
    made, again_s = [], []
    for number, step in enumerate(steps):
        note = step.event.notes[0] if len(step.event.notes) == 1 else None
        if ms and note is not None and number % 4 == 1 and step.seconds > SHORTEST_S and not note.muted:
            after_s, level_db = ms / 1000.0 + float(rng.normal(0.0, HAND_S)), float(rng.normal(-1.0, 1.5))
            rest_s = SOUNDS_SHARE * step.seconds - after_s
            second = Also(note.string, note.fret or 0, after_s, rest_s, level_db)
            held = after_s / step.seconds / SOUNDS_SHARE
            again_s.append(step.at_s + after_s)
            step = replace(step, held=held, also=(second,), level_db=-2.0)
        made.append(step)
    return made, again_s


def going_on(steps: list[Step], ms: float) -> tuple[list[Step], list[tuple[int, float]]]:
    """The steps with every second note before a change of string too long; the string and when it should have ended."""
    made, over, number = [], [], 0
    for step, after in pairwise([*steps, None]):
        if step is None or after is None or not _changes(step, after):
            made += [step] if step is not None else []
            continue
        number += 1
        if ms and number % 2:
            over.append((step.event.notes[0].string, after.at_s))
            step = replace(step, held=(step.seconds + ms / 1000.0) / step.seconds / SOUNDS_SHARE)
        made.append(step)
    return made, over


def _changes(step: Step, after: Step) -> bool:
    """Whether one note follows another at once, on another string."""
    both = step.event.notes, after.event.notes
    if any(len(n) != 1 for n in both) or both[0][0].muted:
        return False
    return both[0][0].string != both[1][0].string and abs(after.at_s - step.at_s - step.seconds) < 0.02


def one(case: Case) -> tuple[Case, Counter[str]]:
    """What is said of one take."""
    drill = drill_of(case.title)
    rng = np.random.default_rng([zlib.crc32(case.title.encode()), int(case.ms), len(case.guitar)])
    steps = clean_steps(drill)
    again_s: list[float] = []
    over: list[tuple[int, float]] = []
    if case.kind == "twice":
        steps, again_s = struck_twice(steps, case.ms, rng)
    else:
        steps, over = going_on(steps, case.ms)
    made = play_steps(drill, steps, rng)
    try:
        found = judged_through(case.guitar, made, drill, case.chain, rng)
    except TakeError:
        return case, Counter(put_in=len(again_s) + len(over))
    if case.kind == "twice":
        return case, _doubles(found, again_s)
    return case, _bleeds(found, drill, over, case.ms / 1000.0)


def _doubles(found: Analysis, again_s: list[float]) -> Counter[str]:
    said = [e.onset_s for e in found.extras if e.kind == "double_hit"]
    hits = sum(any(abs(t - o) < NEAR_S for o in said) for t in again_s)
    return Counter(put_in=len(again_s), said=hits, false=sum(all(abs(t - o) >= NEAR_S for t in again_s) for o in said))


def _bleeds(found: Analysis, drill: Drill, over: list[tuple[int, float]], seconds: float) -> Counter[str]:
    bleeds = [e for e in found.noise_events if e.kind == "bleed" and e.verdict == "outside"]
    late = [n for n in found.notes if n.length is not None and "rings_on" in n.reasons and "length" in drill.measures]

    def told(string: int, end_s: float) -> bool:
        heard = any(e.string == string and e.from_s < end_s + seconds and e.to_s > end_s for e in bleeds)
        return heard or any(n.string == string and n.onset_s is not None and 0 < end_s - n.onset_s < 2.0 for n in late)

    near = [e for e in bleeds if any(s == e.string and e.from_s < t + seconds + 0.2 and e.to_s > t for s, t in over)]
    return Counter(put_in=len(over), said=sum(told(*o) for o in over), false=len(bleeds) - len(near))


def main() -> int:
    """Print the tables."""
    parser = argparse.ArgumentParser(prog="./run bench strokes")
    parser.add_argument("--chains", default="straight,amp,phone")
    parser.add_argument("--guitars", default="clean,steel,nylon recorded,jazz")
    parser.add_argument("--jobs", type=int, default=2)
    options = parser.parse_args()
    cases = [
        Case(kind, ms, title, guitar, chain)
        for kind, all_ms, titles in (("twice", TWICE_MS, TWICE_DRILLS), ("over", OVER_MS, OVER_DRILLS))
        for title in titles
        for ms in all_ms
        for guitar in options.guitars.split(",")
        for chain in options.chains.split(",")
    ]
    rows: dict[tuple[str, float, str], Counter[str]] = defaultdict(Counter)
    with ProcessPoolExecutor(options.jobs) as pool:
        for case, counts in pool.map(one, cases, chunksize=2):
            rows[case.kind, case.ms, case.chain] += counts
    for kind, title in (("twice", "struck again after"), ("over", "goes on for")):
        print(f"\n| {title} | " + " | ".join(f"{c}: said | false" for c in options.chains.split(",")) + " |")
        print("|---" * (1 + 2 * len(options.chains.split(","))) + "|")
        for ms in TWICE_MS if kind == "twice" else OVER_MS:
            cells = [
                f"{r['said']} of {r['put_in']} | {r['false']}"
                for r in (rows[kind, ms, c] for c in options.chains.split(","))
            ]
            print(f"| {f'{ms:.0f} ms' if ms else 'never'} | " + " | ".join(cells) + " |")
    return 0


if __name__ == "__main__":
    sys.exit(main())
