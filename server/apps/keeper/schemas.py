"""What the API says of the installation, to who looks after it."""

from __future__ import annotations

from datetime import datetime

from pydantic import BaseModel


class JobsWaiting(BaseModel):
    """Jobs of a kind in a state; oldest_s: how long ago the first was asked for."""

    kind: str
    queue: str
    state: str
    count: int
    oldest_s: float


class FailedJob(BaseModel):
    """A job that was given up. subject: the key of what it was for."""

    id: int
    kind: str
    subject: str
    asked_at: datetime
    attempts: int
    problem: str


class RoomRead(BaseModel):
    """Bytes of the disk, and of all recordings."""

    free: int
    total: int
    kept_free: int
    recordings: int
    takes: int


class BackupRead(BaseModel):
    """The last backup."""

    at: datetime
    file: str
    bytes: int
    encrypted: bool


class KeeperRead(BaseModel):
    """How the installation is."""

    versions: dict[str, str]
    problems: list[str]
    jobs: list[JobsWaiting]
    failed: list[FailedJob]
    room: RoomRead
    backup: BackupRead | None
    studios: int
    people: int
    students: int
