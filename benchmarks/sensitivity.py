"""Which settings matter: each moved by a quarter, up and down, and whether any result on the fixed takes notices.

`./run bench sensitivity [--only hear.onsets] [--takes 8] [--jobs 2]`. Each value is tried in a process of its own,
through FORTIMETRA_SETTINGS. Printed: the settings whose change neither way changes a result, and how many results
each stage's move. What no take here notices may still be held by a test: `./run test core` under the same variable
tells.
"""

from __future__ import annotations

import argparse
import json
import os
import subprocess
import sys
import tempfile
from collections import defaultdict
from concurrent.futures import ThreadPoolExecutor
from pathlib import Path
from typing import Any

import soundfile
from fortimetra import Drill, TakeError
from fortimetra.pipeline.versions import settings
from fortimetra.settings import ENVIRONMENT, Row

from benchmarks._fixed import kept, result
from benchmarks._notes import RATE_HZ
from benchmarks.takes import judged

SHARE = 0.25


def moved(value: Any, sign: int) -> Any:
    """A value a quarter larger or smaller; whole numbers by one at least."""
    if isinstance(value, tuple):
        return tuple(moved(v, sign) for v in value)
    if isinstance(value, int):
        return value + sign * max(1, round(abs(value) * SHARE))
    return value * (1.0 + sign * SHARE)


def results(folder: Path) -> list[Any]:
    """What the takes in a folder come to with the settings of this process."""
    found: list[Any] = []
    for drill in sorted(folder.glob("*.json")):
        sound, _ = soundfile.read(drill.with_suffix(".wav"))
        with tempfile.TemporaryDirectory() as name:
            try:
                found.append(result(judged(sound, Drill.model_validate_json(drill.read_text()), Path(name))))
            except (TakeError, ValueError, IndexError, ZeroDivisionError) as error:
                found.append(type(error).__name__)
    return found


def tried(folder: Path, values: dict[str, Any]) -> Any:
    """Results with other values, from a process of its own; its error where it fails."""
    done = subprocess.run(
        [sys.executable, "-m", "benchmarks.sensitivity", "--child", str(folder)],
        env=os.environ | {ENVIRONMENT: json.dumps(values)}, capture_output=True, text=True,
    )  # fmt: skip
    return json.loads(done.stdout) if done.returncode == 0 else done.stderr[-200:]


def main() -> int:
    """Print what notices."""
    parser = argparse.ArgumentParser(prog="./run bench sensitivity")
    parser.add_argument("--only", default="", help="settings whose name begins with this")
    parser.add_argument("--takes", type=int, default=8)
    parser.add_argument("--jobs", type=int, default=2)
    parser.add_argument("--child", help=argparse.SUPPRESS)
    options = parser.parse_args()
    if options.child:
        print(json.dumps(results(Path(options.child))))
        return 0
    rows = [row for row in settings() if row.name.startswith(options.only)]
    with tempfile.TemporaryDirectory() as name:
        folder = Path(name)
        takes = kept()[1]
        for number, (fixed, _) in enumerate(takes[:: max(1, len(takes) // options.takes)][: options.takes]):
            soundfile.write(folder / f"{number:02}.wav", fixed.sound(), RATE_HZ, subtype="FLOAT")
            (folder / f"{number:02}.json").write_text(fixed.drill.model_dump_json(by_alias=True))
        usual = tried(folder, {})

        def notices(row: Row) -> tuple[Row, list[bool]]:
            return row, [tried(folder, {row.name: moved(row.value, sign)}) != usual for sign in (1, -1)]

        seen: dict[str, list[bool]] = defaultdict(list)
        print("| setting | value | noticed if larger | if smaller |\n|---|---|---|---|")
        with ThreadPoolExecutor(options.jobs) as pool:
            for row, told in pool.map(notices, rows):
                seen[row.name.split(".")[0]].append(any(told))
                if not all(told):
                    up, down = ("yes" if t else "no" for t in told)
                    print(f"| `{row.name}` | {row.value} | {up} | {down} |", flush=True)
    print("\n| stage | settings | noticed |\n|---|---|---|")
    for stage, told in seen.items():
        print(f"| {stage} | {len(told)} | {sum(told)} |")
    return 0


if __name__ == "__main__":
    sys.exit(main())
