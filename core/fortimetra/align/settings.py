"""Settings: what is matched to what. Units are in the names; every field says what it means and where its value comes
from.
"""

from __future__ import annotations

from dataclasses import dataclass, field

from fortimetra.settings import setting, stage

BENCH_CAUSES = "by hand, held by ./run bench causes and strokes"
BENCH_QUIET = "by hand, held by ./run bench quiet"
BENCH_STROKES = "by hand, held by ./run bench strokes"
BENCH_TAKES = "by hand, held by ./run bench takes"
BENCH_TIME = "by hand, held by ./run bench time"
PRACTICE = "common practice, no source"
TESTS = "by hand, held by the tests"


@dataclass(frozen=True)
class SearchSettings:
    """Costs of the alignment's search, in units of one semitone wrong."""

    missed_cost: float = setting(1.4, "An asked note that is not heard.", BENCH_TAKES)
    not_begun_cost: float = setting(
        1.3, "The same of a repeat that was not begun: who ends early leaves out nothing on the way.", BENCH_TAKES
    )
    extra_cost: float = setting(0.8, "A clear heard note that nobody asked for.", BENCH_TAKES)
    outside_extra_cost: float = setting(
        0.15, "The same before the first note, after the last, or between attempts.", BENCH_TAKES
    )
    tempo_cost_most: float = setting(1.6, "Most that the time since the last note may cost.", BENCH_TAKES)
    reach: int = setting(8, "Most asked notes left out in a row.", BENCH_TAKES)
    reach_heard: int = setting(24, "Most heard notes left over in a row.", BENCH_TAKES)
    band: int = setting(500, "Asked notes around the diagonal that are looked at.", BENCH_TAKES)
    again_cost: tuple[float, float, float] = setting(
        (1.2, 1.5, 2.4), "Beginning again: from the start of the repeat, of a bar, of any note.", BENCH_TAKES
    )
    at_once_cost: float = setting(1.0, "More for beginning again without the moment a hand needs for it.", BENCH_TAKES)
    at_once_slots: float = setting(1.6, "That moment, in lengths of the last note.", BENCH_TAKES)
    at_once_s: float = setting(0.8, "Or this long, where notes are slow.", BENCH_TAKES)
    begins_wrong: float = setting(1.0, "What begins an attempt has its pitch count so much more.", BENCH_TAKES)
    once_more_cost: float = setting(1.6, "A repeat that was played to its end, once more.", BENCH_TAKES)
    resume_cost: float = setting(1.8, "Going on after a stop of any length.", BENCH_TAKES)
    off_grid_cost: float = setting(1.2, "A note half a beat beside a known click, after a break.", BENCH_TAKES)
    beside_cost: float = setting(0.3, "Most for any note beside the beats of a known click.", BENCH_TAKES)
    beside_slots: float = setting(0.5, "So far beside, in lengths of the note, it costs that.", BENCH_TAKES)
    which_repeat_cost: float = setting(
        1e-06, "Of repeats that fit alike, per event: too little to outweigh anything heard.", BENCH_TAKES
    )
    late_start_cost: float = setting(0.15, "Beginning elsewhere than where a click says, per second.", BENCH_TAKES)
    late_start_most: float = setting(1.5, "Most that it costs.", BENCH_TAKES)
    fits_cost: float = setting(0.4, "Pitch cost under which a heard note is of the drill.", BENCH_TAKES)
    belongs_share: float = setting(0.6, "Share of its cost that such a note keeps outside the playing.", BENCH_TAKES)
    more_most: float = setting(
        6.0, "Most that everything before the first and after the last asked note may cost.", BENCH_TAKES
    )
    pinned_worth: float = setting(10000.0, "What a person said is worth more than any path without it.", BENCH_TAKES)


