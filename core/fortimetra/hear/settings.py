"""Settings: what notes are heard with. Units are in the names; every field says what it means and where its value
comes from.
"""

from __future__ import annotations

from dataclasses import dataclass, field

from fortimetra.settings import setting, stage

BENCH_PITCH = "by hand, held by ./run bench pitch"
BENCH_QUIET = "by hand, held by ./run bench quiet"
BENCH_STROKES = "by hand, held by ./run bench strokes"
BENCH_TAKES = "by hand, held by ./run bench takes"
BENCH_TIME = "by hand, held by ./run bench time"
BENCH_VIBRATO = "by hand, held by ./run bench vibrato"


@dataclass(frozen=True)
class AttackSettings:
    """The instant of an attack, from the error of a linear prediction that learned the sound before it."""

    rate_hz: int = setting(36000, "Sample rate of the prediction.", BENCH_TIME)
    learn_s: tuple[float, float, float] = setting(
        (0.045, 0.032, 0.022), "Lengths that are learned from, the longest that fits.", BENCH_TIME
    )
    apart_s: float = setting(0.012, "Left out between what is learned and the place.", BENCH_TIME)
    after_s: float = setting(0.02, "How far after the place the attack may lie.", BENCH_TIME)
    near_s: float = setting(0.006, "How far before the place the attack may lie.", BENCH_TIME)
    stroke_s: float = setting(0.014, "Longest time from a pick's first touch to its attack.", BENCH_TIME)
    order: int = setting(32, "Order of the short-term prediction.", BENCH_TIME)
    periods_s: tuple[float, float] = setting(
        (0.0025, 0.014),
        "Periods looked for by the long-term prediction; an octave under low E in a drop tuning is "
        "left to the short-term one.",
        BENCH_TIME,
    )
    clear_factor: float = setting(
        2.0, "The error has to exceed its own usual peaks by this factor in amplitude.", BENCH_TIME
    )
    under_top_db: float = setting(20.0, "How far under the top of the error its rise is read.", BENCH_TIME)
    least_u_ms: float = setting(3.0, "Least expanded uncertainty of an attack.", BENCH_TIME)
    block_s: float = setting(0.0002, "Step of the error's energy.", BENCH_TIME)
    smooth_s: float = setting(0.0004, "Smoothing of the error's energy.", BENCH_TIME)
    every: int = setting(4, "Of the learned part's error every so many samples are looked at.", BENCH_TIME)
    likely_scatters: float = setting(
        4.0,
        "A place may be the step as long as its cost exceeds the least by no more of the scatter.",
        "95 % point of χ² with one degree of freedom, 3.84",
    )
    floor: float = setting(3e-06, "Least error, of full scale; under the step of 16 bits.", BENCH_TIME)


@dataclass(frozen=True)
class CombsSettings:
    """Which combs of partials speak in a short spectrum."""

    rate_hz: int = setting(12000, "Sample rate of the spectra.", BENCH_QUIET)
    n_fft: int = setting(8192, "Points of the transform.", BENCH_QUIET)
    highest_hz: float = setting(3200.0, "Highest partial looked at.", BENCH_QUIET)
    kaiser: float = setting(
        8.0, "Parameter of the Kaiser window; all side lobes lie under −58 dB.", "Harris, Proc. IEEE 66(1), 1978"
    )
    lobe: float = setting(
        2.6, "Half the width of its main lobe down to −50 dB, in 1/length.", "computed from the window"
    )
    most_partials: int = setting(12, "Partials of a comb that are looked at.", BENCH_QUIET)
    harmonics: int = setting(40, "Partials cut out of what is known to sound.", BENCH_QUIET)
    most_stiffness: float = setting(
        0.0001,
        "Stiffness B of an open string at most; it grows with the square of the shortening.",
        "Fletcher, J. Acoust. Soc. Am. 36(1), 1964",
    )
    present_db: float = setting(7.0, "A partial that stands so far over its surroundings is there.", BENCH_QUIET)
    full_db: float = setting(25.0, "More than this over the surroundings counts no more.", BENCH_QUIET)
    absent_cost: float = setting(8.0, "What a missing partial takes from the evidence, dB.", BENCH_QUIET)
    fall_db: float = setting(12.0, "Steepest fall of the partials over the strongest, dB an octave.", BENCH_QUIET)
    sure_db: float = setting(10.0, "A partial expected so far over what can be seen is surely missed.", BENCH_QUIET)
    slope_bins: int = setting(2, "Bins beside a peak on whose sides it must fall.", BENCH_QUIET)
    band_bins: int = setting(136, "Bins of a band of the noise's estimate.", BENCH_QUIET)
    band_share: float = setting(
        0.12, "Quantile of a band that is its noise: most of a band may be a ringing string's own lobes.", BENCH_QUIET
    )
    share_db: float = setting(6.0, "How far noise lies under its middle at that quantile.", BENCH_QUIET)
    widest_share: float = setting(
        0.3, "A partial sought in a wider share of what lies between two is not looked for.", BENCH_QUIET
    )
    least_clear_bins: int = setting(8, "Fewest free bins from which the noise of a band is known.", BENCH_QUIET)


