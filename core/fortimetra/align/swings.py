"""Which of several notes of one pitch a vibrato belongs to: how quickly and how wide each heard note swings, against
what each asked one should.
"""

from __future__ import annotations

from collections.abc import Sequence
from typing import NamedTuple

import numpy as np

from fortimetra.align.match import AskedEvent
from fortimetra.align.settings import SWINGS
from fortimetra.hear.contour import Contour
from fortimetra.hear.notes import HeardNote
from fortimetra.model.drill import Drill
from fortimetra.model.hand import VibratoAsked
from fortimetra.units import FloatArray


class Swings(NamedTuple):
    """Of each note, shape (n,): rate in Hz, 0 of a straight one, and width peak to peak in cents; NaN where it is left
    open or cannot be told.
    """

    hz: FloatArray
    cents: FloatArray


def tells_by_swing(drill: Drill) -> bool:
    """Whether notes of one pitch are asked for with different vibratos, so that only those tell them apart."""
    by_pitch: dict[tuple[int, int | None], set[tuple[str, str]]] = {}
    for event in drill.events:
        if len(event.notes) == 1 and event.bend is None:
            hz, cents = _asked(event.vibrato, drill.seconds_per_beat)
            by_pitch.setdefault((event.notes[0].string, event.notes[0].fret), set()).add((f"{hz:.2f}", f"{cents:.0f}"))
    return any(len(found) > 1 for found in by_pitch.values())


def asked_swings(events: Sequence[AskedEvent], drill: Drill) -> Swings:
    """The vibrato each event should have."""
    found = [_asked(e.notes[0].event.vibrato, drill.seconds_per_beat) for e in events]
    return Swings(np.array([hz for hz, _ in found]), np.array([cents for _, cents in found]))


def _asked(vibrato: VibratoAsked | None, spb: float) -> tuple[float, float]:
    if vibrato is None:
        return 0.0, 0.0
    cycles, rate_hz = vibrato.cycles_per_beat, vibrato.rate_hz
    cents = float(np.mean(vibrato.extent_cents)) if vibrato.extent_cents is not None else float("nan")
    if isinstance(cycles, int | float):
        return float(cycles) / spb, cents
    return (float(np.mean(rate_hz)) if rate_hz is not None and cycles is None else float("nan")), cents


def heard_swings(heard: Sequence[HeardNote], contour: Contour) -> Swings:
    """How the pitch of each heard note swings: half the crossings of its line a second, each after a swing of
    SWINGS.least_cents to either side; and from its 5th to its 95th percentile, as wide as a sine of that is.
    """
    found = [_swing(contour, n) for n in heard]
    return Swings(np.array([hz for hz, _ in found]), np.array([cents for _, cents in found]))


def _swing(contour: Contour, note: HeardNote) -> tuple[float, float]:
    frames = contour.frames(note.onset_s + SWINGS.from_s, note.end_s)
    time_s, f0 = contour.time_s[frames], contour.f0_hz[frames]
    voiced = ~np.isnan(f0)
    if voiced.sum() < 2 or np.ptp(time_s[voiced]) < SWINGS.least_s:
        return float("nan"), float("nan")
    time_s, cents = time_s[voiced], 1200.0 * np.log2(f0[voiced])
    cents = cents - np.polyval(np.polyfit(time_s, cents, 1), time_s)
    # The 95th percentile of a sine is sin(0.45 · π) of its top.
    wide = float(np.subtract(*np.percentile(cents, (95.0, 5.0)))) / float(np.sin(0.45 * np.pi))
    if wide < 2.0 * SWINGS.least_cents:
        return 0.0, 0.0
    side = np.sign(cents) * (np.abs(cents) > SWINGS.least_cents)
    side = side[side != 0]
    return 0.5 * float(np.count_nonzero(np.diff(side))) / float(np.ptp(time_s)), wide


def swing_costs(heard: Swings, asked: Swings) -> FloatArray:
    """What the swing of each heard note says against each event, shape (n_heard, n_events), in semitones wrong."""
    costs = _octaves(heard.hz, asked.hz) + _octaves(heard.cents, asked.cents)
    costs = np.minimum(SWINGS.cost_most, SWINGS.cost_per_octave * costs)
    straight = (asked.hz[None, :] == 0.0) != (heard.hz[:, None] == 0.0)
    known = ~np.isnan(heard.hz)[:, None] & ~(np.isnan(asked.hz) & np.isnan(asked.cents))[None, :]
    return np.where(known, np.where(straight, SWINGS.cost_straight, costs), 0.0)


def _octaves(heard: FloatArray, asked: FloatArray) -> FloatArray:
    """How many times as much or as little, as a power of two; 0 where either is none or not known."""
    with np.errstate(divide="ignore", invalid="ignore"):
        found = np.abs(np.log2(heard[:, None] / asked[None, :]))
    return np.nan_to_num(found, nan=0.0, posinf=0.0)
