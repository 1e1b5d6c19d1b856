"""What a drill generator is: described fields, and a pure function from them to a drill."""

from __future__ import annotations

from collections.abc import Callable, Mapping
from dataclasses import dataclass

from pydantic import ValidationError

from fortimetra.errors import DrillError, SignalError
from fortimetra.model.base import first_problem
from fortimetra.model.drill import Drill, Family
from fortimetra.model.form import Input, Values, read_form


@dataclass(frozen=True)
class Generator:
    """A figure a teacher gives, as a form. Several make drills of one family.

    examples: values of drills every studio begins with, over the defaults, the easier first. tags: what its drills are
    found by.
    """

    name: str
    family: Family
    title: str
    asks: str
    inputs: tuple[Input, ...]
    make: Callable[[Values], Drill]
    examples: tuple[dict[str, str], ...] = ({}, {})
    tags: tuple[str, ...] = ()


def generate(generator: Generator, given: Mapping[str, str]) -> Drill:
    """A drill from a form's text.

    Raises DrillError(code="drill_invalid") naming the field, or what cannot be played.
    """
    try:
        return generator.make(read_form(generator.inputs, given, title=generator.title, code="drill_invalid"))
    except SignalError as error:
        raise DrillError(error.code, error.detail) from error
    except ValidationError as error:
        raise DrillError("drill_invalid", f"This cannot be played: {first_problem(error)}.") from error
