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

import numpy as np
from numpy.typing import NDArray
from scipy.special import stdtrit

from fortimetra.hear.contour import Contour, independent_frames
from fortimetra.hear.notes import HeardNote
from fortimetra.hear.settings import NOTES
from fortimetra.medians import finite_median, finite_medians
from fortimetra.units import FloatArray

_CENTS_OF_B = 600.0 / np.log(2.0)


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
    cents, sigma = contour.partial_cents[frames], contour.partial_sigma_cents[frames]
    present = np.count_nonzero(~np.isnan(cents), axis=0) >= max(3, len(cents) // 2)
    number = np.asarray(np.flatnonzero(present) + 1, dtype=np.float64)
    if len(number) < 3:
        return FirstPartial(0.0, NOTES.few_partials_sd_cents)
    noise = finite_medians(sigma)[present]
    place = finite_medians(cents)[present]
    along = number**2 - 1.0
    weight = 1.0 / (noise**2 + NOTES.partial_sd_cents**2)
    line, rest = _line(along, weight, place)
    slope = float(line[1] @ place)
    shares = line[0] if slope > 0.0 else weight / weight.sum()
    others = number > 1.0
    # How far partials scatter is asked of the others: one that another string covers is not to widen it for itself.
    off, weighed = float(rest[0]), weight
    if np.count_nonzero(others) >= 3:
        own_line, rest = _line(along[others], weight[others], place[others])
        off, weighed = float(place[0] - own_line[0] @ place[others]), weight[others]
    spare = max(1, len(rest) - 2)
    scatter = float(np.sqrt((weighed * rest**2).sum() / weighed.sum() * len(rest) / spare))
    by_line = float(shares @ place)
    by_few = float(stdtrit(spare, NOTES.t_quantile)) / 2.0
    of_line = by_few * scatter * float(np.linalg.norm(shares))
    f0 = contour.f0_hz[frames]
    voiced = int(np.count_nonzero(~np.isnan(f0)))
    independent = np.sqrt(independent_frames(voiced, finite_median(f0))) if voiced else 1.0
    more = max(scatter**2 - float(finite_median(noise) / independent) ** 2, 0.0)
    # So much of it may be the string's own; what is more is a room's, or another string's.
    of_string = min(np.sqrt(more), NOTES.partial_sd_cents)
    if others[0]:
        return FirstPartial(0.0, float(np.hypot(of_line, by_few * of_string)), by_line)
    heard = float(np.sqrt((noise[0] / independent) ** 2 + max(more - of_string**2, 0.0))) + 1e-6
    # What is further off than both explain is not the string's alone.
    heard = float(np.sqrt(heard**2 + max(off**2 - NOTES.off_line_sd**2 * (of_string**2 + heard**2), 0.0)))
    share = float(of_string**2 / (of_string**2 + heard**2))
    sd_cents = np.hypot((1.0 - share) * np.hypot(of_line, by_few * of_string), share * heard)
    return FirstPartial(share, float(sd_cents), (1.0 - share) * by_line + share * float(place[0]))


def _line(along: FloatArray, weight: FloatArray, place: FloatArray) -> tuple[FloatArray, FloatArray]:
    """A line by weighted least squares: what each value adds to its height at 0 and to its slope, shape (2, n), and how
    far the values lie from it.
    """
    middle = float(weight @ along) / float(weight.sum())
    apart = along - middle
    slope = weight * apart / float(weight @ apart**2)
    line = np.stack((weight / weight.sum() - middle * slope, slope))
    height, rise = line @ place
    return line, place - height - rise * along


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
    cents = contour.partial_cents[frames].astype(np.float64)
    sigma = contour.partial_sigma_cents[frames].astype(np.float64)
    weight = np.nan_to_num(np.where(np.isnan(cents), 0.0, 1.0 / (sigma**2 + NOTES.partial_sd_cents**2)))
    cents = np.nan_to_num(cents)
    total = weight.sum(axis=1)
    used = (weight > 0).sum(axis=1) >= 3
    if np.count_nonzero(used) < NOTES.min_stiffness_note_frames:
        return None
    k2 = np.arange(1, cents.shape[1] + 1, dtype=np.float64) ** 2
    mean_k2 = np.divide((weight * k2).sum(axis=1), total, out=np.ones(len(total)), where=total > 0)
    along = np.where(used[:, None], k2 - mean_k2[:, None], 0.0)
    of_used = np.where(used[:, None], weight, 0.0)
    slope = float((of_used * along * cents).sum() / (of_used * along * along).sum())
    line = _CENTS_OF_B * min(max(slope / _CENTS_OF_B, 0.0), NOTES.max_stiffness)
    shift = line * (mean_k2 - 1.0)
    first = of_used[:, 0]
    if not first.any():
        return shift
    own = float((first * (cents[:, 0] - line * along[:, 0])).sum() / first.sum())
    return np.asarray(shift - first_partial(contour, frames).own_share * own)
