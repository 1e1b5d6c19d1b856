"""The search behind `match`: the cheapest path through heard and asked notes, with going back and going on after a
stop.

Costs are in units of "one semitone wrong". Compiled; everything that is known of drill and sound comes as arrays.
"""

from __future__ import annotations

from typing import Any, NamedTuple

import numpy as np
from numba import njit
from numpy.typing import NDArray

from fortimetra.align.settings import SEARCH
from fortimetra.settings import for_compiled
from fortimetra.units import FloatArray

# What a person said is what: free, not played, or the place of its heard note. Worth more than any path without it.
FREE, NOT_PLAYED = -2, -1
COSTS = for_compiled(SEARCH, __name__)
SearchSettingsTuple = type(COSTS)


class HeardArrays(NamedTuple):
    """Of each heard note, shape (n,) unless said: onset_s; pitch_cost (n, kinds); unclear_cost (n, sorts); leave_cost;
    owner: FREE, or the event it is pinned to.
    """

    onset_s: FloatArray
    pitch_cost: FloatArray
    unclear_cost: FloatArray
    leave_cost: FloatArray
    owner: NDArray[np.int64]


class AskedArrays(NamedTuple):
    """Of each asked event, shape (m,): beat_s, when it is due after the first beat; kind and sort, its columns of the
    costs; pinned: FREE, NOT_PLAYED or a heard note; repeat; again, what beginning again there costs; slot_s; on_grid:
    whether it is heard when it is due, as what slides there is not.
    """

    beat_s: FloatArray
    kind: NDArray[np.int64]
    sort: NDArray[np.int64]
    pinned: NDArray[np.int64]
    repeat: NDArray[np.int64]
    again: FloatArray
    slot_s: FloatArray
    on_grid: NDArray[np.bool_]


class Pulse(NamedTuple):
    """first_s: when beat 0 is heard, beat_s: a beat; NaN: not known. tempo_cost: per octave of tempo."""

    first_s: float
    beat_s: float
    tempo_cost: float


class _Paths(NamedTuple):
    """The cheapest way to each heard note and event near it, places from `base` on, and what came before; least: the
    cheapest of a place and the `reach` - 1 before it; left and belong: what leaving out all heard notes before one
    costs, within the playing and beside it.
    """

    total: FloatArray
    from_heard: NDArray[np.int32]
    from_asked: NDArray[np.int32]
    base: NDArray[np.int64]
    least: FloatArray
    left: FloatArray
    belong: FloatArray


class _Ends(NamedTuple):
    """The cheapest way so far to have broken off somewhere from event j of its repeat on, to have played up to event j,
    or to have played a repeat to its end, and where. What is heard after it until the next attempt costs as what lies
    outside the playing.
    """

    broken: FloatArray
    broken_i: NDArray[np.int64]
    broken_j: NDArray[np.int64]
    stopped: FloatArray
    stopped_i: NDArray[np.int64]
    whole: FloatArray
    whole_i: NDArray[np.int64]
    whole_j: NDArray[np.int64]


