"""The simulated student: renders a drill to sound with stated faults. Invented data, for the demo and for tests."""

from typing import TYPE_CHECKING

from fortimetra.later import later
from fortimetra.player.faults import Faults, NoteFault, Ring, Scrape
from fortimetra.player.shown import PreviewTimes, Shown, at_tempo, times

if TYPE_CHECKING:
    from fortimetra.player.previews import preview
    from fortimetra.player.rendering import render

__getattr__ = later(__name__, {"preview": "fortimetra.player.previews", "render": "fortimetra.player.rendering"})
__all__ = ["Faults", "NoteFault", "PreviewTimes", "Ring", "Scrape", "Shown", "at_tempo", "preview", "render", "times"]
