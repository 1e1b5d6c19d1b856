"""What a drill is used for: who has it assigned, at which step, its newest takes, the fastest clean tempo of each."""

from __future__ import annotations

import datetime as dt
from collections.abc import Sequence
from dataclasses import dataclass
from uuid import UUID

from fortimetra.coach import step_words
from fortimetra.model import Step

from apps.drills.models import Drill
from apps.people.models import User
from apps.plans import selectors as plans
from apps.reports.progress import CLEAN_PERCENT, clean_of
from apps.takes import selectors
from apps.takes.models import Take

MOST_SHOWN = 8
MOST_TAKES = 2000


@dataclass(frozen=True)
class Player:
    """A student who has it assigned or has played it. step: where the assignment stands, in words; bpm: the fastest
    tempo of a clean take.
    """

    student_id: int
    student: str
    takes: int
    step: str | None
    bpm: float | None


@dataclass(frozen=True)
class PlayedTake:
    """A take of the drill."""

    take_id: UUID
    student: str
    played_at: dt.datetime
    state: str
    ticks: str | None
    clean: int | None
    asked: int | None
    bpm: float | None


@dataclass(frozen=True)
class DrillUse:
    """Who plays a drill, those it is assigned to first; its newest takes."""

    players: Sequence[Player]
    takes: Sequence[PlayedTake]


def use_of(actor: User, drill: Drill) -> DrillUse:
    """Of the students this person may see."""
    found = selectors.takes(actor).filter(drill_version__drill=drill)
    rows = list(
        found.filter(current__isnull=False)
        .order_by("-played_at")
        .values_list("student_id", "student__name", "current__counts", "current__bpm")[:MOST_TAKES]
    )
    names = {student_id: name for student_id, name, _counts, _bpm in rows}
    steps = {}
    for a in plans.assignments(actor).filter(drill=drill):
        steps[a.student_id] = step_words(Step.model_validate(a.step))
        names[a.student_id] = a.student.name
    takes: dict[int, int] = {}
    best: dict[int, float] = {}
    for student_id, _name, counts, bpm in rows:
        takes[student_id] = takes.get(student_id, 0) + 1
        clean, counted = clean_of(counts)
        if bpm is not None and counted > 0 and 100.0 * clean / counted >= CLEAN_PERCENT:
            best[student_id] = max(best.get(student_id, 0.0), bpm)
    players = [Player(pk, name, takes.get(pk, 0), steps.get(pk), best.get(pk)) for pk, name in names.items()]
    return DrillUse(
        sorted(players, key=lambda p: (p.step is None, p.student)),
        [_played(t) for t in selectors.newest(found.order_by("-played_at"), MOST_SHOWN)],
    )


def _played(take: Take) -> PlayedTake:
    current = take.current
    return PlayedTake(
        take_id=take.pk,
        student=take.student.name,
        played_at=take.played_at,
        state=take.state,
        ticks=current.ticks if current else None,
        clean=current.counts.get("clean") if current else None,
        asked=current.counts.get("asked") if current else None,
        bpm=current.bpm if current else None,
    )