@dataclass(frozen=True)
class ContourSettings:
    """Pitch and level over time."""

    hop_s: float = setting(0.005, "Time between frames.", BENCH_PITCH)
    coarse_rate_hz: int = setting(12000, "Sample rate of the search for the pitch.", BENCH_PITCH)
    fine_rate_hz: int = setting(24000, "Sample rate of the reading of its partials.", BENCH_PITCH)
    window_periods: float = setting(
        4.0, "Window in periods of the pitch: neighbouring partials fall on the Hann window's zeros.", BENCH_PITCH
    )
    n_partials: int = setting(8, "Partials that are read.", BENCH_PITCH)
    full_range_hz: tuple[float, float] = setting(
        (58.0, 1500.0), "Range of pitches where no drill says one.", BENCH_PITCH
    )
    quiet_dbfs: float = setting(-85.0, "Under this no pitch is looked for.", BENCH_PITCH)
    quiet_below_peak_db: float = setting(65.0, "Nor so far under the take's peak.", BENCH_PITCH)
    octave_fold_slack: float = setting(
        0.08, "How near a jump has to be to an octave to be a slip, octaves.", BENCH_PITCH
    )
    octave_fold_after_attack_s: float = setting(0.2, "A slip begins within this after the attack.", BENCH_PITCH)
    octave_fold_island_s: float = setting(0.08, "Or lasts no longer than this.", BENCH_PITCH)
    octave_fold_gap_frames: int = setting(4, "Most frames without pitch inside a jump.", BENCH_PITCH)
    absent_share: float = setting(
        0.016,
        "Odd partials (or those that are no third) with less of the power than this are not there.",
        "recorded notes of three guitars: 0.09 at least at their pitch, 0.01 at most in 99 % at half of it",
    )
    whole_share: float = setting(
        0.25, "Frames with all partials, beside those without, from which a stretch keeps its pitch.", BENCH_PITCH
    )
    octave_look_frames: int = setting(8, "Frames on both sides whose level is compared.", BENCH_PITCH)
    octave_rise_db: float = setting(1.0, "A rise of level from which the jump is a note of its own.", BENCH_PITCH)
    candidates: int = setting(5, "Candidates of a frame.", BENCH_PITCH)
    candidate_most: float = setting(
        0.6, "Normalised difference under which a dip is one: 0 is a period, 1 none.", BENCH_PITCH
    )
    most_off_cents: float = setting(
        150.0, "Partials that lie further off than this are those of another pitch.", BENCH_PITCH
    )
    led_cents: float = setting(
        30.0, "A pitch to which the frames before lead is read from there, this near the coarse track's.", BENCH_PITCH
    )
    again_cents: float = setting(0.3, "A pitch this far from where it was read from is read again.", BENCH_PITCH)
    most_readings: int = setting(4, "So often at most.", BENCH_PITCH)
    stands_out: float = setting(4.0, "A partial's power against what lies half-way to its neighbours.", BENCH_PITCH)
    least_power_share: float = setting(1e-5, "Power under which it says nothing, of the strongest.", BENCH_PITCH)
    near_cents: float = setting(12.0, "How near a partial has to lie to the others' median.", BENCH_PITCH)
    near_cents_stiff: float = setting(
        1.5, "And so much further for each square of its number: strings are stiff.", BENCH_PITCH
    )
    unvoiced_cost: float = setting(0.35, "Cost of a frame without pitch.", BENCH_PITCH)
    octave_bias: float = setting(0.06, "Cost of a longer period, an octave.", BENCH_PITCH)
    jump_per_octave: float = setting(2.0, "Cost of a move between frames, an octave.", BENCH_PITCH)
    jump_most: float = setting(0.5, "Most that a move costs.", BENCH_PITCH)
    voicing_switch: float = setting(0.15, "Cost of beginning or ending a pitch.", BENCH_PITCH)
    partial_sigma_floor_cents: float = setting(0.25, "Least standard deviation a partial is weighed with.", BENCH_PITCH)


