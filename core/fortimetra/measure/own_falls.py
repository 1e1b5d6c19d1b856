"""How long a note seems held that nobody holds: one whose string the next note takes.

A string sounds one pitch: where the next note is on the same one, at another fret, the old pitch has ended as that
begins, whatever the hands do. What is heard of it later is the room's, the amplifier's or the recorder's doing, and
the window's; with many such changes a take says itself how its recording lets go of a note, read in the same way as
the notes that could have been held (`overlap`).
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from fortimetra.align.match import Match
from fortimetra.measure.overlap import comes_to, overlap_at
from fortimetra.measure.settings import OVERLAP, OWN_FALLS
from fortimetra.model.drill import SLURRED
from fortimetra.sound.decode import resampled
from fortimetra.sound.samples import Samples


@dataclass(frozen=True)
class OwnFalls:
    """How long notes seem held after their string has been taken, ms: the quicker quarter at most, half of them, nearly
    all of them.
    """

    quick_ms: float
    half_ms: float
    slow_ms: float

    def held_at_most(self, limit_ms: float) -> float:
        """How long a note that is let go after limit_ms may seem held at most: so much longer as those that could not
        be held go on, and no shorter than nearly all of them.
        """
        return max(limit_ms + _without_window(self.half_ms), OWN_FALLS.chance * self.slow_ms)

    def held_at_least(self, limit_ms: float) -> float:
        """How long a note that is held for limit_ms seems held at least."""
        return limit_ms + _without_window(self.quick_ms)


def _without_window(ms: float) -> float:
    """What of a reading is not the window's: that sees a string for half its length after it stops."""
    return max(0.0, ms - 500.0 * OVERLAP.window_s)


def own_falls(mono: Samples, match: Match, *, rate_hz: int) -> OwnFalls | None:
    """What a take says of how its recording lets go of notes; None where too few changes tell.

    mono: float32, shape (n_samples,).
    """
    changes = np.array([i for i in range(len(match.events) - 1) if _takes_the_string(match, i)], dtype=np.int64)
    if len(changes) < OWN_FALLS.least:
        return None
    if len(changes) > OWN_FALLS.most:
        changes = changes[np.linspace(0, len(changes) - 1, OWN_FALLS.most).round().astype(np.int64)]
    rate = min(OVERLAP.rate_hz, rate_hz)
    sound = resampled(mono, from_hz=rate_hz, to_hz=rate)
    read = [overlap_at(sound, match, int(i), rate_hz=rate) for i in changes]
    held = [o.held_ms[1] - OVERLAP.u_ms for o in read if o is not None and np.isfinite(o.held_ms[1])]
    if len(held) < OWN_FALLS.least:
        return None
    quick, half, slow = np.percentile(held, (OWN_FALLS.quick_percentile, 50.0, OWN_FALLS.slow_percentile))
    return OwnFalls(float(quick), float(half), float(slow))


def _takes_the_string(match: Match, index: int) -> bool:
    """Whether the next event strikes the string of a note at another pitch."""
    now, after = match.events[index], match.events[index + 1]
    if len(now.notes) != 1 or len(after.notes) != 1 or index + 1 in match.breaks:
        return False
    same = now.notes[0].note.string == after.notes[0].note.string
    steady = now.notes[0].event.bend is None and not now.notes[0].note.muted
    struck = after.notes[0].event.articulation not in SLURRED
    return same and steady and struck and not comes_to(after, now.start_midi)
