"""Many takes at once from the command line: each measured as `analyse` does, and one table of them all."""

from __future__ import annotations

import argparse
import csv
import json
import os
import sys
from collections.abc import Iterable, Iterator, Sequence
from concurrent.futures import ProcessPoolExecutor
from contextlib import contextmanager
from dataclasses import dataclass
from functools import lru_cache
from multiprocessing import get_context
from pathlib import Path
from statistics import median

from fortimetra.errors import DrillError, FortimetraError
from fortimetra.formats.table_csv import Cell, table_csv
from fortimetra.model.analysis import Analysis
from fortimetra.model.context import Click
from fortimetra.model.drill import Drill
from fortimetra.model.guitar import Guitar
from fortimetra.units import rounded

THREADS = ("OMP_NUM_THREADS", "OPENBLAS_NUM_THREADS", "MKL_NUM_THREADS", "NUMBA_NUM_THREADS")
SOUNDS = {".wav", ".flac", ".aif", ".aiff", ".ogg", ".opus", ".webm", ".mp3", ".m4a", ".caf"}
COLUMNS = (
    "take", "drill", "asked", "clean", "not_clean", "unclear", "missed", "extra", "clean_percent", "bend_error_cents",
    "bias_ms", "jitter_ms", "level_spread_db", "ringing_strings", "probably", "problem",
)  # fmt: skip
LIST_COLUMNS = {"take", "drill", "click", "guitar"}


@dataclass(frozen=True)
class Job:
    """One take and what it was played to."""

    take: Path
    drill: Path | None
    click: Path | None = None
    guitar: Path | None = None


@dataclass(frozen=True)
class Done:
    """What came of it: an analysis, or why there is none."""

    job: Job
    analysis: Analysis | None
    problem: str = ""

    def row(self) -> list[Cell]:
        """Its line in the table."""
        drill = self.job.drill.name if self.job.drill else None
        if self.analysis is None:
            return [str(self.job.take), drill, *[None] * (len(COLUMNS) - 3), self.problem]
        s = self.analysis.summary
        ringing = sorted({e.string for e in self.analysis.noise_events if e.verdict == "outside" and e.string})
        rate = s.clean_rate
        return [
            str(self.job.take), drill, s.asked, s.clean, s.not_clean, s.unclear, s.missed, s.extra,
            None if rate is None else round(100.0 * rate, 1),
            rounded(_middle_bend(self.analysis), 1),
            rounded(s.timing.bias_ms if s.timing else None, 1),
            rounded(s.timing.jitter_ms if s.timing else None, 1),
            rounded(s.level.spread_db if s.level else None, 1),
            " ".join(map(str, ringing)),
            self.analysis.causes[0].says if self.analysis.causes else None,
            None,
        ]  # fmt: skip


def _middle_bend(analysis: Analysis) -> float | None:
    """Median error of a take's bends, cents; None without bends."""
    errors = [n.bend.error_cents for n in analysis.notes if n.bend is not None and n.bend.error_cents is not None]
    return median(errors) if errors else None


def add_arguments(parser: argparse.ArgumentParser) -> None:
    """The arguments of `fortimetra batch`."""
    parser.add_argument("takes", type=Path, nargs="*", metavar="TAKE", help="recordings, or folders of them")
    parser.add_argument("--drill", type=Path, help="what all of them were played to")
    parser.add_argument("--guitar", type=Path)
    parser.add_argument(
        "--list",
        type=Path,
        help="CSV with the columns take, drill and, where wished, click and guitar; paths from its folder",
    )
    parser.add_argument("--out", type=Path, help="a folder for one result (JSON) a take")
    parser.add_argument("--table", type=Path, help="the table as CSV instead of on standard output")
    parser.add_argument("--jobs", type=int, default=os.cpu_count() or 1, help="takes measured at once")


def run(options: argparse.Namespace) -> int:
    """Measure them all; 1 where any could not be, which the table names."""
    jobs = list(_listed(options.list)) if options.list else []
    jobs += [Job(take, options.drill, guitar=options.guitar) for take in _recordings(options.takes)]
    if not jobs:
        raise DrillError("no_takes", "There is nothing to measure; name recordings, a folder of them, or a --list.")
    if options.out:
        options.out.mkdir(parents=True, exist_ok=True)
    done: list[Done] = []
    names: set[str] = set()
    for number, one in enumerate(_measured(jobs, at_once=max(1, options.jobs)), 1):
        done.append(one)
        print(f"{number}/{len(jobs)} {one.job.take.name}: {one.problem or 'measured'}", file=sys.stderr, flush=True)
        if options.out and one.analysis is not None:
            _write(options.out / _own_name(one.job.take, names), one.analysis)
    text = table_csv(COLUMNS, (d.row() for d in done))
    if options.table:
        options.table.write_text(text, newline="")
    else:
        sys.stdout.write(_aligned(done))
    return 1 if any(d.analysis is None for d in done) else 0