@dataclass(frozen=True)
class CrossingSettings:
    """When one pitch gives way to another of the same string."""

    highest_hz: float = setting(4000.0, "Highest partial looked at.", BENCH_TIME)
    most_partials: int = setting(10, "Partials of each pitch that are followed.", BENCH_TIME)
    window_s: float = setting(0.045, "Longest window.", BENCH_TIME)
    shortest_window_s: float = setting(0.025, "Shortest window.", BENCH_TIME)
    hop_s: float = setting(0.004, "Step of the windows.", BENCH_TIME)
    least_windows: int = setting(8, "Fewest windows in which a change is looked for.", BENCH_TIME)
    apart: float = setting(1.8, "Partials so many windows⁻¹ apart are told from each other.", BENCH_TIME)
    lags_s: float = setting(
        0.008, "Longer after the new pitch has come up half, and a room holds the old one.", BENCH_TAKES
    )
    lag_share: float = setting(0.4, "Share of that lag that stays uncertain.", BENCH_TAKES)
    least_change_db: float = setting(9.0, "Both pitches have to change by this at least.", BENCH_TIME)
    u_ms: float = setting(5.0, "Expanded uncertainty of the instant.", BENCH_TIME)


@dataclass(frozen=True)
class NotesSettings:
    """Notes cut out of the contour."""

    end_drop_db: float = setting(20.0, "A note has ended so far under its own top.", BENCH_TIME)
    end_hold_s: float = setting(0.03, "And stays there for so long.", BENCH_TIME)
    dip_s: float = setting(0.6, "Longest dip from which the same pitch comes back.", BENCH_TAKES)
    plain_s: tuple[float, float] = setting(
        (0.06, 0.25), "Stretch after the attack from which the plain pitch is read.", BENCH_PITCH
    )
    start_s: tuple[float, float] = setting((0.03, 0.12), "And that from which its start is.", BENCH_PITCH)
    main_share: float = setting(0.4, "Its main pitch is read from this share of the note on.", BENCH_PITCH)
    transition: tuple[float, float] = setting(
        (0.1, 0.9), "Shares of its way between which a step or a bend is timed.", "IEEE Std 181-2011"
    )
    min_note_s: float = setting(0.04, "Shortest note with a pitch.", BENCH_TIME)
    min_stiffness_note_frames: int = setting(12, "Fewest frames from which a string's stiffness is read.", BENCH_TIME)
    step_cents: float = setting(80.0, "Least step of pitch that is a slur.", BENCH_TIME)
    step_s: float = setting(0.025, "A step is quicker than this; a bend is slower.", BENCH_TIME)
    step_reach_s: float = setting(0.03, "Stretch on both sides that has to lie flat.", BENCH_TIME)
    step_flat_share: float = setting(0.3, "How flat, as a share of the step.", BENCH_TIME)
    step_most_fall_db: float = setting(12.0, "Most the level may fall over a step.", BENCH_TIME)
    step_from_attack_s: float = setting(0.06, "A step this near an attack is the attack's.", BENCH_TIME)
    partial_sd_cents: float = setting(
        0.25,
        "How far a partial stands from where its string has it, whatever the noise: it is weighed by no less.",
        "common practice, no source",
    )
    few_partials_sd_cents: float = setting(
        0.5,
        "What fewer than three partials leave unknown of a pitch.",
        "common practice, no source",
    )
    t_quantile: float = setting(0.975, "Of Student's t, for 95 % to both sides.", "JCGM 100:2008 (GUM), G.3.4")
    off_line_sd: float = setting(
        2.0,
        "A first partial further off its line than so many standard deviations is not the string's alone.",
        "common practice, no source",
    )
    max_stiffness: float = setting(
        0.002, "Stiffness B of a stopped string at most.", "Fletcher, J. Acoust. Soc. Am. 36(1), 1964"
    )
    gap_s: float = setting(0.04, "A gap in the pitch from which a note ends.", BENCH_TIME)
    jump_semitones: float = setting(0.7, "A jump of pitch from which another note begins.", BENCH_TIME)
    stop_s: float = setting(0.05, "Time over which a stop is read.", BENCH_TIME)
    stop_db: float = setting(8.0, "Fall of level that is a stop.", BENCH_TIME)
    step_u_ms: float = setting(6.0, "Expanded uncertainty of a step, about a frame of the contour.", BENCH_TIME)
    alone_firm_rise_db: float = setting(
        8.0, "Rise from which a note stands by itself, whatever its contrast.", BENCH_TAKES
    )
    alone_rise_db: float = setting(1.2, "Rise from which a soft note stands by itself.", BENCH_TIME)
    alone_contrast_db: float = setting(6.0, "Contrast it needs besides.", BENCH_TIME)