@njit(cache=True)
def cheapest(heard: Any, asked: Any, pulse: Any, s: Any) -> Any:
    """(heard, asked) pairs in order of time, shape (n_pairs, 2); an event comes again where it was begun again.

    heard: HeardArrays; asked: AskedArrays; pulse: Pulse; s: COSTS. A heard note at a time, all events near it at once:
    handing the arrays on for each pair would cost more than the sums.
    """
    n, m = len(heard.onset_s), len(asked.beat_s)
    width = min(m, 2 * s.band + 1)
    paths, ends, octaves = _empty_paths(heard, n, width, s), _empty_ends(asked), _octaves(asked, s)
    best, best_i, best_j = np.inf, -1, -1
    for i in range(n):
        paths.base[i] = max(0, min(m - width, i * m // n - width // 2))
        _begin(i, heard, asked, pulse, paths, s)
        _go_on(i, heard, asked, pulse, paths, octaves, s)
        _once_more(i, heard, asked, pulse, paths, ends, s)
        _own_costs(i, heard, asked, pulse, paths, s)
        for place in range(width):
            j = paths.base[i] + place
            # Notes of the drill that follow are unexplained; once all that is asked was played, only so much so.
            rest = paths.belong[n] - paths.belong[i + 1]
            if j == m - 1:
                rest = min(s.more_most, rest)
            end = paths.total[i, place] + rest
            if end < best:
                end += _unplayed(j, asked, s)
                if end < best:
                    best, best_i, best_j = end, i, j
        _keep_least(paths.total[i], paths.least[i], s.reach)
        _leave(i, asked, paths, ends)
    return _traced(best_i, best_j, paths)


@njit(cache=True)
def _unplayed(j: int, asked: Any, s: Any) -> float:
    """What it costs that event j is the last that is played. Repeats that were not begun cost less than notes left out
    on the way: else whoever plays one of four would have left out some of it for a note of the next.
    """
    m = len(asked.beat_s)
    a_repeat = m // (asked.repeat[m - 1] + 1)
    not_begun = max(0, m - (asked.repeat[j] + 1) * a_repeat)
    return float(s.missed_cost * (m - 1 - j - not_begun) + s.not_begun_cost * not_begun)


@njit(cache=True)
def _own_costs(i: int, heard: Any, asked: Any, pulse: Any, paths: Any, s: Any) -> None:
    """Add, in place, what it costs that heard note i is each event: its pitch, how clearly it begins, and how far it is
    beside where the click has it. Who stops, or begins again, comes in on some beat, so that whole beats cost nothing.
    """
    on_click = not np.isnan(pulse.first_s) and not np.isnan(pulse.beat_s)
    for place in range(paths.total.shape[1]):
        if paths.total[i, place] == np.inf:
            continue
        j = paths.base[i] + place
        cost = heard.pitch_cost[i, asked.kind[j]] + heard.unclear_cost[i, asked.sort[j]]
        if on_click and asked.on_grid[j]:
            off = (heard.onset_s[i] - pulse.first_s - asked.beat_s[j]) / pulse.beat_s
            away_s = abs(off - np.round(off)) * pulse.beat_s
            cost += s.beside_cost * min(1.0, away_s / (s.beside_slots * min(asked.slot_s[j], pulse.beat_s)))
        if asked.pinned[j] == i:
            cost -= s.pinned_worth
        paths.total[i, place] += cost


@njit(cache=True)
def _empty_paths(heard: Any, n: int, width: int, s: Any) -> Any:
    left, belong = np.zeros(n + 1), np.zeros(n + 1)
    outside = s.outside_extra_cost / s.extra_cost
    for i in range(n):
        left[i + 1] = left[i] + heard.leave_cost[i]
        share = s.belongs_share if heard.pitch_cost[i].min() < s.fits_cost else outside
        belong[i + 1] = belong[i] + share * heard.leave_cost[i]
    before = np.full((n, width), -1, np.int32)
    base = np.zeros(n, np.int64)
    return _Paths(np.full((n, width), np.inf), before, before.copy(), base, np.full((n, width), np.inf), left, belong)


@njit(cache=True)
def _empty_ends(asked: Any) -> Any:
    m = len(asked.beat_s)
    far, none = np.full(m, np.inf), np.full(m, -1, np.int64)
    repeats = asked.repeat[m - 1] + 1
    far_r, none_r = np.full(repeats, np.inf), np.full(repeats, -1, np.int64)
    return _Ends(far, none, none.copy(), far.copy(), none.copy(), far_r, none_r, none_r.copy())


@njit(cache=True)
def _keep_least(total: Any, least: Any, reach: int) -> None:
    """The smallest of each place of `total` and the reach - 1 before it, into `least`; both shape (width,)."""
    for place in range(len(total)):
        least[place] = total[max(0, place - reach + 1) : place + 1].min()


@njit(cache=True)
def _octaves(asked: Any, s: Any) -> Any:
    """log2 of the seconds to each event from each of the `reach` before it, the nearest first; shape (m, reach)."""
    m = len(asked.beat_s)
    octaves = np.zeros((m, s.reach))
    for j in range(m):
        for back in range(min(j, s.reach)):
            octaves[j, back] = np.log2(max(asked.beat_s[j] - asked.beat_s[j - 1 - back], 1e-3))
    return octaves


@njit(cache=True)
def _begin(i: int, heard: Any, asked: Any, pulse: Any, paths: Any, s: Any) -> None:
    """Set, in place, what it costs that heard note i is each event and the first that is played; infinite where what a
    person said forbids it.
    """
    onset_s, on_click = heard.onset_s[i], not np.isnan(pulse.first_s) and not np.isnan(pulse.beat_s)
    if on_click:
        # Who warms up does so before the click's first beat; what fits the drill after it was played for it.
        begins = min(i, np.searchsorted(heard.onset_s, pulse.first_s - 0.5 * pulse.beat_s))
        before = min(s.more_most, paths.belong[begins]) + paths.belong[i] - paths.belong[begins]
    else:
        before = min(s.more_most, paths.belong[i])
    for place in range(paths.total.shape[1]):
        j = paths.base[i] + place
        if asked.pinned[j] != i and (asked.pinned[j] != FREE or heard.owner[i] != FREE):
            continue
        # Of repeats that fit alike the first; where there is a click, the one it says.
        cost = s.missed_cost * j + s.which_repeat_cost * j + before
        if on_click:
            away_s = abs(onset_s - pulse.first_s - asked.beat_s[j])
            cost += min(s.late_start_most, s.late_start_cost * away_s)
        paths.total[i, place] = cost + s.begins_wrong * heard.pitch_cost[i, asked.kind[j]]


@njit(cache=True)
def _go_on(i: int, heard: Any, asked: Any, pulse: Any, paths: Any, octaves: Any, s: Any) -> None:
    """Put, in place, what it costs that i and an event follow a pair shortly before where that is the least, and which.
    octaves: of `_octaves`.
    """
    width, first = paths.total.shape[1], max(0, i - s.reach_heard)
    heard_octaves = np.log2(np.maximum(1e-3, heard.onset_s[i] - heard.onset_s[first:i]))
    for place in range(width):
        cost = paths.total[i, place]
        if cost == np.inf:
            continue
        j = paths.base[i] + place
        # The nearest first: once a good way is known, hardly any other has to be looked at.
        for back_i in range(i - 1, first - 1, -1):
            skipped = paths.left[i] - paths.left[back_i + 1]
            last = min(j - 1 - paths.base[back_i], width - 1)
            if last < 0 or paths.least[back_i, last] + skipped >= cost:
                continue
            octave = heard_octaves[back_i - first]
            for back_j in range(j - 1, max(0, j - s.reach) - 1, -1):
                at = back_j - paths.base[back_i]
                if at < 0 or at >= width:
                    continue
                way = paths.total[back_i, at] + skipped + s.missed_cost * (j - back_j - 1)
                if way >= cost:
                    continue
                way += min(s.tempo_cost_most, pulse.tempo_cost * abs(octave - octaves[j, j - 1 - back_j]))
                if way < cost:
                    cost = way
                    paths.from_heard[i, place] = back_i
                    paths.from_asked[i, place] = back_j
        paths.total[i, place] = cost


@njit(cache=True)
def _once_more(i: int, heard: Any, asked: Any, pulse: Any, paths: Any, ends: Any, s: Any) -> None:
    """Put, in place, what it costs that i and an event begin again after breaking off, play a repeat once more, or go
    on after a stop, where that is the least, and after which pair.
    """
    onset_s, belong = heard.onset_s[i], paths.belong[i]
    on_click = not np.isnan(pulse.first_s) and not np.isnan(pulse.beat_s)
    for place in range(paths.total.shape[1]):
        cost = paths.total[i, place]
        if cost == np.inf:
            continue
        j = paths.base[i] + place
        # Nobody begins with another note: what begins an attempt has to fit better than what goes on.
        begins = s.begins_wrong * heard.pitch_cost[i, asked.kind[j]]
        # Both need the click's word where it is known: an attempt begins on a beat.
        grid = 0.0
        if on_click:
            off = (onset_s - pulse.first_s - asked.beat_s[j]) / pulse.beat_s
            grid = s.off_grid_cost * 2.0 * abs(off - np.round(off))
        way = ends.broken[j] + belong + asked.again[j] + grid + begins
        if way < cost:
            moment_s = min(s.at_once_s, s.at_once_slots * asked.slot_s[ends.broken_j[j]])
            way += s.at_once_cost if onset_s - heard.onset_s[ends.broken_i[j]] < moment_s else 0.0
        if way < cost:
            cost = way
            paths.from_heard[i, place], paths.from_asked[i, place] = ends.broken_i[j], ends.broken_j[j]
        repeat = asked.repeat[j]
        way = ends.whole[repeat] + belong + s.once_more_cost + grid + begins
        if way < cost and asked.again[j] == s.again_cost[0]:
            cost = way
            paths.from_heard[i, place], paths.from_asked[i, place] = ends.whole_i[repeat], ends.whole_j[repeat]
        if j > 0 and ends.stopped[j - 1] + belong < cost:
            # In time it is no stop, only far away: many soft rises lie between.
            dt = onset_s - heard.onset_s[ends.stopped_i[j - 1]]
            ratio = dt / max(asked.beat_s[j] - asked.beat_s[j - 1], 1e-3)
            late = pulse.tempo_cost * abs(np.log2(max(ratio, 1e-3)))
            way = ends.stopped[j - 1] + belong + min(s.resume_cost + grid, late)
            if way < cost:
                cost = way
                paths.from_heard[i, place], paths.from_asked[i, place] = ends.stopped_i[j - 1], j - 1
        paths.total[i, place] = cost


@njit(cache=True)
def _leave(i: int, asked: Any, paths: Any, ends: Any) -> None:
    """Keep, in place, where the playing may break off, stop or end with heard note i."""
    m = len(asked.beat_s)
    run, run_j = np.inf, -1
    for place in range(paths.total.shape[1] - 1, -1, -1):
        j = paths.base[i] + place
        here_cost = paths.total[i, place] - paths.belong[i + 1]
        if here_cost < ends.stopped[j]:
            ends.stopped[j], ends.stopped_i[j] = here_cost, i
        repeat = asked.repeat[j]
        if j == m - 1 or asked.repeat[j + 1] != repeat:
            run, run_j = np.inf, -1  # a repeat that was played to its end was not broken off
            if here_cost < ends.whole[repeat]:
                ends.whole[repeat], ends.whole_i[repeat], ends.whole_j[repeat] = here_cost, i, j
        elif here_cost < run:
            run, run_j = here_cost, j
        if run < ends.broken[j]:
            ends.broken[j], ends.broken_i[j], ends.broken_j[j] = run, i, run_j


@njit(cache=True)
def _traced(i: int, j: int, paths: Any) -> Any:
    """The pairs on the way that ends with i, j, the first first."""
    found = np.empty((len(paths.base), 2), np.int64)
    count = 0
    while i >= 0:
        found[count, 0], found[count, 1] = i, j
        count += 1
        place = j - paths.base[i]
        i, j = paths.from_heard[i, place], paths.from_asked[i, place]
    return found[:count][::-1]
