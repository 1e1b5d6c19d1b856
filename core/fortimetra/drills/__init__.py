"""The drill families as generators."""

from fortimetra.drills.blank import blank
from fortimetra.drills.check import Problem, check
from fortimetra.drills.facts import Sign, digest, facts
from fortimetra.drills.generator import Generator, generate
from fortimetra.drills.library import GENERATORS, library
from fortimetra.drills.partner import partner_values
from fortimetra.drills.set_up import set_up
from fortimetra.drills.sets import make_set, values_of

__all__ = [
    "GENERATORS",
    "Generator",
    "Problem",
    "Sign",
    "blank",
    "check",
    "digest",
    "facts",
    "generate",
    "library",
    "make_set",
    "partner_values",
    "set_up",
    "values_of",
]
