"""Which of several notes of one pitch a vibrato belongs to: how quickly each heard note swings against what each asked
one should.
"""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np

from fortimetra.align.match import AskedEvent
from fortimetra.align.settings import SWINGS
from fortimetra.hear.contour import Contour
from fortimetra.hear.notes import HeardNote
from fortimetra.model.drill import Drill
from fortimetra.units import FloatArray


def tells_by_swing(drill: Drill) -> bool:
    """Whether notes of one pitch are asked for with different vibratos, so that only those tell them apart."""
    by_pitch: dict[tuple[int, int | None], set[float]] = {}
    for event in drill.events:
        if len(event.notes) == 1 and event.bend is None:
            by_pitch.setdefault((event.notes[0].string, event.notes[0].fret), set()).add(
                round(_asked_hz(event.vibrato, drill.seconds_per_beat), 2)
            )
    return any(len(rates) > 1 for rates in by_pitch.values())


def asked_swings_hz(events: Sequence[AskedEvent], drill: Drill) -> FloatArray:
    """The rate each event's vibrato should have, shape (n_events,); 0 where it should not swing, NaN where its rate is
    left open.
    """
    return np.array([_asked_hz(e.notes[0].event.vibrato, drill.seconds_per_beat) for e in events])


def _asked_hz(vibrato: object, spb: float) -> float:
    if vibrato is None:
        return 0.0
    cycles, rate_hz = getattr(vibrato, "cycles_per_beat", None), getattr(vibrato, "rate_hz", None)
    if isinstance(cycles, (int, float)):
        return float(cycles) / spb
    return float(np.mean(rate_hz)) if rate_hz is not None else float("nan")


def heard_swings_hz(heard: Sequence[HeardNote], contour: Contour) -> FloatArray:
    """How quickly the pitch of each heard note swings, shape (n_heard,); 0 where it is straight, NaN where it is too
    short to tell.

    Half the crossings of the middle a second, each after a swing of SWINGS.least_cents to either side.
    """
    return np.array([_swing_hz(contour, n) for n in heard])


def _swing_hz(contour: Contour, note: HeardNote) -> float:
    frames = contour.frames(note.onset_s + SWINGS.from_s, note.end_s)
    time_s, f0 = contour.time_s[frames], contour.f0_hz[frames]
    voiced = ~np.isnan(f0)
    if voiced.sum() < 2 or np.ptp(time_s[voiced]) < SWINGS.least_s:
        return float("nan")
    time_s, cents = time_s[voiced], 1200.0 * np.log2(f0[voiced])
    cents = cents - np.polyval(np.polyfit(time_s, cents, 1), time_s)
    if np.subtract(*np.percentile(cents, (95.0, 5.0))) < 2.0 * SWINGS.least_cents:
        return 0.0
    side = np.sign(cents) * (np.abs(cents) > SWINGS.least_cents)
    side = side[side != 0]
    return 0.5 * float(np.count_nonzero(np.diff(side))) / float(np.ptp(time_s))


def swing_costs(heard_hz: FloatArray, asked_hz: FloatArray) -> FloatArray:
    """What the swing of each heard note says against each event, shape (n_heard, n_events), in semitones wrong."""
    heard, asked = heard_hz[:, None], asked_hz[None, :]
    with np.errstate(divide="ignore", invalid="ignore"):
        octaves = np.abs(np.log2(heard / asked))
    costs = np.minimum(SWINGS.cost_most, SWINGS.cost_per_octave * np.nan_to_num(octaves, posinf=0.0))
    costs = np.where((asked == 0.0) != (heard == 0.0), SWINGS.cost_straight, costs)
    return np.where(np.isnan(heard) | np.isnan(asked), 0.0, costs)