@dataclass(frozen=True)
class OnsetsSettings:
    """The onset detection function, a spectral flux in bands, and its peaks."""

    rate_hz: int = setting(24000, "Sample rate of the function.", BENCH_TIME)
    hop_s: float = setting(0.0025, "Step of its frames.", BENCH_TIME)
    min_gap_s: float = setting(0.03, "Least time between strong attacks.", BENCH_TIME)
    soft_rise_db: float = setting(0.4, "Rise of a place that may be a soft note.", BENCH_TIME)
    soft_gap_s: float = setting(0.02, "Least time between soft places.", BENCH_TIME)
    clear_db: float = setting(
        3.0,
        "Contrast of the prediction's error under which it tells nothing; the rise of the bands alone "
        "does then, less well.",
        BENCH_TIME,
    )
    unclear_u_ms: float = setting(15.0, "Expanded uncertainty of an instant that only the bands tell.", BENCH_TIME)
    same_s: float = setting(0.012, "Places this near each other are one.", BENCH_TIME)
    rise_db: float = setting(2.2, "Rise of a strong attack.", BENCH_TIME)
    stop_fall_db: float = setting(10.0, "Fall of the bands that is a stop, not an attack.", BENCH_TIME)
    stop_kept_rise_db: float = setting(
        1.0, "Rise of what sounds on, from which it is an attack all the same.", BENCH_TIME
    )
    n_fft: int = setting(512, "Points of the transform.", BENCH_TIME)
    bands_per_octave: int = setting(6, "Bands an octave.", BENCH_TIME)
    lowest_hz: float = setting(80.0, "Lowest band.", BENCH_TIME)
    highest_hz: float = setting(10000.0, "Highest band.", BENCH_TIME)
    lag_frames: int = setting(6, "Frames back with which a frame is compared.", BENCH_TIME)
    range_db: float = setting(55.0, "Range under the take's peak that counts.", BENCH_TIME)


@dataclass(frozen=True)
class UnlikeSettings:
    """How a stroke differs from the others of its pitch, in the bands of the onset detection function."""

    least_alike: int = setting(3, "Strokes of one pitch from which they are held against each other.", BENCH_STROKES)
    before_s: float = setting(0.01, "Looked at before each stroke.", BENCH_STROKES)
    mean_s: float = setting(0.01, "Time whose mean is compared with that of the same time before.", BENCH_STROKES)
    apart_s: float = setting(0.0025, "Time left out between the two.", BENCH_STROKES)
    level_s: tuple[float, float] = setting(
        (0.01, 0.02), "Time after a stroke in which its own level is read.", BENCH_STROKES
    )
    range_db: float = setting(45.0, "Range of each band under its loudest that counts.", BENCH_STROKES)
    over_floor_db: float = setting(3.0, "Over what is there before strokes.", BENCH_STROKES)
    nearest: int = setting(6, "Strokes nearest in pitch that stand for those of the pitch.", BENCH_STROKES)
    pitches_differ_db: float = setting(0.8, "Strokes of other pitches may rise so much otherwise.", BENCH_STROKES)


