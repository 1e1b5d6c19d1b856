"""What many tests need, made once: sounds and analyses kept on disk by a digest of all that they depend on.

Measuring and rendering are pure functions of their arguments and of the core's source, so a result may be kept for as
long as both are the same. The digest covers the source files of the core that the result is made by, the versions of
its packages, every argument, and settings that are tried instead of the core's own (FORTIMETRA_SETTINGS). All of the
core measures: a changed line anywhere makes every analysis anew. The simulated student and what it imports render: a
change of how takes are measured leaves the sounds as they are. All processes, runs and checkouts share one folder,
which ./run test names in FORTIMETRA_KEPT. Deleting it costs time and nothing else.
"""

from __future__ import annotations

import ast
import fcntl
import hashlib
import os
import pickle
import shutil
import time
from collections.abc import Callable, Iterator
from contextlib import contextmanager
from functools import cache
from pathlib import Path
from typing import Any

import numpy as np
from pydantic import BaseModel

ROOT = Path(__file__).parents[1]
CORE = ROOT / "core" / "fortimetra"
FOLDER = Path(os.environ.get("FORTIMETRA_KEPT") or ROOT / "var" / "kept")
RESULTS = FOLDER / "results"
MOST_BYTES = 3_000_000_000
UNUSED_DAYS = 14.0


PLAYER = "fortimetra.player.rendering"


def _imported(source: Path) -> Iterator[str]:
    """Modules of the core that a file imports, and what it takes from them, which may be modules."""
    for node in ast.walk(ast.parse(source.read_text())):
        if isinstance(node, ast.ImportFrom) and node.module:
            yield from (node.module, *(f"{node.module}.{taken.name}" for taken in node.names))
        elif isinstance(node, ast.Import):
            yield from (taken.name for taken in node.names)


def sources_of(module: str) -> set[Path]:
    """The files of the core that a module of it is made of: its own, its packages', and what those import; the core's
    own first file, which gathers everything for others, is not asked.
    """
    found: set[Path] = set()
    wanted = [module]
    while wanted:
        package, *names = wanted.pop().split(".")
        if package != CORE.name:
            continue
        places = [CORE.joinpath(*names[: n + 1]) for n in range(len(names))]
        for file in [*(p / "__init__.py" for p in places), *(p.with_suffix(".py") for p in places)]:
            if file.is_file() and file not in found:
                found.add(file)
                wanted += _imported(file)
    return found


@cache
def source_digest(module: str | None = None) -> str:
    """Of the core's source, or of what a module of it is made of, of what it is built on, and of settings that are
    tried.
    """
    total = hashlib.blake2b(os.environ.get("FORTIMETRA_SETTINGS", "").encode())
    sources = CORE.rglob("*.py") if module is None else sources_of(module)
    for file in [*sorted(sources), ROOT / "requirements" / "app.txt"]:
        total.update(file.relative_to(ROOT).as_posix().encode() + b"\0" + file.read_bytes())
    return total.hexdigest()


def _add(total: Any, value: object) -> None:
    """Add a value to a digest; what has no exact form of its own is refused."""
    kind = f"\0{type(value).__qualname__}:".encode()
    if isinstance(value, np.ndarray):
        total.update(kind + f"{value.dtype}{value.shape}".encode())
        total.update(np.ascontiguousarray(value).data)
    elif isinstance(value, BaseModel):
        total.update(kind + value.model_dump_json().encode())
    elif isinstance(value, Path):
        total.update(kind + value.read_bytes())
    elif isinstance(value, list | tuple):
        total.update(kind + str(len(value)).encode())
        for one in value:
            _add(total, one)
    elif value is None or isinstance(value, str | bytes | int | float):
        total.update(kind + repr(value).encode())
    elif hasattr(value, "__dataclass_fields__"):
        total.update(kind)
        for name in value.__dataclass_fields__:
            _add(total, getattr(value, name))
    else:
        raise TypeError(f"no digest of a {type(value).__qualname__}")


