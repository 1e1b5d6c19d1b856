"""What the API says of people."""

from __future__ import annotations

from datetime import date, datetime
from typing import Annotated, Literal
from uuid import UUID

from config.days import Day
from pydantic import BaseModel, Field

Role = Literal["teacher", "student"]
Name = Annotated[str, Field(min_length=1, max_length=120)]


class Me(BaseModel):
    """Who is signed in. student_id, left_handed: of somebody who signs in as a student."""

    name: str
    email: str
    role: Role
    leads: bool
    keeps: bool
    student_id: int | None
    left_handed: bool
    studio: str
    zone: str
    upload_max_bytes: int
    take_max_minutes: float


class Welcome(BaseModel):
    """What anybody may know before signing in. mail: whether a forgotten password can be asked for by mail."""

    mail: bool


class StudentRead(BaseModel):
    """A student in a list. account: the address they sign in with, if they do; takes: how many; agreed: to be recorded;
    left_at: no longer taught here.
    """

    id: int
    name: str
    account: str | None = None
    takes: int = 0
    left_handed: bool = False
    agreed: bool = False
    left_at: datetime | None = None


Who = Literal["student", "guardian"]
Told = Literal["writing", "word"]


class ConsentStated(BaseModel):
    """A teacher's statement that somebody consented to recording; day: today where it is left out."""

    by: Who
    name: Annotated[str, Field(max_length=120)] = ""
    way: Told
    day: Day | None = None


class ConsentsStated(ConsentStated):
    """The same of several students."""

    student_ids: Annotated[list[int], Field(min_length=1, max_length=500)]


class ConsentGiven(BaseModel):
    """What somebody agrees to on the page: for themselves, or a parent or guardian for a minor."""

    by: Who
    name: Annotated[str, Field(max_length=120)] = ""


class ConsentRead(BaseModel):
    """A consent, as it was given."""

    by: Who
    name: str
    way: Literal["page", "writing", "word"]
    to: str
    day: date
    written_by: str | None
    written_at: datetime
    withdrawn_at: datetime | None
    withdrawn_by: str


class Consents(BaseModel):
    """words: what is agreed to; current: what counts, if anything does; before: what was taken back."""

    words: str
    current: ConsentRead | None
    before: list[ConsentRead]


class StudentCreate(BaseModel):
    """A new student, or another name. left_handed: drawings of the neck are mirrored; null: as it was."""

    name: Name
    left_handed: bool | None = None


class Keeping(BaseModel):
    """How many months recordings, and everything of students who left, are kept; null: until somebody deletes them."""

    recordings_months: Annotated[int | None, Field(ge=1, le=240)] = None
    former_months: Annotated[int | None, Field(ge=1, le=240)] = None


class HandOver(BaseModel):
    """To which teacher of the studio."""

    teacher_id: int


class Deleted(BaseModel):
    """What was deleted for good, and what remains."""

    takes: int
    recordings: int
    says: str


class Invite(BaseModel):
    """An address to write the link to, where a mail server is set; it may be left out."""

    email: Annotated[str, Field(max_length=254)] = ""


class Link(BaseModel):
    """A link that lets somebody in, shown this once. sent: it was mailed too."""

    id: UUID | None
    link: str
    expires_at: datetime | None
    sent: bool


class InvitationRead(BaseModel):
    """An invitation nobody has used yet."""

    id: UUID
    role: Role
    student: str | None
    email: str
    made_at: datetime
    expires_at: datetime


class InvitationOpen(BaseModel):
    """What the invited sees before there is an account."""

    role: Role
    studio: str
    teacher: str
    student: str | None
    email: str


class Join(BaseModel):
    """The account an invitation is for."""

    name: Annotated[str, Field(max_length=120)] = ""
    email: Annotated[str, Field(max_length=254)]
    password: Annotated[str, Field(max_length=200)]


class AddressAsk(BaseModel):
    """Another e-mail address, with the account's password."""

    address: Annotated[str, Field(max_length=254)]
    password: Annotated[str, Field(max_length=200)]


class AddressAsked(BaseModel):
    """mailed: a letter to the new address holds the link that confirms it; else it counts already."""

    mailed: bool


class AddressConfirmed(BaseModel):
    """The address that counts from now on."""

    address: str


class ColleagueRead(BaseModel):
    """A teacher of the studio. students: how many; who they are stays with their teacher."""

    id: int
    name: str
    email: str
    leads: bool
    students: int


class PartWith(BaseModel):
    """Who teaches the students of a teacher who leaves."""

    students_to: int | None = None


class StudioChange(BaseModel):
    """Name and time zone of the studio."""

    name: Name
    zone: Annotated[str, Field(max_length=64)]


class AuditRead(BaseModel):
    """Somebody saw or changed something."""

    at: datetime
    who: str
    action: str
    student: str | None
    what: str
