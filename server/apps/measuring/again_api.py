"""Addresses of measuring many takes again."""

from __future__ import annotations

from collections.abc import Callable
from uuid import UUID

from django.http import HttpRequest
from fortimetra import __version__ as CORE
from ninja import Query, Router, Status

from apps.drills import selectors as drills
from apps.measuring import again
from apps.measuring.again import Wanted
from apps.measuring.again_schemas import AgainAsk, AgainEstimate, AgainRead, again_read
from apps.measuring.models import Remeasurement
from apps.people import selectors as people
from apps.people.actor import actor_of
from apps.people.models import User

router = Router(tags=["takes"])


def _wanted(actor: User, asked: AgainAsk) -> Wanted:
    return Wanted(
        student=None if asked.student_id is None else people.student(actor, asked.student_id),
        drill=None if asked.drill_id is None else drills.drill(actor, asked.drill_id),
        all_versions=asked.all_versions,
    )


@router.get("/estimate", response=AgainEstimate, operation_id="estimate_again")
def estimate(request: HttpRequest, asked: Query[AgainAsk]) -> AgainEstimate:
    """How much work it would be to measure takes again."""
    actor = actor_of(request)
    takes, minutes = again.estimate(actor, _wanted(actor, asked))
    return AgainEstimate(takes=takes, minutes=round(minutes, 1), core_version=CORE)


@router.get("", response=list[AgainRead], operation_id="again_orders")
def list_orders(request: HttpRequest) -> list[AgainRead]:
    """One's own orders, newest first."""
    return [again_read(found) for found in again.orders(actor_of(request))[:10]]


@router.post("", response={201: AgainRead}, operation_id="order_again")
def give_order(request: HttpRequest, payload: AgainAsk) -> Status[AgainRead]:
    """Have takes measured again, beside what counts, when workers have nothing else to do."""
    actor = actor_of(request)
    return Status(201, again_read(again.begin(actor, _wanted(actor, payload))))


@router.get("/{uuid:order_id}", response=AgainRead, operation_id="again_order")
def read_order(request: HttpRequest, order_id: UUID) -> AgainRead:
    """How far an order is, and what it would change."""
    return again_read(again.order(actor_of(request), order_id))


@router.post("/{uuid:order_id}/pause", response=AgainRead, operation_id="pause_again")
def pause(request: HttpRequest, order_id: UUID) -> AgainRead:
    """Begin no more of its takes for now."""
    return _done(request, order_id, again.pause)


@router.post("/{uuid:order_id}/go-on", response=AgainRead, operation_id="go_on_again")
def go_on(request: HttpRequest, order_id: UUID) -> AgainRead:
    """Go on after a pause."""
    return _done(request, order_id, again.go_on)


@router.post("/{uuid:order_id}/keep", response=AgainRead, operation_id="keep_again")
def keep(request: HttpRequest, order_id: UUID) -> AgainRead:
    """Let what is measured count."""
    return _done(request, order_id, again.keep)


@router.delete("/{uuid:order_id}", response={204: None}, operation_id="drop_again")
def drop(request: HttpRequest, order_id: UUID) -> Status[None]:
    """Forget it with what it measured."""
    actor = actor_of(request)
    again.drop(actor, again.order(actor, order_id))
    return Status(204, None)


def _done(request: HttpRequest, order_id: UUID, act: Callable[[User, Remeasurement], None]) -> AgainRead:
    actor = actor_of(request)
    act(actor, again.order(actor, order_id))
    return again_read(again.order(actor, order_id))
