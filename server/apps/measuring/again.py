"""Measuring many takes again by today's core: an order with progress that can be paused, kept or dropped.

Every take of an order is a trial: its result lies beside the one that counts. What would change is added up first;
only what is kept counts. Workers take these jobs when nothing else is to be done.
"""

from __future__ import annotations

import time
from collections.abc import Iterable, Sequence
from dataclasses import dataclass
from datetime import timedelta
from typing import Any
from uuid import UUID

from config.problems import ServiceError, not_found
from django.db import transaction
from django.db.models import Avg, Count, F, QuerySet
from django.utils import timezone
from fortimetra import __version__ as CORE
from fortimetra.judge import Flip, added

from apps.drills.models import Drill
from apps.jobs import services as jobs
from apps.jobs.models import Job
from apps.jobs.services import Claim, Kind, Problem, Told
from apps.measuring import trials
from apps.measuring.models import Remeasurement, Trial
from apps.people import audit
from apps.people import selectors as people
from apps.people.actor import require_teacher
from apps.people.models import Student, User
from apps.takes.models import Take
from apps.takes.signals import tell_settled

State = Remeasurement.State
MOST_SHOWN = 20
CHUNK = 500
# A job that goes through many takes gives way after so long, and asks for itself again.
STRETCH_S = 10.0


class Remeasuring(Kind):
    """Takes of orders are measured."""

    def moved(self, subjects: Sequence[str], state: Told, problem: Problem | None = None) -> None:
        if problem is not None:
            for trial in Trial.objects.filter(pk__in=subjects, state=Trial.State.WAITING).select_related("order"):
                settle(trial, problem=problem.detail)

    def unfinished(self) -> Iterable[object]:
        waiting = Trial.objects.filter(order__state=State.RUNNING, state=Trial.State.WAITING)
        return waiting.values_list("pk", flat=True)[:CHUNK]


class Ordering(Kind):
    """What is done to an order as a whole: its takes are listed, kept, or dropped, as its state says."""

    def unfinished(self) -> Iterable[object]:
        wanted = (State.LISTING, State.KEEPING, State.DROPPING)
        return Remeasurement.objects.filter(state__in=wanted).values_list("pk", flat=True)[:CHUNK]


REMEASURING = Remeasuring(
    "takes.remeasure",
    most_attempts=2,
    # Thousands wait for hours: sent again every minute, their messages would be all that workers look at.
    patience=timedelta(hours=1),
    broke=Problem("measuring_failed", "Measuring broke off; what counted before still counts."),
)
ORDERING = Ordering("takes.go_through_order", most_attempts=1000, broke=Problem("broke_off", "This broke off."))


@dataclass(frozen=True)
class Wanted:
    """Which takes: of a student, of a drill, all; with all_versions also those that this core has measured."""

    student: Student | None = None
    drill: Drill | None = None
    all_versions: bool = False

    def takes(self, actor: User) -> QuerySet[Take]:
        """Those of a teacher's students that can be measured again, the newest first."""
        found = Take.objects.filter(
            student__in=people.students(actor),
            state=Take.State.MEASURED,
            current__isnull=False,
            recording_deleted_at=None,
        )
        if self.student is not None:
            found = found.filter(student=self.student)
        if self.drill is not None:
            found = found.filter(drill_version__drill=self.drill)
        return found if self.all_versions else found.exclude(current__core_version=CORE)


def estimate(actor: User, wanted: Wanted) -> tuple[int, float]:
    """How many takes it would be, and how many minutes of a worker's time, by what they took before."""
    require_teacher(actor)
    found = wanted.takes(actor).order_by().aggregate(count=Count("pk"), seconds=Avg("current__seconds"))
    return found["count"], found["count"] * (found["seconds"] or 0.0) / 60.0


