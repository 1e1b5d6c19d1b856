"""Whether a drill goes up, down, or stays: each proposal in one sentence, with the takes it rests on.

A step up needs what is surely clean: what cannot be told does not count as clean. A step down needs what is surely not
clean: what cannot be told does not count as a fault. A take played at another step says nothing of this one.
"""

from __future__ import annotations

from collections import Counter
from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from datetime import datetime
from typing import Literal

from fortimetra.coach.settings import LADDER
from fortimetra.coach.step import notes_per_click, picked_per_second
from fortimetra.errors import DrillError
from fortimetra.model.drill import Drill
from fortimetra.model.ladder import LadderRule, Step

Move = Literal["up", "down", "stay", "held", "ceiling", "pair", "goal", "top"]
# Families whose speed the picking hand sets: the fastest even run is their ceiling.
PICKING = frozenset({"alternate_picking", "sweep"})


@dataclass(frozen=True)
class LadderTake:
    """What a ladder reads of a take, as the teacher left it. outside: how often each asked place was off or missed."""

    id: str
    played_at: datetime
    bpm: float | None
    per_click: int | None
    counted: int
    clean: int
    unclear: int
    outside: Mapping[str, int]

    @property
    def clean_share(self) -> float:
        """Surely clean notes of those that count."""
        return self.clean / self.counted if self.counted else 0.0

    @property
    def perhaps_clean_share(self) -> float:
        """Notes that are not surely off."""
        return (self.clean + self.unclear) / self.counted if self.counted else 1.0


@dataclass(frozen=True)
class Pair:
    """The other drill of a pair, and where it stands."""

    title: str
    step: Step


@dataclass(frozen=True)
class Standing:
    """What a ladder proposes. to: the step after it; takes: ids of those it rests on, oldest first."""

    move: Move
    at: Step
    to: Step
    says: str
    takes: tuple[str, ...] = ()

    @property
    def moves(self) -> bool:
        """Whether there is anything to confirm."""
        return self.move in ("up", "down")


def step_words(step: Step) -> str:
    """A step as teachers say it.

    >>> step_words(Step(bpm=84)), step_words(Step(bpm=60, per_click=2)), step_words(Step())
    ('84 bpm', '2 notes a click at 60 bpm', 'free time')
    """
    if step.bpm is None:
        return "free time"
    if step.per_click is None:
        return f"{step.bpm:g} bpm"
    return f"{step.per_click} note{'' if step.per_click == 1 else 's'} a click at {step.bpm:g} bpm"


def at_this_step(take: LadderTake, step: Step, *, written: int | None) -> bool:
    """Whether a take was played at a step."""
    if step.bpm is not None and (take.bpm is None or abs(take.bpm - step.bpm) > LADDER.same_bpm):
        return False
    return (step.per_click or written) == (take.per_click or written)


def next_step(step: Step, rule: LadderRule, *, way: Literal[1, -1], written: int | None = None) -> Step | None:
    """The step above or below; None at the end of the ladder.

    >>> next_step(Step(bpm=80), LadderRule(), way=1).bpm
    84.0
    >>> next_step(Step(bpm=60, per_click=4), LadderRule(speed="notes_per_click"), way=1).per_click
    6
    """
    if step.bpm is None:
        return None
    if rule.speed != "notes_per_click":
        bpm = step.bpm + way * rule.tempo_step_bpm
        return step.model_copy(update={"bpm": bpm}) if LADDER.least_bpm <= bpm <= LADDER.most_bpm else None
    now = step.per_click or written or 1
    further = [n for n in rule.subdivisions if (n > now if way > 0 else n < now)]
    if not further:
        return None
    return step.model_copy(update={"per_click": min(further) if way > 0 else max(further)})


def standing(
    drill: Drill,
    step: Step,
    takes: Sequence[LadderTake],
    *,
    rule: LadderRule,
    goal: Step | None = None,
    fastest_nps: float | None = None,
    pair: Pair | None = None,
    held: str | None = None,
) -> Standing:
    """What to do next. takes: any order, those since the step began; held: why all ladders of the student stand
    still.
    """
    written = notes_per_click(drill)
    here = sorted((t for t in takes if at_this_step(t, step, written=written)), key=lambda t: t.played_at)
    words = step_words(step)
    if held is not None:
        return Standing("held", step, step, f"Held at {words}: {held}")
    low = _low_row(here, rule)
    below = next_step(step, rule, way=-1, written=written)
    if low and below is not None:
        shares = _shares([t.perhaps_clean_share for t in low])
        says = (
            f"Down to {step_words(below)}: the last {_takes(len(low))} at {words} had {shares} that could be clean, "
            f"under {100 * rule.down_share:.0f} %."
        )
        return Standing("down", step, below, says, _ids(low))
    row = _clean_row(here, rule)
    if len(row) < rule.clean_takes:
        return Standing("stay", step, step, _not_yet(words, len(row), here, rule), _ids(here[-rule.clean_takes :]))
    row = row[-rule.clean_takes :]
    shares = _shares([t.clean_share for t in row])
    if place := _off_twice(row):
        says = (
            f"Stay at {words}: {_takes(len(row))} in a row were clean, but {_place(drill, place)} was off "
            "more than once."
        )
        return Standing("stay", step, step, says, _ids(row))
    return _upward(drill, step, row, shares, rule=rule, goal=goal, fastest_nps=fastest_nps, pair=pair, written=written)


