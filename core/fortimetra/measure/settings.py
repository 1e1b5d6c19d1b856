"""Settings: what values are read with. Units are in the names; every field says what it means and where its value
comes from.
"""

from __future__ import annotations

from dataclasses import dataclass, field

from fortimetra.settings import setting, stage

BENCH_LEVEL = "by hand, held by ./run bench level"
BENCH_PITCH = "by hand, held by ./run bench pitch"
BENCH_QUIET = "by hand, held by ./run bench quiet"
BENCH_STROKES = "by hand, held by ./run bench strokes"
BENCH_TAKES = "by hand, held by ./run bench takes"
BENCH_VIBRATO = "by hand, held by ./run bench vibrato"
BENCH_TIME = "by hand, held by ./run bench time"
PRACTICE = "common practice, no source"
TESTS = "by hand, held by the tests"


@dataclass(frozen=True)
class BendSettings:
    """How far, how fast and how steady a bend is."""

    plateau_slope_cents_per_s: float = setting(60.0, "A held bend is flatter than this.", BENCH_PITCH)
    plateau_min_s: float = setting(0.08, "And lasts at least so long.", BENCH_PITCH)
    slope_window_s: float = setting(0.055, "Time over which the slope is read.", BENCH_PITCH)
    waver_s: float = setting(0.25, "The same where the hand wavers: longer than a period of the wavering.", BENCH_PITCH)
    waver_cents: float = setting(6.0, "A hold that goes so far to either side of its line wavers.", BENCH_PITCH)
    least_wavers: int = setting(3, "If it changes sides so often.", BENCH_PITCH)
    least_rise_cents: float = setting(20.0, "A shorter way up takes no time that could be told.", BENCH_PITCH)
    drift_s: float = setting(0.5, "A hold shorter than this does not tell whether it sinks.", PRACTICE)
    bridge_s: float = setting(0.06, "Two flat stretches this near each other are one hold.", BENCH_PITCH)
    bridge_cents: float = setting(10.0, "If they lie at about the same pitch.", BENCH_PITCH)
    peak_s: float = setting(0.02, "Median over which a peak is read.", BENCH_PITCH)
    start_s: tuple[float, float] = setting(
        (0.03, 0.12), "Stretch after the attack from which the start is read.", BENCH_PITCH
    )
    choke_db: float = setting(12.0, "Fall of level during the rise that is a choked bend.", BENCH_PITCH)
    choke_s: float = setting(0.06, "Within this time.", BENCH_PITCH)
    choke_stays_s: float = setting(
        0.1, "And it stays down so long: in a room a pitch on its way is softer in places, and comes back.", BENCH_TAKES
    )
    rest_s: tuple[float, float] = setting(
        (0.02, 0.1), "Stretch after the attack in which a bend may rest at its fret.", BENCH_TAKES
    )
    rest_frames: int = setting(4, "Fewest frames of that rest.", BENCH_TAKES)
    rest_cents: float = setting(4.0, "It is no rest where the pitch moves by more.", BENCH_TAKES)
    start_u_cents: float = setting(
        5.0, "Expanded uncertainty of that rest: the stroke itself pulls the pitch.", BENCH_TAKES
    )
    one_note_u_cents: float = setting(5.0, "Expanded uncertainty of a reference that was played once.", BENCH_PITCH)
    tuned_u_cents: float = setting(3.0, "Expanded uncertainty of a guitar tuned by a tuner.", PRACTICE)
    wrong_reference_cents: float = setting(60.0, "A reference this far off the tuning is another note.", BENCH_PITCH)


@dataclass(frozen=True)
class ChordSettings:
    """Notes struck together, one by one."""

    least_for_tuning: int = setting(6, "Fewest notes of chords that tell how the guitar is tuned.", BENCH_TAKES)
    from_s: float = setting(0.05, "Read from so long after the attack.", BENCH_QUIET)
    lengths_s: tuple[float, ...] = setting((0.3, 0.2, 0.14, 0.1), "Over the longest of these that fits.", BENCH_QUIET)
    off_cents: float = setting(45.0, "How far a note may be off its pitch.", BENCH_QUIET)
    absent_db: float = setting(-30.0, "Less than this beside the others is no note of the chord.", BENCH_QUIET)
    many: int = setting(3, "Fewest chords of a kind that tell what is usual.", BENCH_QUIET)
    u_level_db: float = setting(1.5, "Standard uncertainty of a note's level in a chord.", BENCH_QUIET)
    u_cents: float = setting(1.0, "Least standard uncertainty of its pitch.", BENCH_QUIET)
    driven_db: float = setting(
        -38.0,
        "Level of the tones of one order that drive makes of two notes, from which the sound is driven: −26 to −34 "
        "through an amplifier, under −44 without one.",
        BENCH_QUIET,
    )
    driven_twice_db: float = setting(
        -42.0,
        "The same where two orders are: the second is −39 to −43 through an amplifier that is hardly driven, under −46 "
        "by phone.",
        BENCH_TAKES,
    )
    products_hz: tuple[float, float] = setting((50.0, 3000.0), "Band in which such tones are looked for.", BENCH_QUIET)
    least_products: int = setting(3, "Fewest such tones of an order.", BENCH_QUIET)


