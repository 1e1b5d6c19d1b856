"""Addresses of the sample take."""

from __future__ import annotations

from uuid import UUID

from django.http import HttpRequest
from ninja import Router, Status
from pydantic import BaseModel

from apps.demo import sample
from apps.people.actor import actor_of

router = Router(tags=["reports"])


class SampleRead(BaseModel):
    """The sample take."""

    take_id: UUID
    student_id: int


@router.post("/sample", response={201: SampleRead, 202: None}, operation_id="want_sample")
def want_sample(request: HttpRequest) -> Status[SampleRead | None]:
    """A sample take of an invented student, to try the application with. 202: it is being made; ask again soon."""
    take = sample.want(actor_of(request))
    if take is None:
        return Status(202, None)
    return Status(201, SampleRead(take_id=take.pk, student_id=take.student_id))


@router.delete("/sample", response={204: None}, operation_id="remove_sample")
def remove_sample(request: HttpRequest) -> Status[None]:
    """Remove the sample student with everything of theirs."""
    sample.remove(actor_of(request))
    return Status(204, None)