def begin(actor: User, wanted: Wanted) -> Remeasurement:
    """Give an order. Raises ServiceError (409) while another is open, (422) where there is nothing to measure."""
    require_teacher(actor)
    with transaction.atomic():
        User.objects.select_for_update().get(pk=actor.pk)
        if actor.remeasurements.filter(state__in=Remeasurement.OPEN).exists():
            raise ServiceError(409, "another_order", "Keep or drop what is being measured again first.")
        if not wanted.takes(actor).exists():
            raise ServiceError(
                422, "nothing_to_measure", f"Every take with a recording was measured by this version ({CORE}) already."
            )
        made = Remeasurement.objects.create(
            asked_by=actor, asked_at=timezone.now(), student=wanted.student, drill=wanted.drill,
            all_versions=wanted.all_versions, core_version=CORE,
        )  # fmt: skip
        jobs.ask(ORDERING, made.pk)
    audit.changed(actor, "ordered_remeasuring", student=wanted.student, object_id=made.pk)
    return made


def orders(actor: User) -> QuerySet[Remeasurement]:
    """A person's orders, newest first; only teachers have any."""
    return Remeasurement.objects.filter(asked_by=actor).select_related("student", "drill")


def order(actor: User, order_id: UUID) -> Remeasurement:
    """One of them, or 404."""
    found = orders(actor).filter(pk=order_id).first()
    if found is None:
        raise not_found()
    return found


@dataclass(frozen=True)
class Standing:
    """How far an order is: takes by how they ended."""

    measured: int
    refused: int
    waiting: int


def standing(found: Remeasurement) -> Standing:
    """How far an order is. Trials that were kept are gone."""
    rows = Trial.objects.filter(order=found).order_by().values_list("state").annotate(Count("pk"))
    counts: dict[str, int] = dict(rows)
    return Standing(
        measured=counts.get(Trial.State.MEASURED, 0),
        refused=counts.get(Trial.State.REFUSED, 0),
        waiting=counts.get(Trial.State.WAITING, 0),
    )


def most_changed(found: Remeasurement) -> list[Trial]:
    """The takes in which most would be judged otherwise."""
    changed = Trial.objects.filter(order=found, state=Trial.State.MEASURED, changed__gt=0).order_by("-changed", "pk")
    around = ("take__student", "drill_version__drill", "analysis", "against")
    large = [f"{one}__{column}" for one in ("analysis", "against") for column in ("content", "summary", "ticks")]
    return list(changed.select_related(*around).defer("drill_version__content", *large)[:MOST_SHOWN])


def pause(actor: User, found: Remeasurement) -> None:
    """Let what is being measured come to its end, and begin nothing more."""
    _turn(actor, found, (State.LISTING, State.RUNNING), State.PAUSED)
    Job.objects.filter(kind=REMEASURING.task, state=Job.State.WAITING, subject__in=_waiting(found)).delete()


def go_on(actor: User, found: Remeasurement) -> None:
    """Go on after a pause."""
    with transaction.atomic():
        _turn(actor, found, (State.PAUSED,), State.LISTING)
        jobs.ask(ORDERING, found.pk)


def keep(actor: User, found: Remeasurement) -> None:
    """Let everything that is measured count; the rest of the order is not measured any more."""
    with transaction.atomic():
        _turn(actor, found, (State.RUNNING, State.PAUSED, State.MEASURED), State.KEEPING)
        jobs.ask(ORDERING, found.pk)
    audit.changed(actor, "kept_remeasuring", student=found.student, object_id=found.pk)


def drop(actor: User, found: Remeasurement) -> None:
    """Forget an order with what it measured; what counts is untouched."""
    with transaction.atomic():
        _turn(actor, found, (State.LISTING, State.RUNNING, State.PAUSED, State.MEASURED, State.KEPT), State.DROPPING)
        jobs.ask(ORDERING, found.pk)


def _turn(actor: User, found: Remeasurement, of: Sequence[str], to: str) -> None:
    require_teacher(actor)
    changed = Remeasurement.objects.filter(pk=found.pk, state__in=of).update(state=to)
    if not changed:
        raise ServiceError(409, "not_now", "This cannot be done now; look at the order again.")
    found.state = to


def _waiting(found: Remeasurement) -> list[str]:
    keys = Trial.objects.filter(order=found, state=Trial.State.WAITING).values_list("pk", flat=True)
    return [str(key) for key in keys]


# -- what workers do ---------------------------------------------------------------------------------------


