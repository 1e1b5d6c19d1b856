"""Settings: what causes, ladders, plans and advice rest on. Units are in the names; every field says what it means
and where its value comes from.
"""

from __future__ import annotations

from dataclasses import dataclass, field

from fortimetra.settings import setting, stage

PRACTICE = "common practice, no source"
TESTS = "by hand, held by the tests"


@dataclass(frozen=True)
class CausesSettings:
    """Which causes are said."""

    most_causes: int = setting(3, "Most that are said of a take.", TESTS)
    least_explained_share: float = setting(0.25, "Share of what is off that a cause likely explains.", TESTS)
    frequent_share: float = setting(0.08, "Few faults among very many notes need one more.", TESTS)
    least_weight: float = setting(0.03, "Least share of the notes in question.", TESTS)
    covered_share: float = setting(0.7, "A cause whose notes others cover to this share is not said.", TESTS)


@dataclass(frozen=True)
class CautionsSettings:
    """When hands are to be spared."""

    comfortable_bend_cents: float = setting(100.0, "Wider bends are named.", PRACTICE)
    heavy_gauge_mm: float = setting(0.29, "A plain string 1 this thick makes a heavy set.", PRACTICE)
    long_minutes: float = setting(20.0, "Longer practice of one thing is named.", PRACTICE)


@dataclass(frozen=True)
class ConcludeSettings:
    """Whose job a string that rang was."""

    moving_share: float = setting(
        0.5, "A part is said to be late where it has to move if that explains at least this share of what rang.", TESTS
    )
    most_named: int = setting(2, "Most parts that are named.", TESTS)


@dataclass(frozen=True)
class CauseEvidenceSettings:
    """How sure a share or a slope is."""

    z_share: float = setting(
        1.2816, "Standard normal quantile of a one-sided 90 %.", "Wilson, J. Am. Stat. Assoc. 22, 1927"
    )
    least_explained: int = setting(2, "Fewest notes.", TESTS)
    sure_slope: float = setting(3.0, "A slope that stands so many of its standard errors off zero is one.", TESTS)
    least_for_slope: int = setting(6, "Fewest points of a slope.", TESTS)


@dataclass(frozen=True)
class LadderSettings:
    """Steps of tempo."""

    same_bpm: float = setting(0.5, "Tempos this near are the same step.", PRACTICE)
    least_bpm: float = setting(20.0, "Slowest step.", PRACTICE)
    most_bpm: float = setting(400.0, "Quickest step.", PRACTICE)


@dataclass(frozen=True)
class PitchCausesSettings:
    """Causes of pitch."""

    alike_cents: float = setting(
        6.0,
        "A string is out of tune, not its notes, where they lie this closely together around their own median.",
        TESTS,
    )
    least_on_string: int = setting(4, "Fewest notes of a string.", TESTS)
    sinks_cents_per_s: float = setting(6.0, "A hold that falls quicker sinks.", TESTS)
    least_open: int = setting(3, "Fewest open notes that tell how a string is tuned.", TESTS)
    octave_frets: int = setting(12, "Frets of an octave.", "equal temperament")
    fades_db_per_s: float = setting(
        4.0, "A vibrato that loses level quicker than straight notes by this is choked.", TESTS
    )


@dataclass(frozen=True)
class PlaceCausesSettings:
    """Faults of one place, of the end, of a shift."""

    least_repeats: int = setting(3, "Fewest times a place has to be played.", TESTS)
    same_share: float = setting(0.75, "Share of them that have to be off.", TESTS)
    elsewhere_share: float = setting(0.15, "Most that may be off elsewhere.", TESTS)
    most_places: int = setting(2, "More places than this are no place.", TESTS)
    least_notes: int = setting(15, "Fewest notes of a take whose thirds are compared.", TESTS)
    least_late_faults: int = setting(4, "Fewest faults of its end.", TESTS)
    times_worse: float = setting(3.0, "Its end has so many times the faults.", TESTS)
    chance: float = setting(0.01, "It is no chance where one in so many takes would do so.", "Fisher 1935, one-sided")
    no_creep_share: float = setting(0.01, "Where the tempo moves by more, that is what is said.", TESTS)
    shift_frets: int = setting(4, "A hand spans four frets: farther it moves.", PRACTICE)


@dataclass(frozen=True)
class SlurCausesSettings:
    """Causes of slurs."""

    begins_with_s: float = setting(0.12, "A string that begins to ring this near a slur was set off by it.", TESTS)


