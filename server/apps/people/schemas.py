"""What the API says of people."""

from __future__ import annotations

from typing import Annotated, Literal

from ninja import Schema
from pydantic import Field


class Me(Schema):
    """Who is signed in."""

    name: str
    email: str
    role: Literal["teacher", "student"]
    studio: str
    zone: str
    upload_max_bytes: int
    take_max_minutes: float


class StudentRead(Schema):
    """A student in a list."""

    id: int
    name: str


class StudentCreate(Schema):
    """A new student."""

    name: Annotated[str, Field(min_length=1, max_length=120)]
