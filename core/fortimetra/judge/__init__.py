"""From numbers to verdicts and counts."""

from typing import TYPE_CHECKING

from fortimetra.judge.compare import Comparison, compare
from fortimetra.judge.flips import Flip, added, flips
from fortimetra.judge.reasons import SENTENCES
from fortimetra.later import later

if TYPE_CHECKING:
    from fortimetra.judge.set_up import setup_of

__getattr__ = later(__name__, {"setup_of": "fortimetra.judge.set_up"})
__all__ = ["SENTENCES", "Comparison", "Flip", "added", "compare", "flips", "setup_of"]
