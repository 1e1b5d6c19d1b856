"""What the hands do: which finger, which stroke, which way a string is pushed, how a slide travels."""

from __future__ import annotations

from typing import Annotated, Literal, Self

from pydantic import Field, model_validator

from fortimetra.model.base import Model

# 1 to 4 are the first to the little finger of the fretting hand; "tap" a finger of the picking hand; "slide" the tube.
Finger = Literal["1", "2", "3", "4", "thumb", "tap", "slide"]
# A sweep is one motion through the strings: its first note has down or up, the notes it goes on to sweep_down,
# sweep_up.
Stroke = Literal["down", "up", "sweep_down", "sweep_up"]
# Which way a string is pushed over the fretboard.
Push = Literal["toward_thicker", "toward_thinner"]

# Which hand keeps strings quiet first, where both could.
DampingSchool = Literal["fretting_hand", "picking_hand", "both"]

MOST_CYCLES_PER_BEAT = 12.0
CyclesPerBeat = Annotated[float, Field(gt=0, le=MOST_CYCLES_PER_BEAT)]


class Slide(Model):
    """A slide into the notes of its event.

    Without from_fret it comes from the note before on the string, and ends at the event's beat. With from_fret the
    string is struck at that fret on the beat, and slides to the note from there.
    """

    from_fret: Annotated[
        int | None, Field(ge=0, le=36, description="Struck there first; null: from the note before.")
    ] = None
    length: Annotated[float | None, Field(gt=0, le=8, description="Beats it travels; null: as short as one likes.")] = (
        None
    )


class VibratoAsked(Model):
    """What a drill asks of a vibrato."""

    return_line: Annotated[Literal["bottom", "top", "centre"], Field(alias="return")]
    rate_hz: tuple[float, float] | None = None
    extent_cents: tuple[float, float] | None = None
    cycles_per_beat: Annotated[
        CyclesPerBeat | tuple[CyclesPerBeat, ...] | None,
        Field(description="Cycles to the click; several: in turn, each over an equal share of the note."),
    ] = None
    direction: Push | None = None

    @model_validator(mode="after")
    def _one_rate(self) -> Self:
        if self.cycles_per_beat is not None and self.rate_hz is not None:
            raise ValueError("a vibrato asks for cycles to the click or for a rate in Hz, not for both")
        if isinstance(self.cycles_per_beat, tuple) and not 2 <= len(self.cycles_per_beat) <= 8:
            raise ValueError("a path of rates has two to eight of them")
        return self

    @property
    def path(self) -> tuple[float, ...] | None:
        """Cycles a beat in turn, where several are asked for."""
        return self.cycles_per_beat if isinstance(self.cycles_per_beat, tuple) else None