@dataclass(frozen=True)
class EvidenceSettings:
    """How much the partials say that a string rings."""

    lowest_db: float = setting(-40.0, "Nothing under this is reported, whatever the floor.", BENCH_QUIET)
    least_evidence: float = setting(24.0, "Least evidence of a string, dB summed over partials.", BENCH_QUIET)
    decoys: int = setting(24, "Pitches no string has, whose evidence is chance.", BENCH_QUIET)
    decoy_margin: float = setting(6.0, "A string has to exceed them by this.", BENCH_QUIET)
    decoy_reach_s: float = setting(0.4, "Stretch of the take whose decoys count.", BENCH_QUIET)
    smooth_s: float = setting(0.25, "Stretch over which the level is averaged.", BENCH_QUIET)
    own_evidence: float = setting(
        9.0,
        "What must speak for a comb beside the partials it shares with one an octave or a twelfth above.",
        BENCH_QUIET,
    )
    sympathy_s: float = setting(2.0, "How long a string rings in sympathy with what was played.", PRACTICE)
    sympathy_hz: float = setting(2.0, "How near its partial has to lie.", PRACTICE)
    sympathy_db: float = setting(-27.0, "A string in sympathy stays under this level.", PRACTICE)
    room_most_db: float = setting(-14.0, "Nor does a room hold more of the notes just played than this.", BENCH_TAKES)


@dataclass(frozen=True)
class LengthSettings:
    """How long notes sound."""

    dies_share: float = setting(0.4, "A note shorter than this share of its slot has died.", BENCH_TIME)
    end_u_ms: float = setting(12.0, "Expanded uncertainty of an end.", BENCH_TIME)
    most_ratio: float = setting(1.5, "Longer ones, in their slots, are left out of a summary.", PRACTICE)
    least_notes: int = setting(3, "Fewest notes of a summary.", BENCH_TIME)
    same_end_s: float = setting(0.005, "A note that ends this near the next one ends where that begins.", TESTS)
    fades_s: float = setting(0.6, "Low strings take longer than this to fall by 20 dB.", PRACTICE)
    least_q: float = setting(
        150.0,
        "Quality of a plucked string at its pitch: higher ones fade as soon as that says, no sooner.",
        "recorded notes of three guitars (`benchmarks/_notes.py`): 176 and more for 84 of 85",
    )
    pluck_s: float = setting(0.07, "What a pluck adds to its string's sound is over after this.", BENCH_TAKES)
    goes_on_db: float = setting(15.0, "A note that has died is further than this under its start.", BENCH_TAKES)
    landing_s: float = setting(0.1, "A hand stops a string within this.", PRACTICE)
    cut_db: float = setting(8.0, "By at least so much.", PRACTICE)
    edge_s: float = setting(0.02, "Stretch about an end over which the level is read.", BENCH_TIME)


@dataclass(frozen=True)
class LevelSettings:
    """How loud notes are."""

    band_hz: tuple[float, float] = setting(
        (60.0, 8000.0), "Band in which level is read: neither rumble nor hiss.", BENCH_LEVEL
    )
    from_s: float = setting(0.005, "Read from so long after the attack.", BENCH_LEVEL)
    to_s: float = setting(0.085, "To so long after it, or to the next attack.", BENCH_LEVEL)
    least_s: float = setting(0.015, "Shortest note that has a level.", BENCH_LEVEL)
    room_share: float = setting(
        0.13, "Share of what sounds, as power, that is a room's when the next note begins.", BENCH_TAKES
    )
    room_db: float = setting(
        2.2,
        "Standard deviation that a room adds to a note's level from pitch to pitch: 5.6 for one frequency far from the "
        "source (Schroeder 1962, from memory), less for several partials and direct sound.",
        BENCH_TAKES,
    )
    pitch_hand_db: float = setting(1.0, "A hand's own standard deviation from pitch to pitch.", PRACTICE)
    least_for_hand: int = setting(
        5, "Fewest notes that tell how much a hand scatters, beyond the first one of each string.", BENCH_TAKES
    )
    least_hand_db: float = setting(0.3, "Nobody scatters less.", BENCH_TAKES)
    before_s: tuple[float, float] = setting(
        (0.03, 0.004), "Stretch before the attack from which what rings on is read.", BENCH_LEVEL
    )
    most_ringing_share: float = setting(
        0.9, "Most of a note's power that what rang before it is taken to have: ten times that of the note.", PRACTICE
    )
    method_u_db: float = setting(0.3, "Least expanded uncertainty of a level.", BENCH_LEVEL)
    step_s: float = setting(0.0005, "Step of the energy.", BENCH_LEVEL)
    period_u_db: float = setting(
        1.5, "A window of few periods weighs one of them too much: so many dB over the number of periods.", BENCH_LEVEL
    )
    least_notes: int = setting(4, "Fewest notes of the own string that tell what is usual.", BENCH_LEVEL)
    drift_minutes: float = setting(0.1, "A shorter take does not tell whether it gets louder.", PRACTICE)
    least_slurred: int = setting(3, "Fewest slurred notes of a comparison.", BENCH_LEVEL)
    hand_u_db: float = setting(2.0, "How far one hand's strokes differ, where there are few of them.", PRACTICE)
    other_strings_u_db: float = setting(3.0, "How far strings of a guitar differ.", PRACTICE)
    neighbours: int = setting(4, "Picked notes on both sides that tell what is usual.", BENCH_LEVEL)


