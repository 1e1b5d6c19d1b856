"""Where vibratos come back to, and whether the stated uncertainty is true. `./run bench vibrato [--seed 5]`.

Drills with vibrato on fretted notes, played cleanly by FluidSynth's clean and steel guitars (recorded notes cannot
swing), straight in, through an amplifier and by a phone in a room. A clean player comes back to the pitch of the fret
as that guitar has it, so the truth is 0, whatever the sample is tuned to.
"""

from __future__ import annotations

import argparse
import sys
import tempfile
from pathlib import Path

import numpy as np
from fortimetra import TakeError
from fortimetra.drills.library import library

from benchmarks._chains import amp, phone_room, straight
from benchmarks._lines import guitars
from benchmarks._players import play
from benchmarks.takes import judged, sound_of

CHAINS = {"straight": straight, "amp": amp, "phone": phone_room}
GUITARS = ["clean", "steel"]


def returns(chain: str, *, drills: int, seed: int) -> list[tuple[float, float, str]]:
    """Return error and its uncertainty, cents, and the verdict of every vibrato."""
    asked = [b.drill for b in library() if any(e.vibrato and not e.bend for e in b.drill.events)]
    found: list[tuple[float, float, str]] = []
    with tempfile.TemporaryDirectory() as name:
        folder = Path(name)
        for guitar in guitars(folder, GUITARS):
            for drill in asked[:: max(1, len(asked) // drills)][:drills]:
                rng = np.random.default_rng(seed)
                sound = CHAINS[chain](sound_of(guitar, play(drill, "clean", rng), folder), rng)
                try:
                    notes = judged(sound, drill, folder).notes
                except TakeError as error:
                    print(f"{drill.title}: {error.detail}", file=sys.stderr)
                    continue
                for note in notes:
                    swing = note.vibrato if note.bend is None else None
                    if swing is not None and swing.return_error_cents is not None and swing.u_return is not None:
                        found.append((swing.return_error_cents, swing.u_return, str(swing.verdict)))
    return found


def main() -> int:
    """Print a row for each chain."""
    parser = argparse.ArgumentParser(prog="./run bench vibrato")
    parser.add_argument("--drills", type=int, default=8)
    parser.add_argument("--seed", type=int, default=5)
    options = parser.parse_args()
    print("| chain | vibratos | return error, median / 90 %, cents | within ± u | median u | cannot tell | outside |")
    print("|---|---|---|---|---|---|---|")
    for chain in CHAINS:
        found = returns(chain, drills=options.drills, seed=options.seed)
        error, u = np.abs([e for e, _, _ in found]), np.array([u for _, u, _ in found])
        verdicts = [v for _, _, v in found]
        print(
            f"| {chain} | {len(found)} | {np.median(error):.2f} / {np.quantile(error, 0.9):.2f} | "
            f"{100 * np.mean(error <= u):.0f} % | {np.median(u):.1f} | {verdicts.count('unclear')} | "
            f"{verdicts.count('outside')} |",
            flush=True,
        )
    return 0


if __name__ == "__main__":
    sys.exit(main())