@dataclass(frozen=True)
class ClickSettings:
    """The click, in a channel of its own, before the notes, or beside them."""

    per_beat: tuple[float, ...] = setting(
        (1.0, 2.0, 3.0, 4.0, 0.5, 0.25), "Clicks a beat that are looked for; one a bar of four comes last.", BENCH_TIME
    )
    tempo_tolerance: float = setting(0.06, "How far the click may be off the asked tempo, as a share.", BENCH_TIME)
    least_clicks: int = setting(4, "Fewest clicks of a line.", BENCH_TIME)
    off_line_s: float = setting(0.006, "How far a click may lie off the line of all.", BENCH_TIME)
    line_share: float = setting(0.9, "Share of the bursts that lie on it.", BENCH_TIME)
    burst_under_top_db: float = setting(20.0, "How far under the loudest a burst may lie.", BENCH_TIME)
    least_peak: float = setting(1e-4, "A channel whose peak is under this, of full scale, holds none.", PRACTICE)
    silent_under_top_db: float = setting(40.0, "A click's channel is as far down most of the time.", BENCH_TIME)
    dead_time_s: float = setting(0.04, "Bursts nearer than this are one.", BENCH_TIME)
    attack_share: float = setting(0.25, "Share of its peak at which a burst begins.", BENCH_TIME)
    count_in_onsets: int = setting(12, "Onsets among which a count-in may begin.", BENCH_TIME)
    least_count_in: int = setting(3, "Fewest clicks of a count-in.", BENCH_TIME)
    even_s: float = setting(0.012, "How far one of them may lie off its place.", BENCH_TIME)
    alike: float = setting(0.8, "Correlation of clicks that are alike.", BENCH_TIME)
    hit: float = setting(0.5, "Correlation at which a click is found beside notes.", BENCH_TIME)
    hit_share: float = setting(0.25, "Share of the places where one has to be found.", BENCH_TIME)
    least_hits: int = setting(6, "Fewest of them.", BENCH_TIME)
    template_s: float = setting(0.02, "Length of the click that is compared.", BENCH_TIME)
    search_s: float = setting(0.008, "How far about its place it is looked for.", BENCH_TIME)
    high_pass_hz: float = setting(700.0, "Only what is brighter is compared.", BENCH_TIME)
    gone_after_s: float = setting(0.06, "A click is over by then, a plucked string is not.", PRACTICE)
    gone_by_db: float = setting(18.0, "How far it has fallen by then.", PRACTICE)
    attack_u_ms: float = setting(0.3, "To what the attack of a burst is read.", BENCH_TIME)


@dataclass(frozen=True)
class ExtrasSettings:
    """What was played that nobody asked for."""

    double_s: float = setting(0.06, "A second attack inside this is a double hit.", PRACTICE)
    double_share: float = setting(0.4, "Or inside this share of the slot, whichever is shorter.", BENCH_TAKES)
    one_attack_s: float = setting(0.018, "Attacks nearer than this are one.", BENCH_TAKES)
    same_semitones: float = setting(0.6, "Pitches nearer than this are the same note.", BENCH_TAKES)
    least_restart_notes: int = setting(3, "Fewest extra notes that are a restart.", BENCH_TAKES)
    restart_share: float = setting(0.75, "Share of them that have the pitches of a stretch of the drill.", BENCH_TAKES)


@dataclass(frozen=True)
class OthersSettings:
    """Coughs, knocks, chairs, speech."""

    tonal_share: float = setting(0.5, "A sound with less of a comb than this is no string.", BENCH_TAKES)
    loudness_share: float = setting(0.5, "A sound fainter than this beside the notes is not shown.", BENCH_TAKES)
    finger_share: float = setting(
        0.92, "Share of bright energy from which it is fingers on strings, which is the hand's.", BENCH_QUIET
    )
    new_tonal: float = setting(0.35, "Nor one that adds less of a comb than this to what rings already.", BENCH_TAKES)
    least_rise_db: float = setting(1.2, "Rise of one that is looked at.", BENCH_TAKES)
    stops_db: float = setting(1.5, "A recording that gets softer by more has a string stopped there.", BENCH_TAKES)
    stops_s: float = setting(0.06, "Within this time.", BENCH_TAKES)
    before_s: float = setting(0.02, "It may have begun so long before it is heard to rise.", BENCH_TAKES)
    lasts_s: float = setting(0.25, "How long one lasts.", BENCH_TAKES)
    join_s: float = setting(0.3, "Those that follow each other by less are one.", BENCH_TAKES)


