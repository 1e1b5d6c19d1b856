"""Addresses of people."""

from __future__ import annotations

from typing import Any
from uuid import UUID

from config.own_page import require_own_page
from django.conf import settings
from django.contrib.auth import login
from django.db.models import Count, QuerySet
from django.http import HttpRequest
from ninja import Router, Status

from apps.people import addresses, audit, consents, invitations, selectors, services
from apps.people.actor import actor_of, require_lead, require_teacher
from apps.people.models import Invitation, Student, User
from apps.people.schemas import (
    AddressAsk,
    AddressAsked,
    AddressConfirmed,
    AuditRead,
    ColleagueRead,
    HandOver,
    InvitationOpen,
    InvitationRead,
    Invite,
    Join,
    Keeping,
    Link,
    Me,
    PartWith,
    StudentCreate,
    StudentRead,
    StudioChange,
    Welcome,
)

router = Router(tags=["people"])
BACKEND = "allauth.account.auth_backends.AuthenticationBackend"


@router.get("/welcome", auth=None, response=Welcome, operation_id="welcome")
def welcome(request: HttpRequest) -> Welcome:
    """What the sign-in page needs to know."""
    return Welcome(mail=settings.MAIL_IS_SET)


@router.get("/me", response=Me, operation_id="me")
def me(request: HttpRequest) -> Me:
    """Who is signed in, and what they may upload."""
    return _me(actor_of(request))


def _me(actor: User) -> Me:
    own = Student.objects.filter(user=actor).only("pk", "left_handed").first()
    return Me(
        name=actor.name,
        email=actor.email,
        role=actor.role,
        leads=actor.leads,
        keeps=actor.keeps,
        student_id=own.pk if own else None,
        left_handed=own is not None and own.left_handed,
        studio=actor.studio.name,
        zone=actor.studio.zone,
        upload_max_bytes=settings.UPLOAD_MAX_BYTES,
        take_max_minutes=settings.TAKE_MAX_MINUTES,
    )


@router.post("/me/address", response=AddressAsked, operation_id="ask_address")
def ask_address(request: HttpRequest, payload: AddressAsk) -> AddressAsked:
    """Another e-mail address for one's own account."""
    actor = actor_of(request)
    token = addresses.ask(actor, address=payload.address, password=payload.password)
    if token is not None:
        addresses.mail_both(actor, token, request.build_absolute_uri(f"/address/{token}"))
    return AddressAsked(mailed=token is not None)


@router.post("/address/{token}", auth=None, response=AddressConfirmed, operation_id="confirm_address")
def confirm_address(request: HttpRequest, token: str) -> AddressConfirmed:
    """What a link in a letter does."""
    require_own_page(request, json=False)
    return AddressConfirmed(address=addresses.confirm(token))


@router.get("/students", response=list[StudentRead], operation_id="students")
def list_students(request: HttpRequest) -> list[StudentRead]:
    """The students this person may see."""
    return [_student(s) for s in _listed(actor_of(request))]


def _listed(actor: User) -> QuerySet[Student]:
    found = selectors.students(actor).select_related("user").annotate(n_takes=Count("takes"))
    return consents.with_agreed(found)


def _student(student: Any) -> StudentRead:
    return StudentRead(
        id=student.pk,
        name=student.name,
        account=student.user.email if student.user else None,
        takes=student.n_takes,
        left_handed=student.left_handed,
        agreed=student.agreed,
        left_at=student.left_at,
    )


def _again(actor: User, student: Student) -> StudentRead:
    return _student(_listed(actor).get(pk=student.pk))


@router.post("/students", response={201: StudentRead}, operation_id="add_student")
def add_student(request: HttpRequest, payload: StudentCreate) -> Status[StudentRead]:
    """A new student of this teacher."""
    actor = actor_of(request)
    made = services.add_student(actor, name=payload.name, left_handed=bool(payload.left_handed))
    return Status(201, _again(actor, made))


