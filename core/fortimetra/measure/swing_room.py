"""What a room leaves unknown of a swing, from how far the partials disagree about it.

A room answers with what was played before, each partial by another amount and for another time.
"""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from fortimetra.hear.contour import Contour
from fortimetra.hear.inharmonicity import first_partial
from fortimetra.hear.settings import CONTOUR, WARPED
from fortimetra.measure.settings import STATISTICS, VIBRATO
from fortimetra.measure.turns import Turns, window_response
from fortimetra.medians import finite_medians
from fortimetra.units import FloatArray


def _frames_at(contour: Contour, time_s: FloatArray) -> NDArray[np.int64]:
    """The frames nearest to some times; they may lie beyond the contour's ends."""
    return np.asarray(np.round((time_s - contour.time_s[0]) / CONTOUR.hop_s).astype(np.int64))


def u_at_turns(contour: Contour, time_s: FloatArray) -> float:
    """Expanded uncertainty of the pitch about some turns, cents; time_s: shape (n_turns,)."""
    frames = np.unique(_frames_at(contour, time_s)[:, None] + np.arange(-1, 2))
    frames = frames[(frames >= 0) & (frames < len(contour.time_s))]
    return STATISTICS.coverage * first_partial(contour, frames).sd_cents


def widths_disagree_cents(contour: Contour, turns: Turns) -> float:
    """How much the partials' own swings scatter in width, standard deviation in cents; 0 where too few can be read.

    A room makes the swing narrower; by how much in common nobody knows from the contour, only how much it differs from
    partial to partial.
    """
    if not len(turns.time_s):
        return 0.0
    at = np.clip(_frames_at(contour, turns.time_s), 0, len(contour.time_s) - 1)
    cents, sigma = contour.partial_cents[at], contour.partial_sigma_cents[at]
    tops = turns.kind > 0
    known = (
        np.minimum((~np.isnan(cents[tops])).sum(axis=0), (~np.isnan(cents[~tops])).sum(axis=0)) >= VIBRATO.min_cycles
    )
    if np.count_nonzero(known) < 3:
        return 0.0
    wider = finite_medians(cents[tops][:, known]) - finite_medians(cents[~tops][:, known])
    weight = 1.0 / (finite_medians(sigma[:, known]) ** 2 + CONTOUR.partial_sigma_floor_cents**2)
    mean = float((weight * wider).sum() / weight.sum())
    return float(np.sqrt((weight * (wider - mean) ** 2).sum() / weight.sum()))


def u_of_widths(course: Contour, region_s: tuple[float, float], *, rate_hz: float, extent_cents: float) -> float:
    """Expanded uncertainty of the width of a swing read in warped time, cents, from how far the partials' own swings
    differ; 0 where too few are read.

    Each partial swings a little more or less than the course. What moves with the swing is seen through the long
    window, which lets little of it through: the course was off by as much more.
    """
    frames = course.frames(*region_s)
    cents = course.partial_cents[frames]
    heard = ~np.isnan(cents)
    known = heard.mean(axis=0) >= VIBRATO.least_heard
    if np.count_nonzero(known) < 3:
        return 0.0
    swing = 1200.0 * np.log2(course.f0_hz[frames] / np.median(course.f0_hz[frames]))[:, None]
    weight = np.where(heard, 1.0, 0.0)[:, known]
    off = np.where(heard, cents, 0.0)[:, known]
    apart = swing - (weight * swing).sum(axis=0) / weight.sum(axis=0)
    wider = extent_cents * (weight * apart * off).sum(axis=0) / (weight * apart**2).sum(axis=0)
    counts = (weight / course.partial_sigma_cents[frames][:, known] ** 2).sum(axis=0)
    spread = wider - float(counts @ wider) / float(counts.sum())
    few = np.sqrt(len(counts) / (len(counts) - 1.0))
    let_through = max(VIBRATO.least_let_through, window_response(rate_hz, WARPED.window_s))
    return STATISTICS.coverage * few * float(np.linalg.norm(counts * spread) / counts.sum()) / let_through