@dataclass(frozen=True)
class GridSettings:
    """Where the beats lie, and where a student left them."""

    min_fit_notes: int = setting(4, "Fewest notes a tempo is fitted to.", BENCH_TIME)
    most_fit_scatter_beats: float = setting(0.2, "Most scatter about the fit, beats.", BENCH_TIME)
    recorder_u_ms: float = setting(1.0, "Expanded uncertainty of a click the recorder sent.", BENCH_TIME)
    near_pairs: int = setting(
        4, "Notes apart whose distance tells the tempo: a jump of the whole lies between few of them.", BENCH_TIME
    )
    jump_notes: int = setting(4, "Notes before and after a jump whose medians are compared.", BENCH_TIME)
    jump_beats: float = setting(0.4, "Difference of those medians that is a jump.", BENCH_TIME)
    whole_beats_within: float = setting(
        0.25, "How near a jump has to be to whole beats to be one of them, beats.", BENCH_TIME
    )
    least_section_notes: int = setting(3, "Fewest notes of a stretch between jumps.", BENCH_TIME)


@dataclass(frozen=True)
class ListenSettings:
    """Everything that may be a note of the drill."""

    least_note_s: float = setting(0.02, "Shortest note that is looked at.", BENCH_TAKES)
    pin_within_s: float = setting(0.04, "A sound is the one a person pointed at within this time.", BENCH_TAKES)
    soft_apart_share: float = setting(
        0.25, "Two soft rises nearer than this share of the shortest slot cannot both be notes.", BENCH_TAKES
    )
    soft_apart_s: float = setting(0.015, "Nor nearer than this.", BENCH_TAKES)
    soft_from_step_s: float = setting(0.03, "A soft rise this near a step of pitch is the step.", BENCH_TAKES)
    midi_margin: int = setting(3, "Semitones beside the drill's range that the spectrum is asked about.", BENCH_TAKES)
    ends_rise_db: float = setting(4.0, "Rise of an attack that surely ends the note before it.", BENCH_TAKES)
    ends_contrast_db: float = setting(6.0, "Or its contrast.", BENCH_TAKES)
    double_least_s: float = setting(0.025, "No pick comes back to a string sooner.", BENCH_TIME)
    double_rise_db: float = setting(3.0, "Rise of a second attack on a string that rings.", BENCH_TAKES)
    double_broken_rise_db: float = setting(2.2, "Rise of one that breaks what rings, however little.", BENCH_TAKES)
    double_broken_contrast_db: float = setting(0.5, "Least contrast of such a break.", BENCH_TAKES)
    double_soft_rise_db: float = setting(1.5, "Rise of one whose contrast is clear.", BENCH_TAKES)
    double_unlike_db: float = setting(
        1.8, "Rise of one that the other strokes of that pitch do not have.", BENCH_STROKES
    )
    double_unlike_times: float = setting(
        3.0, "And so many times what single strokes of the take rise so (median).", BENCH_STROKES
    )
    double_borne_out_share: float = setting(
        0.5, "With this share of it a rise that breaks what rings is a second stroke, too.", BENCH_STROKES
    )
    double_borne_out_rise_db: float = setting(1.3, "Rise of such a one.", BENCH_STROKES)
    double_clear_s: float = setting(0.02, "What is so near before the next note is its own.", BENCH_STROKES)
    every_time_s: float = setting(
        0.005, "What rises this evenly after the strokes of a pitch is the room's or the guitar's.", BENCH_CAUSES
    )
    every_time_rise_db: float = setting(0.5, "Rise of what is counted so.", BENCH_CAUSES)
    every_time_share: float = setting(
        0.5, "After this share of a pitch's other notes it comes every time.", BENCH_CAUSES
    )
    every_time_notes: int = setting(3, "Of so many other notes at least.", BENCH_CAUSES)
    every_time_contrast_db: float = setting(1.5, "Contrast of what is a stroke however often it comes.", BENCH_CAUSES)
    falls_db: float = setting(2.0, "Fall of level at which something stops rather than begins.", BENCH_TAKES)
    clear_extra_db: float = setting(5.0, "Contrast from which an extra without pitch is one.", BENCH_TAKES)
    swell_db: float = setting(8.0, "Rise of a note after its attack that is a swell, not a double hit.", BENCH_TAKES)
    alike_share: float = setting(
        0.8, "Mean of all pitches as directions on a semitone's circle, from which they are alike.", BENCH_TAKES
    )
    silent_db: float = setting(25.0, "A slur so far under the notes is none: nobody hears it.", BENCH_TAKES)
    far_too_soft_db: float = setting(12.0, "A chance so far under the usual note is none.", BENCH_TAKES)
    stroke_share: float = setting(
        0.75, "A stroke this share of a note's slot away from a soft rise is the note rather than that.", BENCH_TAKES
    )
    stroke_s: float = setting(0.35, "But no farther away.", BENCH_TAKES)
    clearer_stroke_db: float = setting(6.0, "If it rises by so much more.", BENCH_TAKES)
    brief_s: float = setting(0.05, "A note shorter than this that falls at once is a stop.", BENCH_TAKES)
    sure_db: float = setting(10.0, "Contrast of an attack that is sure whatever its level.", BENCH_TAKES)
    sharp_db: float = setting(6.0, "An attack this clear is the slur's own, and better known.", BENCH_TAKES)
    same_change_s: float = setting(0.012, "If it lies this near the change of pitch.", BENCH_TAKES)
    reached_s: float = setting(
        0.06, "A slide has arrived where it stays so long; on its way it passes quicker.", BENCH_TAKES
    )
    rest_beats: float = setting(0.05, "A slur so long after the note before it has ended comes from nowhere.", PRACTICE)
    fret_to_fret_s: float = setting(
        0.16,
        "Steps of a slide follow each other quicker than this; notes that are slurred do not in drills that slide.",
        BENCH_TAKES,
    )


