"""Addresses for who looks after the installation. Nothing here says who plays what."""

from __future__ import annotations

from config.problems import ServiceError, not_found
from django.http import HttpRequest
from ninja import Router, Status

from apps.jobs import services as jobs
from apps.jobs.models import Job
from apps.keeper import state
from apps.keeper.schemas import BackupRead, FailedJob, JobsWaiting, KeeperRead, RoomRead
from apps.people.actor import actor_of
from apps.people.models import Student, Studio, User

router = Router(tags=["keeper"])


def _require_keeper(request: HttpRequest) -> None:
    if not actor_of(request).keeps:
        raise ServiceError(403, "not_allowed", "Only who looks after the server may see this.")


@router.get("", response=KeeperRead, operation_id="keeper")
def read_state(request: HttpRequest) -> KeeperRead:
    """How the installation is."""
    _require_keeper(request)
    backup = state.last_backup()
    return KeeperRead(
        versions=state.versions(),
        problems=list(state.problems()),
        jobs=[JobsWaiting(**vars(row)) for row in state.waiting()],
        failed=[
            FailedJob(
                id=job.pk, kind=job.kind, subject=job.subject, asked_at=job.asked_at, attempts=job.attempts,
                problem=job.problem_detail,
            )
            for job in state.failed()
        ],
        room=RoomRead(**vars(state.room())),
        backup=None if backup is None else BackupRead(**vars(backup)),
        studios=Studio.objects.count(),
        people=User.objects.filter(is_active=True).count(),
        students=Student.objects.filter(left_at=None).count(),
    )  # fmt: skip


def _failed(request: HttpRequest, job_id: int) -> Job:
    """A job that was given up; for anybody but a keeper there is none."""
    jobs_seen = Job.objects.filter(state=Job.State.FAILED) if actor_of(request).keeps else Job.objects.none()
    job = jobs_seen.filter(pk=job_id).first()
    if job is None:
        raise not_found()
    return job


@router.post("/jobs/{int:job_id}/again", response={204: None}, operation_id="try_job_again")
def try_again(request: HttpRequest, job_id: int) -> Status[None]:
    """Have a job that was given up tried again, from the beginning."""
    job = _failed(request, job_id)
    kind = jobs.KINDS.get(job.kind)
    if kind is None:
        raise ServiceError(409, "unknown_kind", "This version does not know such jobs any more; forget it.")
    jobs.ask(kind, job.subject, payload=job.payload)
    return Status(204, None)


@router.delete("/jobs/{int:job_id}", response={204: None}, operation_id="forget_job")
def forget(request: HttpRequest, job_id: int) -> Status[None]:
    """Forget a job that was given up; what it was for stays as it is."""
    _failed(request, job_id).delete()
    return Status(204, None)
