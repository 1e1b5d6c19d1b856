"""How well combs fit what is seen, what explains what, and from which level on a string would be heard."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, replace

import numpy as np
from numpy.typing import NDArray

from fortimetra.hear.combs import BIN_HZ, Combs, Found, Power
from fortimetra.hear.settings import COMBS
from fortimetra.measure.looking import Seen
from fortimetra.measure.settings import EVIDENCE, OVERLAP
from fortimetra.measure.strings import Span, Suspect
from fortimetra.units import FloatArray


@dataclass(frozen=True)
class Fit:
    """What each partial says for its comb in each window (`Found.fit`), some of it explained away.

    shown: which partials are neither covered nor explained. own: which have not been set ringing by notes just played;
    answers_db: under which level, window by window, those may be all there is (`answers_of`).
    """

    values: Power
    shown: NDArray[np.bool_]
    own: NDArray[np.bool_]
    combs: Combs
    level_db: FloatArray
    seen: Seen
    suspects: int
    answers_db: FloatArray

    def evidence(self) -> FloatArray:
        """How well each comb fits, about each window.

        It has to do so, too, without what one an octave or a twelfth above it would explain, what rings in sympathy,
        and its strongest partial: the body that every pluck sets going, or a hum, has one of them, a string a row.
        """
        total = self.values.sum(axis=2)
        row = total - self.values.max(axis=2) > EVIDENCE.own_evidence
        unasked = self.own | (self.level_db > self.answers_db[:, None])[:, :, None]
        for rest in (
            self.values[:, :, 0::2].sum(axis=2),
            self.values[:, :, 0::3].sum(axis=2) + self.values[:, :, 1::3].sum(axis=2),
            np.where(unasked, self.values, 0.0).sum(axis=2),
        ):
            total = np.where(rest > EVIDENCE.own_evidence, total, np.minimum(total, 0.0))
        return _smooth(np.where(row, total, np.minimum(total, 0.0)), self.seen)

    def threshold(self) -> FloatArray:
        """What a comb has to reach: better than every decoy near in time."""
        most = self.evidence()[:, self.suspects : self.suspects + EVIDENCE.decoys].max(axis=1)
        first, last = _about(self.seen, 2.0 * EVIDENCE.decoy_reach_s)
        near = np.array([most[a:b].max() for a, b in zip(first, last, strict=True)])
        return np.maximum(EVIDENCE.least_evidence, near + EVIDENCE.decoy_margin)

    def without(self, rows: NDArray[np.int64], chosen: NDArray[np.int64], keep: NDArray[np.bool_]) -> Fit:
        """Less what some chosen combs explain of all others; keep: combs, window by window, that stay as they are."""
        hidden = _explained(
            self.combs, chosen, self.level_db[rows, chosen], self.seen.pitch_hz[rows], self.seen.length_s[rows]
        )
        hidden[:, : self.suspects] &= ~keep[rows][:, :, None]
        values, shown = self.values.copy(), self.shown.copy()
        values[rows] = np.where(hidden, 0.0, values[rows])
        shown[rows] &= ~hidden
        return replace(self, values=values, shown=shown)

    def take(self, other: Fit, rows: NDArray[np.int64]) -> None:
        """Some windows as another has them, in place."""
        self.values[rows] = other.values[rows]
        self.shown[rows] = other.shown[rows]


def own_partials(seen: Seen, spans: Sequence[Span], suspects: Sequence[Suspect], combs: Combs) -> NDArray[np.bool_]:
    """Which partials of the open strings no note just played has in common, so that nothing sets them ringing in
    sympathy.
    """
    first, last = combs.intervals()
    own = np.ones((len(seen.middle_s), *first.shape), bool)
    opens = np.array([i for i, s in enumerate(suspects) if s.fret == 0])
    low, high = first[opens] * BIN_HZ - EVIDENCE.sympathy_hz, last[opens] * BIN_HZ + EVIDENCE.sympathy_hz
    k = np.arange(1, COMBS.harmonics + 1)
    for number in np.unique(seen.span):
        at = spans[number].from_s
        played = [p.hz for p in spans[number].recent if at - EVIDENCE.sympathy_s < p.from_s < at]
        lines = np.sort(np.outer(played, k).ravel())
        free = np.searchsorted(lines, high) == np.searchsorted(lines, low)
        rows = np.flatnonzero(seen.span == number)
        own[np.ix_(rows, opens)] = free
    return own


def answers_of(seen: Seen, spans: Sequence[Span], tail_ms: float | None) -> FloatArray:
    """Up to which level, dB, shape (n_windows,), what sounds with partials of notes just played is theirs: strings in
    sympathy, and what a room still holds of them, which falls by OVERLAP.within_db in its tail.
    """
    if tail_ms is None:
        return np.full(len(seen.middle_s), EVIDENCE.sympathy_db)
    since_ms = 1000.0 * (seen.middle_s - np.array([spans[n].from_s for n in seen.span]))
    room_db = -OVERLAP.within_db * np.maximum(since_ms, 0.0) / tail_ms
    return np.asarray(np.maximum(EVIDENCE.sympathy_db, np.minimum(room_db, EVIDENCE.room_most_db)))


def _about(seen: Seen, width_s: float) -> tuple[NDArray[np.int64], NDArray[np.int64]]:
    first = np.searchsorted(seen.middle_s, seen.middle_s - 0.5 * width_s)
    return first, np.searchsorted(seen.middle_s, seen.middle_s + 0.5 * width_s, side="right")


def _smooth(evidence: FloatArray, seen: Seen) -> FloatArray:
    """Mean over EVIDENCE.smooth_s about each window."""
    first, last = _about(seen, EVIDENCE.smooth_s)
    total = np.concatenate((np.zeros((1, evidence.shape[1])), np.cumsum(evidence, axis=0, dtype=np.float64)))
    return np.asarray((total[last] - total[first]) / (last - first)[:, None])


def best_of(evidence: FloatArray) -> tuple[NDArray[np.int64], NDArray[np.int64]]:
    """Windows in which some comb fits well enough to be asked about, and the best of them."""
    best = np.argmax(evidence, axis=1)
    rows = np.flatnonzero(evidence[np.arange(len(best)), best] > EVIDENCE.least_evidence)
    return rows, best[rows]


def _explained(
    combs: Combs, chosen: NDArray[np.int64], level_db: FloatArray, pitch_hz: FloatArray, length_s: FloatArray
) -> NDArray[np.bool_]:
    """Which partials of which combs fall on those of a chosen one, or on what drive makes of it and the note.

    A clipped sum has tones at m·f₁ ± n·f₂; those of n-th order stand n times the level of the second under the first.
    """
    first, last = combs.intervals()
    low, high = first.ravel() * BIN_HZ, last.ravel() * BIN_HZ
    k, m = np.arange(1, COMBS.harmonics + 1), np.arange(-24, 25)
    orders = np.clip(np.floor(-EVIDENCE.lowest_db / np.maximum(-level_db, 1.0)), 1, 12).astype(np.int64)
    hidden = np.empty((len(chosen), len(low)), bool)
    for row, comb in enumerate(chosen):
        own = combs.hz[comb]
        lines = own * k
        if pitch_hz[row] > 0:
            n = np.arange(1, orders[row] + 1)
            lines = np.concatenate((lines, np.abs(m[:, None] * pitch_hz[row] + n * own).ravel()))
        lines = np.sort(lines)
        lobe = COMBS.lobe / length_s[row]
        hidden[row] = np.searchsorted(lines, high + lobe) > np.searchsorted(lines, low - lobe)
    return hidden.reshape(len(chosen), *first.shape)


def levels_of(found: Found, seen: Seen) -> tuple[FloatArray, FloatArray]:
    """Level of each comb against the wanted sound, dB, covered partials by their neighbours' levels; and the share
    those have.
    """
    stands = found.stands_db > COMBS.present_db
    log = np.log(np.maximum(found.power, 1e-20))
    own = np.where(stands, found.power, 0.0).sum(axis=2, dtype=np.float64)
    k = np.arange(found.power.shape[2])
    # Nearest seen partial below and above each; a covered one lies between them, or as its one neighbour.
    below = np.maximum.accumulate(np.where(found.clear, k, -1), axis=2)
    above = np.minimum.accumulate(np.where(found.clear, k, 99)[:, :, ::-1], axis=2)[:, :, ::-1]
    has_below, has_above = below >= 0, above < 99
    at_below = np.take_along_axis(log, np.where(has_below, below, 0), axis=2)
    at_above = np.take_along_axis(log, np.where(has_above, above, 0), axis=2)
    share = np.where(has_below & has_above, (k - below) / np.maximum(above - below, 1), np.where(has_above, 1.0, 0.0))
    between = np.exp((1.0 - share) * at_below + share * at_above)
    inside = has_above & ~found.clear
    filled = np.where(inside, between, 0.0).sum(axis=2, dtype=np.float64)
    whole = own + filled
    level = 10.0 * np.log10(np.maximum(whole / seen.wanted[:, None], 1e-20))
    return level, filled / np.maximum(whole, 1e-20)


def floors_of(fit: Fit, found: Found, seen: Seen, number: int) -> FloatArray:
    """The level from which each suspect would have been found, dB, shape (n_windows, n_suspects).

    A string whose partials fall by 6 dB an octave has to lift its clear ones so far over their surroundings that they
    reach the threshold; of fewer than two clear ones nothing is told.
    """
    alone = _floor_of(fit, found, seen, fit.shown[:, :number] & fit.own[:, :number])
    louder = np.maximum(_floor_of(fit, found, seen, fit.shown[:, :number]), fit.answers_db[:, None])
    return np.minimum(alone, louder)


def _floor_of(fit: Fit, found: Found, seen: Seen, clear: NDArray[np.bool_]) -> FloatArray:
    """The same from some partials of each suspect."""
    number = clear.shape[1]
    k = np.arange(1, found.power.shape[2] + 1)
    envelope = -20.0 * np.log10(k)
    total = 10.0 * np.log10(np.sum(10.0 ** (envelope / 10.0)))
    threshold = fit.threshold()[:, None]
    # Level of the first partial at which each partial begins to count.
    begins = 10.0 * np.log10(np.maximum(found.around[:, :number], 1e-20)) + COMBS.present_db - envelope
    begins = np.where(clear, begins, np.inf)
    order = np.sort(begins, axis=2)[:, :, :4]
    # The threshold is reached by two partials or by more, whichever comes first; each counts up to a limit.
    best = np.full(order.shape[:2], np.inf)
    sums = np.cumsum(np.where(np.isfinite(order), order, 0.0), axis=2)
    for n in range(2, order.shape[2] + 1):
        usable = np.isfinite(order[:, :, n - 1])
        lift = np.maximum((threshold + sums[:, :, n - 1]) / n, order[:, :, n - 1])
        best = np.minimum(best, np.where(usable, lift, np.inf))
    wanted = np.where(np.isfinite(seen.wanted), seen.wanted, 1.0)
    floor = np.where(np.isfinite(seen.wanted)[:, None], best + total - 10.0 * np.log10(wanted)[:, None], np.inf)
    return np.maximum(np.where(np.isfinite(floor), floor, 0.0), EVIDENCE.lowest_db)
