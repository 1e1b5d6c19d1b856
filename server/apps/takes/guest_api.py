"""Addresses of guests: what a link alone opens; and where teachers make such links."""

from __future__ import annotations

from typing import Annotated
from uuid import UUID

from config.problems import ServiceError, not_found
from django.conf import settings
from django.http import HttpRequest
from fortimetra.model import Click
from ninja import Form, Router, Status
from ninja.files import UploadedFile

from apps.drills import selectors as drills
from apps.drills.schemas import drill_detail
from apps.people import consents
from apps.people import selectors as people
from apps.people.actor import actor_of, require_teacher
from apps.people.models import Consent
from apps.people.schemas import ConsentGiven
from apps.takes import guests, selectors
from apps.takes.api import given
from apps.takes.guest_schemas import GuestLinkMake, GuestLinkRead, GuestOpen, GuestTake
from apps.takes.models import GuestLink
from apps.takes.schemas import Capture

router = Router(tags=["guests"], by_alias=True)


@router.get("/links", response=list[GuestLinkRead], operation_id="guest_links")
def list_links(request: HttpRequest, student_id: int) -> list[GuestLinkRead]:
    """Guest links of a student that still work; what they open is not shown again."""
    actor = actor_of(request)
    student = people.student(actor, student_id)
    require_teacher(actor)
    return [_read(link) for link in guests.links(actor).filter(student=student).order_by("-made_at")]


@router.post("/links", response={201: GuestLinkRead}, operation_id="make_guest_link")
def make_link(request: HttpRequest, payload: GuestLinkMake) -> Status[GuestLinkRead]:
    """A link with which somebody without an account makes one recording."""
    actor = actor_of(request)
    student = people.student(actor, payload.student_id)
    link, token = guests.make_link(actor, student=student, drill=drills.drill(actor, payload.drill_id))
    return Status(201, _read(link, request.build_absolute_uri(f"/guest/{token}")))


@router.delete("/links/{uuid:link_id}", response={204: None}, operation_id="withdraw_guest_link")
def withdraw_link(request: HttpRequest, link_id: UUID) -> Status[None]:
    """Take a guest link back."""
    guests.withdraw(actor_of(request), link_id)
    return Status(204, None)


def _read(link: GuestLink, address: str | None = None) -> GuestLinkRead:
    return GuestLinkRead(
        id=link.pk,
        student_id=link.student_id,
        drill=link.drill.title,
        made_at=link.made_at,
        expires_at=link.expires_at,
        used=link.used_at is not None,
        link=address,
    )


@router.get("/{token}", auth=None, response=GuestOpen, operation_id="open_guest_link")
def open_link(request: HttpRequest, token: str) -> GuestOpen:
    """What a guest is asked to play."""
    link = guests.opened(token)
    agreed = consents.current(link.student) is not None
    return GuestOpen(
        studio=link.student.studio.name,
        teacher=link.student.teacher.name,
        open=link.used_at is None,
        # Whose name it is, only while somebody is asked to agree in it.
        student="" if agreed else link.student.name,
        agreed=agreed,
        to="" if agreed else consents.words(link.student),
        drill=drill_detail(link.drill, link.drill.current),
        upload_max_bytes=settings.UPLOAD_MAX_BYTES,
        take_max_minutes=settings.TAKE_MAX_MINUTES,
    )


@router.post("/{token}/consent", auth=None, response={204: None}, operation_id="guest_consent")
def give_consent(request: HttpRequest, token: str, payload: ConsentGiven) -> Status[None]:
    """Who has the link agrees, for themselves or for a minor."""
    link = guests.opened(token)
    consents.give(None, [link.student], consents.Given(by=payload.by, way=Consent.Way.PAGE, name=payload.name))
    return Status(204, None)


def _holds_link(request: HttpRequest) -> GuestLink:
    """Asked before the recording is read in: who has no link sends nothing."""
    assert request.resolver_match is not None
    return guests.opened(request.resolver_match.kwargs["token"])


@router.post("/{token}/take", auth=_holds_link, response={201: GuestTake}, operation_id="guest_take")
def send_take(
    request: HttpRequest,
    token: str,
    file: UploadedFile,
    click: Annotated[str | None, Form()] = None,
    capture: Annotated[str | None, Form()] = None,
    id: Annotated[UUID | None, Form()] = None,
) -> Status[GuestTake]:
    """The link's one recording."""
    captured = None if capture is None else given(Capture, capture, "capture")
    link = guests.receive(
        token,
        upload=file,
        take_id=id,
        click=None if click is None else given(Click, click, "click"),
        capture=None if captured is None else captured.model_dump(mode="json"),
        invented=captured is not None and captured.simulated,
    )
    return Status(201, _answer(link))


@router.get("/{token}/take", auth=None, response=GuestTake, operation_id="read_guest_take")
def read_take(request: HttpRequest, token: str) -> GuestTake:
    """How far the guest's take is, and its counts."""
    return _answer(guests.opened(token))


def _answer(link: GuestLink) -> GuestTake:
    take = link.take
    if take is None:
        if link.used_at is not None:
            raise ServiceError(404, "deleted", "The recording made with this link was deleted.")
        raise not_found()
    take = selectors.with_progress([take])[0]
    counts = take.current.counts if take.current else {}
    return GuestTake(
        state=take.state,
        stage=take.stage,
        problem=take.problem_detail,
        **{name: counts.get(name, 0) for name in ("asked", "clean", "not_clean", "unclear", "missed")},
        says=take.current.headline if take.current else "",
    )