@dataclass(frozen=True)
class LookingSettings:
    """Where ringing strings are looked for, and beside what."""

    windows_s: tuple[float, ...] = setting(
        (0.2, 0.14, 0.1, 0.07, 0.05), "Lengths of the windows, the longest that fits.", BENCH_QUIET
    )
    driven_windows_s: tuple[float, ...] = setting(
        (0.4, 0.3),
        "The same for notes together through drive: of a fifth it makes tones every half of the lower pitch, 49 Hz "
        "apart at fret 3 of string 6, of which a lobe of ±13 Hz leaves nothing free for another string.",
        BENCH_TAKES,
    )
    hop_share: float = setting(1.0 / 3.0, "Step of the windows, of their length.", BENCH_QUIET)
    note_cents: float = setting(8.0, "How far a sounding note may be off its pitch.", BENCH_QUIET)
    products: int = setting(6, "Order up to which two driven notes make tones that count.", BENCH_QUIET)
    over_db: float = setting(12.0, "A note more than this under its own start is over.", BENCH_QUIET)


@dataclass(frozen=True)
class OverlapSettings:
    """How long a note sounds into the next one."""

    rate_hz: int = setting(12000, "Sample rate of the spectra.", BENCH_QUIET)
    window_s: float = setting(0.05, "Length of a window.", BENCH_QUIET)
    hop_s: float = setting(0.004, "Step of the windows.", BENCH_QUIET)
    within_db: float = setting(20.0, "An old note this far under the new one is not heard any more.", BENCH_QUIET)
    same_semitones: float = setting(
        0.5, "A note this near the pitch of the next, or of where that bends, is not told from it.", BENCH_TAKES
    )
    held_db: float = setting(10.0, "A note that has fallen by so much is no longer held.", BENCH_STROKES)
    least_held_db: float = setting(
        8.0, "Only of a note that may fall by so much before the next covers it.", BENCH_STROKES
    )
    least_windows: int = setting(4, "Fewest windows in which an overlap is looked for.", BENCH_QUIET)
    heard_share: float = setting(
        0.01, "A partial of the old note is heard with this share of its strongest.", BENCH_QUIET
    )
    highest_hz: float = setting(4000.0, "Highest partial looked at.", BENCH_QUIET)
    apart_bins: float = setting(2.2, "Partials this far apart are told from each other by the window.", BENCH_QUIET)
    longest_s: float = setting(1.0, "Longest overlap that is read.", BENCH_QUIET)
    least_note_s: float = setting(0.03, "Shortest note with an overlap.", BENCH_QUIET)
    u_ms: float = setting(12.0, "Expanded uncertainty of a clean end.", BENCH_QUIET)
    u_db: float = setting(2.0, "By which the level of an old note under a new one may be wrong.", BENCH_LEVEL)
    stroke_periods: float = setting(
        18.0, "Of a low note, so many of its periods: drive makes a stroke last that long.", BENCH_STROKES
    )
    stroke_ms: float = setting(70.0, "An overlap this short may be the stroke's own.", BENCH_QUIET)
    u_stroke_ms: float = setting(20.0, "Expanded uncertainty of one that is.", BENCH_QUIET)
    stroke_share: float = setting(0.1, "Share of the old note's partials that a stroke does not reach.", BENCH_LEVEL)
    louder_db: float = setting(
        1.8, "By which a partial of the old note may seem louder than before: it beats with another.", BENCH_TAKES
    )
    most_whole: float = setting(
        16.0, "The unshared partials have to hold at least this share of the note: 12 dB under it.", BENCH_QUIET
    )


@dataclass(frozen=True)
class OwnFallsSettings:
    """How long notes seem held whose string the next note takes."""

    least: int = setting(6, "Fewest of them that tell.", BENCH_STROKES)
    most: int = setting(48, "Of more, so many over the take are read.", BENCH_STROKES)
    quick_percentile: float = setting(25.0, "Percentile that every note takes at least.", BENCH_STROKES)
    slow_percentile: float = setting(95.0, "And one that hardly any exceeds.", BENCH_STROKES)
    chance: float = setting(1.2, "By which a note may exceed that by chance: in a room it falls unevenly.", BENCH_TAKES)


@dataclass(frozen=True)
class PitchSettings:
    """Plain pitch, and how strings are tuned."""

    min_notes_for_offset: int = setting(4, "Fewest plain notes of a string that tell how it is tuned.", BENCH_PITCH)
    changed_cents: float = setting(12.0, "A string this far from its set-up has changed.", BENCH_PITCH)
    later_s: tuple[float, ...] = setting(
        (0.0, 0.1, 0.2, 0.3), "Where a note has no pitch at first, it is read so much later.", BENCH_PITCH
    )
    slid_s: float = setting(0.1, "A slide into a note is over this long after it should be.", BENCH_PITCH)


@dataclass(frozen=True)
class QuietSettings:
    """What should be silent."""

    same_burst_s: float = setting(0.05, "Bursts this near each other are one.", BENCH_QUIET)
    left_s: float = setting(0.1, "A string has left its pitch for another this shortly before it rings.", BENCH_TAKES)
    risen_s: float = setting(
        0.5, "So long after its stroke a bend has risen, and a room has forgotten where from.", BENCH_TAKES
    )
    struck_db: float = setting(1.5, "Rise of level where a string is struck again.", BENCH_QUIET)


