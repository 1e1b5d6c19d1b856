"""Which settings matter: each moved by a quarter, up and down, and whether any result on the fixed takes notices.

`./run bench sensitivity [--only hear.onsets] [--takes 14] [--jobs 2]`. Settings are read where the core is imported, so
each try is a fork of this process, which never imports it; it ends with the first take that notices. Neighbours are
moved together first: where nothing changes then, none of them is noticed (that two of them undo each other is not
thought of); otherwise each half is tried by itself.
Printed: the settings whose change one way or both changes no result, and how many of each stage are noticed. What no
take here notices may still be held by a test: `--tests` runs those of the core for each setting that no take notices.
"""

from __future__ import annotations

import argparse
import importlib
import json
import os
import random
import subprocess
import sys
import tempfile
from collections import defaultdict
from collections.abc import Callable, Sequence
from concurrent.futures import ThreadPoolExecutor
from pathlib import Path
from typing import Any

# As `fortimetra.settings` has it, which is not imported here.
ENVIRONMENT = "FORTIMETRA_SETTINGS"
SHARE = 0.25
# So many settings are moved together first.
TOGETHER = 4
# What the core imports of others; it is not imported again by every fork.
OTHERS = ("numpy", "scipy.signal", "scipy.ndimage", "scipy.optimize", "numba", "pydantic", "soundfile", "soxr")


def moved(value: Any, sign: int) -> Any:
    """A value a quarter larger or smaller; whole numbers by one at least."""
    if isinstance(value, list):
        return [moved(v, sign) for v in value]
    if isinstance(value, int):
        return value + sign * max(1, round(abs(value) * SHARE))
    return value * (1.0 + sign * SHARE)


def forked(work: Callable[[], Any], values: dict[str, Any] | None = None) -> Any:
    """What `work` gives, as JSON, in a fork with other settings; the error's name where it fails."""
    get, put = os.pipe()
    pid = os.fork()
    if pid == 0:
        os.close(get)
        os.environ[ENVIRONMENT] = json.dumps(values or {})
        try:
            answer = json.dumps(work())
        except Exception as error:
            answer = json.dumps(f"{type(error).__name__}: {error}"[:200])
        with os.fdopen(put, "w") as out:
            out.write(answer)
        os._exit(0)
    os.close(put)
    with os.fdopen(get) as found:
        text = found.read()
    os.waitpid(pid, 0)
    return json.loads(text) if text else "died"


def rows() -> list[list[Any]]:
    """Name and value of every setting."""
    from fortimetra.pipeline.versions import settings

    return [[row.name, row.value] for row in settings()]


def write_takes(folder: Path, most: int) -> int:
    """Some of the fixed takes, as files; how many."""
    import soundfile

    from benchmarks._fixed import kept
    from benchmarks._notes import RATE_HZ

    # Mixed up, for players and guitars come in turn; the short ones are asked first.
    takes = [fixed for fixed, _ in kept()[1]]
    some = random.Random(1).sample(takes, min(most, len(takes)))
    sounds = sorted(((fixed.sound(), fixed) for fixed in some), key=lambda s: len(s[0]))
    for number, (sound, fixed) in enumerate(sounds):
        soundfile.write(folder / f"{number:02}.wav", sound, RATE_HZ, subtype="FLOAT")
        (folder / f"{number:02}.json").write_text(fixed.drill.model_dump_json(by_alias=True))
    return len(some)


def result_of(drill_file: Path) -> Any:
    """What a take comes to with the settings of this process; the error's name where it has none."""
    import soundfile
    from fortimetra import Drill, TakeError

    from benchmarks._fixed import result
    from benchmarks.takes import judged

    sound, _ = soundfile.read(drill_file.with_suffix(".wav"))
    with tempfile.TemporaryDirectory() as name:
        try:
            return result(judged(sound, Drill.model_validate_json(drill_file.read_text()), Path(name)))
        except (TakeError, ValueError, IndexError, ZeroDivisionError) as error:
            return type(error).__name__


def notices(folder: Path, usual: list[Any], values: dict[str, Any]) -> bool:
    """Whether a take comes to something else with other values."""

    def tried() -> bool:
        return any(result_of(f) != u for f, u in zip(sorted(folder.glob("*.json")), usual, strict=True))

    return forked(tried, values) is not False


def noticed(folder: Path, usual: list[Any], rows: Sequence[tuple[str, Any]], sign: int) -> set[str]:
    """Which of some settings are noticed when they are moved one way."""
    if not notices(folder, usual, {name: moved(value, sign) for name, value in rows}):
        return set()
    if len(rows) == 1:
        return {rows[0][0]}
    half = len(rows) // 2
    return noticed(folder, usual, rows[:half], sign) | noticed(folder, usual, rows[half:], sign)


def held_by_tests(name: str, value: Any) -> bool:
    """Whether a test of the core fails with another value; the generated page of settings does not count."""
    return any(
        subprocess.run(
            [sys.executable, "-m", "pytest", "-q", "-x", "-p", "no:cacheprovider", "tests/core", "-k", "not settings"],
            env=os.environ | {ENVIRONMENT: json.dumps({name: moved(value, sign)})}, capture_output=True,
        ).returncode
        for sign in (1, -1)
    )  # fmt: skip


def main() -> int:
    """Print what notices."""
    parser = argparse.ArgumentParser(prog="./run bench sensitivity")
    parser.add_argument("--only", default="", help="settings whose name begins with this")
    parser.add_argument("--takes", type=int, default=14)
    parser.add_argument("--jobs", type=int, default=2)
    parser.add_argument(
        "--tests", action="store_true", help="run the core's tests for each setting that no take notices"
    )
    options = parser.parse_args()
    for name in OTHERS:
        importlib.import_module(name)
    wanted = [(name, value) for name, value in forked(rows) if name.startswith(options.only)]
    with tempfile.TemporaryDirectory() as name:
        folder = Path(name)
        forked(lambda: write_takes(folder, options.takes))
        usual = forked(lambda: [result_of(f) for f in sorted(folder.glob("*.json"))])

        groups = [wanted[i : i + TOGETHER] for i in range(0, len(wanted), TOGETHER)]

        def told(group: list[tuple[str, Any]]) -> list[tuple[str, Any, list[bool]]]:
            up, down = (noticed(folder, usual, group, sign) for sign in (1, -1))
            return [(name, value, [name in up, name in down]) for name, value in group]

        seen: dict[str, list[bool]] = defaultdict(list)
        print("| setting | value | noticed if larger | if smaller |\n|---|---|---|---|")
        with ThreadPoolExecutor(options.jobs) as pool:
            for setting, value, both in (row for rows in pool.map(told, groups) for row in rows):
                seen[setting.split(".")[0]].append(any(both))
                if not all(both):
                    up, down = ("yes" if t else "no" for t in both)
                    test = ", a test" if options.tests and not any(both) and held_by_tests(setting, value) else ""
                    print(f"| `{setting}` | {value} | {up}{test} | {down}{test} |", flush=True)
    print("\n| stage | settings | noticed |\n|---|---|---|")
    for stage, which in seen.items():
        print(f"| {stage} | {len(which)} | {sum(which)} |")
    return 0


if __name__ == "__main__":
    sys.exit(main())
