"""Fortimetra's measuring core: a drill and a recording in, numbers with their uncertainty out.

The measuring functions are loaded when they are first asked for: whoever only needs the models does not wait for
the signal processing.
"""

from __future__ import annotations

from typing import TYPE_CHECKING

from fortimetra.errors import DrillError, FortimetraError, SignalError, TakeError
from fortimetra.later import later
from fortimetra.model.analysis import Analysis
from fortimetra.model.context import Click, Setup
from fortimetra.model.drill import Drill
from fortimetra.model.guitar import Guitar
from fortimetra.sound.kind import sniff
from fortimetra.version import __version__

if TYPE_CHECKING:
    from fortimetra.guess import guess_drill
    from fortimetra.hear.settings import CONTOUR_HOP_S
    from fortimetra.pipeline import STAGES, MeasuredTake, analyse, measure_take
    from fortimetra.sound.decode import Limits, Take, load_take, resampled

__getattr__ = later(
    __name__,
    {
        "STAGES": "fortimetra.pipeline",
        "MeasuredTake": "fortimetra.pipeline",
        "analyse": "fortimetra.pipeline",
        "measure_take": "fortimetra.pipeline",
        "guess_drill": "fortimetra.guess",
        "Limits": "fortimetra.sound.decode",
        "Take": "fortimetra.sound.decode",
        "load_take": "fortimetra.sound.decode",
        "resampled": "fortimetra.sound.decode",
        "CONTOUR_HOP_S": "fortimetra.hear.settings",
    },
)


__all__ = [
    "CONTOUR_HOP_S",
    "STAGES",
    "Analysis",
    "Click",
    "Drill",
    "DrillError",
    "FortimetraError",
    "Guitar",
    "Limits",
    "MeasuredTake",
    "Setup",
    "SignalError",
    "Take",
    "TakeError",
    "__version__",
    "analyse",
    "guess_drill",
    "load_take",
    "measure_take",
    "resampled",
    "sniff",
]
