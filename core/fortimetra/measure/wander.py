"""Whether fretted notes hold their pitch: what they do not is the rig's (chorus, vibrato) or a hand that shakes every note.

A fretted string's pitch settles and then stays: recorded single notes of three guitars waver by 0.2 to 1.6 cents about a smooth
course (median 0.6), a chorus of ± 10 cents makes it 2 and more.
"""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np

from fortimetra.hear.contour import HOP_S, Contour
from fortimetra.hear.notes import HeardNote
from fortimetra.measure.statistics import robust_sd

SETTLED_S, END_S, LEAST_S = 0.1, 0.03, 0.35
WAVERS_CENTS = 2.0
LEAST_NOTES = 3
MOST_SHARE = 0.6


def wander_cents(contour: Contour, note: HeardNote) -> float | None:
    """Robust SD of a note's pitch about a parabola through it; None where the note is too short."""
    frames = contour.frames(note.onset_s + SETTLED_S, note.end_s - END_S)
    f0 = contour.f0_hz[frames]
    voiced = ~np.isnan(f0)
    if np.count_nonzero(voiced) * HOP_S < LEAST_S:
        return None
    time = contour.time_s[frames][voiced]
    cents = 1200.0 * np.log2(f0[voiced] / f0[voiced][0])
    middle = time - time.mean()
    return robust_sd(cents - np.polyval(np.polyfit(middle, cents, 2), middle))


def pitch_wavers(contour: Contour, plain: Sequence[HeardNote]) -> bool:
    """Whether most of a take's plain fretted notes waver more than strings do."""
    found = [w for note in plain if (w := wander_cents(contour, note)) is not None]
    wavering = sum(w > WAVERS_CENTS for w in found)
    return len(found) >= LEAST_NOTES and wavering >= MOST_SHARE * len(found)
