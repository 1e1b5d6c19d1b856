"""Whether a likely cause is named for what a hand does wrong all through a take, and none for a clean one.

`./run bench causes [--chains straight,amp,phone] [--guitars clean,steel] [--seeds 1] [--only WORDS] [--jobs 2]`. Sounds
are FluidSynth's, never the simulated student. For each habit (`_habits`) and chain: whether a fitting cause is said
first, is said at all, or others are; then what is said of clean takes of the same drills.
"""

from __future__ import annotations

import argparse
import sys
import zlib
from collections import Counter, defaultdict
from concurrent.futures import ProcessPoolExecutor
from dataclasses import dataclass

import numpy as np
from fortimetra import Drill, TakeError
from fortimetra.drills.library import library

from benchmarks._habits import HABITS
from benchmarks._players import clean_steps, play_steps
from benchmarks.takes import judged_through

MOST_NOTES = 90


@dataclass(frozen=True)
class Try:
    """One take: habit, by its place; -1 - place for a clean one of the same drill."""

    habit: int
    chain: str
    guitar: str
    seed: int


def drill_of(start: str) -> Drill:
    """A drill of the library, with as many repeats as a take has room for, three at least."""
    drill = next(b.drill for b in library() if b.drill.title.startswith(start))
    once = sum(not n.muted for e in drill.events for n in e.notes)
    return drill.model_copy(update={"repeats": max(1 if once > 40 else 3, min(drill.repeats, MOST_NOTES // once))})


def said(case: Try) -> tuple[Try, tuple[str, ...]]:
    """The codes of the causes that are said, in order."""
    clean = case.habit < 0
    habit = HABITS[-1 - case.habit if clean else case.habit]
    drill = drill_of(habit.drill)
    rng = np.random.default_rng([case.seed, zlib.crc32(habit.name.encode())])
    steps = clean_steps(drill)
    made = play_steps(drill, steps if clean else habit.change(drill, steps, rng), rng)
    try:
        return case, tuple(c.code for c in judged_through(case.guitar, made, drill, case.chain, rng).causes)
    except TakeError as error:
        return case, (f"refused: {error.code}",)


def cases(options: argparse.Namespace) -> list[Try]:
    """Every habit on every chain, and a clean take for each."""
    names = options.guitars.split(",")
    return [
        Try(-1 - place if clean else place, chain, names[(seed + place) % len(names)], seed)
        for seed in range(options.seeds)
        for place, habit in enumerate(HABITS)
        if options.only in habit.name
        for chain in options.chains.split(",")
        for clean in ((False, True) if options.clean else (False,))
    ]


def main() -> int:
    """Print the tables."""
    parser = argparse.ArgumentParser(prog="./run bench causes")
    parser.add_argument("--chains", default="straight,amp,phone")
    parser.add_argument("--guitars", default="clean,steel")
    parser.add_argument("--seeds", type=int, default=1)
    parser.add_argument("--only", default="", help="habits whose name holds this")
    parser.add_argument("--jobs", type=int, default=2)
    parser.add_argument("--no-clean", dest="clean", action="store_false", help="no clean takes")
    options = parser.parse_args()
    found: dict[tuple[int, str], list[tuple[str, ...]]] = defaultdict(list)
    with ProcessPoolExecutor(options.jobs) as pool:
        for case, codes in pool.map(said, cases(options), chunksize=2):
            found[case.habit, case.chain].append(codes)
    chains = options.chains.split(",")
    first, named, takes = Counter[str](), Counter[str](), Counter[str]()
    kinds: dict[str, set[int]] = defaultdict(set)
    print("| habit | " + " | ".join(chains) + " |\n|" + "---|" * (len(chains) + 1))
    for place, habit in enumerate(HABITS):
        if (place, chains[0]) not in found:
            continue
        cells = []
        for chain in chains:
            rows = found[place, chain]
            hits = sum(bool(habit.fits & set(codes)) for codes in rows)
            takes[chain] += len(rows)
            named[chain] += hits
            first[chain] += sum(bool(codes) and codes[0] in habit.fits for codes in rows)
            kinds[chain] |= {place} if hits == len(rows) else set()
            others = Counter(c for codes in rows for c in codes if c not in habit.fits)
            cells.append(f"{hits}/{len(rows)}" + (f" ({', '.join(others)})" if others else ""))
        print(f"| {habit.name} | " + " | ".join(cells) + " |")
    for chain in chains:
        each = f"{len(kinds[chain])} kinds each time"
        print(f"{chain}: named in {named[chain]} of {takes[chain]} takes, first in {first[chain]}; {each}")
        clean = [codes for (place, name), rows in found.items() if place < 0 and name == chain for codes in rows]
        wrong = Counter(c for codes in clean for c in codes)
        if clean:
            print(f"clean, {chain}: a cause in {sum(bool(c) for c in clean)} of {len(clean)} takes {dict(wrong)}")
    return 0


if __name__ == "__main__":
    sys.exit(main())