@dataclass(frozen=True)
class MatchSettings:
    """What speaks against a heard note being an asked one, in units of one semitone wrong."""

    pitch_cost_per_semitone: float = setting(0.8, "A semitone off by the contour.", BENCH_TAKES)
    pitch_cost_most: float = setting(1.3, "Most that a pitch costs.", BENCH_TAKES)
    octave_semitones: float = setting(0.6, "A pitch so near an octave off may be the tracker's slip.", BENCH_TAKES)
    octave_as_semitones: float = setting(1.3, "And is taken to be so far off.", BENCH_TAKES)
    together_cost: float = setting(0.3, "Strings struck together: one pitch is heard of several.", BENCH_TAKES)
    chord_cost: float = setting(
        1.6, "The spectrum's salience of a chord, beside the chord that fits best.", BENCH_TAKES
    )
    chord_cost_most: float = setting(0.9, "Most that it costs.", BENCH_TAKES)
    root_cents: float = setting(
        30.0, "Notes of a chord so near partials of a lower pitch are heard as that, too.", BENCH_TAKES
    )
    tempo_cost_per_octave: float = setting(
        1.5, "The time since the last note, twice or half of what is asked.", BENCH_TAKES
    )
    clicked_tempo_cost_per_octave: float = setting(
        1.0, "The same where the click is known: how far beside it a note lies counts, too.", BENCH_TAKES
    )
    free_tempo_cost_per_octave: float = setting(0.2, "The same in a drill without a click.", BENCH_TAKES)
    fits_semitones: float = setting(0.75, "How far off a note is still at its pitch.", BENCH_TAKES)
    unclear_cost: tuple[float, float, float] = setting(
        (0.4, 0.9, 0.2),
        "A rise of no contrast taken for a picked note, for one of the pitch that sounds already, for a slurred one.",
        BENCH_TAKES,
    )
    clear_contrast_db: float = setting(12.0, "Contrast from which that costs nothing.", BENCH_TAKES)
    weak_cost: float = setting(0.2, "An attack that is hardly one taken for a note, beside a clear one.", BENCH_TAKES)
    weak_share: float = setting(0.3, "So much less it costs to leave that one over.", BENCH_TAKES)
    chance_share: float = setting(
        0.3,
        "Of what a clear note costs that nobody asked for, a rise that a room may have made by chance.",
        BENCH_TAKES,
    )
    noise_cost: float = setting(1.0, "A sound without a string's partials taken for a note.", BENCH_TAKES)
    tonal: tuple[float, float] = setting(
        (0.2, 0.55), "Harmonic sum of a sound that is surely none, and of one that surely is.", BENCH_TAKES
    )
    loud_percentile: float = setting(80.0, "Percentile of the attacks' levels that is the take's own.", BENCH_TAKES)
    soft_db: tuple[float, float] = setting(
        (20.0, 32.0), "So far under it a note is soft, and so far it is none.", BENCH_TAKES
    )
    contour_from_s: float = setting(
        0.12,
        "Notes shorter than this are told by the spectrum after their attack rather than by their contour.",
        BENCH_TAKES,
    )
    salience_cost: float = setting(
        2.2, "The spectrum's salience of a pitch, beside the pitch that fits best.", BENCH_TAKES
    )
    told_as_asked: float = setting(
        0.1, "So little less salience, and the spectrum says it is the asked pitch.", BENCH_TAKES
    )
    told_as_asked_short: float = setting(0.2, "The same for a short note.", BENCH_TAKES)
    looks_wrong_share: float = setting(0.34, "Share of the notes that have to fit where it is the drill.", BENCH_TAKES)
    other_pace_share: float = setting(0.5, "Fewer notes fit than this, and other tempos are tried.", BENCH_TAKES)
    other_pace: float = setting(
        0.6, "Or notes come so much slower or quicker than asked, octaves of tempo.", BENCH_TAKES
    )
    paces: tuple[float, float] = setting((2.0, 0.5), "How much slower those are.", BENCH_TAKES)
    elsewhere_semitones: float = setting(
        4.0, "So far off by the contour, a note does not show that it is the drill.", BENCH_TAKES
    )
    least_offset_notes: int = setting(3, "Fewest notes that tell how the guitar is tuned as a whole.", BENCH_TAKES)
    detuned_cents: float = setting(20.0, "Off by this much the guitar is out of tune as a whole.", BENCH_TAKES)
    flat_cents: float = setting(8.0, "Or flat by this, where all notes are alike.", BENCH_TAKES)
    alike_cents: float = setting(6.0, "How alike.", BENCH_TAKES)
    stopped_s: float = setting(
        0.6, "Longer than asked between two notes by this, and the student had stopped.", BENCH_TAKES
    )
    near_s: float = setting(0.25, "What follows a note within this is its own.", BENCH_TAKES)