@dataclass(frozen=True)
class ReleaseSettings:
    """Bends let down."""

    least_way_cents: float = setting(40.0, "A bend that falls by less was not let down.", BENCH_PITCH)
    end_s: float = setting(0.08, "Stretch at the end from which the landing is read.", BENCH_PITCH)


@dataclass(frozen=True)
class RingSettings:
    """Strings that ring and should not."""

    partial_db: float = setting(-55.0, "A string at the lowest level has partials down to this.", BENCH_QUIET)
    tuned_cents: float = setting(
        12.0, "How near two pitches have to be to a whole ratio to share partials.", BENCH_QUIET
    )
    rounds: int = setting(4, "Most rounds of adding strings.", BENCH_QUIET)
    hides_db: float = setting(-12.0, "A string this loud hides others.", BENCH_QUIET)
    least_event_s: float = setting(0.12, "Shortest ring that is reported.", BENCH_QUIET)
    join_s: float = setting(0.2, "Rings of a string this near each other are one.", BENCH_QUIET)
    least_silent_windows: int = setting(3, "Fewest silent windows between two rings.", BENCH_QUIET)
    u_level_db: float = setting(1.4, "Standard uncertainty of a ring's level.", BENCH_QUIET)
    most_filled: float = setting(
        0.5, "Of more of its partials under others, it is not sure that a string rings, nor how loudly.", BENCH_TAKES
    )
    u_hidden_db: float = setting(4.0, "More where all of it lies under other partials.", BENCH_QUIET)
    others: int = setting(30, "Pitches, semitone by semitone, that something else may have.", BENCH_QUIET)
    others_margin: float = setting(12.0, "What speaks for it over the threshold.", BENCH_QUIET)
    echo_db: float = setting(-26.0, "An echo lies over this level.", BENCH_QUIET)
    echo_share: float = setting(0.3, "Share of the chances at which one has to be heard.", BENCH_QUIET)
    least_echo_chances: int = setting(4, "Fewest chances.", BENCH_QUIET)


@dataclass(frozen=True)
class ScrapeSettings:
    """Noise of fingers on strings."""

    rate_hz: int = setting(18000, "Sample rate.", BENCH_QUIET)
    window_s: float = setting(0.05, "Length of a window.", BENCH_QUIET)
    hop_s: float = setting(0.01, "Step of the windows.", BENCH_QUIET)
    band_hz: tuple[float, float] = setting((1000.0, 8000.0), "Band in which scrapes lie.", BENCH_QUIET)
    n_bands: int = setting(14, "Parts of it.", BENCH_QUIET)
    quantile: float = setting(0.25, "Quantile of a part's bins, which lies between partials.", BENCH_QUIET)
    least_frames: int = setting(
        20, "Fewest frames clear of attacks and stops in which scrapes are looked for.", BENCH_QUIET
    )
    least_rise_db: float = setting(6.0, "Least rise over what is usual there.", BENCH_QUIET)
    spreads: float = setting(5.0, "In standard deviations of that.", BENCH_QUIET)
    edge_share: float = setting(0.5, "Share of the rise at which a scrape begins and ends.", BENCH_QUIET)
    base_s: float = setting(
        0.4, "Stretch on each side that says what is usual; what lasts as long is usual itself.", BENCH_QUIET
    )
    least_s: float = setting(0.03, "Shortest scrape.", BENCH_QUIET)
    attack_before_s: float = setting(0.03, "So long before an attack nothing is said.", BENCH_QUIET)
    attack_after_s: float = setting(0.07, "Nor so long after it.", BENCH_QUIET)
    stop_s: float = setting(0.04, "Stretch over which a stop is read.", BENCH_QUIET)
    stop_db: float = setting(9.0, "Fall of level that is a stop.", BENCH_QUIET)
    lowest_db: float = setting(-40.0, "Softest scrape that is reported.", BENCH_QUIET)
    u_db: float = setting(4.0, "Expanded uncertainty of its level.", BENCH_QUIET)


@dataclass(frozen=True)
class SetupSettings:
    """Tuning of a set-up take."""

    whole_guitar_cents: float = setting(20.0, "Off by this much the guitar is out of tune as a whole.", BENCH_PITCH)
    whole_guitar_spread_cents: float = setting(60.0, "Strings that share it lie this near the middle.", BENCH_PITCH)
    sharing_share: float = setting(0.6, "Share of the strings that have to.", PRACTICE)
    other_pitch_cents: float = setting(60.0, "A string this far off is tuned to another pitch.", BENCH_PITCH)


