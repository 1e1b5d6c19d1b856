"""Settings: what the recording itself is measured with. Units are in the names; every field says what it means and
where its value comes from.
"""

from __future__ import annotations

from dataclasses import dataclass, field

from fortimetra.settings import setting, stage

BENCH_LEVEL = "by hand, held by ./run bench level"
PRACTICE = "common practice, no source"
TESTS = "by hand, held by the tests"


@dataclass(frozen=True)
class DecodeSettings:
    """What counts as a recording at all."""

    memory_samples: int = setting(
        4_000_000, "Most samples that are held in memory instead of in a file: 83 s at 48 kHz.", PRACTICE
    )
    silent_dbfs: float = setting(-70.0, "Peak under which a recording is silent.", PRACTICE)
    min_duration_s: float = setting(0.2, "Shortest recording that is measured.", TESTS)
    most_rate_hz: int = setting(48_000, "Higher rates are brought down to this: nothing measures above half.", TESTS)
    softer_share: float = setting(0.01, "A channel with less of the other's power is none of the guitar's.", PRACTICE)
    cancels_share: float = setting(0.1, "The mean of two with less of the louder one's power cancels.", PRACTICE)
    promised_share: float = setting(0.97, "Share of its promised length that has to come out of a coded file.", TESTS)
    padded_s: float = setting(0.3, "And so much less, which encoders pad.", TESTS)
    budget_s: float = setting(20.0, "Time that decoding may take whatever comes out of it.", TESTS)
    budget_s_per_minute: float = setting(5.0, "And for each minute of sound that does.", TESTS)


@dataclass(frozen=True)
class LevelsSettings:
    """Noise floor, clipping and hum of a whole recording."""

    floor_frame_s: float = setting(0.05, "Frame of the level from which the noise floor is read.", BENCH_LEVEL)
    floor_percentile: float = setting(5.0, "Percentile of the frames' levels that is the noise floor.", BENCH_LEVEL)
    clip_level: float = setting(0.985, "Peak, of full scale, from which clipping is looked for.", PRACTICE)
    clip_run_samples: int = setting(3, "Samples in a row at one extreme value that are clipping.", PRACTICE)
    mains_hz: tuple[float, float] = setting((50.0, 60.0), "Mains frequencies.", "IEC 60196 (from memory)")
    hum_harmonics: int = setting(8, "Harmonics of the mains that are looked at.", BENCH_LEVEL)
    hum_least_s: float = setting(0.3, "Shortest quiet stretch in which hum is looked for.", BENCH_LEVEL)
    hum_lift_db: float = setting(12.0, "How far a harmonic stands over its surroundings where it is hum.", BENCH_LEVEL)


@dataclass(frozen=True)
class RigSettings:
    """Signs of automatic gain and of noise suppression in the pauses of a set-up take."""

    frame_s: float = setting(0.02, "Frame of the level curve.", TESTS)
    smooth_s: float = setting(0.1, "Smoothing of the level curve.", TESTS)
    before_onset_s: float = setting(0.12, "Left out before the next note.", TESTS)
    least_pause_s: float = setting(0.5, "Shortest time from one note to the next in which one is stopped.", TESTS)
    clear_s: float = setting(0.03, "What is compared of a pause ends so long before the next note.", TESTS)
    climb_min_s: float = setting(0.35, "Shortest pause in which a climbing floor is looked for.", TESTS)
    climb_db: float = setting(3.0, "Climb of the floor in a pause that is automatic gain.", TESTS)
    climb_back_share: float = setting(0.35, "Most of a climb that may be taken back in the same pause.", TESTS)
    stop_fall_db: float = setting(15.0, "Fall of level where a note is stopped.", TESTS)
    stop_within_s: float = setting(0.1, "Time within which a stopped note falls.", TESTS)
    late_s: tuple[float, float] = setting(
        (-0.4, -0.06), "Stretch of the sounding note, from its stop on, whose noise is compared.", TESTS
    )
    pause_s: tuple[float, float] = setting(
        (0.2, 0.54), "Stretch of the pause, from the stop on, whose noise is compared.", TESTS
    )
    gate_db: float = setting(8.0, "Fall of the noise from note to pause that is a gate.", TESTS)
    min_gaps: int = setting(3, "Fewest pauses from which anything is said.", TESTS)
    most_gaps: float = setting(0.6, "Share of the pauses that have to show it.", TESTS)
    noise_like_db: float = setting(
        8.0, "Most that the arithmetic mean of a spectrum may stand over its geometric one where it is noise.", TESTS
    )
    digital_silence_dbfs: float = setting(-88.0, "Level under which nothing was recorded.", TESTS)
    segment: int = setting(2048, "Samples of a spectrum.", TESTS)
    band_hz: float = setting(1000.0, "Width of the bands that are compared.", TESTS)
    lowest_hz: float = setting(2000.0, "Lowest frequency compared.", TESTS)
    highest_hz: float = setting(16000.0, "Highest frequency compared.", TESTS)
    peak_range_dbfs: tuple[float, float] = setting(
        (-18.0, -1.0), "Peaks outside it ask for another input level.", PRACTICE
    )
    peak_target_dbfs: float = setting(-8.0, "Peak to be set the input to.", PRACTICE)


@dataclass(frozen=True)
class SoundSettings:
    """All of this stage."""

    decode: DecodeSettings = field(default_factory=DecodeSettings)
    levels: LevelsSettings = field(default_factory=LevelsSettings)
    rig: RigSettings = field(default_factory=RigSettings)


SOUND = stage("sound", SoundSettings())
DECODE = SOUND.decode
LEVELS = SOUND.levels
RIG = SOUND.rig
