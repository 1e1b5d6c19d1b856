"""Addresses of consent to recording."""

from __future__ import annotations

from django.http import HttpRequest
from ninja import Router, Status

from apps.people import consents, selectors
from apps.people.actor import actor_of, require_teacher
from apps.people.models import Consent, Student
from apps.people.schemas import ConsentGiven, ConsentRead, Consents, ConsentsStated, ConsentStated

router = Router(tags=["people"])


@router.get("/students/{int:student_id}/consent", response=Consents, operation_id="consent")
def read_consent(request: HttpRequest, student_id: int) -> Consents:
    """Who consented that a student is recorded, and to what."""
    return _read(selectors.student(actor_of(request), student_id))


def _read(student: Student) -> Consents:
    found = [_one(c) for c in consents.of([student])]
    counts = [c for c in found if c.withdrawn_at is None]
    return Consents(
        words=consents.words(student),
        current=counts[0] if counts else None,
        before=[c for c in found if c.withdrawn_at is not None],
    )


def _one(found: Consent) -> ConsentRead:
    return ConsentRead(
        by=found.by,
        name=found.name,
        way=found.way,
        to=found.to,
        day=found.day,
        written_by=found.written_by.name if found.written_by else None,
        written_at=found.written_at,
        withdrawn_at=found.withdrawn_at,
        withdrawn_by=found.withdrawn_by,
    )


@router.post("/students/{int:student_id}/consent", response={201: Consents}, operation_id="give_consent")
def give_consent(request: HttpRequest, student_id: int, payload: ConsentGiven) -> Status[Consents]:
    """A student, or somebody at the student's page for a minor, consents."""
    actor = actor_of(request)
    student = selectors.student(actor, student_id)
    given = consents.Given(by=payload.by, way=Consent.Way.PAGE, name=payload.name)
    consents.give(actor, [student], given)
    return Status(201, _read(student))


@router.put("/students/{int:student_id}/consent", response=Consents, operation_id="state_consent")
def state_consent(request: HttpRequest, student_id: int, payload: ConsentStated) -> Consents:
    """A teacher enters the consent they were given."""
    actor = actor_of(request)
    student = selectors.student(actor, student_id)
    require_teacher(actor)
    consents.give(actor, [student], consents.Given(**payload.model_dump()))
    return _read(student)


@router.delete("/students/{int:student_id}/consent", response=Consents, operation_id="withdraw_consent")
def withdraw_consent(request: HttpRequest, student_id: int) -> Consents:
    """Withdraw it: nothing is recorded from now on. Recordings there are stay until they are deleted."""
    actor = actor_of(request)
    student = selectors.student(actor, student_id)
    consents.withdraw(actor, student)
    return _read(student)


@router.post("/consents", response={204: None}, operation_id="state_consents")
def state_consents(request: HttpRequest, payload: ConsentsStated) -> Status[None]:
    """A teacher enters the consent of several."""
    actor = actor_of(request)
    require_teacher(actor)
    students = [selectors.student(actor, i) for i in dict.fromkeys(payload.student_ids)]
    consents.give(actor, students, consents.Given(**payload.model_dump(exclude={"student_ids"})))
    return Status(204, None)