def _recordings(paths: Iterable[Path]) -> Iterator[Path]:
    for path in paths:
        if path.is_dir():
            yield from sorted(f for f in path.rglob("*") if f.suffix.lower() in SOUNDS)
        else:
            yield path


def _listed(path: Path) -> Iterator[Job]:
    folder = path.parent
    with path.open(newline="", encoding="utf-8-sig") as file:
        rows = csv.DictReader(file)
        unknown = set(rows.fieldnames or ()) - LIST_COLUMNS
        if unknown or "take" not in (rows.fieldnames or ()):
            raise DrillError(
                "list_invalid", f"{path.name}: the columns are take, drill, click and guitar, the first is needed."
            )
        for row in rows:
            there = {k: folder / v for k, v in row.items() if k and v}
            if "take" in there:
                yield Job(there["take"], there.get("drill"), there.get("click"), there.get("guitar"))


def _measured(jobs: Sequence[Job], *, at_once: int) -> Iterator[Done]:
    if at_once == 1 or len(jobs) == 1:
        yield from map(measure, jobs)
        return
    # Fresh processes: a fork would copy the threads of the signal processing half way through. Each has one thread:
    # several would take turns on the cores that the other processes use.
    with _one_thread_each(), ProcessPoolExecutor(min(at_once, len(jobs)), mp_context=get_context("spawn")) as pool:
        yield from pool.map(measure, jobs)


@contextmanager
def _one_thread_each() -> Iterator[None]:
    """The libraries of processes that begin now use one thread, where nobody has said otherwise."""
    unset = [name for name in THREADS if name not in os.environ]
    os.environ.update(dict.fromkeys(unset, "1"))
    try:
        yield
    finally:
        for name in unset:
            del os.environ[name]


@lru_cache(maxsize=64)
def _drill(path: Path) -> Drill:
    """A drill of the batch, read once by each process."""
    return Drill.read(path)


def measure(job: Job) -> Done:
    """One take; whatever is wrong with it becomes its line in the table."""
    from fortimetra.pipeline import measure_take

    try:
        found = measure_take(
            job.take,
            drill=_drill(job.drill) if job.drill else None,
            click=Click.read(job.click) if job.click else None,
            guitar=Guitar.read(job.guitar) if job.guitar else None,
        )
    except FortimetraError as error:
        return Done(job, None, error.detail)
    except OSError as error:
        return Done(job, None, f"{error.strerror or error}.")
    return Done(job, found.analysis)


def _own_name(take: Path, names: set[str]) -> str:
    """A name of its own for each take's result, also where two folders have takes of one name."""
    name, number = f"{take.stem}.json", 1
    while name in names:
        number += 1
        name = f"{take.stem}-{number}.json"
    names.add(name)
    return name


def _write(path: Path, analysis: Analysis) -> None:
    text = json.dumps(analysis.model_dump(mode="json", by_alias=True), indent=1, ensure_ascii=False) + "\n"
    path.write_text(text)


def _aligned(done: Sequence[Done]) -> str:
    """The table for people: the columns that say most, in lines that stand under each other."""
    shown = ("take", "clean", "asked", "clean_percent", "bend_error_cents", "bias_ms", "jitter_ms", "probably")
    rows = [["take", "clean", "of", "%", "bend ¢", "bias ms", "jitter ms", "probably"]]
    for one in done:
        cells = dict(zip(COLUMNS, one.row(), strict=True))
        if one.analysis is None:
            rows.append([one.job.take.name, *[""] * 6, f"not measured: {one.problem}"])
            continue
        rows.append([one.job.take.name, *("" if cells[c] is None else str(cells[c]) for c in shown[1:])])
    widths = [max(len(r[i]) for r in rows) for i in range(len(rows[0]))]
    lines = []
    for row in rows:
        cells_ = [row[0].ljust(widths[0]), *(c.rjust(w) for c, w in zip(row[1:-1], widths[1:-1], strict=True)), row[-1]]
        lines.append("  ".join(cells_).rstrip())
    return "\n".join(lines) + "\n"
