"""Which changed lines no test notices. `./run bench mutations [--part core|server|web] [--most N] [--tests FOLDER]`.

One token at a time is changed in the lines that decide (verdicts, tolerances, ladders, doses, claims, access,
exports, the sheet's arithmetic): a comparison by its neighbour or its opposite, and by or, + by -, * by /, a number
by another, True by False, not away, min by max. A change is *killed* where the tests named beside the file fail. What
survives is either equivalent, or the place for a test. --tests runs older tests against the same changes.

Python's mutants are never written to disk: the loader is handed the changed source in a forked process that has the
heavy packages loaded. The front end's are written in a copy of web/.
"""

from __future__ import annotations

import argparse
import ast
import contextlib
import importlib.machinery
import io
import os
import random
import re
import shutil
import signal
import subprocess
import sys
import tempfile
import time
import tokenize
from collections.abc import Callable, Iterator, Sequence
from dataclasses import dataclass
from pathlib import Path

ROOT = Path(__file__).parents[1]
PATIENCE_S = 240
SEED = 7

SWAPS = {
    "<": "<=", "<=": "<", ">": ">=", ">=": ">", "==": "!=", "!=": "==", "===": "!==", "!==": "===", "+": "-", "-": "+",
    "*": "/", "/": "*", "//": "*", "and": "or", "or": "and", "&&": "||", "||": "&&", "True": "False", "False": "True",
    "true": "false", "false": "true", "not": "", "min": "max", "max": "min", "&": "|", "+=": "-=", "-=": "+=", "any": "all",
    "all": "any",
}  # fmt: skip


@dataclass(frozen=True)
class Target:
    """A file of lines that decide, the functions in it that count (none: all of it), and the tests that should
    notice.
    """

    part: str
    file: str
    tests: tuple[str, ...]
    functions: tuple[str, ...] = ()


TARGETS = (
    Target("core", "core/fortimetra/judge/verdict.py", ("tests/core/test_judge.py", "tests/core/test_deciding.py", "tests/core/test_deciding_edges.py")),
    Target("core", "core/fortimetra/model/tolerance.py", ("tests/core/test_judge.py", "tests/core/test_model.py", "tests/core/test_deciding.py")),
    Target("core", "core/fortimetra/coach/ladder.py", ("tests/core/test_ladder.py", "tests/core/test_deciding.py", "tests/core/test_deciding_edges.py")),
    Target("core", "core/fortimetra/coach/planner.py", ("tests/core/test_planner.py", "tests/core/test_deciding.py", "tests/core/test_deciding_edges.py")),
    Target("core", "core/fortimetra/coach/cautions.py", ("tests/core/test_planner.py", "tests/core/test_deciding.py")),
    Target("core", "core/fortimetra/coach/step.py", ("tests/core/test_ladder.py", "tests/core/test_deciding.py", "tests/core/test_deciding_edges.py")),
    Target("core", "core/fortimetra/judge/summary.py", ("tests/core/test_judge.py", "tests/core/test_deciding.py")),
    Target("core", "core/fortimetra/formats/table_csv.py", ("tests/core/test_deciding.py", "tests/core/test_deciding_edges.py")),
    Target("server", "server/apps/jobs/services.py", ("tests/server/test_jobs.py", "tests/server/test_takes_measured.py", "tests/server/test_deciding_rows.py"),
           ("transition", "enqueue", "claim", "report", "finish", "hold", "fail", "release", "wait_for_room", "sweep", "_over", "_given_back", "_adopt")),
    Target("server", "server/apps/jobs/work.py", ("tests/server/test_jobs.py", "tests/server/test_takes_measured.py")),
    Target("server", "server/apps/takes/services.py", ("tests/server/test_deciding_rows.py", "tests/server/test_takes.py", "tests/server/test_takes_measured.py", "tests/security/test_rights.py"),
           ("checked_size", "measure_again", "require_recording", "measure_after_set_up", "delete")),
    Target("server", "server/apps/people/selectors.py", ("tests/server/test_deciding_rows.py", "tests/server/test_people.py", "tests/server/test_access.py")),
    Target("server", "server/apps/people/actor.py", ("tests/server/test_deciding_rows.py", "tests/server/test_people.py")),
    Target("server", "server/apps/people/audit.py", ("tests/server/test_deciding_rows.py", "tests/server/test_people.py")),
    Target("server", "server/apps/takes/selectors.py", ("tests/server/test_deciding_rows.py", "tests/server/test_access.py", "tests/server/test_takes.py", "tests/server/test_takes_measured.py", "tests/server/test_guitars.py")),
    Target("server", "server/apps/plans/ladders.py", ("tests/server/test_deciding_rows.py", "tests/server/test_steps.py", "tests/server/test_plans.py")),
    Target("server", "server/apps/people/consents.py", ("tests/server/test_deciding_people.py", "tests/security/test_privacy.py", "tests/server/test_people.py", "tests/server/test_recorded_takes.py")),
    Target("server", "server/apps/people/invitations.py", ("tests/server/test_deciding_people.py", "tests/server/test_people.py", "tests/server/test_access.py")),
    Target("server", "server/apps/takes/guests.py", ("tests/server/test_deciding_people.py", "tests/server/test_people.py", "tests/security/test_privacy.py")),
    Target("server", "server/apps/plans/courses.py", ("tests/server/test_deciding_people.py", "tests/server/test_library.py", "tests/server/test_plans.py")),
    Target("server", "server/apps/takes/pooled.py", ("tests/server/test_deciding_rows.py", "tests/server/test_guitars.py")),
    Target("web", "src/ui/take/sheet.math.ts", ("src/ui/take", "src/features/sheet/sheet")),
    Target("web", "src/ui/take/notes.math.ts", ("src/ui/take", "src/features/sheet/sheet")),
    Target("web", "src/ui/take/noise.math.ts", ("src/ui/take", "src/features/sheet/sheet")),
    Target("web", "src/lib/axis.math.ts", ("src/lib", "src/ui/take")),
    Target("web", "src/features/sheet/useChoice.ts", ("src/features/sheet/useChoice.test.tsx", "src/features/sheet/sheet")),
    Target("web", "src/features/sheet/useListening.ts", ("src/features/sheet/useListening.test.tsx", "src/features/sheet/sheet")),
)  # fmt: skip


