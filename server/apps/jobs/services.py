"""Asking for jobs, claiming them, and what becomes of them.

The row is the truth; a message only wakes a worker, and may be lost, late or sent twice. Who works on a job holds a
claim that runs out unless it is renewed: another takes over from a worker that died. Every change of state is one
conditional statement in `transition`, together with what the job's subject says of it.
"""

from __future__ import annotations

import logging
import uuid
from collections.abc import Iterable, Sequence
from dataclasses import dataclass
from datetime import datetime, timedelta
from typing import Any, Literal

from config.celery import app as celery_app
from config.storage import has_room
from django.db import transaction
from django.db.models import F, Q
from django.utils import timezone

from apps.jobs.models import Job

log = logging.getLogger(__name__)
State = Job.State
Told = Literal["waiting", "queued", "running", "failed"]
TOLD: dict[str, Told] = {State.WAITING: "waiting", State.RUNNING: "running", State.FAILED: "failed"}
LEASE = timedelta(seconds=45)
MOST_AT_ONCE = 500
# From which states a job comes into one. Running again: its worker died.
FROM: dict[str, tuple[str, ...]] = {
    State.WAITING: (State.RUNNING,),
    State.RUNNING: (State.WAITING, State.RUNNING),
    State.FAILED: (State.WAITING, State.RUNNING),
}


@dataclass(frozen=True)
class Problem:
    """Why a job failed, as its subject will say it."""

    code: str
    detail: str


class Kind:
    """One kind of job. A subclass says by `moved` what its subjects tell of it.

    task: name of the task, called with the subject's key. patience: how long a message may take to be worked off before
    it counts as lost. broke: what is said when it ended its workers so often; too_much: when it needs more than there
    is.
    """

    def __init__(
        self,
        task: str,
        *,
        broke: Problem,
        too_much: Problem | None = None,
        patience: timedelta = timedelta(seconds=60),
        most_attempts: int = 3,
    ) -> None:
        self.task, self.patience, self.most_attempts = task, patience, most_attempts
        self.broke, self.too_much = broke, too_much or broke
        KINDS[task] = self

    def moved(self, subjects: Sequence[str], state: Told, problem: Problem | None = None) -> None:
        """Called in the transaction in which jobs have come to a state. problem: of failed ones."""

    def unfinished(self) -> Iterable[object]:
        """Keys of the rows that wait for such a job, as they say themselves. One without a job is given one: it was
        made by an older release, or its job was lost with part of the database.
        """
        return ()


# Every kind by its task; filled where the apps' services are loaded.
KINDS: dict[str, Kind] = {}


@dataclass(frozen=True)
class Claim:
    """The right to work on a job for a while."""

    kind: Kind
    subject: str
    token: uuid.UUID

    @property
    def mine(self) -> Q:
        return Q(kind=self.kind.task, subject=self.subject, claim=self.token, state=State.RUNNING)


def transition(
    kind: Kind, subject: str, to: Job.State, *, only: Q | None = None, problem: Problem | None = None, **changes: Any
) -> bool:
    """Bring a job to a state, if it may come there from where it is, and tell its subject; whether it changed.

    only: which it has to be besides, a claim's for example.
    """
    if problem is not None:
        changes |= {"problem_code": problem.code, "problem_detail": problem.detail}
    with transaction.atomic():
        found = Job.objects.filter(only or Q(), kind=kind.task, subject=subject, state__in=FROM[to])
        if not found.update(state=to, **changes):
            return False
        kind.moved([subject], TOLD[to], problem)
    return True


def ask(kind: Kind, subject: object, *, payload: Any = None) -> None:
    """Have something done, from the beginning where it was asked for before; who works on it has lost it."""
    ask_all(kind, [subject], payload=payload)


def ask_all(kind: Kind, subjects: Iterable[object], *, payload: Any = None) -> None:
    """The same for many at once."""
    keys = [str(s) for s in subjects]
    if not keys:
        return
    now = timezone.now()
    rows = [Job(kind=kind.task, subject=key, payload=payload, asked_at=now) for key in keys]
    # A job that is asked for again begins anew: all but what names it is as in a new row.
    anew = [f.name for f in Job._meta.concrete_fields if f.name not in {"id", "kind", "subject"}]
    with transaction.atomic():
        Job.objects.bulk_create(rows, update_conflicts=True, update_fields=anew, batch_size=MOST_AT_ONCE)
        kind.moved(keys, "waiting")
        transaction.on_commit(lambda: enqueue(kind, keys))


def send(task: str, key: str) -> None:
    """Send the message; by name, because a task's module loads the whole core."""
    celery_app.send_task(task, args=[key])


def enqueue(kind: Kind, subjects: Iterable[str]) -> None:
    """Wake workers. While the broker is away jobs wait, and the sweeper tries again."""
    sent = []
    for subject in subjects:
        try:
            send(kind.task, subject)
        except Exception:
            log.warning("broker not reached; %s %s waits", kind.task, subject)
            break
        sent.append(subject)
    if not sent:
        return
    with transaction.atomic():
        waiting = Job.objects.filter(kind=kind.task, subject__in=sent, state=State.WAITING)
        keys = list(waiting.select_for_update().values_list("subject", flat=True))
        waiting.update(queued_at=timezone.now())
        kind.moved(keys, "queued")


