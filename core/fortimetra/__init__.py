"""Fortimetra's measuring core: a drill and a recording in, numbers with their uncertainty out.

The measuring functions are loaded when they are first asked for: whoever only needs the models does not wait for
the signal processing.
"""

from __future__ import annotations

import importlib
from typing import TYPE_CHECKING, Any

from fortimetra.errors import DrillError, FortimetraError, SignalError, TakeError
from fortimetra.model.analysis import Analysis
from fortimetra.model.context import Click, Setup
from fortimetra.model.drill import Drill
from fortimetra.model.guitar import Guitar
from fortimetra.version import __version__

if TYPE_CHECKING:
    from fortimetra.guess import guess_drill
    from fortimetra.pipeline import STAGES, Measured, analyse, measure_take
    from fortimetra.sound.decode import Limits, Take, load_take

_LATER = {
    "STAGES": "fortimetra.pipeline",
    "Measured": "fortimetra.pipeline",
    "analyse": "fortimetra.pipeline",
    "measure_take": "fortimetra.pipeline",
    "guess_drill": "fortimetra.guess",
    "Limits": "fortimetra.sound.decode",
    "Take": "fortimetra.sound.decode",
    "load_take": "fortimetra.sound.decode",
}


def __getattr__(name: str) -> Any:
    if name not in _LATER:
        raise AttributeError(f"module {__name__!r} has no attribute {name!r}")
    value = getattr(importlib.import_module(_LATER[name]), name)
    globals()[name] = value
    return value


__all__ = [
    "STAGES",
    "Analysis",
    "Click",
    "Drill",
    "DrillError",
    "FortimetraError",
    "Guitar",
    "Limits",
    "Measured",
    "Setup",
    "SignalError",
    "Take",
    "TakeError",
    "__version__",
    "analyse",
    "guess_drill",
    "load_take",
    "measure_take",
]
