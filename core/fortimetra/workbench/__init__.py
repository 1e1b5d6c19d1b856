"""What teacher and student work out in their heads today: calculators, targets, reference tones, the ear check."""

from fortimetra.workbench.calculator import Answer, Calculator, read_inputs
from fortimetra.workbench.ear import UNITS, EarKind, EarState, Said, ear_state, trial_sound
from fortimetra.workbench.registry import CALCULATORS
from fortimetra.workbench.strings import body_of, stress_warnings, tension_n
from fortimetra.workbench.targets import Target, target, targets
from fortimetra.workbench.tones import click_track, plucked, sine, sound_file

__all__ = [
    "CALCULATORS",
    "UNITS",
    "Answer",
    "Calculator",
    "EarKind",
    "EarState",
    "Said",
    "Target",
    "body_of",
    "click_track",
    "ear_state",
    "plucked",
    "read_inputs",
    "sine",
    "sound_file",
    "stress_warnings",
    "target",
    "targets",
    "tension_n",
    "trial_sound",
]