@dataclass(frozen=True)
class Mutant:
    """A file with one token changed."""

    target: Target
    line: int
    was: str
    becomes: str
    source: str

    def __str__(self) -> str:
        """Where, and what is changed."""
        return f"{self.target.file}:{self.line}: {self.was} → {self.becomes or 'nothing'}"


def _other_number(text: str) -> str:
    return {"0": "1", "1": "2", "0.0": "1.0"}.get(text, f"({text} * 1.25)" if "." in text else f"({text} + 1)")


def _python_tokens(source: str, functions: Sequence[str]) -> Iterator[tuple[int, int, int, str]]:
    """Line, from and to column, text of each token in a body of a function (or a table of numbers) that may be
    changed.
    """
    tree = ast.parse(source)
    lines: set[int] = set()
    known = {node.name for node in ast.walk(tree) if isinstance(node, ast.FunctionDef)}
    if gone := set(functions) - known:
        raise LookupError(f"there is no {', '.join(sorted(gone))} any more: say in TARGETS where it is decided now")
    for node in ast.walk(tree):
        if isinstance(node, ast.FunctionDef) and (not functions or node.name in functions):
            body = node.body[1:] if ast.get_docstring(node) else node.body
            lines |= {n for statement in body for n in range(statement.lineno, (statement.end_lineno or 0) + 1)}
    if not functions:
        for node in tree.body:
            if isinstance(node, ast.Assign | ast.AnnAssign):
                lines |= set(range(node.lineno, (node.end_lineno or 0) + 1))
    for token in tokenize.generate_tokens(io.StringIO(source).readline):
        kinds = (tokenize.OP, tokenize.NAME, tokenize.NUMBER)
        if token.start[0] in lines and token.type in kinds:
            yield token.start[0], token.start[1], token.end[1], token.string


_STRINGS = re.compile(r"//[^\n]*|/\*.*?\*/|`(?:\\.|[^`\\])*`|\"(?:\\.|[^\"\\\n])*\"|'(?:\\.|[^'\\\n])*'", re.S)
_TOKENS = re.compile(r"===|!==|<=|>=|&&|\|\||\+=|-=|=>|[<>+\-*/]|\b\d+(?:\.\d+)?\b|\b[a-z]+\b")


def _typescript_tokens(source: str) -> Iterator[tuple[int, int, int, str]]:
    masked = _STRINGS.sub(lambda m: re.sub(r"[^\n]", " ", m.group()), source)
    inside = False
    for number, line in enumerate(masked.splitlines(), 1):
        inside = inside or line.startswith(("function", "export function", "const", "export const", "async function"))
        # Types have angle brackets and stars of their own.
        if not inside or re.match(r"\s*(import|export (type|interface)|interface|type)\b", line):
            continue
        for token in _TOKENS.finditer(line):
            text = token.group()
            around = line[max(0, token.start() - 1) : token.end() + 1]
            if text in "<>" and around != f" {text} ":
                continue
            yield number, token.start(), token.end(), text


def mutants_of(target: Target) -> list[Mutant]:
    """Every change of one token."""
    python = target.file.endswith(".py")
    source = (ROOT / ("" if python else "web") / target.file).read_text()
    tokens = _python_tokens(source, target.functions) if python else _typescript_tokens(source)
    lines = source.splitlines(keepends=True)
    found = []
    for number, start, end, text in tokens:
        becomes = _other_number(text) if text[0].isdigit() else SWAPS.get(text)
        if becomes is None:
            continue
        line = lines[number - 1]
        changed = [*lines[: number - 1], line[:start] + becomes + line[end:], *lines[number:]]
        mutant = Mutant(target, number, text, becomes, "".join(changed))
        if python:
            try:
                compile(mutant.source, target.file, "exec")
            except SyntaxError:
                continue
        found.append(mutant)
    return found


