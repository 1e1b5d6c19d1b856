"""Forms that describe themselves, as the API says them."""

from __future__ import annotations

from fortimetra.model import Input
from pydantic import BaseModel


class FormInput(BaseModel):
    """One field: text, or a number from low to high, a pitch name, or one (many: some) of the choices."""

    name: str
    label: str
    default: float | str
    unit: str
    low: float | None
    high: float | None
    choices: list[str]
    pitch: bool
    whole: bool
    many: bool


def form_input(field: Input) -> FormInput:
    """A field's description."""
    return FormInput(**{**vars(field), "choices": list(field.choices)})