@dataclass(frozen=True)
class SlideSettings:
    """The way of a slide."""

    leaves_share: float = setting(0.1, "Share of the way at which a slide has left.", BENCH_PITCH)
    arrives_share: float = setting(0.9, "Share at which it is nearly there.", BENCH_PITCH)
    there_share: float = setting(0.98, "Share at which it has arrived.", BENCH_PITCH)
    look_back_s: float = setting(0.35, "Stretch before the arrival that is looked at.", BENCH_PITCH)
    look_on_s: float = setting(0.35, "Stretch after it.", BENCH_PITCH)
    settled_s: float = setting(0.08, "Stretch after the arrival from which the pitch is read.", BENCH_PITCH)
    level_s: float = setting(0.04, "Stretches of level that are compared.", BENCH_PITCH)
    level_u_db: float = setting(3.0, "Expanded uncertainty of the loss of level.", BENCH_PITCH)
    least_frames: int = setting(8, "Fewest frames with a pitch.", BENCH_PITCH)
    untold_s: float = setting(
        0.25, "A slide that may be as short as one likes takes about this long at most.", PRACTICE
    )
    unseen_share: float = setting(
        0.5,
        "Of the time from half of the old pitch gone to half of the new one come, several strings together, so much "
        "stays uncertain of the arrival.",
        BENCH_TAKES,
    )
    step_s: float = setting(
        0.05, "From one fret to the next on the way; shorter ones are not told from the last fret's.", PRACTICE
    )
    near_share: float = setting(
        0.3,
        "The pitches before and after have to be heard this near to what is asked, as a share of the way.",
        BENCH_PITCH,
    )
    near_cents: float = setting(
        75.0,
        "And the pitch reached this near: on a way over many frets the last but one is near by share.",
        BENCH_TAKES,
    )


@dataclass(frozen=True)
class StatisticsSettings:
    """How uncertain a mean is."""

    coverage: float = setting(
        2.0, "Standard uncertainties of an expanded one, about 95 %.", "JCGM 100:2008 (GUM), 6.3.3"
    )
    method_sd_cents: float = setting(
        0.15,
        "What neither noise nor spread shows: the window's own error, and stiffness read on strings without any.",
        BENCH_PITCH,
    )
    widths_disagree_factor: float = setting(
        1.5,
        "Partials whose swings differ in width: the whole vibrato's is less certain than their scatter says.",
        BENCH_PITCH,
    )
    warped_widths_factor: float = setting(
        4.0,
        "The same in warped time: partials were weighed by how far they stray, so their mean is less certain than that "
        "says.",
        BENCH_VIBRATO,
    )


@dataclass(frozen=True)
class StopSettings:
    """Strings stopped for a rest."""

    rate_hz: int = setting(18000, "Sample rate.", BENCH_QUIET)
    under_db: float = setting(40.0, "A string stopped is so far under its note.", BENCH_QUIET)
    floor_percentile: float = setting(3.0, "Percentile of the levels at which the noise begins.", BENCH_TAKES)
    floor_range_db: float = setting(6.0, "So far over that it is still the noise.", BENCH_TAKES)
    over_floor_db: float = setting(2.0, "Or so near the floor.", BENCH_QUIET)
    band_hz: tuple[float, float] = setting((60.0, 8000.0), "Band in which level is read.", BENCH_QUIET)
    frame_s: float = setting(0.02, "Frame of the level.", BENCH_QUIET)
    hop_s: float = setting(0.004, "Step of the frames.", BENCH_QUIET)
    stays_s: float = setting(0.03, "It stays quiet for so long.", BENCH_QUIET)
    let_go_db: float = setting(
        10.0, "What falls by this in the time of a stop has been let go: no string does so by itself.", BENCH_TAKES
    )
    before_s: float = setting(0.3, "From the level it had in so long before it was due.", BENCH_TAKES)
    least_rest_s: float = setting(0.1, "Shortest rest that is judged.", BENCH_QUIET)
    least_range_db: float = setting(20.0, "Range between note and floor in which a stop can be told.", BENCH_QUIET)
    u_ms: float = setting(
        12.0, "A frame's reach about a steep end, and how well the ear of a frame tells it.", BENCH_QUIET
    )


@dataclass(frozen=True)
class StringsSettings:
    """Stretches in which strings can be looked for."""

    after_attack_s: float = setting(
        0.015, "Nothing is read so soon after an attack, which spreads over all frequencies.", BENCH_QUIET
    )
    before_attack_s: float = setting(0.006, "Nor so soon before one.", BENCH_QUIET)
    after_stop_s: float = setting(0.06, "Nor so soon after a stop.", BENCH_QUIET)
    least_span_s: float = setting(0.05, "Shortest stretch.", BENCH_QUIET)
    after_drill_s: float = setting(
        30.0, "What sounds later than this after the last note that is asked is none of the drill's.", PRACTICE
    )
    slides_s: float = setting(0.08, "Around a slide's way, where it leaves and arrives.", BENCH_QUIET)
    last_pitch_s: float = setting(4.0, "Strings that stopped this long ago no longer sound for the ear.", BENCH_QUIET)
    same_cents: float = setting(35.0, "Pitches this near are the same.", BENCH_QUIET)


