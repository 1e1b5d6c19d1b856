"""What the API says of guitars."""

from __future__ import annotations

from typing import Annotated

from fortimetra.model import Guitar as GuitarContent
from fortimetra.model import GuitarKind
from fortimetra.units import midi_to_hz
from fortimetra.workbench import body_of, stress_warnings, tension_n
from pydantic import BaseModel, Field

from apps.guitars.models import Guitar

Name = Annotated[str, Field(min_length=1, max_length=120)]


class GuitarRead(BaseModel):
    """A guitar in a list."""

    id: int
    name: str
    kind: GuitarKind
    student_id: int
    student: str


class GuitarCreate(BaseModel):
    """A new guitar; it begins as a typical one of its kind."""

    student_id: int
    name: Name
    kind: GuitarKind


class GuitarChange(BaseModel):
    """A guitar described anew, whole."""

    name: Name
    description: GuitarContent


class StringPull(BaseModel):
    """How hard a string pulls at its pitch; share of what it typically bears."""

    string: int
    tension_n: float
    share: float
    estimated: bool
    warning: str | None


class GuitarDetail(BaseModel):
    """A guitar with everything known of it."""

    id: int
    name: str
    student_id: int
    student: str
    description: GuitarContent
    pulls: list[StringPull]


def guitar_read(guitar: Guitar) -> GuitarRead:
    """A list entry."""
    return GuitarRead(
        id=guitar.pk,
        name=guitar.name,
        kind=guitar.kind,
        student_id=guitar.student_id,
        student=guitar.student.name,
    )


def guitar_detail(guitar: Guitar) -> GuitarDetail:
    """A guitar with what its strings do."""
    description = GuitarContent.model_validate(guitar.description)
    return GuitarDetail(
        id=guitar.pk,
        name=guitar.name,
        student_id=guitar.student_id,
        student=guitar.student.name,
        description=description,
        pulls=pulls(description),
    )


def pulls(guitar: GuitarContent) -> list[StringPull]:
    """Tension of every string; a capo shortens the string and leaves the tension."""
    found = []
    for number, string in enumerate(guitar.strings, 1):
        body = body_of(string, guitar.kind)
        hz = midi_to_hz(guitar.open_midi(number) - guitar.capo, a4_hz=guitar.a4_hz)
        tension = tension_n(body.kg_per_m, scale_mm=guitar.scale_mm, hz=hz)
        share = tension / body.core_m2 / 1e6 / body.strength_mpa
        found.append(
            StringPull(
                string=number,
                tension_n=round(tension, 1),
                share=round(share, 3),
                estimated=body.estimated,
                warning=next(iter(stress_warnings(share)), None),
            )
        )
    return found
