"""Whether fretted notes hold their pitch: what they do not is the rig's (chorus, vibrato) or a hand that shakes every
note.

A fretted string's pitch settles and then stays: recorded single notes of three guitars waver by 0.2 to 1.6 cents
about a smooth course (median 0.6), a chorus of ± 10 cents makes it 2 and more.
"""

from __future__ import annotations

from collections.abc import Sequence
from typing import Any

import numpy as np
from numba import njit

from fortimetra.hear.contour import Contour
from fortimetra.hear.notes import HeardNote
from fortimetra.hear.settings import CONTOUR
from fortimetra.measure.settings import WANDER
from fortimetra.medians import finite_median, robust_sd
from fortimetra.units import FloatArray


def wander_cents(contour: Contour, note: HeardNote) -> float | None:
    """Robust SD of a note's pitch about a parabola through it, where it is loud, less what noise alone makes of it;
    None where that is too short. A note that has faded is read from little, and every guitar's then wavers.
    """
    frames = contour.frames(note.onset_s + WANDER.settled_s, note.end_s - WANDER.end_s)
    f0, level = contour.f0_hz[frames], contour.level_dbfs[frames]
    steady = ~np.isnan(f0) & (level > level.max(initial=-np.inf) - WANDER.faded_db)
    if np.count_nonzero(steady) * CONTOUR.hop_s < WANDER.least_s:
        return None
    time = contour.time_s[frames][steady]
    cents = 1200.0 * np.log2(f0[steady] / f0[steady][0])
    wander = robust_sd(_from_parabola(time, cents))
    noise = finite_median(contour.sigma_cents[frames][steady])
    return float(np.sqrt(max(0.0, wander**2 - noise**2)))


@njit(cache=True)
def _from_parabola(x: Any, y: Any) -> FloatArray:
    """How far values lie from the parabola through them, by least squares; shape (n,). By polynomials that are
    orthogonal on the places (Forsythe, J. SIAM 5(2), 1957), so that nothing cancels.
    """
    first = x - x.mean()
    second = first * (first - np.sum(first**3) / np.sum(first**2))
    second = second - second.mean()
    rest = y - y.mean()
    rest = rest - first * np.sum(first * rest) / np.sum(first**2)
    return rest - second * np.sum(second * rest) / np.sum(second**2)


def pitch_wavers(contour: Contour, plain: Sequence[HeardNote]) -> bool:
    """Whether most of a take's plain fretted notes waver more than strings do."""
    found = [w for note in plain if (w := wander_cents(contour, note)) is not None]
    wavering = sum(w > WANDER.wavers_cents for w in found)
    return len(found) >= WANDER.least_notes and wavering >= WANDER.most_share * len(found)
