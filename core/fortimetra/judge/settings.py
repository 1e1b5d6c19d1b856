"""Settings: what verdicts rest on, beside the tolerances. Units are in the names; every field says what it means and
where its value comes from.
"""

from __future__ import annotations

from dataclasses import dataclass, field

from fortimetra.settings import setting, stage

BENCH_PITCH = "by hand, held by ./run bench pitch"
BENCH_QUIET = "by hand, held by ./run bench quiet"
BENCH_TAKES = "by hand, held by ./run bench takes"
PRACTICE = "common practice, no source"
TESTS = "by hand, held by the tests"


@dataclass(frozen=True)
class BendsJudgedSettings:
    """Bends."""

    most_drift_cents_per_s: float = setting(25.0, "A hold may sink or rise by so much.", PRACTICE)
    past_target_cents: float = setting(350.0, "Farther past what is asked lies another octave.", PRACTICE)
    under_fret_cents: float = setting(150.0, "Nor does a bend lie so far under its fret.", PRACTICE)
    swing_cents: float = setting(
        60.0, "How wide a vibrato is taken to be whose width is not asked and cannot be read.", PRACTICE
    )
    rests_s: float = setting(0.3, "A hold of so long that does not waver has no vibrato in it.", PRACTICE)
    before_vibrato_s: float = setting(
        0.15, "Nor has one that begins so soon after the bend arrives and does not waver.", PRACTICE
    )
    arrives_share: float = setting(
        0.85, "Share of the way at which a bend has arrived, where a vibrato begins.", BENCH_PITCH
    )


@dataclass(frozen=True)
class CompareSettings:
    """Two takes of a drill."""

    coverage: float = setting(
        2.0, "Standard uncertainties of an expanded one, about 95 %.", "JCGM 100:2008 (GUM), 6.3.3"
    )
    least_notes: int = setting(3, "Fewest notes of a comparison.", TESTS)
    matters_share: float = setting(
        0.2, "Share of what is allowed under which a difference does not matter.", "common practice, no source"
    )


@dataclass(frozen=True)
class NoiseEventsSettings:
    """Sounds that should not be there."""

    u_time_ms: float = setting(25.0, "Expanded uncertainty of how long one lasts.", BENCH_QUIET)
    thud_u_db: float = setting(2.0, "Expanded uncertainty of a thud's level.", BENCH_QUIET)
    other_u_db: float = setting(3.0, "Expanded uncertainty of the level of a cough or a knock.", BENCH_TAKES)
    alone_s: float = setting(
        0.12, "A string heard so long before or after an other sound rings by itself.", BENCH_TAKES
    )
    begun_s: float = setting(0.02, "What begins this shortly before a note is that note's.", BENCH_QUIET)
    hand_first_s: float = setting(
        0.3, "A string rings after the fretting hand has left it, if it does so this near to then.", BENCH_QUIET
    )
    hum_audible_db: float = setting(-50.0, "Hum under this, beside the notes, is not heard.", PRACTICE)


@dataclass(frozen=True)
class QuietJudgedSettings:
    """What should be silent, note by note."""

    silent_near_s: float = setting(
        0.5,
        "A string heard to be silent so near to a note did not ring under it: it does not stop by itself.",
        BENCH_QUIET,
    )
    barely_db: float = setting(
        4.0, "A string that the note hides is surely heard where it rings over the limit by this.", BENCH_TAKES
    )
    after_stop_s: float = setting(0.3, "What rings on begins this near the stop it belongs to.", BENCH_QUIET)
    most_hidden_share: float = setting(0.5, "More of the windows hidden than this, and nothing is said.", BENCH_QUIET)
    other_share: float = setting(
        0.25, "More of the windows with other sounds than this, and nothing is said.", BENCH_QUIET
    )


@dataclass(frozen=True)
class TouchJudgedSettings:
    """Accents."""

    pressed_share: float = setting(0.75, "Share of the accents that stand out where levels are pressed.", BENCH_TAKES)
    least_pressed: int = setting(3, "Fewest accents of which that is said.", BENCH_TAKES)


@dataclass(frozen=True)
class SetupJudgedSettings:
    """Guitar and recording of a set-up take."""

    saddle_cents: float = setting(4.0, "What a 12th fret may be off.", PRACTICE)
    clipped_fraction: float = setting(0.0001, "Clipped samples from which care is asked.", PRACTICE)
    clipped_heavily_fraction: float = setting(0.01, "From which nothing can be judged.", PRACTICE)
    poor_signal_to_noise_db: float = setting(40.0, "Signal to noise under which care is asked.", PRACTICE)
    useless_signal_to_noise_db: float = setting(20.0, "Under which nothing can be judged.", PRACTICE)


@dataclass(frozen=True)
class SlidesJudgedSettings:
    """Slides."""

    lost_db: float = setting(-12.0, "A slide that loses more than this on its way has been let go.", PRACTICE)


@dataclass(frozen=True)
class JudgeSettings:
    """All of this stage."""

    bends_judged: BendsJudgedSettings = field(default_factory=BendsJudgedSettings)
    compare: CompareSettings = field(default_factory=CompareSettings)
    noise_events: NoiseEventsSettings = field(default_factory=NoiseEventsSettings)
    quiet_judged: QuietJudgedSettings = field(default_factory=QuietJudgedSettings)
    setup_judged: SetupJudgedSettings = field(default_factory=SetupJudgedSettings)
    touch_judged: TouchJudgedSettings = field(default_factory=TouchJudgedSettings)
    slides_judged: SlidesJudgedSettings = field(default_factory=SlidesJudgedSettings)


JUDGE = stage("judge", JudgeSettings())
BENDS_JUDGED = JUDGE.bends_judged
COMPARE = JUDGE.compare
NOISE_EVENTS = JUDGE.noise_events
QUIET_JUDGED = JUDGE.quiet_judged
SETUP_JUDGED = JUDGE.setup_judged
TOUCH_JUDGED = JUDGE.touch_judged
SLIDES_JUDGED = JUDGE.slides_judged
