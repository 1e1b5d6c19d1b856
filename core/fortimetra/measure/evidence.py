"""How well combs fit what is seen, what explains what, and from which level on a string would be heard."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, replace
from typing import Any

import numpy as np
from numba import njit
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
        return self._evidence(slice(None))

    def _evidence(self, combs: slice) -> FloatArray:
        """That of some combs."""
        loud = self.level_db[:, combs] > self.answers_db[:, None]
        values, own = (np.ascontiguousarray(of[:, combs]) for of in (self.values, self.own))
        return _smooth(_fitting(values, own, loud, EVIDENCE.own_evidence), self.seen)

    def threshold(self) -> FloatArray:
        """What a comb has to reach: better than every decoy near in time."""
        most = self._evidence(slice(self.suspects, self.suspects + EVIDENCE.decoys)).max(axis=1)
        around = np.column_stack(_about(self.seen, 2.0 * EVIDENCE.decoy_reach_s)).ravel()
        near = np.maximum.reduceat(np.append(most, -np.inf), around)[::2]
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


@njit(cache=True)
def _fitting(values: Any, own: Any, loud: Any, least: float) -> FloatArray:
    """`Fit.evidence` of each window by itself; shape (n_windows, n_combs). own: by partial, loud: by comb, what needs
    no note just played to sound.
    """
    found = np.empty(values.shape[:2])
    for w in range(values.shape[0]):
        for c in range(values.shape[1]):
            total = odd = thirds = unasked = 0.0
            most = -np.inf
            for k in range(values.shape[2]):
                value = values[w, c, k]
                total += value
                most = max(most, value)
                if k % 2 == 0:
                    odd += value
                if k % 3 != 2:
                    thirds += value
                if own[w, c, k] or loud[w, c]:
                    unasked += value
            fits = total - most > least and odd > least and thirds > least and unasked > least
            found[w, c] = total if fits else min(total, 0.0)
    return found


def own_partials(seen: Seen, spans: Sequence[Span], suspects: Sequence[Suspect], combs: Combs) -> NDArray[np.bool_]:
    """Which partials of the open strings no note just played has in common, so that nothing sets them ringing in
    sympathy; shape (n_windows, n_combs, n_partials).
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
    """Windows in which some comb fits well enough to be asked about, and the best of them, both of shape (n_asked,);
    evidence: shape (n_windows, n_combs).
    """
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
    those have. Both of shape (n_windows, n_combs).
    """
    own, filled = _own_and_filled(found.power, found.around, found.clear, 10.0 ** (COMBS.present_db / 10.0))
    whole = own + filled
    level = 10.0 * np.log10(np.maximum(whole / seen.wanted[:, None], 1e-20))
    return level, filled / np.maximum(whole, 1e-20)


@njit(cache=True)
def _own_and_filled(power: Any, around: Any, clear: Any, present: float) -> tuple[FloatArray, FloatArray]:
    """Power of the partials of each comb that stand out, and of covered ones by the nearest clear ones below and above
    (in the logarithm), or the one above alone; shape (n_windows, n_combs).
    """
    own, filled = np.zeros(power.shape[:2]), np.zeros(power.shape[:2])
    for w in range(power.shape[0]):
        for c in range(power.shape[1]):
            last = -1
            for k in range(power.shape[2]):
                if not clear[w, c, k]:
                    continue
                high = max(power[w, c, k], 1e-20)
                if high > present * max(around[w, c, k], 1e-20):
                    own[w, c] += power[w, c, k]
                low = high if last < 0 else max(power[w, c, last], 1e-20)
                for covered in range(last + 1, k):
                    share = (covered - last) / (k - last)
                    filled[w, c] += np.exp((1.0 - share) * np.log(low) + share * np.log(high))
                last = k
    return own, filled


def floors_of(fit: Fit, found: Found, seen: Seen, number: int) -> FloatArray:
    """The level from which each suspect would have been found, dB, shape (n_windows, n_suspects).

    A string whose partials fall by 6 dB an octave has to lift its clear ones so far over their surroundings that they
    reach the threshold; of fewer than two clear ones nothing is told.
    """
    threshold = fit.threshold()
    shown, own = fit.shown[:, :number], fit.own[:, :number]
    alone = _floor_of(found.around, shown & own, threshold, seen.wanted, COMBS.present_db, EVIDENCE.lowest_db)
    louder = _floor_of(found.around, shown, threshold, seen.wanted, COMBS.present_db, EVIDENCE.lowest_db)
    return np.minimum(alone, np.maximum(louder, fit.answers_db[:, None]))


@njit(cache=True)
def _floor_of(around: Any, clear: Any, threshold: Any, wanted: Any, present_db: float, lowest_db: float) -> FloatArray:
    """The same from some partials of each suspect; clear: shape (n_windows, n_suspects, n_partials)."""
    envelope = -20.0 * np.log10(np.arange(1.0, clear.shape[2] + 1.0))
    total = 10.0 * np.log10(np.sum(10.0 ** (envelope / 10.0)))
    floor = np.zeros(clear.shape[:2])
    for w in range(clear.shape[0]):
        wanted_db = 10.0 * np.log10(wanted[w]) if np.isfinite(wanted[w]) else np.inf
        for c in range(clear.shape[1]):
            # Level of the first partial at which each partial begins to count: the lowest four.
            begins = np.full(4, np.inf)
            for k in range(clear.shape[2]):
                level = 10.0 * np.log10(max(around[w, c, k], 1e-20)) + present_db - envelope[k]
                at = 3 if clear[w, c, k] and level < begins[3] else -1
                while at > 0 and begins[at - 1] > level:
                    begins[at] = begins[at - 1]
                    at -= 1
                if at >= 0:
                    begins[at] = level
            # The threshold is reached by two partials or by more, whichever comes first; each counts up to a limit.
            best = np.inf
            for n in range(2, 5):
                if np.isfinite(begins[n - 1]):
                    best = min(best, max((threshold[w] + np.sum(begins[:n])) / n, begins[n - 1]))
            if np.isfinite(best) and np.isfinite(wanted_db):
                floor[w, c] = best + total - wanted_db
    return np.maximum(floor, lowest_db)
