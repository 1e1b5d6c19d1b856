"""The analysis: what was found. Format `fortimetra-analysis`, version 1.

Signs: sharp, late, loud and long are positive. `u` is the expanded uncertainty (about 95 %) in the unit
of the value beside it. A value that was not asked for or cannot be had is null, with the reason in `reasons`.
"""

from __future__ import annotations

from typing import Annotated, Literal

from pydantic import Field

from fortimetra.model.base import Document, Model
from fortimetra.model.context import ClickSource
from fortimetra.model.drill import BendKind

Verdict = Literal["inside", "outside", "unclear"]
Status = Literal["played", "missed", "wrong_pitch", "partly_played"]


class Harmonic(Model):
    """One harmonic of the mains that stands out."""

    number: int
    level_dbfs: float


class Hum(Model):
    """Mains hum in the rest of the take; level_dbfs is that of its harmonics together."""

    hz: float
    level_dbfs: float
    harmonics: tuple[Harmonic, ...] = ()


class TakeInfo(Model):
    """The recording itself."""

    sha256: str
    duration_s: float
    sample_rate_hz: int
    channels: int
    peak_dbfs: float
    loudness_lufs: float | None
    noise_floor_dbfs: float
    clipped_fraction: float
    hum: Hum | None
    warnings: tuple[str, ...] = ()


class Grid(Model):
    """The beat grid the timing is read against."""

    source: ClickSource
    bpm: float | None
    first_beat_s: float | None
    u_ms: float | None


class Reference(Model):
    """What the values are relative to."""

    a4_hz: float
    string_offset_cents: tuple[float | None, ...]
    grid: Grid
    offset_source: Annotated[
        Literal["setup", "take", "none"], Field(description="Where the string offsets come from.")
    ] = "none"


class PitchFound(Model):
    """Plain pitch of a note, against equal temperament shifted by the string's own offset."""

    median_hz: float | None
    error_cents: float | None
    u: float | None
    verdict: Verdict | None


class BendFound(Model):
    """One bend. Cents of start, reached and target are relative to the fretted pitch of the bent note."""

    kind: BendKind
    target_cents: float | tuple[float, float]
    reference_hz: float | None
    reference_source: str
    start_cents: float | None
    reached_cents: float | None
    error_cents: float | None
    error_tempered_cents: float | None = None
    u: float | None
    rise_ms: float | None
    overshoot_cents: float | None
    hold_sd_cents: float | None
    hold_drift_cents_per_s: float | None
    plateau: tuple[float, float] | None
    choked: bool | None
    beat_hz: float | None
    difference_cents: float | None
    merge_ms: float | None
    landing_error_cents: float | None
    u_beat: float | None = None
    state: Annotated[
        Literal["under", "there", "past"] | None,
        Field(description="Of a unison bend: not there yet, there, or past it; null where it cannot be told."),
    ] = None
    u_landing: float | None = None
    landing: tuple[float, float] | None = None
    verdict: Verdict


class VibratoFound(Model):
    """One vibrato."""

    rate_hz: float | None
    rate_cv: float | None
    extent_cents: float | None
    extent_cv: float | None
    return_error_cents: float | None
    return_sd_cents: float | None
    cycles: int
    shape: Literal["subtle", "medium", "wide"] | None
    fade_db_per_s: float | None
    region: tuple[float, float] | None
    u_rate: float | None
    u_extent: float | None
    u_return: float | None
    u_rate_cv: float | None = None
    u_extent_cv: float | None = None
    verdict: Verdict


class TimingFound(Model):
    """One onset against the grid."""

    grid_s: float | None
    error_ms: float | None
    u: float | None
    verdict: Verdict


class LevelFound(Model):
    """One note's level."""

    level_db: float | None
    deviation_db: float | None
    u: float | None
    dies: bool | None
    verdict: Verdict


class LengthFound(Model):
    """One note's length; u in ms."""

    length_ratio: float | None
    overlap_ms: float | None
    u: float | None
    verdict: Verdict


class NoiseFound(Model):
    """What rings during one note."""

    worst_ring_db: float | None
    string: int | None
    u: float | None
    verdict: Verdict


class NoteFound(Model):
    """One asked note of one repeat, or a heard note where there is no drill."""

    id: str
    repeat: int
    status: Status
    string: int | None
    fret: int | None
    onset_s: float | None
    end_s: float | None
    pitch: PitchFound | None
    bend: BendFound | None
    vibrato: VibratoFound | None
    timing: TimingFound | None
    level: LevelFound | None
    length: LengthFound | None
    noise: NoiseFound | None
    clean: Verdict | None
    reasons: tuple[str, ...] = ()

    @property
    def deviation_cents(self) -> float | None:
        """How far off its pitch it is, where that is its fault: of a bend, of a vibrato's return, of a plain note."""
        if self.bend is not None and self.bend.verdict != "inside":
            return self.bend.error_cents
        if self.vibrato is not None:
            return None
        return None if self.pitch is None else self.pitch.error_cents