@dataclass(frozen=True)
class TailSettings:
    """How long a recording takes to become quiet."""

    hop_s: float = setting(0.01, "Frame of the level.", BENCH_TAKES)
    smooth_s: float = setting(0.05, "Over which it is averaged.", BENCH_TAKES)
    floor_percentile: float = setting(5.0, "Percentile of the levels that is the floor.", BENCH_TAKES)
    over_floor_db: float = setting(6.0, "A fall is followed so near to it.", BENCH_TAKES)
    silence_dbfs: float = setting(
        -150.0,
        "Softer there is no sound, but nothing: the steps of 24 bits lie at −149.",
        "20·log10(2⁻²³/√12) (theory)",
    )
    least_gap_s: float = setting(0.15, "Shortest gap after a note in which a fall is read.", BENCH_TAKES)
    before_s: float = setting(0.02, "Left out before the next attack.", BENCH_TAKES)
    longest_s: float = setting(0.35, "A slower fall is a string's own.", BENCH_TAKES)
    room_ms: float = setting(90.0, "A slower one may be a room's: a hand stops a string sooner.", BENCH_TAKES)
    uneven_db: float = setting(
        0.6,
        "Partials that fall less evenly than this, and as slowly, are a room's; of slower ones less is asked, as much "
        "less as they are slower. Synthesisers let go of 0.04 to 0.26 over an interface, 0.3 to 3 by a phone in a "
        "room.",
        BENCH_TAKES,
    )
    slowest_room_ms: float = setting(
        450.0,
        "A slower fall is a string's own: so long a room of 1.35 s takes to fall by 20 dB, a small hall.",
        "ISO 3382-1 for the sum; the hall: common practice, no source",
    )
    echo_ms: float = setting(
        120.0,
        "No partial tells: a slower fall, with notes that go on after their string has left them.",
        BENCH_TAKES,
    )
    stopped: float = setting(
        1.1, "By which notes that are stopped may fall more slowly than the quickest of a take.", BENCH_STROKES
    )
    stopped_in_a_room: float = setting(
        1.5, "In a room, than the slower of its quickest fall and that of its partials.", BENCH_STROKES
    )
    least_partials: int = setting(3, "Fewest partials that tell.", BENCH_TAKES)
    most_notes: int = setting(24, "Of so many notes, the last ones.", BENCH_TAKES)
    partials: int = setting(10, "Partials that are followed.", BENCH_TAKES)
    highest_hz: float = setting(3000.0, "None above this.", BENCH_TAKES)
    strongest_db: float = setting(25.0, "Nor any so far under the strongest.", BENCH_TAKES)
    window_s: float = setting(0.04, "Window of a partial's level.", BENCH_TAKES)
    apart: float = setting(
        1.8, "Partials so many windows⁻¹ apart are told from each other.", "Hann window, 2/T (theory)"
    )
    after_attack_s: float = setting(0.05, "A fall is followed from so long after the attack.", BENCH_TAKES)
    lead_s: float = setting(0.06, "Or from so long before the note's end.", BENCH_TAKES)
    follow_s: float = setting(0.3, "Until so long after it.", BENCH_TAKES)
    begins_db: float = setting(3.0, "It begins where the partial is last so near to its start.", BENCH_TAKES)
    depth_db: float = setting(25.0, "It is followed so far down.", BENCH_TAKES)
    floor_dbfs: float = setting(-75.0, "Nothing is followed under this.", BENCH_TAKES)
    least_frames: int = setting(6, "Fewest frames of a fall.", BENCH_TAKES)
    least_fall_db: float = setting(12.0, "Least depth of one.", BENCH_TAKES)


@dataclass(frozen=True)
class TimingSettings:
    """What the timing of a take has in common."""

    room_slur_u_ms: float = setting(
        10.0, "What a room adds to the expanded uncertainty of when a slurred note begins.", BENCH_TAKES
    )
    least_notes: int = setting(4, "Fewest notes of a summary.", BENCH_TIME)
    other_tempo: float = setting(0.06, "A tempo further off than this share is another tempo, not a drift.", BENCH_TIME)
    even_run_s: float = setting(2.0, "Length of a run that counts as held.", BENCH_TIME)
    even_run_notes: int = setting(6, "Fewest notes of it.", BENCH_TIME)
    almost: float = setting(0.98, "Share of that length that is enough.", BENCH_TIME)
    on_beat: float = setting(0.01, "A place this near a beat is on it, beats.", BENCH_TIME)
    most_group: int = setting(16, "Longest group whose places are told apart.", BENCH_TIME)


@dataclass(frozen=True)
class TogetherSettings:
    """How nearly at once the strings of a chord begin."""

    rate_hz: int = setting(12000, "Sample rate.", BENCH_TIME)
    window_s: float = setting(0.03, "Length of a window.", BENCH_TIME)
    hop_s: float = setting(0.002, "Step of the windows.", BENCH_TIME)
    apart: float = setting(1.8, "Partials so many windows⁻¹ apart are told from each other.", BENCH_TIME)
    highest_hz: float = setting(4500.0, "Highest partial looked at.", BENCH_TIME)
    most_partials: int = setting(8, "Partials of each pitch.", BENCH_TIME)
    before_s: float = setting(0.05, "Stretch before the attack.", BENCH_TIME)
    after_s: float = setting(0.1, "Stretch after it.", BENCH_TIME)
    least_rise_db: float = setting(9.0, "Least rise of a pitch that begins.", BENCH_TIME)
    least_events: int = setting(2, "Fewest chords of a summary.", BENCH_TIME)


