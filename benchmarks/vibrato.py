"""Where vibratos come back to, how wide they are, and whether the stated uncertainty is true. `./run bench vibrato
[--seed 5]`.

Drills with vibrato on fretted notes, played cleanly by FluidSynth's clean and steel guitars (recorded notes cannot
swing), straight in, through an amplifier and by a phone in a room. A clean player comes back to the pitch of the fret
as that guitar has it, so the truth of the return is 0, whatever the sample is tuned to; the width is what the pitch
wheel was given, in FluidSynth's whole cents.
"""

from __future__ import annotations

import argparse
import sys
import tempfile
from collections import Counter, defaultdict
from pathlib import Path
from typing import NamedTuple

import numpy as np
from fortimetra import TakeError
from fortimetra.drills.library import library

from benchmarks._chains import amp, phone_room, straight
from benchmarks._lines import guitars
from benchmarks._players import play
from benchmarks._readings import WHOLE_CENTS
from benchmarks.takes import judged, sound_of

CHAINS = {"straight": straight, "amp": amp, "phone": phone_room}
GUITARS = ["clean", "steel"]


class Read(NamedTuple):
    """A stated value beside its truth. u_truth: what the truth itself is known to."""

    error_cents: float
    u_cents: float
    u_truth_cents: float = 0.0


def vibratos(chain: str, *, drills: int, seed: int) -> tuple[dict[str, list[Read]], Counter[str]]:
    """Return and width of every vibrato, and how many verdicts there are of each kind."""
    asked = [b.drill for b in library() if any(e.vibrato and not e.bend for e in b.drill.events)]
    found: dict[str, list[Read]] = defaultdict(list)
    verdicts: Counter[str] = Counter()
    with tempfile.TemporaryDirectory() as name:
        folder = Path(name)
        for guitar in guitars(folder, GUITARS):
            for drill in asked[:: max(1, len(asked) // drills)][:drills]:
                rng = np.random.default_rng(seed)
                made = play(drill, "clean", rng)
                sound = CHAINS[chain](sound_of(guitar, made, folder), rng)
                try:
                    notes = judged(sound, drill, folder).notes
                except TakeError as error:
                    print(f"{drill.title}: {error.detail}", file=sys.stderr)
                    continue
                for note in notes:
                    swing = note.vibrato if note.bend is None else None
                    if swing is None:
                        continue
                    verdicts[str(swing.verdict)] += 1
                    true = made.truths.get((note.id, note.repeat, note.string or 0))
                    if swing.return_error_cents is not None and swing.u_return is not None:
                        found["return"].append(Read(swing.return_error_cents, swing.u_return))
                    if true is not None and true.extent_cents and swing.extent_cents and swing.u_extent is not None:
                        whole = 2.0**0.5 * WHOLE_CENTS
                        found["width"].append(Read(swing.extent_cents - true.extent_cents, swing.u_extent, whole))
    return found, verdicts


def main() -> int:
    """Print a row for each chain and value."""
    parser = argparse.ArgumentParser(prog="./run bench vibrato")
    parser.add_argument("--drills", type=int, default=8)
    parser.add_argument("--seed", type=int, default=5)
    options = parser.parse_args()
    print("| chain | value | vibratos | error, median / 90 %, cents | within ± u | median u | cannot tell | outside |")
    print("|---|---|---|---|---|---|---|---|")
    for chain in CHAINS:
        found, verdicts = vibratos(chain, drills=options.drills, seed=options.seed)
        for value, reads in found.items():
            error, u, u_truth = np.abs(np.array(reads)).T
            print(
                f"| {chain} | {value} | {len(reads)} | {np.median(error):.2f} / {np.quantile(error, 0.9):.2f} | "
                f"{100 * np.mean(error <= np.hypot(u, u_truth)):.0f} % | {np.median(u):.1f} | "
                f"{verdicts['unclear']} of {verdicts.total()} | {verdicts['outside']} |",
                flush=True,
            )
    return 0


if __name__ == "__main__":
    sys.exit(main())
