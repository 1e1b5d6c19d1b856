"""What a misplaced saddle does. On its own, so that whoever only calculates does not load the measuring."""

from __future__ import annotations

import math

from fortimetra.errors import SignalError

MOST_CENTS = 200.0


def saddle_shift_mm(twelfth_error_cents: float, *, scale_mm: float) -> float:
    """How far the saddle has to move for a pure octave at the 12th fret; positive is away from the nut.

    With L from nut to saddle and the fret in the middle of the scale, the octave is (L + c) / (L/2 + c); it is to be
    smaller by the error e, that is 2·2^(−e/1200), so c = L·(1 − r/2)/(r − 1) with that r.

    >>> round(saddle_shift_mm(5.0, scale_mm=648.0), 2)
    1.88
    """
    if abs(twelfth_error_cents) > MOST_CENTS:
        raise SignalError(
            "out_of_range", f"{twelfth_error_cents:.0f} cents at the 12th fret is no matter of the saddle."
        )
    ratio = 2.0 * 2.0 ** (-twelfth_error_cents / 1200.0)
    return scale_mm * (1.0 - ratio / 2.0) / (ratio - 1.0)


def fretted_error_cents(fret: int, *, twelfth_error_cents: float) -> float:
    """What the guitar itself adds at a fret, against its open string, where the 12th fret is off by so much.

    With the saddle at S instead of L the interval from the open string to a fret at x is S/(S − x); S follows from the
    12th fret, S/L = r/(2·(r − 1)) with r = 2·2^(e/1200). What pressing makes sharp grows along the neck much the same
    way.

    >>> [round(fretted_error_cents(n, twelfth_error_cents=10.0), 1) for n in (0, 7, 12)]
    [0.0, 5.0, 10.0]
    """
    ratio = 2.0 * 2.0 ** (twelfth_error_cents / 1200.0)
    saddle = ratio / (2.0 * (ratio - 1.0))
    return 1200.0 * math.log2(saddle / (saddle - 1.0 + 2.0 ** (-fret / 12.0))) - 100.0 * fret
