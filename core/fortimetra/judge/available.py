"""What this version can judge; a drill may ask for more, and the note then says "cannot tell"."""

from __future__ import annotations

from fortimetra.model.tolerance import Measure

AVAILABLE: frozenset[Measure] = frozenset({"pitch", "bend", "vibrato"})
