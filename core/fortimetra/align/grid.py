"""Where the beats of the drill lie in the take, and when each asked note is due.

A student who loses a beat, breaks off or begins again leaves the grid by a jump; the notes after it are read against
the grid moved by that jump (by whole beats where a click is heard), so one slip is one slip and the rest of the take
stays judged.
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray
from scipy import stats

from fortimetra.align.click import FoundClick
from fortimetra.align.match import Match
from fortimetra.align.settings import GRID
from fortimetra.medians import median_slope
from fortimetra.model.analysis import Grid
from fortimetra.model.context import Click
from fortimetra.model.drill import Drill
from fortimetra.units import FloatArray

NO_GRID = Grid(source="none", bpm=None, first_beat_s=None, u_ms=None)


@dataclass(frozen=True)
class DueTimes:
    """When each event is due, s (NaN where there is no grid), and how many beats its stretch of the take is moved
    by.
    """

    time_s: FloatArray
    moved_beats: FloatArray

    @property
    def jumps(self) -> bool:
        """Whether the student left the grid and came back elsewhere."""
        return bool(np.any(np.abs(np.diff(self.moved_beats)) > GRID.jump_beats))

    @property
    def elsewhere(self) -> tuple[bool, ...]:
        """Of each event whether its stretch came in on another beat."""
        return tuple(bool(abs(m) > GRID.jump_beats) for m in self.moved_beats)


def find_grid(match: Match, drill: Drill, click: Click | None, found: FoundClick | None = None) -> Grid:
    """The click's grid where one is given or was found, else tempo and phase fitted to the onsets, else none.

    first_beat_s is when beat 0 of the first repeat is heard, latency included where it is known.
    """
    if click is not None and click.source != "none" and click.first_beat_s is not None:
        latency = (click.latency_ms or 0.0) / 1000.0
        known = click.latency_ms is not None or click.source != "recorder"
        return Grid(
            source=click.source,
            bpm=click.bpm,
            first_beat_s=click.first_beat_s + latency,
            u_ms=GRID.recorder_u_ms if known else None,
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


def due_times(match: Match, drill: Drill, grid: Grid) -> DueTimes:
    """When each asked event is due; stretches after a jump by their own place on the grid."""
    beats = _beats(match, drill)
    nothing = np.zeros(len(beats))
    if grid.bpm is None or grid.first_beat_s is None:
        return DueTimes(np.full(len(beats), np.nan), nothing)
    spb = 60.0 / grid.bpm
    due = grid.first_beat_s + beats * spb
    struck = _struck(match)
    played = np.array([i for i, _ in struck], dtype=np.int64)
    if not len(played) or (grid.source == "fitted" and len(played) < 2 * GRID.least_section_notes):
        return DueTimes(due, nothing)
    off = np.array([onset_s for _, onset_s in struck]) / spb - due[played] / spb
    moved = np.zeros(len(beats))
    own = np.searchsorted(played, np.arange(len(beats)), side="right") - 1
    # Where the student stopped, one note tells where they came in.
    stretch = _split(_sections(off), np.searchsorted(played, match.breaks))
    section = stretch[np.clip(own, 0, len(played) - 1)]
    for number in range(int(section.max()) + 1):
        shift = float(np.median(off[stretch == number]))
        if grid.source != "fitted":
            shift = float(round(shift)) if abs(shift - round(shift)) < GRID.whole_beats_within else 0.0
        moved[section == number] = shift
    return DueTimes(due + moved * spb, moved)


def _beats(match: Match, drill: Drill) -> FloatArray:
    return np.array([drill.played_beat(e.beat) for e in match.events])


def _sections(off_beats: FloatArray) -> NDArray[np.int64]:
    """Which stretch between jumps each note belongs to, from how many beats each is off."""
    n = len(off_beats)
    label = np.zeros(n, np.int64)
    if n < 2 * GRID.least_section_notes:
        return label
    size = np.zeros(n)
    inside = np.arange(GRID.least_section_notes, n - GRID.least_section_notes + 1)
    for i in inside[np.abs(off_beats[inside] - off_beats[inside - 1]) > GRID.jump_beats]:
        before = np.median(off_beats[max(0, i - GRID.jump_notes) : i])
        size[i] = abs(np.median(off_beats[i : i + GRID.jump_notes]) - before)
    jumps = [i for i in np.flatnonzero(size > GRID.jump_beats) if size[i] >= size[max(0, i - 2) : i + 3].max()]
    last = -GRID.least_section_notes
    for jump in jumps:
        if jump - last >= GRID.least_section_notes:
            label[jump:] += 1
            last = int(jump)
    return label


def _struck(match: Match) -> list[tuple[int, float]]:
    """The events that were heard, with their onsets; what slides from the note before is heard on its way, before it is
    due.
    """
    rows = [(i, n.onset_s) for i, n in enumerate(match.heard) if n is not None]
    return [(i, s) for i, s in rows if match.events[i].notes[0].event.articulation != "slide"] or rows


def _split(label: NDArray[np.int64], at: NDArray[np.int64]) -> NDArray[np.int64]:
    """Sections split at more places, numbered anew in order of time."""
    begins = np.zeros(len(label), dtype=bool)
    begins[1:] = np.diff(label) != 0
    begins[at[(at > 0) & (at < len(label))]] = True
    return np.asarray(np.cumsum(begins))


def _fitted(match: Match, drill: Drill) -> Grid:
    """Tempo and phase of the notes: the slope of near pairs, then Theil-Sen within the stretches between jumps."""
    if drill.tempo is None:
        return NO_GRID
    all_beats = _beats(match, drill)
    pairs = [(float(all_beats[i]), onset_s) for i, onset_s in _struck(match)]
    if len(pairs) < GRID.min_fit_notes:
        return NO_GRID
    beats, onsets = (np.array(v) for v in zip(*pairs, strict=True))
    slope = _near_slope(beats, onsets)
    if slope is None:
        return NO_GRID
    rest = onsets - slope * beats
    section = _sections(rest / slope)
    middle = np.array([np.median(rest[section == s]) for s in range(int(section.max()) + 1)])
    level = onsets - (middle - middle[0])[section]
    slope = median_slope(level, beats)
    if slope <= 0:
        return NO_GRID
    # The phase is that at which early and late are as many: a fit says nothing of a bias.
    intercept = float(np.median(level - slope * beats))
    scatter = stats.median_abs_deviation(level - (intercept + slope * beats), scale="normal")
    if scatter > GRID.most_fit_scatter_beats * slope:
        return NO_GRID
    return Grid(
        source="fitted",
        bpm=round(60.0 / slope, 3),
        first_beat_s=round(float(intercept), 5),
        u_ms=round(2000.0 * float(scatter) / np.sqrt(len(pairs)), 2),
    )


def _near_slope(beats: FloatArray, onsets: FloatArray) -> float | None:
    """Weighted median of the seconds a beat between notes near each other."""
    slopes, weights = [], []
    for lag in range(1, min(GRID.near_pairs, len(beats) - 1) + 1):
        apart = beats[lag:] - beats[:-lag]
        good = apart > 0
        slopes.append((onsets[lag:] - onsets[:-lag])[good] / apart[good])
        weights.append(apart[good])
    slope, weight = np.concatenate(slopes), np.concatenate(weights)
    if not len(slope):
        return None
    order = np.argsort(slope)
    total = np.cumsum(weight[order])
    middle = float(slope[order][np.searchsorted(total, 0.5 * total[-1])])
    return middle if middle > 0 else None
