"""What the simulated student does wrong, and the truth that is written beside the sound."""

from __future__ import annotations

from typing import Annotated, Literal

from pydantic import Field

from fortimetra.model.base import Document, Model


class NoteFault(Model):
    """Faults of one note; what is not given is played as the drill asks."""

    cents: Annotated[float, Field(ge=-400, le=400, description="Off the asked pitch, or off the asked bend.")] = 0.0
    late_ms: Annotated[float, Field(ge=-500, le=500)] = 0.0
    level_db: Annotated[float, Field(ge=-40, le=12)] = 0.0
    length: Annotated[
        float, Field(gt=0.05, le=3.0, description="Share of the slot that sounds; over 1 it rings into the next.")
    ] = 0.95
    rise_ms: Annotated[float, Field(ge=20, le=2000, description="10 to 90 % of a bend.")] = 150.0
    overshoot_cents: Annotated[float, Field(ge=0, le=200)] = 0.0
    hold_drift_cents_per_s: Annotated[float, Field(ge=-200, le=200)] = 0.0
    wobble_cents: Annotated[float, Field(ge=0, le=100, description="Half the swing of an unsteady hold, at 5 Hz.")] = (
        0.0
    )
    vibrato_rate_hz: Annotated[float | None, Field(gt=0.5, le=12, description="null: the middle of what is asked.")] = (
        None
    )
    vibrato_extent_cents: Annotated[float | None, Field(ge=0, le=300, description="Peak to peak; null as above.")] = (
        None
    )
    vibrato_rate_cv: Annotated[float, Field(ge=0, le=1, description="Unevenness from cycle to cycle.")] = 0.0
    vibrato_extent_cv: Annotated[float, Field(ge=0, le=1)] = 0.0
    vibrato_return_cents: Annotated[float, Field(ge=-200, le=200, description="Where it returns to, off the line.")] = (
        0.0
    )
    double_ms: Annotated[float | None, Field(ge=15, le=120, description="Struck again so long after; null: once.")] = (
        None
    )
    missed: bool = False
    wrong_frets: Annotated[int, Field(ge=-12, le=12)] = 0


class Ring(Model):
    """An open string that sounds although nobody asked for it."""

    string: Annotated[int, Field(ge=1, le=8)]
    event: str
    repeat: Annotated[int, Field(ge=0)] = 0
    level_db: Annotated[float, Field(le=0, description="Against a plain note.")]
    length_s: Annotated[float, Field(gt=0, le=20)] = 0.5


class Scrape(Model):
    """A finger that drags along a wound string: a burst without pitch, so long after a note begins."""

    event: str
    repeat: Annotated[int, Field(ge=0)] = 0
    after_s: Annotated[float, Field(ge=0, le=20)] = 0.2
    level_db: Annotated[float, Field(le=0, description="Against a plain note.")] = -20.0
    length_s: Annotated[float, Field(ge=0.03, le=1)] = 0.12


class Faults(Document):
    """A performance: the rig, the guitar and every departure from the drill. Format `fortimetra-faults`, version 1."""

    format: Literal["fortimetra-faults"] = "fortimetra-faults"
    version: Literal[1] = 1
    seed: int = 1
    lead_in_s: Annotated[float, Field(ge=0.2, le=30)] = 1.0
    tail_s: Annotated[float, Field(ge=0.2, le=30)] = 0.8
    tempo_factor: Annotated[float, Field(gt=0.4, lt=2.5)] = 1.0
    tuning_offset_cents: tuple[float, ...] = ()
    attack_sharp_cents: Annotated[
        float, Field(ge=0, le=40, description="How sharp a pluck starts before it settles.")
    ] = 3.0
    decay_s: Annotated[float, Field(ge=0.5, le=60, description="60 dB decay of the open lowest string.")] = 20.0
    stiffness: Annotated[float, Field(ge=0, le=1e-3, description="Inharmonicity B of an open string.")] = 5e-5
    pick_position: Annotated[float, Field(ge=0.04, le=0.5)] = 0.14
    sympathetic_db: Annotated[
        float,
        Field(le=-20, description="How strings nobody damps are driven by the others; a careful player damps them."),
    ] = -75.0
    colour: Literal["none", "cabinet", "body"] = "cabinet"
    drive_db: Annotated[float, Field(ge=0, le=60)] = 0.0
    floor_dbfs: Annotated[float, Field(le=-20)] = -75.0
    hum_hz: Annotated[float, Field(ge=40, le=70)] | None = None
    hum_dbfs: Annotated[float, Field(le=-20)] = -70.0
    peak_dbfs: Annotated[float, Field(le=0, ge=-60)] = -6.0
    dc_fraction: Annotated[
        float, Field(ge=-0.3, le=0.3, description="Offset of the zero line, share of full scale.")
    ] = 0.0
    automatic_gain_db_per_s: Annotated[
        float | None, Field(gt=0, le=200, description="How fast a gain that should be off climbs.")
    ] = None
    gate_dbfs: Annotated[float | None, Field(le=0, ge=-90, description="Threshold of a noise gate.")] = None
    random_cents: Annotated[float, Field(ge=0, le=50)] = 0.0
    random_ms: Annotated[float, Field(ge=0, le=100)] = 0.0
    random_db: Annotated[float, Field(ge=0, le=12)] = 0.0
    every_note: NoteFault = NoteFault()
    notes: Annotated[
        dict[str, NoteFault], Field(default_factory=dict, description="By event id, or id@repeat for one repeat.")
    ]
    rings: tuple[Ring, ...] = ()
    scrapes: tuple[Scrape, ...] = ()

    def of(self, event_id: str, repeat: int) -> NoteFault:
        """The faults of one note."""
        return self.notes.get(f"{event_id}@{repeat}") or self.notes.get(event_id) or self.every_note


class TrueNote(Model):
    """What one note really was."""

    id: str
    repeat: int
    string: int
    fret: int | None
    missed: bool
    onset_s: float | None
    end_s: float | None
    hz: Annotated[float | None, Field(description="Settled pitch; of a bend the fretted pitch it starts from.")]
    cents_from_temperament: float | None
    reached_cents: Annotated[
        float | None, Field(description="Middle of the hold above the string's own fretted pitch.")
    ]
    rise_ms: float | None
    drift_cents_per_s: float | None
    late_ms: float | None
    level_db: float | None


class Truth(Document):
    """Truth of a rendered take. Format `fortimetra-truth`, version 1. Invented data."""

    format: Literal["fortimetra-truth"] = "fortimetra-truth"
    version: Literal[1] = 1
    invented: Literal[True] = True
    sample_rate_hz: int
    bpm: float | None
    first_beat_s: float
    notes: tuple[TrueNote, ...]