@dataclass(frozen=True)
class SetupMatchSettings:
    """Which string is which in a set-up take."""

    most_shift_semitones: float = setting(7.0, "How far the guitar may be tuned down or up as a whole.", TESTS)
    near_semitones: float = setting(0.6, "How near a note is to be the asked one.", TESTS)
    most_misfit_semitones: float = setting(2.5, "Most that a pitch may be off, and cost.", TESTS)
    missed_cost: float = setting(1.6, "An asked string that is not heard, in semitones.", TESTS)
    extra_cost: float = setting(0.6, "A heard note that is left over, in semitones.", TESTS)
    min_share: float = setting(0.5, "Share of the strings that have to be heard.", TESTS)


@dataclass(frozen=True)
class AlikeSettings:
    """Which of several like notes in a row is which; costs in slots of the drill."""

    least_notes: int = setting(4, "Fewest like events in a row.", BENCH_TAKES)
    around: int = setting(12, "Events before and after whose times tell when one is due.", BENCH_TAKES)
    farthest_slots: float = setting(1.0, "Most that a sound off its time costs.", BENCH_TAKES)
    left_over: float = setting(0.5, "A sound or an event that is left over.", BENCH_TAKES)
    least_gain: float = setting(1.5, "By so much another pairing has to be better.", BENCH_TAKES)
    neighbours: int = setting(3, "Notes before and after a stretch, of which most have to be on time.", BENCH_TAKES)
    on_time_slots: float = setting(0.35, "How near to their time that is.", BENCH_TAKES)


