"""Names of a package that are imported when they are first asked for: signal processing takes a second to load."""

from __future__ import annotations

import importlib
import sys
from collections.abc import Callable, Mapping
from typing import Any


def later(package: str, where: Mapping[str, str]) -> Callable[[str], Any]:
    """The package's `__getattr__` (PEP 562). where: name to the module it is in, which must not bear the same name.

    Raises AttributeError for other names.
    """

    def get(name: str) -> Any:
        if name not in where:
            raise AttributeError(f"module {package!r} has no attribute {name!r}")
        value = getattr(importlib.import_module(where[name]), name)
        setattr(sys.modules[package], name, value)
        return value

    return get