def _upward(
    drill: Drill,
    step: Step,
    row: Sequence[LadderTake],
    shares: str,
    *,
    rule: LadderRule,
    goal: Step | None,
    fastest_nps: float | None,
    pair: Pair | None,
    written: int | None,
) -> Standing:
    words, ids = step_words(step), _ids(row)
    clean = f"the last {_takes(len(row))} at {words} were clean ({shares})"
    if goal is not None and _reached(step, goal, written):
        return Standing(
            "goal", step, step, f"The goal is reached: {clean}. Choose a new goal, or let the drill rest.", ids
        )
    above = next_step(step, rule, way=1, written=written)
    if above is None:
        return Standing(
            "top", step, step, f"The top of this ladder: {clean}. Choose a faster click or another drill.", ids
        )
    asked = _asked_nps(drill, above)
    most = None if fastest_nps is None else rule.ceiling_share * fastest_nps
    if asked is not None and most is not None and asked > most:
        says = (
            f"Stay at {words}: {step_words(above)} asks {asked:.1f} notes a second; {100 * rule.ceiling_share:.0f} "
            "% of "
            f"the fastest even run ({fastest_nps:.1f}) is {most:.1f}. Raise the even run first."
        )
        return Standing("ceiling", step, step, says, ids)
    if pair is not None and _steps_ahead(above, pair.step, rule, written) > 1:
        says = (
            f"Stay at {words}: {clean}, but its pair “{pair.title}” stands at {step_words(pair.step)}; "
            "pairs stay within "
            "one step of each other."
        )
        return Standing("pair", step, step, says, ids)
    unknown = (
        " No fastest even run is known, so there is no ceiling to keep to; record one."
        if asked is not None and most is None
        else ""
    )
    return Standing(
        "up", step, above, f"Up to {step_words(above)}: {clean}, nothing off twice in one place.{unknown}", ids
    )


def _asked_nps(drill: Drill, step: Step) -> float | None:
    if drill.family not in PICKING:
        return None
    try:
        return picked_per_second(drill, step)
    except DrillError:
        return None


def _clean_row(takes: Sequence[LadderTake], rule: LadderRule) -> list[LadderTake]:
    """Clean takes in a row up to the newest."""
    row: list[LadderTake] = []
    for take in reversed(takes):
        if take.counted == 0 or take.clean_share < rule.clean_share:
            break
        row.append(take)
    return row[::-1]


def _low_row(takes: Sequence[LadderTake], rule: LadderRule) -> list[LadderTake]:
    """The newest takes, where all of them are under the share to go down."""
    newest = list(takes[-rule.down_takes :])
    full = len(newest) == rule.down_takes
    return newest if full and all(t.perhaps_clean_share < rule.down_share for t in newest) else []


def _off_twice(row: Sequence[LadderTake]) -> str | None:
    """An asked place that was off more than once in these takes."""
    times = Counter[str]()
    for take in row:
        times.update(take.outside)
    place, count = times.most_common(1)[0] if times else ("", 0)
    return place if count > 1 else None


def _reached(step: Step, goal: Step, written: int | None) -> bool:
    bpm = goal.bpm is None or (step.bpm is not None and step.bpm >= goal.bpm - LADDER.same_bpm)
    return bpm and (goal.per_click is None or (step.per_click or written or 1) >= goal.per_click)


def _steps_ahead(step: Step, other: Step, rule: LadderRule, written: int | None) -> float:
    """How many steps a step is above another."""
    if step.bpm is None or other.bpm is None:
        return 0.0
    if rule.speed != "notes_per_click":
        return (step.bpm - other.bpm) / rule.tempo_step_bpm
    order = rule.subdivisions
    mine, theirs = step.per_click or written or 1, other.per_click or written or 1
    return sum(1 for n in order if theirs < n <= mine) - sum(1 for n in order if mine < n <= theirs)


def _not_yet(words: str, clean: int, here: Sequence[LadderTake], rule: LadderRule) -> str:
    if not here:
        return f"Stay at {words}: nothing was recorded at this step yet."
    newest = here[-1]
    last = f"the newest had {100 * newest.clean_share:.0f} % clean"
    if newest.unclear:
        last += f" and {100 * newest.unclear / max(1, newest.counted):.0f} % that cannot be told"
    return f"Stay at {words}: {clean} of {rule.clean_takes} clean takes in a row; {last}."


def _place(drill: Drill, event_id: str) -> str:
    event = next((e for e in drill.events if e.id == event_id), None)
    return event_id if event is None else drill.place(event)


def _takes(count: int) -> str:
    return "take" if count == 1 else f"{count} takes"


def _shares(shares: Sequence[float]) -> str:
    texts = [f"{100 * s:.0f}" for s in shares]
    return (texts[0] if len(texts) == 1 else f"{', '.join(texts[:-1])} and {texts[-1]}") + " %"


def _ids(takes: Sequence[LadderTake]) -> tuple[str, ...]:
    return tuple(t.id for t in takes)
