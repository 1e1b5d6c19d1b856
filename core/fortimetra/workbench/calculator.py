"""What a calculator is: described inputs, a pure function, and where its formula comes from.

Everything a screen or an API needs to offer it is in the description: labels, units, valid ranges, defaults (which are
its worked example), formula and source.
"""

from __future__ import annotations

from collections.abc import Callable, Mapping
from dataclasses import dataclass, field

from fortimetra.model.form import Input, Value, Values, number, read_form


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
    """Typed inputs of a calculator from text; raises SignalError(code="bench_invalid") naming the field."""
    return read_form(calculator.inputs, given, title=calculator.title, code="bench_invalid")


__all__ = ["Answer", "Calculator", "Input", "Output", "Table", "Value", "Values", "number", "read_inputs"]