@dataclass(frozen=True)
class UnisonSettings:
    """Two strings at nearly the same pitch, by the likelihood of two decaying tones."""

    partials: int = setting(6, "Partials that are looked at.", BENCH_PITCH)
    window_s: float = setting(0.12, "Window of the search.", BENCH_PITCH)
    hop_s: float = setting(0.02, "Its step.", BENCH_PITCH)
    long_window_s: tuple[float, float] = setting((0.2, 0.8), "Shortest and longest window of the reading.", BENCH_PITCH)
    skip_s: float = setting(0.04, "Left out after the attack.", BENCH_PITCH)
    end_s: float = setting(0.05, "Left out before the end.", BENCH_PITCH)
    below_cents: float = setting(60.0, "How far under the start the bent string is looked for.", BENCH_PITCH)
    above_cents: float = setting(100.0, "How far over the steady string.", BENCH_PITCH)
    step_cents: float = setting(3.0, "Step of the search.", BENCH_PITCH)
    steady_reach_cents: float = setting(24.0, "How far the steady string may be off.", BENCH_PITCH)
    steady_step_cents: float = setting(2.0, "Step of its search.", BENCH_PITCH)
    fine_step_cents: float = setting(0.25, "Step of the reading.", BENCH_PITCH)
    fine_reach_cents: float = setting(12.0, "Reach of the reading about the bent string.", BENCH_PITCH)
    fine_steady_cents: float = setting(3.0, "And about the steady one.", BENCH_PITCH)
    move_cost_per_cent: float = setting(0.15, "Log-likelihood a cent of movement costs.", BENCH_PITCH)
    hold_cents: float = setting(12.0, "How far the bent string may move within its hold.", BENCH_PITCH)
    least_hold_s: float = setting(0.3, "Shortest hold.", BENCH_PITCH)
    likelihood_drop: float = setting(
        1.92,
        "Fall of the log-likelihood at the edge of a 95 % interval.",
        "half the 95 % point of χ² with one degree of freedom (Wilks, 1938)",
    )
    most_explained: float = setting(1.0 - 1e-05, "Most of the energy two tones may explain.", BENCH_PITCH)
    second_share: float = setting(0.003, "Least share of energy of the second tone.", BENCH_PITCH)
    method_u_cents: float = setting(0.7, "Expanded uncertainty the likelihood does not show.", BENCH_PITCH)
    band_share: float = setting(0.2, "Half width of a partial's band, of its frequency.", BENCH_PITCH)
    most_decay_per_s: float = setting(12.0, "Quickest decay that is taken out.", BENCH_PITCH)
    narrow_share: float = setting(0.045, "Half width of the band of the reading.", BENCH_PITCH)
    sign_lost_cents: float = setting(4.0, "Nearer than this, sharp and flat are not told apart.", BENCH_PITCH)
    apart_cents: float = setting(45.0, "Further apart than this each string is read by itself.", BENCH_PITCH)
    apart_gain: float = setting(4.0, "Log-likelihood by which apart has to fit better.", BENCH_PITCH)
    steady_sd_cents: float = setting(0.4, "Least standard deviation of the steady string.", BENCH_PITCH)
    stretch_sd: float = setting(
        0.15,
        "Standard deviation of the stretch of partials, cents per (k² − 1): 866·B.",
        "Fletcher, J. Acoust. Soc. Am. 36(1), 1964",
    )
    most_stretch: float = setting(
        0.35, "Most of it, of strings up to B = 4·10⁻⁴.", "Fletcher, J. Acoust. Soc. Am. 36(1), 1964"
    )
    stretch_reach_cents: float = setting(4.0, "Reach about the peak over which it is fitted.", BENCH_PITCH)


@dataclass(frozen=True)
class VibratoSettings:
    """Rate, width and return of a vibrato."""

    min_cycles: int = setting(3, "Fewest cycles of a vibrato.", BENCH_PITCH)
    least_frames: int = setting(12, "Fewest frames with a pitch.", BENCH_PITCH)
    subtle_cents: float = setting(50.0, "Narrower than this is subtle.", PRACTICE)
    wide_cents: float = setting(100.0, "Wider than this is wide.", PRACTICE)
    least_swing_cents: float = setting(6.0, "Least swing.", BENCH_PITCH)
    least_swing_share: float = setting(
        0.2, "And as a share of what lies between a tenth of the pitches and nine tenths.", BENCH_VIBRATO
    )
    least_swing_sigmas: float = setting(6.0, "In standard deviations of the pitch's noise.", BENCH_PITCH)
    shortest_period_s: float = setting(0.095, "Shortest period.", BENCH_PITCH)
    bridged_gap_s: float = setting(0.04, "Longest gap in the pitch that is bridged.", BENCH_PITCH)
    smoothed_s: float = setting(0.045, "Smoothing in which turns are looked for.", BENCH_PITCH)
    end_s: float = setting(0.03, "Left out before the end.", BENCH_PITCH)
    arc_share: float = setting(0.17, "Arc about a turn through which it is fitted, of a period.", BENCH_PITCH)
    uneven_swing: float = setting(0.35, "A swing smaller or larger by this factor is not of the vibrato.", BENCH_PITCH)
    uneven_time: float = setting(2.6, "Nor one shorter or longer by this factor.", BENCH_PITCH)
    way_in: float = setting(
        1.4, "A half period at an end that is longer than its neighbours by this factor is a hold.", BENCH_TAKES
    )
    held_a_little: float = setting(1.15, "One longer by this is placed by its crossing.", BENCH_TAKES)
    least_leaving: float = setting(0.4, "Share of the swing by which it leaves its line at the ends.", BENCH_PITCH)
    ends_reach: float = setting(1.3, "Reach of the ends, in half periods.", BENCH_PITCH)
    h_uncertain: float = setting(0.03, "Standard uncertainty of the swing's correction for the window.", BENCH_PITCH)
    shape_uncertain: float = setting(0.002, "The same for its shape.", BENCH_PITCH)
    warped_uncertain: float = setting(
        0.005, "The same of a swing read in warped time, which leaves some of its quickest movement.", BENCH_VIBRATO
    )
    room_cents: float = setting(
        3.0, "What a room may hide of a swing, from which on it is read in warped time, too.", BENCH_VIBRATO
    )
    rests_share: float = setting(
        0.1, "Share of a half period over which a pitch must rest to be an end.", BENCH_VIBRATO
    )
    rests_factor: float = setting(2.0, "It may move so many times as far there as from a turn.", BENCH_VIBRATO)
    least_heard: float = setting(0.3, "Share of a vibrato in which a partial must be heard to be asked.", BENCH_VIBRATO)
    least_let_through: float = setting(
        0.15,
        "What the long window lets through of a swing, at least: a quicker one is read by the short one.",
        BENCH_VIBRATO,
    )
    time_sd_s: float = setting(0.002, "Least standard deviation of a turn's time.", BENCH_PITCH)
    rate_cv_sd: float = setting(
        0.007, "Standard uncertainty of the rate's evenness that the noise does not show.", BENCH_PITCH
    )
    extent_cv_sd: float = setting(0.003, "The same of the width's evenness.", BENCH_PITCH)
    line_sd_cents: float = setting(
        0.7, "Standard uncertainty of where a swing's line lies: a string's own pitch sinks as it fades.", BENCH_VIBRATO
    )
    slope_frames: int = setting(20, "Fewest frames from which the slope of a level is read.", BENCH_TAKES)
    end_share: float = setting(
        0.25, "The first or last turn farther from the line, of the width, is no return.", BENCH_VIBRATO
    )


