"""Where the beats of the drill lie in the take."""

from __future__ import annotations

import numpy as np
from scipy import stats

from fortimetra.align.click import FoundClick
from fortimetra.align.match import Match
from fortimetra.model.analysis import Grid
from fortimetra.model.context import Click
from fortimetra.model.drill import Drill

MIN_FIT_NOTES = 4
MOST_FIT_SCATTER_BEATS = 0.2
RECORDER_U_MS = 1.0

NO_GRID = Grid(source="none", bpm=None, first_beat_s=None, u_ms=None)


def find_grid(match: Match, drill: Drill, click: Click | None, found: FoundClick | None = None) -> Grid:
    """The click's grid where one is given or was found, else tempo and phase fitted to the onsets (Theil-Sen), else none.

    first_beat_s is when beat 0 of the first repeat is heard, latency included where it is known.
    """
    if click is not None and click.source != "none" and click.first_beat_s is not None:
        latency = (click.latency_ms or 0.0) / 1000.0
        known = click.latency_ms is not None or click.source != "recorder"
        return Grid(
            source=click.source,
            bpm=click.bpm,
            first_beat_s=click.first_beat_s + latency,
            u_ms=RECORDER_U_MS if known else None,
        )
    fitted = _fitted(match, drill)
    if found is None or drill.tempo is None:
        return fitted
    # Which of the clicks is the first beat, the notes say; without them, the count-in the drill asks for.
    about = fitted.first_beat_s
    if about is None:
        about = found.first_s + drill.tempo.count_in_beats * found.seconds_per_beat
    first = found.first_s + round((about - found.first_s) / found.spacing_s) * found.spacing_s
    return Grid(
        source=found.source,
        bpm=round(60.0 / found.seconds_per_beat, 3),
        first_beat_s=round(first, 5),
        u_ms=found.u_ms,
    )


def _fitted(match: Match, drill: Drill) -> Grid:
    if drill.tempo is None:
        return NO_GRID
    pairs = [(e.beat, n.onset_s) for e, n in zip(match.events, match.heard, strict=True) if n is not None]
    if len(pairs) < MIN_FIT_NOTES:
        return NO_GRID
    beats, onsets = (np.array(v) for v in zip(*pairs, strict=True))
    slope, intercept, _low, _high = stats.theilslopes(onsets, beats)
    if slope <= 0:
        return NO_GRID
    scatter = stats.median_abs_deviation(onsets - (intercept + slope * beats), scale="normal")
    if scatter > MOST_FIT_SCATTER_BEATS * slope:
        return NO_GRID
    return Grid(
        source="fitted",
        bpm=round(60.0 / slope, 3),
        first_beat_s=round(float(intercept), 5),
        u_ms=round(2000.0 * float(scatter) / np.sqrt(len(pairs)), 2),
    )