def chosen(part: str, most: int) -> list[Mutant]:
    """A fixed sample, shared out over the files as far as they have lines."""
    dice = random.Random(SEED)
    rows = [mutants_of(t) for t in TARGETS if t.part == part]
    for row in rows:
        dice.shuffle(row)
    picked: list[Mutant] = []
    while len(picked) < most and any(rows):
        for row in rows:
            if row and len(picked) < most:
                picked.append(row.pop())
    return picked


def _python_run(target: Target, source: str | None, tests: Path) -> bool:
    """True where the tests pass. source: the file as it would be, or None as it is."""
    pid = os.fork()
    if pid:
        return _wait(pid)
    with contextlib.suppress(BaseException):
        os.setpgrp()
        null = os.open(os.devnull, os.O_RDWR)
        for number in (0, 1, 2):
            os.dup2(null, number)
        if source is not None:
            _load_instead(ROOT / target.file, source)
        os.chdir(tests)
        sys.path.insert(0, str(tests))
        import pytest

        files = [f for f in target.tests if (tests / f).exists()]
        reuse = ["--reuse-db"] if target.part == "server" else []
        status = pytest.main([*files, "-x", "-q", "-p", "no:cacheprovider", "-c", str(ROOT / "pyproject.toml"),
                              "--rootdir", str(tests), *reuse])  # fmt: skip
        os._exit(int(status))
    os._exit(70)


def _wait(pid: int) -> bool:
    until = time.monotonic() + PATIENCE_S
    while time.monotonic() < until:
        ended, status = os.waitpid(pid, os.WNOHANG)
        if ended:
            return os.waitstatus_to_exitcode(status) == 0
        time.sleep(0.02)
    os.killpg(pid, signal.SIGKILL)
    os.waitpid(pid, 0)
    return False  # it hangs: noticed


def _load_instead(path: Path, source: str) -> None:
    loader = importlib.machinery.SourceFileLoader
    plain = loader.get_code

    def get_code(self: importlib.machinery.SourceFileLoader, fullname: str) -> object:
        if Path(self.path) == path:
            return compile(source, self.path, "exec", dont_inherit=True)
        return plain(self, fullname)

    loader.get_code = get_code  # type: ignore[method-assign]


def _warm() -> None:
    """What takes seconds to load, once for all."""
    import django.test
    import hypothesis
    import numba
    import numpy as np
    import pydantic
    import pytest
    import scipy.signal
    import soundfile

    assert all((django.test, hypothesis, numba, np, pydantic, pytest, scipy.signal, soundfile))


def _web_run(folder: Path) -> Callable[[Target, str | None, Path], bool]:
    def run(target: Target, source: str | None, _tests: Path) -> bool:
        file = folder / target.file
        kept = file.read_text()
        if source is not None:
            file.write_text(source)
        try:
            done = subprocess.run(
                ["npx", "--no-install", "vitest", "run", "--bail", "1", *target.tests],
                cwd=folder, capture_output=True, timeout=PATIENCE_S,
            )  # fmt: skip
        except subprocess.TimeoutExpired:
            return False
        finally:
            file.write_text(kept)
        return done.returncode == 0

    return run


@contextlib.contextmanager
def runner(part: str) -> Iterator[Callable[[Target, str | None, Path], bool]]:
    """How the tests of a part are run."""
    if part != "web":
        _warm()
        # What was measured from the source on disk would be taken for what the changed source measures.
        with tempfile.TemporaryDirectory() as folder:
            os.environ["FORTIMETRA_KEPT"] = folder
            yield _python_run
        return
    with tempfile.TemporaryDirectory() as folder:
        copy = Path(folder) / "web"
        shutil.copytree(ROOT / "web", copy, ignore=shutil.ignore_patterns("node_modules", "dist"))
        (copy / "node_modules").symlink_to(ROOT / "web" / "node_modules")
        yield _web_run(copy)


def main() -> int:
    """Print the share killed by part, and every survivor."""
    parser = argparse.ArgumentParser(prog="./run bench mutations")
    parser.add_argument("--part", choices=("core", "server", "web"), action="append")
    parser.add_argument("--most", type=int, default=60, help="changes tried in each part")
    parser.add_argument("--tests", type=Path, default=ROOT, help="a folder with other tests/")
    options = parser.parse_args()
    rows = []
    for part in options.part or ("core", "server", "web"):
        with runner(part) as passes:
            for target in {m.target for m in chosen(part, options.most)}:
                if not passes(target, None, options.tests):
                    print(f"{target.file}: its tests fail as it is; nothing is said of it")
                    return 2
            survived = []
            mutants = chosen(part, options.most)
            for mutant in mutants:
                if passes(mutant.target, mutant.source, options.tests):
                    survived.append(mutant)
                    print(f"survives: {mutant}", flush=True)
        rows.append((part, len(mutants), len(mutants) - len(survived)))
    print("\n| part | changes | killed | share |\n|---|---|---|---|")
    for part, count, killed in rows:
        print(f"| {part} | {count} | {killed} | {killed / max(1, count):.0%} |")
    return 0


if __name__ == "__main__":
    sys.exit(main())