@dataclass(frozen=True)
class WanderSettings:
    """Whether plain notes waver."""

    settled_s: float = setting(0.1, "Left out after the attack.", BENCH_TAKES)
    end_s: float = setting(0.03, "Left out before the end.", BENCH_TAKES)
    faded_db: float = setting(12.0, "Left out where the note is more than this under its loudest.", BENCH_TAKES)
    least_s: float = setting(0.35, "Shortest note that is looked at.", BENCH_TAKES)
    wavers_cents: float = setting(2.0, "A note that wavers more is not a string's own.", BENCH_TAKES)
    least_notes: int = setting(3, "Fewest notes.", BENCH_TAKES)
    most_share: float = setting(0.6, "Share of them that waver.", BENCH_TAKES)


@dataclass(frozen=True)
class MeasureSettings:
    """All of this stage."""

    bend: BendSettings = field(default_factory=BendSettings)
    chord: ChordSettings = field(default_factory=ChordSettings)
    evidence: EvidenceSettings = field(default_factory=EvidenceSettings)
    length: LengthSettings = field(default_factory=LengthSettings)
    level: LevelSettings = field(default_factory=LevelSettings)
    looking: LookingSettings = field(default_factory=LookingSettings)
    overlap: OverlapSettings = field(default_factory=OverlapSettings)
    own_falls: OwnFallsSettings = field(default_factory=OwnFallsSettings)
    pitch: PitchSettings = field(default_factory=PitchSettings)
    quiet: QuietSettings = field(default_factory=QuietSettings)
    release: ReleaseSettings = field(default_factory=ReleaseSettings)
    ring: RingSettings = field(default_factory=RingSettings)
    scrape: ScrapeSettings = field(default_factory=ScrapeSettings)
    setup: SetupSettings = field(default_factory=SetupSettings)
    slide: SlideSettings = field(default_factory=SlideSettings)
    statistics: StatisticsSettings = field(default_factory=StatisticsSettings)
    stop: StopSettings = field(default_factory=StopSettings)
    strings: StringsSettings = field(default_factory=StringsSettings)
    tail: TailSettings = field(default_factory=TailSettings)
    timing: TimingSettings = field(default_factory=TimingSettings)
    together: TogetherSettings = field(default_factory=TogetherSettings)
    unison: UnisonSettings = field(default_factory=UnisonSettings)
    vibrato: VibratoSettings = field(default_factory=VibratoSettings)
    wander: WanderSettings = field(default_factory=WanderSettings)


MEASURE = stage("measure", MeasureSettings())
BEND = MEASURE.bend
CHORD = MEASURE.chord
EVIDENCE = MEASURE.evidence
LENGTH = MEASURE.length
LEVEL = MEASURE.level
LOOKING = MEASURE.looking
OVERLAP = MEASURE.overlap
OWN_FALLS = MEASURE.own_falls
PITCH = MEASURE.pitch
QUIET = MEASURE.quiet
RELEASE = MEASURE.release
RING = MEASURE.ring
SCRAPE = MEASURE.scrape
SETUP = MEASURE.setup
SLIDE = MEASURE.slide
STATISTICS = MEASURE.statistics
STOP = MEASURE.stop
STRINGS = MEASURE.strings
TAIL = MEASURE.tail
TIMING = MEASURE.timing
TOGETHER = MEASURE.together
UNISON = MEASURE.unison
VIBRATO = MEASURE.vibrato
WANDER = MEASURE.wander
