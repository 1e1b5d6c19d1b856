"""Speed and memory as ratios to a reference that ran in the same minute on the same machine, each with its limit.

A machine that is slower, or busy with something else, slows both; the ratio stays. A row is the best of several turns,
reference and measured in turn.
"""

from __future__ import annotations

import time
from collections.abc import Callable
from dataclasses import dataclass

import numpy as np


@dataclass(frozen=True)
class Row:
    """What was timed, in ms (or MB), what its reference took, and how many times the reference it may take."""

    what: str
    found: float
    reference: float
    most: float
    unit: str = "ms"

    @property
    def ratio(self) -> float:
        """Times the reference."""
        return self.found / self.reference

    @property
    def holds(self) -> bool:
        """Within its limit."""
        return self.ratio <= self.most


def best_ms(work: Callable[[], object], reference: Callable[[], object], *, turns: int = 5) -> tuple[float, float]:
    """The best of several turns of both, in ms; one turn of each first, which pays for imports and compiling."""
    took: tuple[list[float], list[float]] = ([], [])
    for _ in range(turns + 1):
        for one, times in zip((work, reference), took, strict=True):
            began = time.perf_counter()
            one()
            times.append(1000 * (time.perf_counter() - began))
    return min(took[0][1:]), min(took[1][1:])


def spectra() -> None:
    """The usual reference: 2000 spectra of 4096 samples, about what a short-time transform of 10 s of sound takes."""
    np.fft.rfft(np.ones((2000, 4096), dtype=np.float32), axis=1)


def table(title: str, rows: list[Row]) -> int:
    """Print the rows; 1 where one is over its limit."""
    print(f"\n## {title}\n\n| what | takes | reference | ratio | limit | |\n|---|---|---|---|---|---|")
    for row in rows:
        print(
            f"| {row.what} | {row.found:.1f} {row.unit} | {row.reference:.1f} {row.unit} | {row.ratio:.2f} | "
            f"{row.most:g} | {'holds' if row.holds else 'OVER THE LIMIT'} |"
        )
    return int(not all(row.holds for row in rows))