def go_through(mine: Claim) -> None:
    """Do to an order what its state asks for, as far as a stretch goes; ask for the rest."""
    found = Remeasurement.objects.select_related("student", "drill", "asked_by").filter(pk=mine.subject).first()
    todo = {State.LISTING: _list, State.KEEPING: _keep_some, State.DROPPING: _drop_some}
    if found is not None and found.state in todo and not todo[State(found.state)](found, time.monotonic() + STRETCH_S):
        jobs.ask(ORDERING, found.pk)
        return
    jobs.finish(mine)


def _list(found: Remeasurement, _until: float) -> bool:
    """A trial for each take, and a job for each that waits."""
    wanted = Wanted(found.student, found.drill, found.all_versions)
    there = set(Trial.objects.filter(order=found).values_list("take_id", flat=True))
    rows = wanted.takes(found.asked_by).values_list("pk", "drill_version_id", "current_id")
    # Listed once: what is recorded after that is measured by today's core anyway.
    new = [] if found.total else [row for row in rows if row[0] not in there]
    now = timezone.now()
    with transaction.atomic():
        Trial.objects.bulk_create(
            [
                Trial(
                    take_id=take, drill_version_id=version, against_id=current, order=found, asked_at=now,
                    created_by=found.asked_by,
                )
                for take, version, current in new
            ],
            batch_size=CHUNK,
        )  # fmt: skip
        if not Remeasurement.objects.filter(pk=found.pk, state=State.LISTING).update(
            state=State.RUNNING, total=found.total or len(there) + len(new)
        ):
            return True  # paused or dropped meanwhile
        jobs.ask_all(REMEASURING, _waiting(found))
    _end(found)
    return True


def settle(trial: Trial, *, flips: Sequence[Flip] = (), problem: str = "", **analysis: Any) -> None:
    """Write down how a take of an order ended, and what would change by it."""
    with transaction.atomic():
        trials.settle(trial, problem=problem, **analysis)
        found = Remeasurement.objects.select_for_update().filter(trials=trial.pk).first()
        if found is None:
            return
        changed = sum(f.count for f in flips if f.measure == "note")
        Trial.objects.filter(pk=trial.pk).update(changed=changed)
        if flips:
            old = [Flip.model_validate(row) for row in found.flips]
            found.flips = [f.model_dump(mode="json") for f in added([*old, *flips])]
            found.save(update_fields=["flips"])
    _end(found)


def _end(found: Remeasurement) -> None:
    """An order with nothing left to measure is measured."""
    waiting = Trial.objects.filter(order=found, state=Trial.State.WAITING)
    if not waiting.exists():
        Remeasurement.objects.filter(pk=found.pk, state=State.RUNNING).update(
            state=State.MEASURED, ended_at=timezone.now()
        )


def _keep_some(found: Remeasurement, until: float) -> bool:
    """Whether all that is measured counts now."""
    _forget_waiting(found)
    while time.monotonic() < until:
        some = Trial.objects.filter(order=found, state=Trial.State.MEASURED).select_related("analysis", "against")
        batch = list(some.order_by("pk")[:20])
        if not batch:
            Remeasurement.objects.filter(pk=found.pk).update(state=State.KEPT, ended_at=timezone.now())
            return True
        for trial in batch:
            _keep_one(found, trial)
    return False


def _keep_one(found: Remeasurement, trial: Trial) -> None:
    try:
        with transaction.atomic():
            take = trials.count(trial)
            Remeasurement.objects.filter(pk=found.pk).update(kept=F("kept") + 1)
            tell_settled(take)
    except ServiceError:
        with transaction.atomic():
            trials.drop(trial)
            Remeasurement.objects.filter(pk=found.pk).update(left_alone=F("left_alone") + 1)


def _forget_waiting(found: Remeasurement) -> None:
    with transaction.atomic():
        jobs.forget(REMEASURING, _waiting(found))
        Trial.objects.filter(order=found, state=Trial.State.WAITING).delete()


def _drop_some(found: Remeasurement, until: float) -> bool:
    """Whether nothing is left of it."""
    _forget_waiting(found)
    while time.monotonic() < until:
        batch = list(Trial.objects.filter(order=found).select_related("analysis")[:50])
        if not batch:
            found.delete()
            return True
        for trial in batch:
            trials.drop(trial)
    return False
