"""What the start command tells the person in front of it."""

from __future__ import annotations

import subprocess
import sys
import time
from collections.abc import Iterator, Sequence
from contextlib import contextmanager
from pathlib import Path

quiet = False


class StartError(Exception):
    """A step that failed: what happened and what to do about it."""

    def __init__(self, what: str, do: str) -> None:
        super().__init__(what)
        self.do = do


def say(text: str) -> None:
    """Print a line for the person, unless this run is a quiet one."""
    if not quiet:
        print(text, flush=True)


def warn(text: str) -> None:
    """Something happened that is not the person's doing."""
    print(f"\nfortimetra: {text}", file=sys.stderr, flush=True)


@contextmanager
def step(name: str) -> Iterator[None]:
    """Announce a step and say how long it took."""
    began = time.monotonic()
    if not quiet:
        print(f"  {name} … ", end="", flush=True)
    try:
        yield
    except BaseException:
        say("failed")
        raise
    say(f"{time.monotonic() - began:.1f} s")


def call(
    arguments: Sequence[str | Path],
    *,
    log: Path,
    what: str,
    do: str,
    cwd: Path | None = None,
    env: dict[str, str] | None = None,
) -> None:
    """Run a program to its end with its output in `log`; a failure shows the last lines and what to do."""
    log.parent.mkdir(parents=True, exist_ok=True)
    with log.open("ab") as out:
        try:
            done = subprocess.run(
                [str(a) for a in arguments], stdout=out, stderr=out, stdin=subprocess.DEVNULL, cwd=cwd, env=env
            )
        except OSError as error:
            raise StartError(f"{what}: {error}", do) from error
    if done.returncode != 0:
        tail = log.read_text(errors="replace").splitlines()[-8:]
        hint = "the disk is full; free some space and start again" if _disk_full(tail) else do
        raise StartError(
            "\n    ".join([f"{what} (exit status {done.returncode}, whole output in {log}):", *tail]), hint
        )


def _disk_full(lines: Sequence[str]) -> bool:
    return any("No space left on device" in line for line in lines)


def report(error: StartError) -> int:
    """Print a failure and return the exit status."""
    print(f"\nfortimetra: {error}\n  What to do: {error.do}", file=sys.stderr, flush=True)
    return 1
