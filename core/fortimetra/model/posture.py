"""Both hands at one event: what is held, what sounds, and who keeps each other string quiet."""

from __future__ import annotations

from typing import Literal

from fortimetra.model.base import Model
from fortimetra.model.hand import Push

# A part of a hand that lies on a string: of the fretting hand, then of the picking hand.
Part = Literal[
    "tip", "underside", "pad", "idle_finger", "thumb_over", "bending_finger", "behind_slide",
    "palm", "free_fingers", "picking_finger",
]  # fmt: skip


class Damper(Model):
    """What keeps one string quiet. finger: of the fretting hand, where it is one; sure: it reaches by itself."""

    string: int
    part: Part
    finger: str | None = None
    sure: bool = True
    says: str = ""


class Held(Model):
    """One note the fretting hand holds: with the tip, flat, or with the slide. A fret of 0 is the open string."""

    string: int
    fret: int
    finger: str | None = None
    flat: bool = False


class Posture(Model):
    """Both hands at one event. pushed: which way held[0] is bent or shaken; quiet: one damper a string, the likeliest;
    unreachable: strings nothing reaches."""

    event: str
    beat: float
    held: tuple[Held, ...] = ()
    sounding: tuple[int, ...] = ()
    pushed: Push | None = None
    quiet: tuple[Damper, ...] = ()
    unreachable: tuple[int, ...] = ()
    says: tuple[str, ...] = ()
    moved: tuple[str, ...] = ()

    def damper(self, string: int) -> Damper | None:
        """Whose job a string is here."""
        return next((d for d in self.quiet if d.string == string), None)
