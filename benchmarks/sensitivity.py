"""Which settings matter: each moved by a quarter, up and down, and whether any result on the fixed takes notices.

`./run bench sensitivity [--only hear.onsets] [--takes 14] [--jobs 2]`. Each try is a fork in which one setting has
another value, over those takes that read it at all; it ends with the first that notices. What is worked out where the
core is imported (compiled functions, defaults) is imported anew in the fork.
`--unnoticed docs/sensitivity.md` asks tests alone of what no take noticed before.
Printed: each setting whose change neither way changes a result, with the number of takes that read it, and how many of
each stage are noticed. What no take here notices may still be held by a test: `--tests` runs those of the core that
read it.
"""

from __future__ import annotations

import argparse
import ast
import importlib
import json
import os
import random
import re
import subprocess
import sys
import tempfile
from collections import Counter, defaultdict
from collections.abc import Callable, Mapping, Sequence
from concurrent.futures import ThreadPoolExecutor
from itertools import zip_longest
from pathlib import Path
from typing import Any, NamedTuple

# As `fortimetra.settings` has it, which is not imported here.
ENVIRONMENT = "FORTIMETRA_SETTINGS"
SHARE = 0.25
# Of the tests that read a setting, so many are run: those that read least, which are the ones about it.
MOST_TESTS = 15
LIMITS = "test_*_limits.py"
# What the core imports of others; it is not imported again by every fork.
OTHERS = ("numpy", "scipy.signal", "scipy.ndimage", "scipy.optimize", "numba", "pydantic", "soundfile", "soxr")


class Setting(NamedTuple):
    """name: stage.group.field. anew: it is read where the core is imported."""

    name: str
    value: Any
    anew: bool


class UsualTake(NamedTuple):
    """A take's drill (its sound stands beside it), what it comes to, and the settings that are read for it."""

    drill_file: Path
    result: Any
    reads: frozenset[str]


def moved(value: Any, sign: int) -> Any:
    """A value a quarter larger or smaller; whole numbers by one at least."""
    if isinstance(value, list):
        return [moved(v, sign) for v in value]
    if isinstance(value, int):
        return value + sign * max(1, round(abs(value) * SHARE))
    return value * (1.0 + sign * SHARE)


def forked(work: Callable[[], Any], values: dict[str, Any] | None = None) -> Any:
    """What `work` gives, as JSON, in a fork; the error's name where it fails. values: settings for a core that is
    imported in the fork.
    """
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


def result_and_reads(drill_file: Path) -> list[Any]:
    """What a take comes to, and the names of the settings that are read for it."""
    from benchmarks._reads import spied_on

    # Nothing is measured before: what is kept from one take to the next would be read no more.
    found = spied_on()
    return [result_of(drill_file), sorted(found)]


class _Outside(ast.NodeVisitor):
    """Collects what of settings is read outside of functions: GROUP.field, and whole groups that are compiled."""

    def __init__(self) -> None:
        self.found: set[str] = set()

    def visit_FunctionDef(self, node: ast.FunctionDef) -> None:
        for part in (*node.decorator_list, *node.args.defaults, *(d for d in node.args.kw_defaults if d)):
            self.visit(part)

    def visit_Attribute(self, node: ast.Attribute) -> None:
        if isinstance(node.value, ast.Name) and node.value.id.isupper():
            self.found.add(f"{node.value.id}.{node.attr}".lower())
        self.generic_visit(node)

    def visit_Call(self, node: ast.Call) -> None:
        if isinstance(node.func, ast.Name) and node.func.id == "for_compiled" and isinstance(node.args[0], ast.Name):
            self.found.add(node.args[0].id.lower())
        self.generic_visit(node)


def read_at_import() -> set[str]:
    """group.field, or group, of what is read where modules of the core are imported."""
    outside = _Outside()
    for file in (Path(__file__).parents[1] / "core").rglob("*.py"):
        outside.visit(ast.parse(file.read_text()))
    return outside.found


def move(setting: Setting, value: Any) -> None:
    """Give a setting another value in this process; one that is read at import has it from the environment."""
    if not setting.anew:
        from benchmarks._reads import groups

        stage_and_group, own = setting.name.rsplit(".", 1)
        held = dict(groups())[stage_and_group]
        object.__setattr__(held, own, tuple(value) if isinstance(value, list) else value)


def noticed(takes: Sequence[UsualTake], setting: Setting) -> bool:
    """Whether any take comes to something else when a setting is moved, one way or the other."""
    asked = [t for t in takes if setting.anew or setting.name in t.reads]

    def differs(value: Any) -> bool:
        move(setting, value)
        return any(result_of(t.drill_file) != t.result for t in asked)

    def seen(sign: int) -> bool:
        value = moved(setting.value, sign)
        return forked(lambda: differs(value), {setting.name: value} if setting.anew else None) is not False

    return bool(asked) and (seen(1) or seen(-1))