def _over(now: datetime) -> Q:
    """Claims that have run out, or that a clock which was set back since would keep for an hour."""
    return Q(claimed_until__lt=now) | Q(claimed_until__gt=now + 2 * LEASE)


def claim(kind: Kind, subject: object) -> Claim | None:
    """Take the right to work on a job, unless somebody has it, there is nothing to do, or no room for what is found.

    A job that ended its workers too often has failed.
    """
    if not has_room():
        return None
    now, key, token = timezone.now(), str(subject), uuid.uuid4()
    free = Q(state=State.WAITING) | (Q(state=State.RUNNING) & _over(now))
    if transition(
        kind, key, State.RUNNING, only=free & Q(attempts__lt=kind.most_attempts), attempts=F("attempts") + 1,
        claim=token, claimed_until=now + LEASE, stage="", fraction=0.0,
    ):  # fmt: skip
        return Claim(kind, key, token)
    worn = free & Q(attempts__gte=kind.most_attempts)
    transition(kind, key, State.FAILED, only=worn, problem=kind.broke, claim=None)
    return None


def report(mine: Claim, *, stage: str | None = None, fraction: float = 0.0) -> bool:
    """Renew a claim, with the stage that is being worked on. False where the claim was lost."""
    changes: dict[str, object] = {"claimed_until": timezone.now() + LEASE}
    if stage is not None:
        changes |= {"stage": stage, "fraction": fraction}
    return bool(Job.objects.filter(mine.mine).update(**changes))


def finish(mine: Claim) -> bool:
    """The job is done; call it in the transaction that writes what was found. False where the claim was lost: the
    result of another counts.
    """
    deleted, _ = Job.objects.filter(mine.mine).delete()
    return bool(deleted)


def hold(mine: Claim) -> bool:
    """Whether a claim still counts; in a transaction it then does until the end of that."""
    return Job.objects.select_for_update().filter(mine.mine).exists()


def fail(mine: Claim, problem: Problem) -> None:
    """A job that would break its worker each time again fails at once."""
    transition(mine.kind, mine.subject, State.FAILED, only=mine.mine, problem=problem, claim=None)


def release(mine: Claim) -> None:
    """Give a claim back after an unexpected error, so that the job is tried again."""
    if _given_back(mine):
        enqueue(mine.kind, [mine.subject])


def wait_for_room(mine: Claim) -> None:
    """Give a claim back because nothing can be written: it was no attempt, and the sweeper queues it when there is
    room.
    """
    _given_back(mine, attempts=F("attempts") - 1)


def _given_back(mine: Claim, **changes: Any) -> bool:
    return transition(
        mine.kind, mine.subject, State.WAITING, only=mine.mine, claim=None, claimed_until=None, queued_at=None,
        stage="", fraction=0.0, **changes,
    )  # fmt: skip


def forget(kind: Kind, subjects: Iterable[object]) -> None:
    """Nobody wants these any more; who works on one has lost it."""
    Job.objects.filter(kind=kind.task, subject__in=[str(s) for s in subjects]).delete()


def payload_of(mine: Claim) -> Any:
    """What was asked with a job; None where the claim was lost."""
    return Job.objects.filter(mine.mine).values_list("payload", flat=True).first()


def of(task: str, subjects: Iterable[object]) -> dict[str, Job]:
    """The jobs there are for some rows, by key. task: their kind's."""
    keys = [str(s) for s in subjects]
    return {job.subject: job for job in Job.objects.filter(kind=task, subject__in=keys)} if keys else {}


def _adopt(kind: Kind) -> None:
    wanted = [str(key) for key in kind.unfinished()]
    there = of(kind.task, wanted)
    ask_all(kind, [key for key in wanted if key not in there])


def sweep(*, all_waiting: bool = False) -> int:
    """Queue again what was lost: never queued, queued long ago, or claimed by a worker that is gone; how many. Times
    that cannot be, because a clock was set back, count as long ago. Nothing is queued while there is no room for
    results.
    """
    if not has_room():
        log.error("the disk is nearly full; jobs wait until there is room")
        return 0
    now, count = timezone.now(), 0
    for kind in list(KINDS.values()):
        _adopt(kind)
        late = Q(queued_at=None) | Q(queued_at__lt=now - kind.patience) | Q(queued_at__gt=now + kind.patience)
        waiting = Q(state=State.WAITING) & (Q() if all_waiting else late)
        lost = Q(state=State.RUNNING) & _over(now)
        found = Job.objects.filter(waiting | lost, kind=kind.task).order_by("asked_at", "id")
        keys = list(found.values_list("subject", flat=True)[:MOST_AT_ONCE])
        enqueue(kind, keys)
        count += len(keys)
    return count
