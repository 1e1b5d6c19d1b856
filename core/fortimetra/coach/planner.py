"""Spreads short daily work over a week: no more than the student's minutes, pairs together, breaks in long runs.

What was missed is not made up for: the days that are left stay as they were.
"""

from __future__ import annotations

import math
from collections.abc import Collection, Mapping, Sequence
from dataclasses import dataclass, field
from datetime import date, timedelta
from typing import Literal

from fortimetra.coach.settings import PLANNER

DAYS = 7

Sharing = Literal["equal", "weaker"]


@dataclass(frozen=True)
class WantedDrill:
    """An assigned drill. minutes a day on so many days a week; weakness 0 to 1: what is not clean yet.

    pair: the id of the other drill of a pair, which is played on the same days; sharing: how the pair's minutes are
    split. moved: days its work was moved from, and to which. after: what is played before it on a day that has both.
    """

    id: int
    minutes: float
    days: int
    weakness: float = 0.0
    pair: int | None = None
    sharing: Sharing = "weaker"
    begins: date | None = None
    ends: date | None = None
    moved: Mapping[date, date] = field(default_factory=dict)
    after: int | None = None

    def runs(self, day: date) -> bool:
        """Whether a day lies in its time."""
        return (self.begins is None or self.begins <= day) and (self.ends is None or day <= self.ends)


@dataclass(frozen=True)
class Block:
    """Minutes of one drill; id None: a break. A long dose stands in parts, with breaks between them."""

    id: int | None
    minutes: float


@dataclass(frozen=True)
class Day:
    """One day's work in its order. left_out: drills that did not fit into the day's minutes."""

    day: date
    blocks: tuple[Block, ...]
    left_out: tuple[int, ...] = ()

    @property
    def minutes(self) -> float:
        """Of practice, breaks not counted."""
        return sum(b.minutes for b in self.blocks if b.id is not None)


def week(
    wanted: Sequence[WantedDrill],
    *,
    monday: date,
    minutes: Sequence[float],
) -> list[Day]:
    """The seven days from a Monday on.

    minutes: the student's minutes on each of them, 0 for a free day. The most needed comes first in a day; a pair
    stands together. What does not fit is left out, the least needed first, and named.
    """
    days = [monday + timedelta(days=i) for i in range(DAYS)]
    groups = _groups(wanted)
    load = [0.0] * DAYS
    chosen: list[list[_Group]] = [[] for _ in days]
    for number, group in enumerate(groups):
        open_days = [i for i in range(DAYS) if minutes[i] > 0 and group.runs(days[i])]
        for i in _spread(open_days, group.days, group.minutes, load, minutes, shift=number):
            to = group.moved.get(days[i], days[i])
            if to in days:
                chosen[days.index(to)].append(group)
                load[days.index(to)] += group.minutes
        for since, to in group.moved.items():
            if to in days and since not in days:
                chosen[days.index(to)].append(group)
    return [_day(days[i], chosen[i], minutes[i]) for i in range(DAYS)]


@dataclass(frozen=True)
class _Group:
    """One drill, or a pair."""

    items: tuple[WantedDrill, ...]

    @property
    def minutes(self) -> float:
        return sum(w.minutes for w in self.items)

    @property
    def days(self) -> int:
        return max(w.days for w in self.items)

    @property
    def need(self) -> float:
        return max(w.weakness for w in self.items)

    @property
    def moved(self) -> dict[date, date]:
        return {since: to for w in self.items for since, to in w.moved.items()}

    def runs(self, day: date) -> bool:
        return any(w.runs(day) for w in self.items)

    def on(self, day: date) -> list[Block]:
        there = [w for w in self.items if w.runs(day)]
        total = sum(w.minutes for w in there)
        if len(there) < 2 or there[0].sharing == "equal":
            return [Block(w.id, total / len(there)) for w in there]
        # Each gets its share of what is not clean, within bounds: the better one is not dropped.
        weights = [max(w.weakness, 0.02) for w in there]
        heaviest = max(weights)
        weights = [max(v, heaviest / PLANNER.most_leaning) for v in weights]
        return [Block(w.id, total * v / sum(weights)) for w, v in zip(there, weights, strict=True)]


def _groups(wanted: Sequence[WantedDrill]) -> list[_Group]:
    by_id = {w.id: w for w in wanted}
    groups: list[_Group] = []
    seen: set[int] = set()
    for w in wanted:
        if w.id in seen:
            continue
        other = by_id.get(w.pair) if w.pair is not None else None
        items = (w, other) if other is not None and other.id not in seen and other.id != w.id else (w,)
        seen |= {i.id for i in items}
        groups.append(_Group(tuple(sorted(items, key=lambda i: (-i.weakness, i.id)))))
    return sorted(groups, key=lambda g: (-g.need, g.items[0].id))


def _spread(
    open_days: Sequence[int],
    count: int,
    minutes: float,
    load: Sequence[float],
    most: Sequence[float],
    *,
    shift: int,
) -> list[int]:
    """So many of the open days, far from each other, where there is room, on the emptiest."""
    chosen: list[int] = []
    left = list(open_days)
    while left and len(chosen) < count:
        best = min(
            left,
            key=lambda i: (
                load[i] + minutes > most[i] + 1e-9,
                -min((abs(i - c) for c in chosen), default=0),
                load[i],
                (i - shift) % DAYS,
            ),
        )
        chosen.append(best)
        left.remove(best)
    return sorted(chosen)


def _day(day: date, groups: Collection[_Group], most: float) -> Day:
    kept: list[_Group] = []
    left_out: list[int] = []
    once = {id(g): g for g in groups}.values()  # moved onto a day it stands on already: once
    used = 0.0
    for group in sorted(once, key=lambda g: (-g.need, g.items[0].id)):
        need = sum(b.minutes for b in group.on(day))
        # Work moved onto a free day was moved there on purpose.
        if most > 0 and used + need > most + 1e-9:
            left_out += [w.id for w in group.items]
            continue
        kept.append(group)
        used += need
    return Day(day, _with_breaks([b for g in _in_order(kept) for b in g.on(day)]), tuple(left_out))


def _in_order(groups: Sequence[_Group]) -> list[_Group]:
    """As they are, but what should come first before what builds on it. A circle is left as it is."""
    at = {w.id: g for g in groups for w in g.items}
    placed: list[_Group] = []

    def place(group: _Group, above: tuple[int, ...]) -> None:
        if any(group is g for g in placed) or id(group) in above:
            return
        for item in group.items:
            if item.after in at:
                place(at[item.after], (*above, id(group)))
        if not any(group is g for g in placed):
            placed.append(group)

    for group in groups:
        place(group, ())
    return placed


def _with_breaks(blocks: Sequence[Block]) -> tuple[Block, ...]:
    out: list[Block] = []
    unbroken = 0.0
    for block in blocks:
        if block.minutes < PLANNER.least_minutes / 2:
            continue
        parts = math.ceil(block.minutes / PLANNER.break_after_minutes - 1e-9)
        minutes = block.minutes / parts
        for _ in range(parts):
            if unbroken > 0 and unbroken + minutes > PLANNER.break_after_minutes + 1e-9:
                out.append(Block(None, PLANNER.break_minutes))
                unbroken = 0.0
            out.append(Block(block.id, round(minutes * 2) / 2))
            unbroken += minutes
    return tuple(out)
