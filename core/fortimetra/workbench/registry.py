"""All calculators of the workbench, in the order they are shown."""

from __future__ import annotations

from fortimetra.workbench.calculator import Calculator
from fortimetra.workbench.pitch import BEATS, CONVERTER
from fortimetra.workbench.push import CHOKE, INTONATION, PUSH
from fortimetra.workbench.strings import FRETS, TENSION
from fortimetra.workbench.sympathy import SYMPATHY
from fortimetra.workbench.tempo import TEMPO

CALCULATORS: dict[str, Calculator] = {
    c.id: c for c in (CONVERTER, BEATS, TEMPO, FRETS, TENSION, PUSH, CHOKE, INTONATION, SYMPATHY)
}
