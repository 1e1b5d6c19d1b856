"""The fixed takes: one short take of each family, played by others, whose results change only with the core's version.

`python -m benchmarks._fixed [FILE]` writes takes and results to a file, by default the one the tests compare with;
the drills are kept in it, so that the takes do not change with the library.

Three players in turn, FluidSynth's clean and steel guitars and recorded nylon notes, straight in, through an
amplifier and in a room. No codec stands before them, for its sound differs between builds.
"""

from __future__ import annotations

import json
import sys
import tempfile
import zlib
from collections.abc import Iterator
from dataclasses import dataclass
from pathlib import Path
from typing import Any

import numpy as np
from fortimetra import Analysis, Drill, __version__
from fortimetra.drills.library import library

from benchmarks._chains import amp, phone_room, straight, with_room_sounds
from benchmarks._lines import guitars
from benchmarks._notes import Samples
from benchmarks._players import PLAYERS, START_S, Player, moves, play
from benchmarks.takes import judged, sound_of

KEPT = Path(__file__).parent.parent / "tests" / "reference" / "fixed_results.json"
MOST_NOTES = 24
BEFORE = {"straight": straight, "amp": amp, "room": phone_room}
GUITARS = ("clean", "steel", "nylon recorded")


@dataclass(frozen=True)
class Fixed:
    """One of the fixed takes."""

    drill: Drill
    player: Player
    chain: str
    guitar: str

    @property
    def name(self) -> str:
        """Unique among them."""
        return f"{self.drill.family}, {self.player}, {self.guitar}, {self.chain}"

    def sound(self) -> Samples:
        """Mono at RATE_HZ."""
        rng = np.random.default_rng(zlib.crc32(self.name.encode()))
        with tempfile.TemporaryDirectory() as name:
            folder = Path(name)
            made = play(self.drill, self.player, rng)
            sound = sound_of(guitars(folder, [self.guitar])[0], made, folder)
            if self.player == "messy":
                sound = with_room_sounds(sound, rng, START_S)
            return BEFORE[self.chain](sound, rng)


def fixed_takes() -> Iterator[Fixed]:
    """One of each family; who plays, on what, and through what change in turn."""
    families: dict[str, Drill] = {}
    for built in library():
        if built.drill.family != "set_up":
            families.setdefault(built.drill.family, built.drill)
    for number, (_, drill) in enumerate(sorted(families.items())):
        once = sum(len(e.notes) for e in drill.events)
        short = drill.model_copy(update={"repeats": max(1, min(drill.repeats, MOST_NOTES // max(1, once)))})
        guitar = GUITARS[(number // 3) % 3]
        if guitar.endswith("recorded") and moves(drill):
            guitar = "clean"
        yield Fixed(short, PLAYERS[number % 3], tuple(BEFORE)[(number // 2) % 3], guitar)


def result(found: Analysis) -> dict[str, Any]:
    """What must not change by itself: every note's status, onset and values, what else was found, and the causes."""
    notes = {}
    for note in found.notes:
        row: dict[str, Any] = {"status": note.status, "onset_s": note.onset_s}
        for measure in ("pitch", "bend", "vibrato", "slide", "timing", "level", "length", "noise"):
            part = getattr(note, measure)
            if part is not None:
                values = part.model_dump(mode="json", exclude_none=True)
                row[measure] = {k: v for k, v in values.items() if isinstance(v, int | float | str)}
        notes[f"{note.id} {note.repeat} {note.string}"] = row
    return {
        "notes": notes,
        "extras": [[e.kind, e.onset_s] for e in found.extras],
        "noise_events": [[e.kind, e.from_s] for e in found.noise_events],
        "causes": [c.code for c in found.causes],
        "warnings": list(found.take.warnings),
    }


def read(fixed: Fixed) -> dict[str, Any]:
    """A take made, measured, and what came of it."""
    sound = fixed.sound()
    with tempfile.TemporaryDirectory() as name:
        found = judged(sound, fixed.drill, Path(name))
    return {"sound": [len(sound), float(np.abs(sound).mean())], "result": result(found)}


def write(path: Path) -> None:
    """Takes and results, one take a line."""
    rows = []
    for fixed in fixed_takes():
        about = {"drill": fixed.drill.model_dump(mode="json", exclude_defaults=True, by_alias=True)}
        about |= {"player": fixed.player, "chain": fixed.chain, "guitar": fixed.guitar}
        rows.append(json.dumps({**about, **read(fixed)}))
    path.write_text(f'{{"core_version": "{__version__}", "takes": [\n' + ",\n".join(rows) + "\n]}\n")


def kept() -> tuple[str, list[tuple[Fixed, dict[str, Any]]]]:
    """The version that the kept results are of, and each take with them."""
    whole = json.loads(KEPT.read_text())
    found = []
    for row in whole["takes"]:
        drill = Drill.model_validate(row.pop("drill"))
        found.append((Fixed(drill, row.pop("player"), row.pop("chain"), row.pop("guitar")), row))
    return whole["core_version"], found


if __name__ == "__main__":
    write(Path(sys.argv[1]) if len(sys.argv) > 1 else KEPT)
