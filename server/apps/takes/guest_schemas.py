"""What the API says of guests: one recording by somebody without an account."""

from __future__ import annotations

from datetime import datetime
from uuid import UUID

from pydantic import BaseModel

from apps.drills.schemas import DrillDetail
from apps.takes.schemas import TakeState


class GuestOpen(BaseModel):
    """What a guest sees before recording. open: nothing was recorded with this link yet; agreed: that the student is
    recorded; where nobody has: student, and to, what is to be agreed to.
    """

    studio: str
    teacher: str
    open: bool
    student: str
    agreed: bool
    to: str
    drill: DrillDetail
    upload_max_bytes: int
    take_max_minutes: float


class GuestTake(BaseModel):
    """What a guest is told of the one take."""

    state: TakeState
    stage: str
    problem: str
    asked: int
    clean: int
    not_clean: int
    unclear: int
    missed: int
    says: str


class GuestLinkMake(BaseModel):
    """For whom, and what is to be played."""

    student_id: int
    drill_id: int


class GuestLinkRead(BaseModel):
    """A guest link; link is shown this once."""

    id: UUID
    student_id: int
    drill: str
    made_at: datetime
    expires_at: datetime
    used: bool
    link: str | None
