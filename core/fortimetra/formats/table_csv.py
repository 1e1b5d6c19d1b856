"""Tables as CSV (RFC 4180): a head, a comma, a full stop in numbers, lines that end in CR LF."""

from __future__ import annotations

import csv
import io
from collections.abc import Iterable, Sequence

# What a spreadsheet would take for a formula.
_FORMULA = ("=", "+", "-", "@", "\t", "\r")

Cell = str | float | int | bool | None


def table_csv(columns: Sequence[str], rows: Iterable[Sequence[Cell]]) -> str:
    """A table as text; None is an empty cell. Words that begin like a formula get an apostrophe before them.

    >>> table_csv(("title", "cents"), [("=1+1", -3.0), ("plain", None)]).splitlines()
    ['title,cents', "'=1+1,-3.0", 'plain,']
    """
    out = io.StringIO()
    writer = csv.writer(out)
    writer.writerow(columns)
    for row in rows:
        writer.writerow([_cell(value) for value in row])
    return out.getvalue()


def _cell(value: Cell) -> str:
    if value is None:
        return ""
    if not isinstance(value, str):
        return str(value)
    return f"'{value}" if value.startswith(_FORMULA) and not _is_number(value) else value


def _is_number(text: str) -> bool:
    try:
        float(text)
    except ValueError:
        return False
    return True
