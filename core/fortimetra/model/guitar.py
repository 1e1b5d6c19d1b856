"""The guitar a take is made with. Format `fortimetra-guitar`, version 1.

Lengths in mm, whatever the maker prints: a gauge of "ten" is 0.010 inch = 0.254 mm.
"""

from __future__ import annotations

from typing import Annotated, Literal, Self

from pydantic import Field, field_validator, model_validator

from fortimetra.errors import SignalError
from fortimetra.model.base import Document, Model
from fortimetra.units import name_to_midi

GuitarKind = Literal["solid", "semi_hollow", "steel_acoustic", "nylon"]
MM_PER_INCH = 25.4


class String(Model):
    """One string of a guitar."""

    gauge_mm: Annotated[float, Field(ge=0.15, le=2.5, description="Diameter; 0.010 inch is 0.254 mm.")]
    wound: bool
    unit_weight_g_per_m: Annotated[
        float | None, Field(gt=0, le=30, description="As the maker states it; null: estimated from the gauge.")
    ] = None


class Guitar(Document):
    """What is known of a guitar; string 1 is the highest."""

    format: Literal["fortimetra-guitar"] = "fortimetra-guitar"
    version: Literal[1] = 1
    kind: GuitarKind
    strings: Annotated[tuple[String, ...], Field(min_length=4, max_length=8)]
    scale_mm: Annotated[float, Field(ge=300, le=900, description="Nut to saddle, without compensation.")]
    tuning: Annotated[
        tuple[str | float, ...],
        Field(min_length=4, max_length=8, description="Open strings without capo: pitch names or MIDI numbers."),
    ]
    capo: Annotated[int, Field(ge=0, le=12)] = 0
    a4_hz: Annotated[float, Field(ge=380, le=480)] = 440.0
    action_treble_mm: Annotated[
        float | None, Field(gt=0, le=8, description="String 1 over the top of the 12th fret.")
    ] = None
    action_bass_mm: Annotated[float | None, Field(gt=0, le=8)] = None
    radius_mm: Annotated[
        float | None, Field(ge=100, le=2000, description="Fretboard radius; null: flat or not known.")
    ] = None
    frets: Annotated[int, Field(ge=12, le=36)] = 22
    notes: Annotated[str, Field(max_length=2000)] = ""

    @field_validator("tuning")
    @classmethod
    def _tuning(cls, value: tuple[str | float, ...]) -> tuple[str | float, ...]:
        return checked_tuning(value)

    @model_validator(mode="after")
    def _same_count(self) -> Self:
        if len(self.strings) != len(self.tuning):
            raise ValueError(f"{len(self.strings)} strings are described, but {len(self.tuning)} are tuned")
        return self

    def open_midi(self, string: int) -> float:
        """Sounding pitch of an open string, capo included."""
        return pitch_midi(self.tuning[string - 1]) + self.capo


def pitch_midi(pitch: str | float) -> float:
    """MIDI number of a pitch given either way."""
    return float(name_to_midi(pitch)) if isinstance(pitch, str) else pitch


def checked_tuning(value: tuple[str | float, ...]) -> tuple[str | float, ...]:
    """The tuning itself; raises ValueError naming the string that no guitar has."""
    for number, pitch in enumerate(value, 1):
        try:
            midi = pitch_midi(pitch)
        except SignalError as error:
            raise ValueError(f"string {number}: {error.detail}") from None
        if not 20 <= midi <= 90:
            raise ValueError(f"string {number}: {pitch} is outside the range of a guitar (G#0 to F#6)")
    return value


STANDARD_TUNING: tuple[str | float, ...] = ("E4", "B3", "G3", "D3", "A2", "E2")

# Gauges in thousandths of an inch; the first wound string; scale in mm. Typical sets and sizes, from memory.
_PRESETS: dict[GuitarKind, tuple[tuple[float, ...], int, float, float, float, float | None, int]] = {
    "solid": ((10, 13, 17, 26, 36, 46), 4, 648.0, 1.6, 2.0, 241.0, 22),
    "semi_hollow": ((11, 14, 18, 28, 38, 49), 4, 628.0, 1.6, 2.0, 305.0, 22),
    "steel_acoustic": ((12, 16, 24, 32, 42, 53), 3, 645.0, 2.0, 2.6, 406.0, 20),
    "nylon": ((28, 32, 40, 29, 35, 43), 4, 650.0, 3.0, 4.0, None, 19),
}


def preset(kind: GuitarKind) -> Guitar:
    """A typical guitar of its kind, to be corrected by its owner."""
    gauges, first_wound, scale, treble, bass, radius, frets = _PRESETS[kind]
    return Guitar(
        kind=kind,
        strings=tuple(
            String(gauge_mm=round(g * MM_PER_INCH / 1000.0, 4), wound=i >= first_wound) for i, g in enumerate(gauges, 1)
        ),
        scale_mm=scale,
        tuning=STANDARD_TUNING,
        action_treble_mm=treble,
        action_bass_mm=bass,
        radius_mm=radius,
        frets=frets,
    )
