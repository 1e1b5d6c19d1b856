"""What a calculator is: described inputs, a pure function, and where its formula comes from.

Everything a screen or an API needs to offer it is in the description: labels, units, valid ranges, defaults (which are
its worked example), formula and source.
"""

from __future__ import annotations

import math
from collections.abc import Callable, Mapping
from dataclasses import dataclass, field

from fortimetra.errors import SignalError
from fortimetra.units import name_to_midi

Value = float | str
Values = dict[str, Value]


@dataclass(frozen=True)
class Input:
    """One thing to enter. A number in `unit` from low to high, a pitch name, or one of the choices."""

    name: str
    label: str
    default: Value
    unit: str = ""
    low: float | None = None
    high: float | None = None
    choices: tuple[str, ...] = ()
    pitch: bool = False


@dataclass(frozen=True)
class Output:
    """One result."""

    name: str
    label: str
    unit: str = ""
    digits: int = 2


@dataclass(frozen=True)
class Table:
    """Several results; a cell is a number, a word or nothing."""

    title: str
    columns: tuple[str, ...]
    rows: tuple[tuple[float | str | None, ...], ...]


@dataclass(frozen=True)
class Answer:
    """values by output name; warnings are sentences."""

    values: dict[str, float | str | None]
    tables: tuple[Table, ...] = ()
    warnings: tuple[str, ...] = ()


@dataclass(frozen=True)
class Calculator:
    """A calculator of the workbench."""

    id: str
    title: str
    purpose: str
    formula: str
    source: str
    inputs: tuple[Input, ...]
    outputs: tuple[Output, ...]
    compute: Callable[[Values], Answer]
    limits: str = ""
    notes: tuple[str, ...] = field(default=())


def read_inputs(calculator: Calculator, given: Mapping[str, str]) -> Values:
    """Typed inputs from text; what is not given has its default.

    Raises SignalError(code="bench_invalid") naming the field and what would work.
    """
    unknown = set(given) - {i.name for i in calculator.inputs}
    if unknown:
        raise SignalError("bench_invalid", f"{sorted(unknown)[0]}: {calculator.title} has no such field.")
    return {i.name: _value(i, given[i.name]) if i.name in given else i.default for i in calculator.inputs}


def _value(wanted: Input, text: str) -> Value:
    text = text.strip()
    if wanted.choices:
        if text not in wanted.choices:
            raise SignalError("bench_invalid", f"{wanted.label}: choose one of {', '.join(wanted.choices)}.")
        return text
    if wanted.pitch:
        try:
            name_to_midi(text)
        except SignalError as error:
            raise SignalError("bench_invalid", f"{wanted.label}: {error.detail}") from None
        return text
    if isinstance(wanted.default, str):
        return text[:40]
    try:
        number = float(text.replace(",", ".").replace("−", "-"))
    except ValueError:
        raise SignalError("bench_invalid", f"{wanted.label}: {text!r} is not a number.") from None
    low = -math.inf if wanted.low is None else wanted.low
    high = math.inf if wanted.high is None else wanted.high
    if not (math.isfinite(number) and low <= number <= high):
        raise SignalError(
            "bench_invalid",
            f"{wanted.label}: {text} is outside {low:g} to {high:g}{' ' + wanted.unit if wanted.unit else ''}.",
        )
    return number


def number(values: Values, name: str) -> float:
    """A numeric input."""
    return float(values[name])