@router.put("/students/{int:student_id}", response=StudentRead, operation_id="rename_student")
def rename_student(request: HttpRequest, student_id: int, payload: StudentCreate) -> StudentRead:
    """Another name for a student, or the other hand."""
    actor = actor_of(request)
    student = selectors.student(actor, student_id)
    services.rename_student(actor, student, name=payload.name, left_handed=payload.left_handed)
    return _again(actor, student)


@router.post("/students/{int:student_id}/left", response=StudentRead, operation_id="student_left")
def student_left(request: HttpRequest, student_id: int) -> StudentRead:
    """No longer taught here."""
    actor = actor_of(request)
    return _again(actor, services.leave(actor, selectors.student(actor, student_id)))


@router.delete("/students/{int:student_id}/left", response=StudentRead, operation_id="student_back")
def student_back(request: HttpRequest, student_id: int) -> StudentRead:
    """Taught here again."""
    actor = actor_of(request)
    return _again(actor, services.come_back(actor, selectors.student(actor, student_id)))


@router.post("/students/{int:student_id}/hand-over", response={204: None}, operation_id="hand_over_student")
def hand_over_student(request: HttpRequest, student_id: int, payload: HandOver) -> Status[None]:
    """Move a student to another teacher of the studio."""
    actor = actor_of(request)
    student = selectors.student(actor, student_id)
    require_teacher(actor)
    services.hand_over(actor, student, to=selectors.colleague(actor, payload.teacher_id))
    return Status(204, None)


@router.post("/students/{int:student_id}/invite", response={201: Link}, operation_id="invite_student")
def invite_student(request: HttpRequest, student_id: int, payload: Invite) -> Status[Link]:
    """A link with which a student makes their own account."""
    actor = actor_of(request)
    made = invitations.invite_student(actor, selectors.student(actor, student_id), email=payload.email)
    return Status(201, _invited(request, actor, *made))


@router.post("/students/{int:student_id}/reset-link", response={201: Link}, operation_id="student_reset_link")
def student_reset_link(request: HttpRequest, student_id: int) -> Status[Link]:
    """A link with which a student sets a new password."""
    actor = actor_of(request)
    student = selectors.student(actor, student_id)
    require_teacher(actor)
    return Status(201, _reset(request, actor, student.user))


def _invited(request: HttpRequest, actor: User, invitation: Invitation, token: str) -> Link:
    link = request.build_absolute_uri(f"/join/{token}")
    sent = invitations.mail_link(actor, invitation.email, link, subject=f"{actor.studio.name}: your invitation")
    return Link(id=invitation.pk, link=link, expires_at=invitation.expires_at, sent=sent)


def _reset(request: HttpRequest, actor: User, user: User | None) -> Link:
    if user is None:
        raise services.no_account()
    link = request.build_absolute_uri(invitations.reset_link(actor, user))
    sent = invitations.mail_link(actor, user.email, link, subject=f"{actor.studio.name}: a new password")
    return Link(id=None, link=link, expires_at=None, sent=sent)


@router.get("/invitations", response=list[InvitationRead], operation_id="invitations")
def list_invitations(request: HttpRequest) -> list[InvitationRead]:
    """Invitations of this person that nobody has used yet."""
    return [
        InvitationRead(
            id=i.pk, role=i.role, student=i.student.name if i.student else None, email=i.email,
            made_at=i.made_at, expires_at=i.expires_at,
        )
        for i in invitations.invitations(actor_of(request))
    ]  # fmt: skip


@router.delete("/invitations/{uuid:invitation_id}", response={204: None}, operation_id="withdraw_invitation")
def withdraw_invitation(request: HttpRequest, invitation_id: UUID) -> Status[None]:
    """Take an invitation back; its link no longer works."""
    invitations.withdraw(actor_of(request), invitation_id)
    return Status(204, None)