def tests_by_setting() -> dict[str, list[str]]:
    """The core's tests that read each setting: those about settings at their limits first, then those that read
    little.
    """
    with tempfile.TemporaryDirectory() as folder:
        file = Path(folder) / "reads.json"
        new = {"FORTIMETRA_KEPT": folder, "FORTIMETRA_READS": str(file)}
        # What is held for later runs would not be measured, and so read nothing.
        _pytest(["-p", "benchmarks._reads", "tests/core"], new)
        by_test = json.loads(file.read_text())
    found: dict[str, list[str]] = defaultdict(list)

    def order(item: tuple[str, list[str]]) -> tuple[bool, int]:
        test, names = item
        return not Path(test.split("::")[0]).match(LIMITS), len(names)

    for test, names in sorted(by_test.items(), key=order):
        for name in names:
            found[name].append(test)
    return found


def _pytest(what: Sequence[str], new: Mapping[str, str]) -> int:
    return subprocess.run(
        [sys.executable, "-m", "pytest", "-q", "-x", "-p", "no:cacheprovider", "-n", "0", *what],
        env=os.environ | dict(new), capture_output=True,
    ).returncode  # fmt: skip


def tests_of(setting: Setting, by_setting: Mapping[str, list[str]]) -> list[str]:
    """The tests to ask about a setting: those that read it; of what is compiled nobody sees who reads it, so those that
    are about settings at their limits, too.
    """
    own = by_setting.get(setting.name, [])[:MOST_TESTS]
    return own + sorted(map(str, Path("tests/core").glob(LIMITS))) if setting.anew else own


def held_by_tests(setting: Setting, tests: Sequence[str]) -> bool:
    """Whether one of the tests that read a setting fails with another value of it. What is kept for later runs is named
    by the values that are tried, so it is not taken for what they give.
    """

    def fail(value: Any) -> bool:
        import pytest

        move(setting, value)
        nowhere = os.open(os.devnull, os.O_WRONLY)
        os.dup2(nowhere, 1)
        os.dup2(nowhere, 2)
        return int(pytest.main(["-q", "-x", "-p", "no:cacheprovider", "-n", "0", *tests])) == 1

    values = (moved(setting.value, sign) for sign in (1, -1))
    return bool(tests) and any(forked(lambda v=v: fail(v), {setting.name: v}) is True for v in values)


def usual_takes(folder: Path, most: int, jobs: int) -> list[UsualTake]:
    """The takes with what they come to."""
    forked(lambda: write_takes(folder, most))
    files = sorted(folder.glob("*.json"))
    with ThreadPoolExecutor(jobs) as pool:
        found = list(pool.map(lambda f: forked(lambda: result_and_reads(f)), files))
    return [UsualTake(file, result, frozenset(reads)) for file, (result, reads) in zip(files, found, strict=True)]


def named_in(page: Path) -> set[str]:
    """The settings in the first column of a table that this printed."""
    return set(re.findall(r"^\| `([a-z0-9_.]+)`", page.read_text(), re.MULTILINE))


def main() -> int:
    """Print what nothing notices."""
    parser = argparse.ArgumentParser(prog="./run bench sensitivity")
    parser.add_argument(
        "--only", default="", help="settings whose name begins with this, or one of these: judge.,coach."
    )
    parser.add_argument("--unnoticed", type=Path, help="a page printed before: of its settings only tests are asked")
    parser.add_argument("--takes", type=int, default=14)
    parser.add_argument("--jobs", type=int, default=2)
    parser.add_argument("--tests", action="store_true", help="and whether a test of the core that reads it does")
    options = parser.parse_args()
    for name in OTHERS:
        importlib.import_module(name)
    early = read_at_import()
    known = named_in(options.unnoticed) if options.unnoticed else None
    wanted = [
        Setting(name, value, bool({name.split(".", 1)[1], name.split(".")[1]} & early))
        for name, value in forked(rows)
        if name.startswith(tuple(options.only.split(","))) and (known is None or name in known)
    ]
    tests = tests_by_setting() if options.tests else {}
    asked, seen = Counter(s.name.split(".")[0] for s in wanted), Counter[str]()
    print("| noticed by no take | value | takes that read it | by a test |\n|---|---|---|---|")
    with tempfile.TemporaryDirectory() as folder, ThreadPoolExecutor(options.jobs) as pool:
        takes = [] if known is not None else usual_takes(Path(folder), options.takes, options.jobs)
        # First those that are imported anew, for after that this process, too, has the core.
        for anew in (True, False):
            if not anew:
                importlib.import_module("benchmarks._fixed")
            some = [s for s in wanted if s.anew == anew]
            missed = []
            for setting, found in zip(some, pool.map(lambda s: noticed(takes, s), some), strict=True):
                seen[setting.name.split(".")[0]] += found
                missed += [] if found else [setting]
            held = pool.map(lambda s: held_by_tests(s, tests_of(s, tests)), missed) if tests else ()
            for setting, by_test in zip_longest(missed, held):
                by = "?" if known is not None else sum(setting.name in t.reads for t in takes)
                said = "yes" if by_test else f"no, of {len(tests.get(setting.name, []))}" if tests else "not asked"
                print(f"| `{setting.name}` | {setting.value} | {by} | {said} |", flush=True)
    print("\n| stage | settings | noticed by a take |\n|---|---|---|")
    for stage, count in asked.items():
        print(f"| {stage} | {count} | {seen[stage]} |")
    return 0


if __name__ == "__main__":
    sys.exit(main())