@dataclass(frozen=True)
class SalienceSettings:
    """Harmonic sums of the short spectrum after an attack."""

    rate_hz: int = setting(12000, "Sample rate of the spectra.", BENCH_TAKES)
    lengths_s: tuple[float, ...] = setting(
        (0.09, 0.06, 0.04, 0.028), "Lengths of the window, the longest that fits.", BENCH_TAKES
    )
    after_s: float = setting(0.003, "Left out after the attack.", BENCH_TAKES)
    before_s: float = setting(0.002, "Left out before the attack, of what sounded already.", BENCH_TAKES)
    highest_hz: float = setting(5000.0, "Highest frequency summed.", BENCH_TAKES)
    bright_hz: float = setting(1000.0, "Fingers on strings sound over this.", BENCH_TAKES)
    range_midi: tuple[int, int] = setting(
        (38, 86), "Semitones among which a sound is told from noise: a guitar's.", BENCH_TAKES
    )
    envelope_hz: float = setting(350.0, "Width of the spectral envelope that is taken out.", BENCH_TAKES)


@dataclass(frozen=True)
class WarpedSettings:
    """A moving pitch read in time that is warped until it stands still."""

    rate_hz: int = setting(12000, "Sample rate of the sound.", BENCH_VIBRATO)
    n_partials: int = setting(12, "Partials that are read.", BENCH_VIBRATO)
    window_s: float = setting(0.2, "Length of the long window.", BENCH_VIBRATO)
    short_s: float = setting(0.08, "Length of the short one.", BENCH_VIBRATO)
    smooth_s: float = setting(0.045, "What is quicker than this in a course is no hand's.", BENCH_VIBRATO)
    aside: float = setting(
        2.5, "What is beside a partial is asked so far from it, in 1/length: past the first side lobe.", "Harris 1978"
    )
    step: float = setting(1.6, "Share of what is left that each turn takes off; under 2 it comes to rest.", "theory")
    most_turns: int = setting(8, "Most turns.", BENCH_VIBRATO)
    turns_weighed: int = setting(3, "In so many of them partials are weighed anew.", BENCH_VIBRATO)
    at_rest_cents: float = setting(0.05, "Turns end where this little is left (median).", BENCH_VIBRATO)
    stands_out: float = setting(3.0, "A partial's power against what is beside it.", BENCH_VIBRATO)
    least_gain: float = setting(0.9, "Or where a turn leaves more than this share of what was left.", BENCH_VIBRATO)
    least_share: float = setting(0.2, "Share of the frames in which a partial must be heard.", BENCH_VIBRATO)
    weighings: int = setting(2, "How often partials are weighed anew by how far they stray.", BENCH_VIBRATO)


@dataclass(frozen=True)
class HearSettings:
    """All of this stage."""

    attack: AttackSettings = field(default_factory=AttackSettings)
    combs: CombsSettings = field(default_factory=CombsSettings)
    contour: ContourSettings = field(default_factory=ContourSettings)
    crossing: CrossingSettings = field(default_factory=CrossingSettings)
    notes: NotesSettings = field(default_factory=NotesSettings)
    onsets: OnsetsSettings = field(default_factory=OnsetsSettings)
    salience: SalienceSettings = field(default_factory=SalienceSettings)
    unlike: UnlikeSettings = field(default_factory=UnlikeSettings)
    warped: WarpedSettings = field(default_factory=WarpedSettings)


HEAR = stage("hear", HearSettings())
ATTACK = HEAR.attack
COMBS = HEAR.combs
CONTOUR = HEAR.contour
# Time between two frames of a contour; exported.
CONTOUR_HOP_S = CONTOUR.hop_s
CROSSING = HEAR.crossing
NOTES = HEAR.notes
ONSETS = HEAR.onsets
SALIENCE = HEAR.salience
UNLIKE = HEAR.unlike
WARPED = HEAR.warped
