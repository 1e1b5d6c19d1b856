"""The whole library played by other makers' guitars: what a clean take of each drill is judged as.

Every drill is performed as it is asked (bends, vibratos and slides as exact pitch courses), with the small scatter of
a good hand, on FluidSynth's guitars and, where no pitch has to move, on recorded single notes. What is judged outside
is a false alarm; what is missed was not heard; what is unclear could not be told. `./run bench library [--quick]
[--seed N] [--only WORDS]`.
"""

from __future__ import annotations

import argparse
import sys
import tempfile
import time
from collections import Counter, defaultdict
from pathlib import Path

import numpy as np
from fortimetra import Drill, TakeError
from fortimetra.drills.library import library

from benchmarks._lines import Guitar, guitars
from benchmarks._notes import RATE_HZ, Samples
from benchmarks._players import moves, play
from benchmarks._sounds import under
from benchmarks.takes import judged, sound_of

MOST_NOTES = 100
# A false alarm on more than this share of the notes of clean takes costs a teacher's trust.
MOST_OUTSIDE = 0.01


def shortened(drill: Drill) -> Drill:
    """As often as a minute or so has room for: volume is compared with other notes, so once is too little."""
    once = sum(len(e.notes) for e in drill.events)
    return drill.model_copy(update={"repeats": max(1, min(drill.repeats, MOST_NOTES // max(1, once)))})


def take_of(guitar: Guitar, drill: Drill, rng: np.random.Generator, folder: Path) -> Samples:
    """The sound of a clean take."""
    return under(sound_of(guitar, play(drill, "clean", rng), folder), "noise")


def main() -> int:
    """Print every drill that is not judged clean, and a row for each family and guitar."""
    parser = argparse.ArgumentParser(prog="./run bench library")
    parser.add_argument("--quick", action="store_true", help="one guitar, every third drill")
    parser.add_argument("--seed", type=int, default=5)
    parser.add_argument("--only", default="", help="drills whose title holds this")
    parser.add_argument("--guitars", default="clean,steel,nylon recorded")
    options = parser.parse_args()
    rows: dict[tuple[str, str], Counter[str]] = defaultdict(Counter)
    measures: Counter[str] = Counter()
    spent = heard = 0.0
    with tempfile.TemporaryDirectory() as name:
        folder = Path(name)
        names = ["clean"] if options.quick else options.guitars.split(",")
        players = guitars(folder, names)
        drills = [shortened(b.drill) for b in library() if b.drill.family != "set_up" and options.only in b.drill.title]
        for drill in drills[:: 3 if options.quick else 1]:
            for guitar in players:
                if guitar.pack is not None and moves(drill):
                    continue
                sound = take_of(guitar, drill, np.random.default_rng(options.seed), folder)
                row = rows[drill.family, guitar.name]
                began = time.perf_counter()
                try:
                    found = judged(sound, drill, folder)
                except TakeError as error:
                    row["refused"] += 1
                    print(f"refused  {guitar.name:15} {drill.title}: {error.detail[:90]}", flush=True)
                    continue
                spent, heard = spent + time.perf_counter() - began, heard + len(sound) / RATE_HZ
                s = found.summary
                row.update(
                    takes=1, asked=s.asked, clean=s.clean, outside=s.not_clean, unclear=s.unclear, missed=s.missed,
                    extra=s.extra, causes=len(found.causes),
                )  # fmt: skip
                off = Counter(
                    m for n in found.notes if n.clean == "outside" for m in drill.measures
                    if (part := getattr(n, m)) is not None and part.verdict == "outside"
                )  # fmt: skip
                off.update("slide" for n in found.notes if n.slide is not None and n.slide.verdict == "outside")
                measures.update(off)
                if s.not_clean or s.missed or s.extra > 1:
                    why = ", ".join(f"{k} {v}" for k, v in off.most_common())
                    codes = " ".join(c.code for c in found.causes)
                    print(
                        f"{s.clean:4}/{s.asked:<4} out {s.not_clean:3} unclear {s.unclear:3} missed {s.missed:3} extra "
                        f"{s.extra:3}  "
                        f"{guitar.name:15} {drill.title}  [{why}] {codes}",
                        flush=True,
                    )
    print("\n| family | guitar | takes | notes | clean | outside | unclear | missed | extra | causes named | refused |")
    print("|---|---|---|---|---|---|---|---|---|---|---|")
    total: Counter[str] = Counter()
    for (family, guitar_name), row in sorted(rows.items()):
        total.update(row)
        print(_row(family, guitar_name, row))
    print(_row("all", "", total))
    print("\noutside by measure:", ", ".join(f"{k} {v}" for k, v in measures.most_common()) or "none")
    print(f"{heard / 60:.1f} minutes of sound in {spent:.0f} s")
    share = total["outside"] / max(1, total["asked"])
    print(f"false alarms: {share:.2%} of the notes (at most {MOST_OUTSIDE:.0%})")
    return 0 if share <= MOST_OUTSIDE and not total["refused"] else 1


def _row(family: str, guitar: str, row: Counter[str]) -> str:
    keys = ("takes", "asked", "clean", "outside", "unclear", "missed", "extra", "causes", "refused")
    return f"| {family} | {guitar} | " + " | ".join(str(row[k]) for k in keys) + " |"


if __name__ == "__main__":
    sys.exit(main())
