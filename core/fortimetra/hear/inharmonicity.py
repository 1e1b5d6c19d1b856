"""The first partial of a stiff string, from all of its partials.

A stiff string's partials lie at k·f·√(1 + B·k²) (Fletcher, J. Acoust. Soc. Am. 36(1), 1964): over k² they stand, in
cents from k·f, on a line. An average over them is sharp by an amount that changes with their levels and with the
string's tension and length, that is between a fretted note and a bend. So the pitch is the place of the first partial:
as the line has it, and as it is heard itself, each by how much is known of it (the best linear prediction of a value
that scatters about a line; Goldberger, J. Am. Stat. Assoc. 57, 1962). Partials scatter about the line by more than
noise explains, for bridge and body pull at each by itself; where the first is faint, or covered by another string, the
line counts.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from typing import Any

import numpy as np
from numba import njit
from numpy.typing import NDArray
from scipy.special import stdtrit

from fortimetra.hear.contour import Contour, independent_frames
from fortimetra.hear.notes import HeardNote
from fortimetra.hear.settings import CONTOUR, NOTES, WARPED
from fortimetra.medians import finite_median
from fortimetra.units import FloatArray

_CENTS_OF_B = 600.0 / np.log(2.0)
# By how much few partials widen what is known: Student's t against a normal distribution's 2, by spare partials.
_BY_FEW = stdtrit(np.arange(1.0, max(CONTOUR.n_partials, WARPED.n_partials) + 1.0), NOTES.t_quantile) / 2.0


@dataclass(frozen=True)
class FirstPartial:
    """own_share: how much the first partial counts by itself, 0 to 1, the line over all having the rest. sd_cents:
    standard error of the place so found, what few partials leave unknown of their scatter included (Student's t; JCGM
    100:2008, G.3). place_cents: that place, from the contour's f0_hz.
    """

    own_share: float
    sd_cents: float
    place_cents: float = 0.0


def first_partial(contour: Contour, frames: slice | NDArray[np.int64]) -> FirstPartial:
    """How the first partial's place over a stretch is found, and how well it is known. frames: a slice, or the places
    of the contour's frames, shape (n,).
    """
    f0 = contour.f0_hz[frames]
    voiced = int(np.count_nonzero(~np.isnan(f0)))
    independent = independent_frames(voiced, finite_median(f0)) if voiced else 1.0
    cents, sigma = contour.partial_cents[frames], contour.partial_sigma_cents[frames]
    found = _place(cents, sigma, np.sqrt(independent), _BY_FEW, NOTES.partial_sd_cents, NOTES.off_line_sd)
    return FirstPartial(0.0, NOTES.few_partials_sd_cents) if found is None else FirstPartial(*found)


@njit(cache=True)
def _place(
    cents: Any, sigma: Any, averaged: float, by_few: Any, partial_sd_cents: float, off_line_sd: float
) -> tuple[float, float, float] | None:
    """The parts of a FirstPartial; None where partials are too few. cents, sigma: shape (n_frames, n_partials);
    averaged: by how much less noise an average over the frames has.
    """
    noise, place, number = np.empty(cents.shape[1]), np.empty(cents.shape[1]), np.empty(cents.shape[1])
    n = 0
    for k in range(cents.shape[1]):
        heard_frames = 0
        for i in range(len(cents)):
            heard_frames += not np.isnan(cents[i, k])
        if heard_frames >= max(3, len(cents) // 2):
            noise[n], place[n], number[n] = finite_median(sigma[:, k]), finite_median(cents[:, k]), k + 1.0
            n += 1
    if n < 3:
        return None
    noise, place = noise[:n], place[:n]
    along, weight = number[:n] ** 2 - 1.0, 1.0 / (noise**2 + partial_sd_cents**2)
    level, slope, rest = _line(along, weight, place)
    shares = level if _dot(slope, place) > 0.0 else weight / weight.sum()
    # How far partials scatter is asked of the others: one that another string covers is not to widen it for itself.
    others = 1 if number[0] == 1.0 else 0
    off, weighed = rest[0], weight
    if n - others >= 3:
        own, _, rest = _line(along[others:], weight[others:], place[others:])
        off, weighed = place[0] - _dot(own, place[others:]), weight[others:]
    spare = max(1, len(rest) - 2)
    scatter = np.sqrt(_dot(weighed, rest**2) / weighed.sum() * len(rest) / spare)
    by_line = _dot(shares, place)
    of_line = by_few[spare - 1] * scatter * np.sqrt(_dot(shares, shares))
    more = max(scatter**2 - (finite_median(noise) / averaged) ** 2, 0.0)
    # So much of it may be the string's own; what is more is a room's, or another string's.
    of_string = min(np.sqrt(more), partial_sd_cents)
    of_others = np.hypot(of_line, by_few[spare - 1] * of_string)
    if not others:
        return 0.0, of_others, by_line
    heard = np.sqrt((noise[0] / averaged) ** 2 + max(more - of_string**2, 0.0)) + 1e-6
    # What is further off than both explain is not the string's alone.
    heard = np.sqrt(heard**2 + max(off**2 - off_line_sd**2 * (of_string**2 + heard**2), 0.0))
    share = of_string**2 / (of_string**2 + heard**2)
    return share, np.hypot((1.0 - share) * of_others, share * heard), (1.0 - share) * by_line + share * place[0]


@njit(cache=True)
def _dot(a: Any, b: Any) -> float:
    total = 0.0
    for i in range(len(a)):
        total += a[i] * b[i]
    return total


@njit(cache=True)
def _line(along: Any, weight: Any, place: Any) -> tuple[FloatArray, FloatArray, FloatArray]:
    """A line by weighted least squares: what each value adds to its height at 0 and to its slope, and how far the
    values lie from it; each of shape (n,).
    """
    total = weight.sum()
    middle = _dot(weight, along) / total
    apart = along - middle
    slope = weight * apart
    slope /= _dot(slope, apart)
    height = weight / total - middle * slope
    return height, slope, place - _dot(height, place) - _dot(slope, place) * along


def without_stiffness(contour: Contour, notes: Sequence[HeardNote]) -> Contour:
    """The contour with each note's inharmonicity taken out, so that f0_hz is its first partial whatever is loud.

    B is fitted per note by weighted least squares on each partial's distance, frame by frame free of the pitch itself.
    """
    f0 = contour.f0_hz.copy()
    for note in notes:
        frames = contour.frames(note.onset_s, note.followed_to_s)
        shift = _shift_cents(contour, frames)
        if shift is not None:
            f0[frames] = f0[frames] * 2.0 ** (-shift / 1200.0)
    return contour.with_f0(f0)


def _shift_cents(contour: Contour, frames: slice) -> FloatArray | None:
    """By how much each frame's pitch lies over the note's first partial, cents, shape (n_frames,); None where too
    little is heard.
    """
    used, shift, own = _stiffness(
        contour.partial_cents[frames], contour.partial_sigma_cents[frames], NOTES.partial_sd_cents, NOTES.max_stiffness
    )
    if used < NOTES.min_stiffness_note_frames:
        return None
    return np.asarray(shift if np.isnan(own) else shift - first_partial(contour, frames).own_share * own)


@njit(cache=True)
def _stiffness(cents: Any, sigma: Any, partial_sd_cents: float, max_stiffness: float) -> tuple[int, FloatArray, float]:
    """How many frames tell of the stiffness; by how much each frame's pitch lies over the first partial as the line has
    it, cents, shape (n_frames,); how far the first partial itself lies from the line, NaN where it is not heard.
    """
    n, partials = cents.shape
    weight = np.zeros((n, partials))
    mean_k2 = np.ones(n)
    tells = np.zeros(n, np.bool_)
    top = bottom = 0.0
    for i in range(n):
        for k in range(partials):
            if not np.isnan(cents[i, k]):
                weight[i, k] = 1.0 / (np.float64(sigma[i, k]) ** 2 + partial_sd_cents**2)
        total = along_total = 0.0
        heard = 0
        for k in range(partials):
            total += weight[i, k]
            along_total += weight[i, k] * (k + 1.0) ** 2
            heard += weight[i, k] > 0.0
        tells[i] = heard >= 3
        if total > 0.0:
            mean_k2[i] = along_total / total
        for k in range(partials if tells[i] else 0):
            along = (k + 1.0) ** 2 - mean_k2[i]
            if weight[i, k] > 0.0:
                top += weight[i, k] * along * cents[i, k]
                bottom += weight[i, k] * along * along
    line = _CENTS_OF_B * min(max(top / bottom / _CENTS_OF_B, 0.0), max_stiffness) if bottom > 0.0 else 0.0
    first = first_weight = 0.0
    for i in range(n):
        if tells[i] and weight[i, 0] > 0.0:
            first += weight[i, 0] * (cents[i, 0] - line * (1.0 - mean_k2[i]))
            first_weight += weight[i, 0]
    return int(np.sum(tells)), line * (mean_k2 - 1.0), first / first_weight if first_weight > 0.0 else np.nan