@dataclass(frozen=True)
class QuietCausesSettings:
    """Causes of noise."""

    builds_up_s: float = setting(0.8, "Rings that last this long have built up.", TESTS)


@dataclass(frozen=True)
class TimeCausesSettings:
    """Causes of timing."""

    shift_to_spread: float = setting(
        2.0, "Even enough that what is left is one shift of everything, in standard deviations.", TESTS
    )
    one_kind: float = setting(0.75, "Share of the soft slurs that are of one kind.", TESTS)
    creeps_share: float = setting(0.02, "The tempo moved by more than this share over the take.", TESTS)
    other_division_share: float = setting(0.06, "How near the tempo lies to that of another number a click.", TESTS)
    swings_from: float = setting(0.57, "Share of the beat from which straight eighths swing.", PRACTICE)
    motion_db: float = setting(2.0, "Slow and fast strokes this far apart are two motions.", TESTS)


@dataclass(frozen=True)
class PlannerSettings:
    """Weeks of practice."""

    break_after_minutes: int = setting(20, "Longest time without a break.", PRACTICE)
    break_minutes: int = setting(5, "Length of a break.", PRACTICE)
    least_minutes: int = setting(1, "Shortest block.", PRACTICE)
    most_leaning: float = setting(2.0, "The weaker of a pair gets at most so many times the other's minutes.", PRACTICE)


@dataclass(frozen=True)
class ProgressSettings:
    """Trends."""

    least_points: int = setting(5, "Fewest takes of a trend.", TESTS)
    most_points: int = setting(400, "Most takes that are looked at.", TESTS)


@dataclass(frozen=True)
class SetupAdviceSettings:
    """Advice on a set-up take."""

    far_up_cents: float = setting(50.0, "A string this far under its pitch is tuned up with care.", PRACTICE)
    dc_fraction: float = setting(0.01, "Offset of the recording, of full scale, that is named.", PRACTICE)


@dataclass(frozen=True)
class StepSettings:
    """Notes a click."""

    alike: float = setting(0.001, "Gaps this near are the same, beats.", TESTS)
    least_even: float = setting(
        0.5, "Fewer notes than this share in one and the same distance are no even line.", TESTS
    )


@dataclass(frozen=True)
class WordSettings:
    """What a teacher said."""

    same_sound_s: float = setting(
        0.03,
        "An extra sound is the one a mark is about within this time: measured again it may lie a little elsewhere.",
        TESTS,
    )


@dataclass(frozen=True)
class CoachSettings:
    """All of this stage."""

    causes: CausesSettings = field(default_factory=CausesSettings)
    cautions: CautionsSettings = field(default_factory=CautionsSettings)
    conclude: ConcludeSettings = field(default_factory=ConcludeSettings)
    cause_evidence: CauseEvidenceSettings = field(default_factory=CauseEvidenceSettings)
    ladder: LadderSettings = field(default_factory=LadderSettings)
    pitch_causes: PitchCausesSettings = field(default_factory=PitchCausesSettings)
    place_causes: PlaceCausesSettings = field(default_factory=PlaceCausesSettings)
    slur_causes: SlurCausesSettings = field(default_factory=SlurCausesSettings)
    quiet_causes: QuietCausesSettings = field(default_factory=QuietCausesSettings)
    time_causes: TimeCausesSettings = field(default_factory=TimeCausesSettings)
    planner: PlannerSettings = field(default_factory=PlannerSettings)
    progress: ProgressSettings = field(default_factory=ProgressSettings)
    setup_advice: SetupAdviceSettings = field(default_factory=SetupAdviceSettings)
    step: StepSettings = field(default_factory=StepSettings)
    word: WordSettings = field(default_factory=WordSettings)


COACH = stage("coach", CoachSettings())
CAUSES = COACH.causes
CAUTIONS = COACH.cautions
CONCLUDE = COACH.conclude
CAUSE_EVIDENCE = COACH.cause_evidence
LADDER = COACH.ladder
PITCH_CAUSES = COACH.pitch_causes
PLACE_CAUSES = COACH.place_causes
SLUR_CAUSES = COACH.slur_causes
QUIET_CAUSES = COACH.quiet_causes
TIME_CAUSES = COACH.time_causes
PLANNER = COACH.planner
PROGRESS = COACH.progress
SETUP_ADVICE = COACH.setup_advice
STEP = COACH.step
WORD = COACH.word
