"""The search behind `match`: the cheapest path through heard and asked notes, with going back and going on after a
stop.

Costs are in units of "one semitone wrong". Compiled; everything that is known of drill and sound comes as arrays.
"""

from __future__ import annotations

from typing import Any

import numpy as np
from numba import njit

from fortimetra.align.settings import SEARCH
from fortimetra.settings import for_compiled

# What a person said is what: free, not played, or the place of its heard note. Worth more than any path without it.
FREE, NOT_PLAYED = -2, -1
COSTS = for_compiled(SEARCH, __name__)
SearchSettingsTuple = type(COSTS)


@njit(cache=True)
def cheapest(
    heard_s: Any,
    pitch_cost: Any,
    unclear_cost: Any,
    leave_cost: Any,
    asked_s: Any,
    kind: Any,
    sort: Any,
    tempo_cost: float,
    pinned: Any,
    owner: Any,
    first_s: float,
    beat_s: float,
    repeat: Any,
    again: Any,
    slot_s: Any,
    s: Any,
) -> Any:
    """(heard, asked) pairs in order of time, shape (n_pairs, 2); an event comes again where it was begun again.

    Of each heard note, shape (n,): heard_s, leave_cost, owner (FREE, or the event it is pinned to); pitch_cost (n,
    kinds) and unclear_cost (n, sorts). Of each asked event, shape (m,): asked_s, kind, sort, pinned (FREE, NOT_PLAYED
    or a heard note), repeat, again (what beginning again there costs), slot_s. s: COSTS. first_s: when beat 0 is
    heard, beat_s: a beat; NaN: not known.
    """
    n, m = len(heard_s), len(asked_s)
    width = min(m, 2 * s.band + 1)
    total = np.full((n, width), np.inf)
    from_heard = np.full((n, width), -1, np.int32)
    from_asked = np.full((n, width), -1, np.int32)
    base = np.zeros(n, np.int64)
    least = np.full(n, np.inf)
    outside = s.outside_extra_cost / s.extra_cost
    left, belong = np.zeros(n + 1), np.zeros(n + 1)
    for i in range(n):
        left[i + 1] = left[i] + leave_cost[i]
        share = s.belongs_share if pitch_cost[i].min() < s.fits_cost else outside
        belong[i + 1] = belong[i] + share * leave_cost[i]
    best, best_i, best_j = np.inf, -1, -1
    # The cheapest way so far to have broken off somewhere from event j of its repeat on, or to have played up to
    # event j. What is heard after it until the next attempt costs as what lies outside the playing.
    broken, broken_i, broken_j = np.full(m, np.inf), np.full(m, -1, np.int64), np.full(m, -1, np.int64)
    stopped, stopped_i = np.full(m, np.inf), np.full(m, -1, np.int64)
    repeats = repeat[m - 1] + 1
    whole, whole_i, whole_j = np.full(repeats, np.inf), np.full(repeats, -1, np.int64), np.full(repeats, -1, np.int64)
    for i in range(n):
        base[i] = max(0, min(m - width, i * m // n - width // 2))
        for place in range(width):
            j = base[i] + place
            here = pinned[j] == i
            if not here and (pinned[j] != FREE or owner[i] != FREE):
                continue
            # Of repeats that fit alike the one where the click says, or the first: too little to outweigh anything
            # heard.
            away = float(j) if np.isnan(first_s) else abs(heard_s[i] - first_s - asked_s[j])
            # Nobody begins with another note: what begins an attempt has to fit better than what goes on.
            begins = s.begins_wrong * pitch_cost[i, kind[j]]
            cost = min(s.more_most, belong[i]) + s.missed_cost * j + s.which_repeat_cost * away + begins
            # The nearest first: once a good way is known, hardly any other has to be looked at.
            for back_i in range(i - 1, max(0, i - s.reach_heard) - 1, -1):
                skipped = left[i] - left[back_i + 1]
                if least[back_i] + skipped >= cost:
                    continue
                dt = max(1e-3, heard_s[i] - heard_s[back_i])
                for back_j in range(j - 1, max(0, j - s.reach) - 1, -1):
                    at = back_j - base[back_i]
                    if at < 0 or at >= width:
                        continue
                    way = total[back_i, at] + skipped + s.missed_cost * (j - back_j - 1)
                    if way >= cost:
                        continue
                    db = asked_s[j] - asked_s[back_j]
                    way += min(s.tempo_cost_most, tempo_cost * abs(np.log2(dt / max(db, 1e-3))))
                    if way < cost:
                        cost = way
                        from_heard[i, place] = back_i
                        from_asked[i, place] = back_j
            # Both need the click's word where it is known: an attempt begins on a beat.
            grid = 0.0
            if not np.isnan(first_s) and not np.isnan(beat_s):
                off = (heard_s[i] - first_s - asked_s[j]) / beat_s
                grid = s.off_grid_cost * 2.0 * abs(off - np.round(off))
            if broken_i[j] >= 0:
                way = broken[j] + belong[i] + again[j] + grid + begins
                if heard_s[i] - heard_s[broken_i[j]] < s.at_once_slots * slot_s[broken_j[j]]:
                    way += s.at_once_cost
                if way < cost:
                    cost = way
                    from_heard[i, place], from_asked[i, place] = broken_i[j], broken_j[j]
            if again[j] == s.again_cost[0] and whole_i[repeat[j]] >= 0:
                way = whole[repeat[j]] + belong[i] + s.once_more_cost + grid + begins
                if way < cost:
                    cost = way
                    from_heard[i, place], from_asked[i, place] = whole_i[repeat[j]], whole_j[repeat[j]]
            if j > 0 and stopped_i[j - 1] >= 0:
                # In time it is no stop, only far away: many soft rises lie between.
                ratio = (heard_s[i] - heard_s[stopped_i[j - 1]]) / max(asked_s[j] - asked_s[j - 1], 1e-3)
                late = tempo_cost * abs(np.log2(max(ratio, 1e-3)))
                way = stopped[j - 1] + belong[i] + min(s.resume_cost + grid, late)
                if way < cost:
                    cost = way
                    from_heard[i, place], from_asked[i, place] = stopped_i[j - 1], j - 1
            total[i, place] = (
                cost + pitch_cost[i, kind[j]] + unclear_cost[i, sort[j]] - (s.pinned_worth if here else 0.0)
            )
            # Notes of the drill that follow are unexplained; once all that is asked was played, only so much so.
            rest = belong[n] - belong[i + 1]
            if j == m - 1:
                rest = min(s.more_most, rest)
            end = total[i, place] + rest + s.missed_cost * (m - 1 - j)
            if end < best:
                best, best_i, best_j = end, i, j
        least[i] = total[i].min()
        run, run_j = np.inf, -1
        for place in range(width - 1, -1, -1):
            j = base[i] + place
            here_cost = total[i, place] - belong[i + 1]
            if here_cost < stopped[j]:
                stopped[j], stopped_i[j] = here_cost, i
            ends = j == m - 1 or repeat[j + 1] != repeat[j]
            if ends:
                run, run_j = np.inf, -1  # a repeat that was played to its end was not broken off
                if here_cost < whole[repeat[j]]:
                    whole[repeat[j]], whole_i[repeat[j]], whole_j[repeat[j]] = here_cost, i, j
            elif here_cost < run:
                run, run_j = here_cost, j
            if run < broken[j]:
                broken[j], broken_i[j], broken_j[j] = run, i, run_j
    found = np.empty((n, 2), np.int64)
    count = 0
    i, j = best_i, best_j
    while i >= 0:
        found[count, 0], found[count, 1] = i, j
        count += 1
        place = j - base[i]
        i, j = from_heard[i, place], from_asked[i, place]
    return found[:count][::-1]