@router.get("/join/{token}", auth=None, response=InvitationOpen, operation_id="read_invitation")
def read_invitation(request: HttpRequest, token: str) -> InvitationOpen:
    """What an invitation is for."""
    there = invitations.open_invitation(token)
    return InvitationOpen(
        role=there.role,
        studio=there.studio.name,
        teacher=there.made_by.name,
        student=there.student.name if there.student else None,
        email=there.email,
    )


@router.post("/join/{token}", auth=None, response={201: Me}, operation_id="join")
def join(request: HttpRequest, token: str, payload: Join) -> Status[Me]:
    """Make the account an invitation is for, and sign in to it."""
    # It signs in without a session: what another page sends in somebody's name is refused here.
    require_own_page(request)
    user = invitations.accept(token, name=payload.name, email=payload.email, password=payload.password)
    login(request, user, backend=BACKEND)
    return Status(201, _me(user))


@router.get("/colleagues", response=list[ColleagueRead], operation_id="colleagues")
def list_colleagues(request: HttpRequest) -> list[ColleagueRead]:
    """The teachers of the studio."""
    actor = actor_of(request)
    require_teacher(actor)
    return [
        ColleagueRead(id=u.pk, name=u.name, email=u.email, leads=u.leads, students=u.n_students)
        for u in selectors.colleagues(actor).annotate(n_students=Count("students"))
    ]


@router.post("/colleagues/invite", response={201: Link}, operation_id="invite_teacher")
def invite_teacher(request: HttpRequest, payload: Invite) -> Status[Link]:
    """A link with which another teacher joins the studio."""
    actor = actor_of(request)
    return Status(201, _invited(request, actor, *invitations.invite_teacher(actor, email=payload.email)))


@router.post("/colleagues/{int:user_id}/reset-link", response={201: Link}, operation_id="colleague_reset_link")
def colleague_reset_link(request: HttpRequest, user_id: int) -> Status[Link]:
    """A link with which a colleague sets a new password."""
    actor = actor_of(request)
    colleague = selectors.colleague(actor, user_id)
    require_lead(actor)
    return Status(201, _reset(request, actor, colleague))


@router.post("/colleagues/{int:user_id}/part", response={204: None}, operation_id="part_with_colleague")
def part_with_colleague(request: HttpRequest, user_id: int, payload: PartWith) -> Status[None]:
    """A teacher leaves the studio."""
    actor = actor_of(request)
    colleague = selectors.colleague(actor, user_id)
    to = None if payload.students_to is None else selectors.colleague(actor, payload.students_to)
    services.part_with(actor, colleague, students_to=to)
    return Status(204, None)


@router.post("/colleagues/{int:user_id}/lead", response={204: None}, operation_id="give_lead")
def give_lead(request: HttpRequest, user_id: int) -> Status[None]:
    """Another teacher leads the studio from now on."""
    actor = actor_of(request)
    services.give_lead(actor, selectors.colleague(actor, user_id))
    return Status(204, None)


@router.put("/studio", response=Me, operation_id="change_studio")
def change_studio(request: HttpRequest, payload: StudioChange) -> Me:
    """Name and time zone of the studio."""
    actor = actor_of(request)
    services.change_studio(actor, name=payload.name, zone=payload.zone)
    return _me(actor)


@router.put("/studio/keeping", response=Keeping, operation_id="change_keeping")
def change_keeping(request: HttpRequest, payload: Keeping) -> Keeping:
    """How long recordings, and students who left, are kept."""
    services.change_keeping(
        actor_of(request), recordings_months=payload.recordings_months, former_months=payload.former_months
    )
    return payload


@router.get("/audit", response=list[AuditRead], operation_id="audit")
def read_audit(request: HttpRequest, student_id: int | None = None, limit: int = 100) -> list[AuditRead]:
    """Who saw or changed what, newest first."""
    actor = actor_of(request)
    found = audit.entries(actor)
    if student_id is not None:
        found = found.filter(student=selectors.student(actor, student_id))
    return [
        AuditRead(
            at=e.at, who=e.actor_name, action=e.action, student=e.student.name if e.student else None, what=e.what
        )
        for e in found[: max(1, min(limit, 500))]
    ]
