"""Which settings are read, by what is run meanwhile. As a pytest plugin: by each test, written as JSON where
`FORTIMETRA_READS` names a file.
"""

from __future__ import annotations

import dataclasses
import importlib
import json
import os
from collections.abc import Callable, Iterator
from pathlib import Path
from typing import Any

import pytest

FILE = "FORTIMETRA_READS"


def groups() -> Iterator[tuple[str, Any]]:
    """Every group of settings of the loaded core, with its name, stage.group."""
    from fortimetra import settings

    for stage, made in settings._stages.items():
        for group in dataclasses.fields(made):
            held = getattr(made, group.name)
            if dataclasses.is_dataclass(held):
                yield f"{stage}.{group.name}", held


def spied_on() -> set[str]:
    """A set to which the name of each setting is added, from now on, as it is read."""
    importlib.import_module("fortimetra.pipeline.versions")  # which loads every stage
    names = {id(held): name for name, held in groups()}
    found: set[str] = set()

    def spying(plain: Callable[[object, str], object]) -> Callable[[object, str], object]:
        def read(self: object, name: str) -> object:
            if id(self) in names:
                found.add(f"{names[id(self)]}.{name}")
            return plain(self, name)

        return read

    for kind in {type(held) for _, held in groups()}:
        kind.__getattribute__ = spying(kind.__getattribute__)
    return found


class _ByTest:
    """Collects what each test reads, its own fixtures included."""

    def __init__(self) -> None:
        self.now = spied_on()
        self.by_test: dict[str, list[str]] = {}

    def pytest_runtest_logstart(self) -> None:
        self.now.clear()

    def pytest_runtest_logfinish(self, nodeid: str) -> None:
        self.by_test[nodeid] = sorted(self.now)

    def pytest_sessionfinish(self) -> None:
        Path(os.environ[FILE]).write_text(json.dumps(self.by_test))


def pytest_configure(config: pytest.Config) -> None:
    """Begin to look on, where a file is named for it."""
    if os.environ.get(FILE):
        config.pluginmanager.register(_ByTest())
