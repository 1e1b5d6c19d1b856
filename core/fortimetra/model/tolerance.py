"""Tolerances: house defaults in three profiles, and what a drill overrides."""

from __future__ import annotations

from typing import Annotated, Literal

from pydantic import Field

from fortimetra.model.base import Model

Profile = Literal["starting", "steady", "exacting"]
Measure = Literal["pitch", "bend", "vibrato", "timing", "level", "length", "noise"]
Positive = Annotated[float, Field(gt=0)]


class Tolerances(Model):
    """Limits per measure; None means the profile's. A limit is the largest deviation still inside."""

    plain_pitch_cents: Positive | None = None
    bend_error_cents: Positive | None = None
    hold_sd_cents: Positive | None = None
    vibrato_return_cents: Positive | None = None
    vibrato_rate_cv: Positive | None = None
    vibrato_extent_cv: Positive | None = None
    beat_hz: Positive | None = None
    onset_ms: Positive | None = None
    level_db: Positive | None = None
    slur_deficit_db: Positive | None = None
    accent_lift_db: Positive | None = None
    length_fraction: Positive | None = None
    overlap_ms: Positive | None = None
    ring_db: Annotated[float, Field(lt=0)] | None = None
    stop_ms: Positive | None = None

    def over(self, profile: Profile) -> dict[str, float]:
        """The limits that count: these where given, else the profile's (onset_ms only where given)."""
        given = {k: v for k, v in self.model_dump().items() if v is not None}
        return PROFILES[profile] | given


# House defaults. onset_ms depends on the slot and is worked out where timing is judged.
_COLUMNS: tuple[Profile, ...] = ("starting", "steady", "exacting")
_TABLE: dict[str, tuple[float, float, float]] = {
    "plain_pitch_cents": (25, 15, 8),
    "bend_error_cents": (25, 15, 8),
    "hold_sd_cents": (15, 10, 6),
    "vibrato_return_cents": (25, 15, 8),
    "vibrato_rate_cv": (0.30, 0.20, 0.12),
    "vibrato_extent_cv": (0.35, 0.25, 0.15),
    "beat_hz": (4, 2, 1),
    "level_db": (5, 3.5, 2),
    "slur_deficit_db": (6, 3, 2),
    "accent_lift_db": (2, 3, 4),
    "length_fraction": (0.30, 0.20, 0.12),
    "overlap_ms": (120, 60, 30),
    "ring_db": (-18, -26, -34),
    "stop_ms": (400, 250, 150),
}
PROFILES: dict[Profile, dict[str, float]] = {
    profile: {name: float(row[i]) for name, row in _TABLE.items()} for i, profile in enumerate(_COLUMNS)
}

# Share of the slot, the most and the least in ms.
_ONSET: dict[Profile, tuple[float, float, float]] = {
    "starting": (0.12, 60.0, 25.0),
    "steady": (0.08, 40.0, 20.0),
    "exacting": (0.05, 25.0, 12.0),
}


def onset_tolerance_ms(profile: Profile) -> tuple[float, float, float]:
    """How far an onset may be off: a share of its slot, at most and at least so many ms."""
    return _ONSET[profile]


def onset_limit_ms(profile: Profile, slot_s: float, given_ms: float | None = None) -> float:
    """The largest onset error still inside.

    >>> onset_limit_ms("steady", 0.25), onset_limit_ms("steady", 0.375), onset_limit_ms("steady", 2.0)
    (20.0, 30.0, 40.0)
    """
    if given_ms is not None:
        return given_ms
    share, most, least = _ONSET[profile]
    return min(most, max(least, round(1000.0 * share * slot_s, 6)))
