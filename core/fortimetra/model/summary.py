"""The take as a whole: counts, and what each measure says of all notes together. Part of the analysis."""

from __future__ import annotations

from typing import Annotated, Literal

from pydantic import Field

from fortimetra.model.base import Model
from fortimetra.model.posture import Part
from fortimetra.model.verdict import Verdict


class Counts(Model):
    """Verdicts of one measure."""

    inside: int = 0
    outside: int = 0
    unclear: int = 0


class GroupPlace(Model):
    """Notes by their place in a group: the median error, and how loud they are against the take's plain notes."""

    place: Annotated[int, Field(description="From 1, the first of the group.")]
    count: int
    error_ms: float
    u: float
    level_db: float | None


class Pace(Model):
    """Notes of one slot length, where a drill has several: the same figure slow and fast."""

    slot_beats: float
    notes_per_s: float
    count: int
    bias_ms: float
    jitter_ms: float
    spread_db: float | None


class TimingSummary(Model):
    """The take's timing. bias_ms is null where the grid is fitted to the notes: early and late as a whole cannot be
    told.
    """

    bias_ms: float | None
    jitter_ms: float | None
    drift_ms_per_beat: float | None
    string_change_ms: float | None
    u_bias_ms: float | None = None
    u_string_change_ms: float | None = None
    tempo_bpm: Annotated[float | None, Field(description="Quarter notes a minute, as played.")] = None
    swing: Annotated[float | None, Field(description="Share of the beat the first of two eighths took.")] = None
    together_ms: Annotated[
        float | None, Field(description="Notes struck together: median time from the first to the last.")
    ] = None
    groups: tuple[GroupPlace, ...] = ()
    paces: tuple[Pace, ...] = ()


class StringLevel(Model):
    """Notes of one string that should be equally loud."""

    string: int
    count: int
    level_db: Annotated[float, Field(description="Median, against the take's plain notes: belongs to the guitar.")]
    spread_db: float


class LevelSummary(Model):
    """The take's volume."""

    spread_db: float | None
    slur_deficit_db: float | None
    accent_lift_db: float | None
    u_slur_deficit_db: float | None = None
    slur_verdict: Verdict | None = None
    tap_excess_db: Annotated[float | None, Field(description="Tapped less fretted notes.")] = None
    string_change_db: Annotated[float | None, Field(description="Notes after a change of string less others.")] = None
    u_string_change_db: float | None = None
    drift_db_per_min: float | None = None
    strings: tuple[StringLevel, ...] = ()


class LengthSummary(Model):
    """How long notes sound of what they are given, and into each other."""

    ratio: float | None
    spread: Annotated[float | None, Field(description="Robust standard deviation of the ratios.")]
    overlap_ms: Annotated[float | None, Field(description="Median over notes whose string should have stopped.")]


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


class StringNoise(Model):
    """One string's unwanted sound over a take."""

    string: int
    events: int
    seconds: float
    worst_db: float | None
    floor_db: Annotated[
        float | None,
        Field(description="Median level from which it would be heard; null where it never had to be silent."),
    ]


class NoiseSummary(Model):
    """What sounded that should not have."""

    strings: tuple[StringNoise, ...]
    decay_ms: Annotated[float | None, Field(description="Median over the stops.")] = None
    scrapes: int = 0
    hum_db: Annotated[float | None, Field(description="Of the rig, against the notes.")] = None
    echo: Annotated[
        bool | None, Field(description="Whether notes go on after their string has left them: a room, a delay.")
    ] = None
    driven: Annotated[bool | None, Field(description="Whether notes struck together make tones of their own.")] = None


class RingJob(Model):
    """Rings of a string, by whose job it was to keep it quiet where they began."""

    string: int
    part: Part
    says: str
    count: int
    level_db: Annotated[float, Field(description="Median, against the notes.")]
    moving: Annotated[int, Field(description="How many of them where that part has to move.")] = 0


class MemberCounts(Model):
    """One drill of a set."""

    title: str
    asked: int
    clean: int
    not_clean: int
    unclear: int
    missed: int


class Summary(Model):
    """Counts; no weighted score."""

    asked: int
    clean: int
    not_clean: int
    unclear: int
    missed: int
    extra: int
    excluded: Annotated[
        int, Field(description="Notes a teacher took out of the count: among those asked, in no other count.")
    ] = 0
    by_measure: dict[str, Counts]
    timing: TimingSummary | None
    level: LevelSummary | None
    fastest_even_run_nps: float | None
    length: LengthSummary | None = None
    noise: NoiseSummary | None = None
    bends: Annotated[tuple[BendsOf, ...], Field(description="By string, fret and target.")] = ()
    vibratos: Annotated[tuple[VibratosOf, ...], Field(description="By string, on fretted and on bent notes.")] = ()

    members: Annotated[tuple[MemberCounts, ...], Field(description="Of a set: each of its drills.")] = ()
    rings: Annotated[tuple[RingJob, ...], Field(description="What rang, by whose job it was.")] = ()

    @property
    def clean_rate(self) -> float | None:
        """Clean of all that was asked and counts; None where nothing does."""
        counted = self.asked - self.excluded
        return self.clean / counted if counted > 0 else None
