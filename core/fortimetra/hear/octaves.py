"""Octaves and twelfths of a coarse pitch track: slips of the tracker undone, pitches decided by their partials."""

from __future__ import annotations

from typing import Any

import numpy as np
from numba import njit

from fortimetra.hear.partials import WORK, transform
from fortimetra.hear.settings import CONTOUR
from fortimetra.units import FloatArray


def fold_octaves(coarse: FloatArray, onsets_s: FloatArray, level_dbfs: FloatArray) -> None:
    """Undo, in place, octave jumps shortly after an attack, and later ones upward that nothing struck.

    coarse: pitch, Hz, NaN where there is none, and level_dbfs, both of shape (n_frames,); onsets_s: shape (n_onsets,).

    A string that is struck to sound an octave higher gets louder; a tracker that takes the octave of a fading note,
    or of one whose odd partials are weak, does not.
    """
    voiced = np.flatnonzero(~np.isnan(coarse))
    step = np.diff(np.log2(coarse[voiced]))
    jumps = np.flatnonzero(
        (np.abs(np.abs(step) - 1.0) < CONTOUR.octave_fold_slack) & (np.diff(voiced) <= CONTOUR.octave_fold_gap_frames)
    )
    attacks = np.round(onsets_s / CONTOUR.hop_s).astype(np.int64)
    folded_until = -1
    for number, jump in enumerate(jumps):
        at = int(voiced[jump + 1])
        factor = 2.0 ** np.sign(step[jump])
        before = attacks[attacks <= at - 2]
        start = int(before[-1]) if len(before) else -(10**9)
        if (at - start) * CONTOUR.hop_s <= CONTOUR.octave_fold_after_attack_s and start > folded_until:
            coarse[max(0, start) : at] *= factor
            folded_until = at
            continue
        if at <= folded_until:
            continue
        back = int(voiced[jumps[number + 1] + 1]) if number + 1 < len(jumps) else len(coarse)
        returns = number + 1 < len(jumps) and step[jumps[number + 1]] * step[jump] < 0
        later = attacks[attacks > at]
        until = min(back, int(later[0]) if len(later) else len(coarse))
        shorter = len(before) > 0 and until - at < at - start
        if (returns and (back - at) * CONTOUR.hop_s <= CONTOUR.octave_fold_island_s) or (
            factor > 1.0 and shorter and _unstruck(level_dbfs, at)
        ):
            coarse[at:until] /= factor
            folded_until = until


def _unstruck(level_dbfs: FloatArray, at: int) -> bool:
    """Whether the level does not rise around a frame; the jump itself is seen some frames late or early."""
    look = CONTOUR.octave_look_frames
    before, after = level_dbfs[max(0, at - 3 * look) : max(0, at - look)], level_dbfs[at : at + look]
    return (
        len(before) == 0 or len(after) == 0 or float(after.max()) < float(before[-look:].max()) + CONTOUR.octave_rise_db
    )


@njit(cache=True)
def lift(x: Any, rate: float, time_s: Any, coarse: Any, struck: Any, highest_hz: float, s: Any) -> None:
    """In place, the pitch itself where the coarse track has a half, a third or a quarter of it: of all its partials
    only every second or third is there. A string that sounds at a pitch has others too, whatever the pick, the place
    and the room do to each. A body that was struck with the string, or a hum, adds one, not a row: where just one more
    is there, the pitch of the frames beside decides. A string that had the whole row keeps its pitch until it is struck
    again, though some of its partials fade first.

    struck: whether something was, in a frame. highest_hz: nothing is lifted beyond it.
    """
    n = len(coarse)
    pitch = coarse.copy()
    lifted = np.zeros(n, np.bool_)
    alone = np.zeros((n, 2), np.bool_)
    power = np.empty(s.n_partials)
    work, out = np.empty(WORK), np.empty((4, s.n_partials))
    for i in range(n):
        if not np.isnan(coarse[i]):
            pitch[i] = _by_partials(x, time_s[i] * rate, rate, coarse[i], highest_hz, power, work, out, alone[i], s)
            lifted[i] = pitch[i] != coarse[i]
    _keep_whole(coarse, lifted, alone, struck, s)
    for i in range(n):
        if lifted[i]:
            coarse[i] = pitch[i]
    for i in range(1, n):
        _join(i, i - 1, coarse, lifted, alone, s.octave_fold_slack)
    for i in range(n - 2, -1, -1):
        _join(i, i + 1, coarse, lifted, alone, s.octave_fold_slack)


@njit(cache=True)
def _by_partials(
    x: Any,
    centre: float,
    rate: float,
    f: float,
    highest_hz: float,
    power: Any,
    work: Any,
    out: Any,
    alone: Any,
    s: Any,
) -> float:
    """f, or two, three or more times f where all its partials are partials of that; alone, in place: whether, but for
    one more, they are, for two and three.
    """
    for _ in range(3):
        count = min(s.n_partials, int(0.45 * rate / f))
        if count < 3:
            break
        transform(x, centre, s.window_periods * rate / f, 2.0 * np.pi * f / rate, count, work, out)
        for k in range(count):
            power[k] = out[0, k] ** 2 + out[1, k] ** 2
        every = 1
        for m in (2, 3):
            inside, outside, most = _shares(power, count, m)
            alone[m - 2] = outside - most < s.absent_share * inside
            if outside < s.absent_share * inside:
                every = m
                break
        if every == 1 or every * f > highest_hz:
            break
        f *= every
    return f


@njit(cache=True)
def _keep_whole(coarse: Any, lifted: Any, alone: Any, struck: Any, s: Any) -> None:
    """Take back, in place, the lift of stretches of one pitch that had all partials in part."""
    n = len(coarse)
    start = last = 0
    again = False
    for i in range(n + 1):
        if i < n:
            again = again or struck[i]
            if np.isnan(coarse[i]):
                continue
            same = i - last <= s.octave_fold_gap_frames and abs(np.log2(coarse[i] / coarse[last])) < s.octave_fold_slack
        if i == n or again or not same:
            up = whole = 0
            for k in range(start, i):
                up += lifted[k]
                whole += not (np.isnan(coarse[k]) or lifted[k] or alone[k, 0] or alone[k, 1])
            if whole > s.whole_share * up:
                lifted[start:i] = False
                alone[start:i] = False
            start = i
            again = False
        last = i


@njit(cache=True)
def _shares(power: Any, count: int, m: int) -> Any:
    """Power of every m-th partial, of the others, and of the strongest of those."""
    inside = outside = most = 0.0
    for k in range(count):
        if (k + 1) % m == 0:
            inside += power[k]
        else:
            outside += power[k]
            most = max(most, power[k])
    return inside, outside, most


@njit(cache=True)
def _join(i: int, beside: int, coarse: Any, lifted: Any, alone: Any, slack: float) -> None:
    """Lift frame i, in place, where one beside it was, to the same pitch."""
    if not lifted[beside] or np.isnan(coarse[i]):
        return
    for m in (2, 3):
        if alone[i, m - 2] and abs(np.log2(coarse[beside] / (m * coarse[i]))) < slack:
            coarse[i] *= m
            lifted[i] = True
