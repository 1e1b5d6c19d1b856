"""What an analysis says of the recording itself, and its parts put together."""

from __future__ import annotations

from collections.abc import Sequence

from fortimetra.errors import TakeError
from fortimetra.hear.recording import Recording
from fortimetra.model.analysis import (
    Analysis,
    AttemptFound,
    Extra,
    Harmonic,
    Hum,
    NoiseEvent,
    NoteFound,
    Reference,
    SetupFound,
    TakeInfo,
)
from fortimetra.model.summary import Summary
from fortimetra.pipeline.versions import SETTINGS_DIGEST, __version__
from fortimetra.sound.decode import Take
from fortimetra.sound.levels import Levels
from fortimetra.units import rounded

HUM_DROWNS_DB = 30.0


def analysis_of(
    recording: Recording,
    *,
    reference: Reference,
    notes: Sequence[NoteFound],
    summary: Summary,
    warnings: tuple[str, ...] = (),
    reasons: tuple[str, ...] = (),
    extras: tuple[Extra, ...] = (),
    attempts: tuple[AttemptFound, ...] = (),
    noise_events: tuple[NoiseEvent, ...] = (),
    setup: SetupFound | None = None,
) -> Analysis:
    """An analysis of a recording, before causes are named."""
    take, levels = recording.take, recording.levels
    return Analysis(
        format="fortimetra-analysis",
        version=1,
        core_version=__version__,
        settings=SETTINGS_DIGEST,
        take=_take_info(take, levels, _warnings(take, levels) + warnings),
        reference=reference,
        notes=tuple(notes),
        extras=extras,
        attempts=attempts,
        noise_events=noise_events,
        summary=summary,
        causes=(),
        setup=setup,
        reasons=reasons,
    )


def drowned(levels: Levels) -> TakeError | None:
    """Why nothing fits, where it is the hum."""
    if levels.hum is None or levels.hum.level_dbfs < levels.peak_dbfs - HUM_DROWNS_DB:
        return None
    return TakeError(
        "hum_too_loud",
        f"Hum at {levels.hum.hz:g} Hz stands only {levels.peak_dbfs - levels.hum.level_dbfs:.0f} dB under the loudest "
        "sound, so the notes cannot be told apart. Try another cable and socket, turn away from transformers and "
        "screens, then record again.",
    )


def _warnings(take: Take, levels: Levels) -> tuple[str, ...]:
    checks = {
        "clipped_heavily": levels.clipped_fraction > 0.01,
        "clipped": 0.0001 < levels.clipped_fraction <= 0.01,
        "low_level": levels.peak_dbfs < -30.0,
        "high_floor": levels.noise_floor_dbfs > levels.peak_dbfs - 35.0 and levels.noise_floor_dbfs > -60.0,
        "low_sample_rate": take.sample_rate_hz < 16_000,
    }
    return take.warnings + tuple(code for code, true in checks.items() if true)


def _take_info(take: Take, levels: Levels, warnings: tuple[str, ...]) -> TakeInfo:
    return TakeInfo(
        sha256=take.sha256,
        duration_s=round(take.duration_s, 4),
        sample_rate_hz=take.sample_rate_hz if take.as_recorded is None else take.as_recorded.rate_hz,
        channels=take.samples.shape[0],
        peak_dbfs=round(levels.peak_dbfs, 1),
        loudness_lufs=rounded(levels.loudness_lufs, 1),
        noise_floor_dbfs=round(levels.noise_floor_dbfs, 1),
        clipped_fraction=round(levels.clipped_fraction, 6),
        hum=None
        if levels.hum is None
        else Hum(
            hz=levels.hum.hz,
            level_dbfs=round(levels.hum.level_dbfs, 1),
            harmonics=tuple(Harmonic(number=n, level_dbfs=round(v, 1)) for n, v in levels.hum.harmonics),
        ),
        warnings=warnings,
    )
