"""Where the clicks of a take lie: click, bar, beat, time_s. Beat 1 of bar 1 is the first beat of the drill."""

from __future__ import annotations

from math import ceil, floor

from fortimetra.formats.table_csv import table_csv
from fortimetra.model.analysis import Analysis

COLUMNS = ("click", "bar", "beat", "time_s")


def clicks_csv(analysis: Analysis, *, beats_per_bar: int = 4) -> str:
    """Every click inside the recording, the count-in in bars 0 and before; a take without a grid has a head alone."""
    grid = analysis.reference.grid
    if grid.bpm is None or grid.first_beat_s is None:
        return table_csv(COLUMNS, ())
    apart_s = 60.0 / grid.bpm
    first = ceil(-grid.first_beat_s / apart_s - 1e-9)
    last = floor((analysis.take.duration_s - grid.first_beat_s) / apart_s)
    return table_csv(
        COLUMNS,
        (
            (n, floor(n / beats_per_bar) + 1, n % beats_per_bar + 1, f"{grid.first_beat_s + n * apart_s:.4f}")
            for n in range(first, last + 1)
        ),
    )