def digest(*parts: object, module: str | None = None) -> str:
    """Of the core's source, or of what one of its modules is made of, and these values."""
    total = hashlib.blake2b(source_digest(module).encode(), digest_size=20)
    _add(total, parts)
    return total.hexdigest()


@contextmanager
def _alone(place: Path):
    """One process at a time makes a thing; the others wait for it."""
    place.parent.mkdir(parents=True, exist_ok=True)
    with place.with_suffix(".lock").open("w") as lock:
        fcntl.flock(lock, fcntl.LOCK_EX)
        yield


def _whole(place: Path, write: Callable[[Path], None]) -> None:
    """Under its own name only when it is complete."""
    part = place.with_suffix(f".part{os.getpid()}")
    write(part)
    part.replace(place)


def value(name: str, parts: tuple[object, ...], make: Callable[[], Any], *, module: str | None = None) -> Any:
    """What make() returns, from the folder where it was made before; module: of the core, where that alone makes it."""
    place = RESULTS / name / f"{digest(*parts, module=module)}.pickle"
    if not place.exists():
        with _alone(place):
            if not place.exists():
                made = make()
                _whole(place, lambda part: part.write_bytes(pickle.dumps(made, protocol=5)))
    return pickle.loads(place.read_bytes())


def file(name: str, parts: tuple[object, ...], make: Callable[[], Path], to: Path) -> Path:
    """A file that make() writes, from the folder where it was made before, put to where it is wanted."""
    place = RESULTS / name / f"{digest(*parts)}{to.suffix}"
    if not place.exists():
        with _alone(place):
            if not place.exists():
                made = make()
                _whole(place, lambda part: shutil.copyfile(made, part))
    if to.exists():
        to.unlink()
    shutil.copyfile(place, to)
    return to


def tidy() -> None:
    """Forget what no run has needed for long, and the oldest where it is too much."""
    files = sorted(
        ((f.stat().st_mtime, f.stat().st_size, f) for f in RESULTS.rglob("*") if f.is_file()), key=lambda f: -f[0]
    )
    kept = 0
    for when, size, found in files:
        kept += size
        if kept > MOST_BYTES or time.time() - when > UNUSED_DAYS * 86_400:
            found.unlink(missing_ok=True)


def _settled(take: Any) -> Any:
    from fortimetra import load_take
    from fortimetra.sound.decode import Take

    return take if isinstance(take, Take) else load_take(take)


def measure_take(take, *, drill=None, click=None, setup=None, guitar=None, pins=(), progress=None):
    """As the core's measure_take, once for each take and what it is read against."""
    from fortimetra.errors import TakeError
    from fortimetra.pipeline import MeasuredTake
    from fortimetra.pipeline import measure_take as measure

    loaded = _settled(take)
    told: list[tuple[str, float]] = []

    def make():
        try:
            found = measure(
                loaded, drill=drill, click=click, setup=setup, guitar=guitar, pins=pins,
                progress=lambda stage, fraction: told.append((stage, fraction)),
            )  # fmt: skip
        except TakeError as error:
            return error, None, None, told
        return found.analysis, found.contour, found.drill, told

    parts = ("measure", loaded, drill, click, setup, guitar, tuple(pins))
    analysis, contour, played, stages = value("measured", parts, make)
    for stage, fraction in stages if progress else ():
        progress(stage, fraction)
    if isinstance(analysis, TakeError):
        raise analysis
    return MeasuredTake(analysis, contour, loaded, played)


def analyse(take, **about):
    """As the core's analyse, once for each take and what it is read against."""
    return measure_take(take, **about).analysis


def render(drill, faults, *, rate_hz=48_000):
    """As the simulated student's render, once for each drill and its faults."""
    from fortimetra.player.rendering import render as play

    return value("rendered", (drill, faults, rate_hz), lambda: play(drill, faults, rate_hz=rate_hz), module=PLAYER)