class Extra(Model):
    """A sound nobody asked for that was attacked."""

    onset_s: float
    kind: Literal["extra", "double_hit", "stutter", "restart"]
    near: str | None
    midi: float | None
    level_db: float | None


class NoiseEvent(Model):
    """A sound that should not be there and was not attacked."""

    kind: Literal["open_ring", "bleed", "after_stop", "scrape", "thud", "hum"]
    string: int | None
    from_s: float
    to_s: float
    level_db: float
    u: float
    near: str | None


class Counts(Model):
    """Verdicts of one measure."""

    inside: int = 0
    outside: int = 0
    unclear: int = 0


class TimingSummary(Model):
    """The take's timing."""

    bias_ms: float | None
    jitter_ms: float | None
    drift_ms_per_beat: float | None
    string_change_ms: float | None


class LevelSummary(Model):
    """The take's volume."""

    spread_db: float | None
    slur_deficit_db: float | None
    accent_lift_db: float | None


class BendsOf(Model):
    """Bends of one place: how far off they are, and how alike."""

    string: int
    fret: int
    target_cents: float
    count: int
    median_error_cents: float
    spread_cents: float | None
    u: float


class VibratosOf(Model):
    """Vibratos of one string: the voice, not a judgement."""

    string: int
    on: Literal["fretted", "bent"]
    count: int
    rate_hz: float
    extent_cents: float
    rate_cv: float
    extent_cv: float


class Summary(Model):
    """Counts; no weighted score."""

    asked: int
    clean: int
    not_clean: int
    unclear: int
    missed: int
    extra: int
    by_measure: dict[str, Counts]
    timing: TimingSummary | None
    level: LevelSummary | None
    fastest_even_run_nps: float | None
    bends: Annotated[tuple[BendsOf, ...], Field(description="By string, fret and target.")] = ()
    vibratos: Annotated[tuple[VibratosOf, ...], Field(description="By string, on fretted and on bent notes.")] = ()


class Cause(Model):
    """A likely cause and the notes it rests on."""

    code: str
    measure: str
    notes: tuple[str, ...]
    weight: float


class SetupString(Model):
    """One string of a set-up take. Offsets are against its tuned pitch; the 12th fret is against its own open string."""

    string: int
    name: str
    status: Literal["read", "missing", "other_pitch"]
    open_hz: float | None
    offset_cents: float | None
    u_offset: float | None
    twelfth_hz: float | None
    twelfth_error_cents: float | None
    u_twelfth: float | None
    reasons: tuple[str, ...] = ()


class RigSign(Model):
    """A sign that the recording chain changes the sound. found is null where it cannot be told."""

    found: bool | None
    value_db: float | None
    reason: str | None = None


class Rig(Model):
    """The recording chain of a set-up take."""

    signal_to_noise_db: float | None
    dc_fraction: Annotated[float, Field(description="Mean of the samples, share of full scale.")]
    level_change_db: Annotated[
        float | None, Field(description="Advised change of the input level; null where it is right.")
    ]
    automatic_gain: RigSign
    noise_gate: RigSign


class SetupAdvice(Model):
    """One thing to do, in the order of the list."""

    step: Literal["record_again", "tune", "saddle", "rig"]
    code: str
    string: int | None
    value: float | None
    text: str


class SetupFound(Model):
    """What a set-up take says of guitar and rig."""

    strings: tuple[SetupString, ...]
    common_offset_cents: Annotated[
        float | None, Field(description="Of the whole guitar, where it is out of tune as one.")
    ]
    order: Literal["as_asked", "other"]
    heard_order: tuple[str, ...]
    rig: Rig
    advice: tuple[SetupAdvice, ...]
    usable: Annotated[Literal["yes", "with_care", "no"], Field(description="Whether takes made now can be judged.")]


class Analysis(Document):
    """What was found in one take."""

    format: Literal["fortimetra-analysis"]
    version: Literal[1]
    core_version: str
    take: TakeInfo
    reference: Reference
    notes: tuple[NoteFound, ...]
    extras: tuple[Extra, ...]
    noise_events: tuple[NoiseEvent, ...]
    summary: Summary
    causes: tuple[Cause, ...]
    setup: Annotated[SetupFound | None, Field(description="Of a set-up take; null for any other.")] = None
    reasons: tuple[str, ...] = ()
