"""Typed models of the contract: what is asked (drill, click, set-up) and what was found (analysis)."""

from fortimetra.model.analysis import Analysis, Hum, NoteFound, SetupFound
from fortimetra.model.base import MAX_FILE_BYTES, Model, first_problem
from fortimetra.model.context import Click, FrettedPitch
from fortimetra.model.drill import Shelf
from fortimetra.model.form import Input
from fortimetra.model.guitar import STANDARD_TUNING, Guitar, GuitarKind, checked_tuning, preset
from fortimetra.model.ladder import LadderRule, Speed, Step, rule_for
from fortimetra.model.summary import MemberCounts, RingJob, Summary
from fortimetra.model.tolerance import Tolerances
from fortimetra.model.verdict import Verdict
from fortimetra.model.word import Mark, Pin

__all__ = [
    "MAX_FILE_BYTES",
    "STANDARD_TUNING",
    "Analysis",
    "Click",
    "FrettedPitch",
    "Guitar",
    "GuitarKind",
    "Hum",
    "Input",
    "LadderRule",
    "Mark",
    "MemberCounts",
    "Model",
    "NoteFound",
    "Pin",
    "RingJob",
    "SetupFound",
    "Shelf",
    "Speed",
    "Step",
    "Summary",
    "Tolerances",
    "Verdict",
    "checked_tuning",
    "first_problem",
    "preset",
    "rule_for",
]
