"""What is known about a take beside its sound: the click it was played to, the guitar's set-up."""

from __future__ import annotations

from typing import Annotated, Literal

from pydantic import Field

from fortimetra.model.base import Document, Model

ClickSource = Literal["recorder", "channel", "audible", "fitted", "none"]


class Click(Document):
    """Where the click lies in a take. Format `fortimetra-click`, version 1."""

    format: Literal["fortimetra-click"]
    version: Literal[1]
    source: ClickSource
    bpm: Annotated[float, Field(ge=20, le=400)]
    first_beat_s: Annotated[
        float | None, Field(ge=0, description="Scheduled time of beat 0 of the first repeat, in the take.")
    ] = None
    beats_per_bar: Annotated[int, Field(ge=1, le=16)] = 4
    latency_ms: Annotated[
        float | None, Field(ge=0, le=2000, description="Round trip; null if it was not measured.")
    ] = None
    channel: Annotated[int | None, Field(ge=0, le=1)] = None

    @property
    def heard_s(self) -> float | None:
        """Where a note on beat 0 is heard, as far as the click's source knows."""
        return None if self.first_beat_s is None else self.first_beat_s + (self.latency_ms or 0.0) / 1000.0


class FrettedPitch(Model):
    """A fretted note as other takes of the guitar have it."""

    string: Annotated[int, Field(ge=1, le=8)]
    fret: Annotated[int, Field(ge=0, le=36)]
    error_cents: Annotated[float, Field(ge=-100, le=100, description="From equal temperament at a4_hz.")]
    u: Annotated[float, Field(ge=0)]


class Setup(Document):
    """The guitar and rig a take was made with. Format `fortimetra-setup`, version 1."""

    format: Literal["fortimetra-setup"]
    version: Literal[1]
    a4_hz: Annotated[float, Field(ge=380, le=480)] = 440.0
    string_offset_cents: Annotated[
        tuple[float | None, ...], Field(min_length=4, max_length=8, description="Open strings, string 1 first.")
    ]
    twelfth_fret_error_cents: tuple[float | None, ...] | None = None
    noise_floor_dbfs: float | None = None
    hum_hz: float | None = None
    tuning: Annotated[
        tuple[float, ...] | None,
        Field(description="MIDI numbers of the open strings, capo included, the offsets are relative to."),
    ] = None
    fretted: Annotated[
        tuple[FrettedPitch, ...], Field(max_length=300, description="Fretted notes in other takes of the guitar.")
    ] = ()

    @property
    def has_offsets(self) -> bool:
        """Whether it says how any string is tuned."""
        return any(value is not None for value in self.string_offset_cents)
