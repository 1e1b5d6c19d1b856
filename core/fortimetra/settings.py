"""How settings are written: frozen fields with a meaning and a source, a stage of the pipeline each.

`FORTIMETRA_SETTINGS` holds other values for an experiment, as JSON: {"hear.onsets.rise_db": 2.5}. The digest says so
in every analysis.
"""

from __future__ import annotations

import hashlib
import json
import os
from collections import namedtuple
from collections.abc import Iterator
from dataclasses import dataclass, field, fields, is_dataclass, replace
from typing import Any, TypeVar

T = TypeVar("T")
ENVIRONMENT = "FORTIMETRA_SETTINGS"


def setting(value: T, meaning: str, source: str) -> T:
    """A field with its value, one line of meaning, and where the value comes from."""
    made: T = field(default=value, metadata={"meaning": meaning, "source": source})
    return made


@dataclass(frozen=True)
class Row:
    """One setting. name: stage.group.field."""

    name: str
    value: Any
    meaning: str
    source: str


_stages: dict[str, Any] = {}


def stage(name: str, made: T) -> T:
    """A stage's settings, with the values of an experiment where there is one."""
    given = {k: v for k, v in json.loads(os.environ.get(ENVIRONMENT, "{}")).items() if k.split(".")[0] == name}
    for key, value in given.items():
        _, group, own = key.split(".")
        before = getattr(made, group)
        now = tuple(value) if isinstance(value, list) else value
        made = replace(made, **{group: replace(before, **{own: now})})  # type: ignore[type-var]
    _stages[name] = made
    return made


def for_compiled(group: Any, module: str) -> Any:
    """A group as a named tuple, which compiled functions take.

    Its type is named for the group's, with Tuple after it, and has to be held under that name in `module`: what is
    compiled is kept by the name of its arguments' types.
    """
    own = namedtuple(f"{type(group).__name__}Tuple", [f.name for f in fields(group)])  # type: ignore[misc]
    own.__module__ = module
    return own(*(getattr(group, f.name) for f in fields(group)))


def rows() -> Iterator[Row]:
    """Every setting of the stages that are loaded, stage by stage."""
    for name, made in _stages.items():
        for group in fields(made):
            held = getattr(made, group.name)
            if not is_dataclass(held):
                continue
            for own in fields(held):
                about = own.metadata
                yield Row(f"{name}.{group.name}.{own.name}", getattr(held, own.name), about["meaning"], about["source"])


def digest() -> str:
    """Twelve hexadecimal digits of all values that are loaded."""
    text = json.dumps(sorted((row.name, row.value) for row in rows()))
    return hashlib.sha256(text.encode()).hexdigest()[:12]
