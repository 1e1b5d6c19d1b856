"""What a take is read against: which note is which, when each is due, and how the guitar is tuned."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

from fortimetra.align.click import FoundClick
from fortimetra.align.grid import DueTimes, due_times, find_grid
from fortimetra.align.match import Match
from fortimetra.hear.contour import Contour
from fortimetra.measure.pitch import StringOffsets, plain_readings, string_offsets
from fortimetra.measure.slide import unslid
from fortimetra.measure.statistics import PitchReading
from fortimetra.measure.wander import pitch_wavers
from fortimetra.model.analysis import Grid
from fortimetra.model.context import Click, Setup
from fortimetra.model.drill import Drill


@dataclass(frozen=True)
class Alignment:
    """A take laid beside its drill.

    drill: as it was asked; played: at the tempo that was played. match: which heard note is which event, in order of
    the events, as are due (when each is due) and readings (the plain pitch of each single unbent note, None where
    there is none). offsets: how each string is tuned. pitch_wavers: plain notes are not steady, so that no pitch of
    the take is certain.
    """

    drill: Drill
    played: Drill
    match: Match
    grid: Grid
    due: DueTimes
    readings: tuple[PitchReading | None, ...]
    offsets: StringOffsets
    pitch_wavers: bool

    @property
    def spb(self) -> float:
        """Seconds per beat, as played."""
        return self.played.seconds_per_beat


def aligned(
    contour: Contour,
    match: Match,
    drill: Drill,
    *,
    click: Click | None,
    heard_click: FoundClick | None,
    setup: Setup | None,
) -> Alignment:
    """Lay a matched take beside its drill. click: the recorder's; heard_click: one found in the recording."""
    readings = plain_readings(contour, match, seconds_per_beat=drill.seconds_per_beat)
    grid = find_grid(match, drill, click, heard_click)
    return Alignment(
        drill, drill.at(grid.bpm), match, grid, due_times(match, drill, grid), tuple(readings),
        string_offsets(drill, match, readings, setup), _wavers(contour, match, readings, drill),
    )  # fmt: skip


def _wavers(contour: Contour, match: Match, readings: Sequence[PitchReading | None], drill: Drill) -> bool:
    """Whether plain notes waver, where none is asked to move."""
    if any(e.vibrato for e in drill.events if e.bend is None):
        return False
    rows = zip(match.heard, readings, unslid(match), strict=True)
    return pitch_wavers(contour, [n for n, r, still in rows if still and n is not None and r is not None])
