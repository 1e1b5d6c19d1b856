"""Forms that describe themselves: what a calculator or a drill generator wants to know.

Everything a screen or an API needs to offer a field is in its description: label, unit, range, choices, default.
"""

from __future__ import annotations

import math
from collections.abc import Mapping, Sequence
from dataclasses import dataclass

from fortimetra.errors import SignalError
from fortimetra.units import name_to_midi

Value = float | str
Values = dict[str, Value]


@dataclass(frozen=True)
class Input:
    """One thing to enter. A number in `unit` from low to high (whole: without a fraction), a pitch name, or a choice.

    many: any number of the choices, written with spaces between them.
    """

    name: str
    label: str
    default: Value
    unit: str = ""
    low: float | None = None
    high: float | None = None
    choices: tuple[str, ...] = ()
    pitch: bool = False
    whole: bool = False
    many: bool = False


def read_form(inputs: Sequence[Input], given: Mapping[str, str], *, title: str, code: str) -> Values:
    """Typed values from text; what is not given has its default.

    Raises SignalError(code) naming the field and what would work.
    """
    unknown = set(given) - {i.name for i in inputs}
    if unknown:
        raise SignalError(code, f"{sorted(unknown)[0]}: {title} has no such field.")
    return {i.name: _value(i, given[i.name], code) if i.name in given else i.default for i in inputs}


def _value(wanted: Input, text: str, code: str) -> Value:
    text = text.strip()
    if wanted.many:
        chosen = text.split()
        if not set(chosen) <= set(wanted.choices):
            raise SignalError(code, f"{wanted.label}: choose from {', '.join(wanted.choices)}.")
        return " ".join(c for c in wanted.choices if c in chosen)
    if wanted.choices:
        if text not in wanted.choices:
            raise SignalError(code, f"{wanted.label}: choose one of {', '.join(wanted.choices)}.")
        return text
    if wanted.pitch:
        try:
            name_to_midi(text)
        except SignalError as error:
            raise SignalError(code, f"{wanted.label}: {error.detail}") from None
        return text
    if isinstance(wanted.default, str):
        return text[:80]
    return _number(wanted, text, code)


def _number(wanted: Input, text: str, code: str) -> float:
    try:
        number = float(text.replace(",", ".").replace("−", "-"))
    except ValueError:
        raise SignalError(code, f"{wanted.label}: {text!r} is not a number.") from None
    low = -math.inf if wanted.low is None else wanted.low
    high = math.inf if wanted.high is None else wanted.high
    if not (math.isfinite(number) and low <= number <= high):
        raise SignalError(
            code,
            f"{wanted.label}: {text} is outside {low:g} to {high:g}{' ' + wanted.unit if wanted.unit else ''}.",
        )
    if wanted.whole and number != round(number):
        raise SignalError(code, f"{wanted.label}: {text} is not a whole number.")
    return number


def number(values: Values, name: str) -> float:
    """A numeric input."""
    return float(values[name])


def whole(values: Values, name: str) -> int:
    """A whole number."""
    return round(float(values[name]))


def word(values: Values, name: str) -> str:
    """A choice or a text."""
    return str(values[name])