@dataclass(frozen=True)
class SwingsSettings:
    """Notes of one pitch told apart by their vibrato."""

    from_s: float = setting(0.15, "A vibrato is looked for from so long after its note begins.", BENCH_TAKES)
    least_s: float = setting(0.8, "Shorter notes tell nothing.", BENCH_TAKES)
    least_cents: float = setting(8.0, "Swings to either side under this are none.", BENCH_TAKES)
    cost_per_octave: float = setting(
        0.8, "A rate or a width twice or half of what is asked, in semitones wrong.", BENCH_TAKES
    )
    cost_most: float = setting(1.0, "Most that it costs.", BENCH_TAKES)
    cost_straight: float = setting(0.5, "A straight note for one that should swing, or the other way.", BENCH_TAKES)


@dataclass(frozen=True)
class SlidSettings:
    """Notes slid into."""

    latest_s: float = setting(0.3, "The pitch is there this long after it should be at the latest.", BENCH_TAKES)


@dataclass(frozen=True)
class UnclickSettings:
    """Taking an audible click out of the sound."""

    length_s: float = setting(0.06, "Length of the click that is taken out.", BENCH_TIME)
    before_s: float = setting(0.003, "From so long before its attack.", BENCH_TIME)
    search_s: float = setting(0.003, "How far about its place it is looked for.", BENCH_TIME)
    margin_s: float = setting(0.01, "Sound beside it that has to fit as well.", BENCH_TIME)
    lead_s: float = setting(0.2, "The count-in lies from so long before the first click.", BENCH_TIME)
    count_in_s: float = setting(20.0, "To so long after it at most.", BENCH_TIME)
    alike: float = setting(0.8, "Correlation of clicks that are alike.", BENCH_TIME)
    least_gain: float = setting(0.5, "A click is about as loud each time: no softer than this.", BENCH_TIME)
    most_gain: float = setting(1.6, "Nor louder.", BENCH_TIME)
    least_likeness: float = setting(0.3, "Anything less alike found there is not the click.", BENCH_TIME)


@dataclass(frozen=True)
class EchoesSettings:
    """What a delay or a reverb brings back of every note."""

    least: int = setting(3, "Fewest sounds that come after the same time.", BENCH_TAKES)
    alike_s: float = setting(0.003, "Times of a machine lie so near to each other.", BENCH_TAKES)
    hand_s: float = setting(0.015, "A hand's scatter over this on either side.", PRACTICE)
    share: float = setting(0.8, "Share of what comes about then that has to come so evenly.", BENCH_TAKES)
    softer_db: float = setting(3.0, "An echo is softer than its note by this.", BENCH_TAKES)
    contrast_db: float = setting(10.0, "Contrast from which something is struck, not echoed.", BENCH_TAKES)


@dataclass(frozen=True)
class AlignSettings:
    """All of this stage."""

    search: SearchSettings = field(default_factory=SearchSettings)
    alike: AlikeSettings = field(default_factory=AlikeSettings)
    click: ClickSettings = field(default_factory=ClickSettings)
    echoes: EchoesSettings = field(default_factory=EchoesSettings)
    extras: ExtrasSettings = field(default_factory=ExtrasSettings)
    others: OthersSettings = field(default_factory=OthersSettings)
    grid: GridSettings = field(default_factory=GridSettings)
    listen: ListenSettings = field(default_factory=ListenSettings)
    match: MatchSettings = field(default_factory=MatchSettings)
    setup_match: SetupMatchSettings = field(default_factory=SetupMatchSettings)
    slid: SlidSettings = field(default_factory=SlidSettings)
    swings: SwingsSettings = field(default_factory=SwingsSettings)
    unclick: UnclickSettings = field(default_factory=UnclickSettings)


ALIGN = stage("align", AlignSettings())
SEARCH = ALIGN.search
ALIKE = ALIGN.alike
CLICK = ALIGN.click
ECHOES = ALIGN.echoes
EXTRAS = ALIGN.extras
OTHERS = ALIGN.others
GRID = ALIGN.grid
LISTEN = ALIGN.listen
MATCH = ALIGN.match
SETUP_MATCH = ALIGN.setup_match
SLID = ALIGN.slid
SWINGS = ALIGN.swings
UNCLICK = ALIGN.unclick
