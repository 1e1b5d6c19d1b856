"""Fortimetra's measuring core: a drill and a recording in, numbers with their uncertainty out."""

from fortimetra.analyse import STAGES, Measured, analyse, measure_take
from fortimetra.errors import DrillError, FortimetraError, SignalError, TakeError
from fortimetra.model.analysis import Analysis
from fortimetra.model.context import Click, Setup
from fortimetra.model.drill import Drill
from fortimetra.sound.decode import Limits, Take, load_take
from fortimetra.version import __version__

__all__ = [
    "STAGES",
    "Analysis",
    "Click",
    "Drill",
    "DrillError",
    "FortimetraError",
    "Limits",
    "Measured",
    "Setup",
    "SignalError",
    "Take",
    "TakeError",
    "__version__",
    "analyse",
    "load_take",
    "measure_take",
]
