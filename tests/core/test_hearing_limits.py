"""Settings of hearing at their limits, each held by what changes a quarter beside it.

Values are the house's, from its benchmarks, written out here by hand. What is heard is made, its truth is known.
"""

from __future__ import annotations

import numpy as np
import pytest
from fortimetra.hear.contour import _SETTINGS, _averaged, _candidates, _expected, _read_partials, _refine, _viterbi
from fortimetra.hear.inharmonicity import first_partial, without_stiffness
from fortimetra.hear.notes import HeardNote, _sounds_to, note_from, segment, steps
from fortimetra.hear.octaves import _keep_whole, _unstruck, fold_octaves, lift
from fortimetra.hear.partials import WORK

from .sounds import cents_up, contour_of

NOTHING = np.zeros(0)


# -- the coarse track ------------------------------------------------------------------------------------------------


def test_the_five_likeliest_lags_of_a_frame_are_kept():
    # Seven dips at lags of 20, 30, …; the likeliest are the deepest ones.
    difference = np.ones((1, 100), np.float32)
    depth = [0.30, 0.10, 0.05, 0.50, 0.20, 0.40, 0.15]
    for number, value in enumerate(depth):
        difference[0, 20 + 10 * number] = value
    lags, costs = _candidates(difference, 10, 99, _SETTINGS)
    assert sorted(lags[0].round().tolist()) == [20.0, 30.0, 40.0, 60.0, 80.0]
    assert lags.shape == costs.shape == (1, 5)


@pytest.mark.parametrize(("frames", "goes_on"), [(5, True), (7, False)])
def test_a_pitch_is_given_up_where_that_costs_less_than_ending_and_beginning_it(frames, goes_on):
    # Every frame in between costs 0.05 more with a pitch than without; ending and beginning cost 0.15 each.
    lag = np.full((60, 5), np.nan, np.float32)
    cost = np.full((60, 5), np.inf, np.float32)
    lag[:, 0], cost[:, 0] = 50.0, 0.0
    cost[30 : 30 + frames, 0] = 0.40
    assert (not np.isnan(_viterbi(lag, cost, _SETTINGS)[30 : 30 + frames]).any()) is goes_on


# -- octaves ---------------------------------------------------------------------------------------------------------


def folded(f0_hz, onsets_s, level_dbfs=-20.0):
    coarse = np.asarray(f0_hz, dtype=np.float64)
    fold_octaves(coarse, np.asarray(onsets_s), np.broadcast_to(np.asarray(level_dbfs, dtype=np.float64), len(coarse)))
    return coarse


@pytest.mark.parametrize(("octaves", "slip"), [(1.07, True), (1.09, False), (0.93, True), (0.91, False)])
def test_a_jump_within_a_twelfth_of_an_octave_is_a_slip(octaves, slip):
    f0 = np.full(100, 200.0)
    f0[:20] *= 2.0**octaves
    assert (folded(f0, [0.0])[:20] < 250.0).all() == slip


@pytest.mark.parametrize(("frames", "slip"), [(38, True), (42, False)])
def test_a_slip_begins_within_a_fifth_of_a_second_of_its_attack(frames, slip):
    f0 = np.full(100, 200.0)
    f0[:frames] = 400.0
    assert (folded(f0, [0.0])[:frames] == 200.0).all() == slip


@pytest.mark.parametrize(("frames", "slip"), [(15, True), (17, False)])
def test_a_later_one_lasts_no_longer_than_eight_hundredths(frames, slip):
    # It gets louder there, so that only its length tells.
    f0, level = np.full(200, 200.0), np.full(200, -30.0)
    f0[100 : 100 + frames] = 400.0
    level[100:] = -20.0
    assert (folded(f0, [0.0], level)[100 : 100 + frames] == 200.0).all() == slip


@pytest.mark.parametrize(("missing", "slip"), [(3, True), (4, False)])
def test_a_jump_is_over_at_most_three_frames_without_a_pitch(missing, slip):
    f0 = np.full(100, 200.0)
    f0[:20] = 400.0
    f0[20 : 20 + missing] = np.nan
    assert (folded(f0, [0.0])[:20] == 200.0).all() == slip


@pytest.mark.parametrize(("rise_db", "at", "struck"), [(0.9, 50, False), (1.1, 50, True), (9.0, 57, True)])
def test_a_rise_of_a_decibel_within_eight_frames_is_a_stroke(rise_db, at, struck):
    level = np.full(100, -30.0)
    level[at] += rise_db
    assert _unstruck(level, 50) is not struck


@pytest.mark.parametrize(("at", "struck"), [(58, False), (42, True), (41, False), (34, False)])
def test_and_one_outside_of_eight_frames_is_none(at, struck):
    # What sounded 8 to 16 frames before is what it is compared with.
    level = np.full(100, -30.0)
    level[at] += 9.0
    if at < 50:
        level[52] += 9.5
    assert _unstruck(level, 50) is not struck


@pytest.mark.parametrize(("share", "up"), [(0.0145, True), (0.0175, False)])
def test_partials_with_a_sixtieth_of_the_power_are_not_there(share, up):
    # The odd ones, against the even ones, alike among themselves.
    rate, hz = 24_000, 100.0
    time = np.arange(rate) / rate
    sound = sum(
        (1.0 if k % 2 == 0 else np.sqrt(share)) * np.cos(2.0 * np.pi * hz * k * time + k) for k in range(1, 9)
    ).astype(np.float32)
    at_s = np.array([0.5])
    coarse = np.array([hz])
    lift(sound, float(rate), at_s, coarse, np.zeros(1, np.bool_), 1000.0, _SETTINGS)
    assert coarse[0] == (2.0 * hz if up else hz)


@pytest.mark.parametrize(("whole", "kept"), [(9, False), (11, True)])
def test_a_pitch_that_had_all_its_partials_in_a_quarter_as_many_frames_is_kept(whole, kept):
    lifted = np.concatenate((np.zeros(whole, np.bool_), np.ones(40, np.bool_)))
    alone = np.zeros((len(lifted), 2), np.bool_)
    _keep_whole(np.full(len(lifted), 100.0), lifted, alone, np.zeros(len(lifted), np.bool_), _SETTINGS)
    assert (not lifted.any()) is kept


# -- steps and notes -------------------------------------------------------------------------------------------------


def stepped(before, after, *, frames=40, ramp=1, level=None):
    """A contour that steps in its middle; before, after: cents, one value or one for each frame."""
    way = np.linspace(0.0, 1.0, ramp + 1)[1:-1]
    first, last = (np.broadcast_to(np.asarray(v, dtype=np.float64), frames) for v in (before, after))
    cents = np.concatenate((first, first[-1] + (last[0] - first[-1]) * way, last))
    return contour_of(cents_up(cents), -20.0 if level is None else level(len(cents)))


@pytest.mark.parametrize(("cents", "count"), [(75.0, 0), (85.0, 1)])
def test_a_slur_steps_by_eighty_cents(cents, count):
    assert len(steps(stepped(0.0, cents), NOTHING)) == count


@pytest.mark.parametrize(("ramp", "count"), [(6, 1), (7, 0)])
def test_a_slur_is_over_in_a_fortieth_of_a_second(ramp, count):
    # From 10 to 90 % of its way: 24 ms, 28 ms.
    assert len(steps(stepped(0.0, 200.0, ramp=ramp), NOTHING)) == count


@pytest.mark.parametrize(("wiggle", "count"), [(55.0, 1), (65.0, 0)])
def test_a_slur_is_flat_before_and_after_within_a_third(wiggle, count):
    before = wiggle * (np.arange(40) % 2)
    assert len(steps(stepped(before - wiggle / 2.0, 200.0), NOTHING)) == count


@pytest.mark.parametrize(("frames", "count"), [(9, 1), (8, 0)])
def test_and_for_thirty_milliseconds_on_both_sides(frames, count):
    f0 = np.full(60, np.nan)
    f0[20 : 20 + frames], f0[20 + frames : 28 + frames] = 220.0, 260.0
    assert len(steps(contour_of(f0), NOTHING)) == count


@pytest.mark.parametrize(("fall_db", "count"), [(11.0, 1), (13.0, 0)])
def test_the_level_holds_within_twelve_decibels_over_a_slur(fall_db, count):
    def level(n):
        return np.where(np.arange(n) < n // 2, -20.0, -20.0 - fall_db)

    assert len(steps(stepped(0.0, 200.0, level=level), NOTHING)) == count


@pytest.mark.parametrize(("off_s", "count"), [(0.055, 0), (-0.055, 0), (0.065, 1), (-0.065, 1)])
def test_a_step_within_sixty_milliseconds_of_an_attack_is_the_attacks(off_s, count):
    found = stepped(0.0, 200.0)
    (at_s,) = steps(found, NOTHING)
    assert len(steps(found, np.array([at_s + off_s]))) == count


def test_a_slurs_instant_is_known_to_six_milliseconds():
    found = segment(stepped(0.0, 200.0), np.array([0.0]))
    assert [(n.kind, n.onset_u_ms) for n in found][1] == ("step", 6.0)


@pytest.mark.parametrize(("frames", "heard"), [(7, False), (9, True)])
def test_a_note_has_a_pitch_for_forty_milliseconds(frames, heard):
    f0 = np.full(60, np.nan)
    f0[10 : 10 + frames] = 220.0
    assert (note_from(contour_of(f0), 0.05, 0.3, "attack") is not None) is heard


@pytest.mark.parametrize(("missing", "sounds_on"), [(7, True), (8, False)])
def test_a_pitch_that_is_gone_for_forty_milliseconds_has_ended(missing, sounds_on):
    midi = np.full(100, 57.0)
    midi[60 : 60 + missing] = np.nan
    assert _sounds_to(midi, np.full(100, -20.0), 20, 0.0) == pytest.approx(0.5 if sounds_on else 0.3)


@pytest.mark.parametrize(("semitones", "sounds_on"), [(0.65, True), (0.75, False)])
def test_a_jump_by_seven_tenths_of_a_semitone_is_another_note(semitones, sounds_on):
    midi = np.where(np.arange(100) < 60, 57.0, 57.0 + semitones)
    assert _sounds_to(midi, np.full(100, -20.0), 20, 0.0) == pytest.approx(0.5 if sounds_on else 0.3)


@pytest.mark.parametrize(
    ("rise_db", "contrast_db", "alone"),
    [(7.9, 0.0, False), (8.1, 0.0, True), (1.1, 7.0, False), (1.3, 7.0, True), (1.3, 5.9, False), (1.3, 6.1, True)],
)
def test_a_note_nobody_asked_for_stands_alone_from_so_much_on(rise_db, contrast_db, alone):
    note = HeardNote(0.0, 0.2, 57.0, 57.0, 57.0, -20.0, "attack", rise_db=rise_db, contrast_db=contrast_db)
    assert note.stands_alone is alone


# -- stiffness -------------------------------------------------------------------------------------------------------


def test_two_partials_leave_half_a_cent_unknown():
    cents = np.array([0.0, 0.2] + [np.nan] * 6)
    assert first_partial(contour_of(np.full(40, 220.0), partial_cents=cents), slice(None)).sd_cents == 0.5


@pytest.mark.parametrize("stiffness", [0.0016, 0.0019])
def test_strings_as_stiff_as_two_thousandths_are_set_right(stiffness):
    # As the reading has it: distances from the multiples of their own weighted mean, all partials alike.
    k = np.arange(1.0, 9.0)
    along = 600.0 / np.log(2.0) * stiffness * k**2
    found = contour_of(cents_up(np.full(60, along.mean())), partial_cents=along - along.mean())
    note = HeardNote(0.0, 0.3, 57.0, 57.0, 57.0, -20.0, "attack", 0.3)
    right = 1200.0 * np.log2(without_stiffness(found, [note]).f0_hz / 220.0)
    assert right == pytest.approx(600.0 / np.log(2.0) * stiffness, abs=0.2)


# -- partials of a contour -------------------------------------------------------------------------------------------


@pytest.mark.parametrize(("depth", "kept"), [(0.59, True), (0.61, False)])
def test_a_dip_under_three_fifths_may_be_a_period(depth, kept):
    difference = np.ones((1, 100), np.float32)
    difference[0, 40] = depth
    assert bool(np.isfinite(_candidates(difference, 10, 99, _SETTINGS)[0]).any()) is kept


@pytest.mark.parametrize(
    ("delta", "power", "counts"),
    # The last of three: 12 cents and 1.5 for each of nine.
    [(25.0, 1.0, True), (26.0, 1.0, False), (0.0, 1.1e-5, True), (0.0, 0.9e-5, False)],
)
def test_a_partial_counts_that_lies_near_the_others_and_holds_a_hundred_thousandth(delta, power, counts):
    cents, spread, level = np.array([0.0, 0.0, delta]), np.full(3, 1.0), np.array([1.0, 1.0, power])
    _averaged(cents, spread, level, _SETTINGS)
    assert (not np.isnan(cents[2])) == counts


@pytest.mark.parametrize(("delta", "counts"), [(13.3, True), (13.7, False)])
def test_the_first_partial_lies_within_thirteen_and_a_half_cents(delta, counts):
    cents, spread, level = np.array([delta, 0.0, 0.0]), np.full(3, 1.0), np.ones(3)
    _averaged(cents, spread, level, _SETTINGS)
    assert (not np.isnan(cents[0])) == counts


@pytest.mark.parametrize(("over", "read"), [(3.7, False), (4.3, True)])
def test_a_partial_stands_out_by_four_times_what_lies_half_way_to_its_neighbours(over, read):
    # In a Hann window of four periods what lies half-way is not seen at the partial, nor the other way round.
    rate, hz = 24_000, 400.0
    time = np.arange(rate // 2) / rate
    between = np.sqrt(1.0 / over)
    sound = sum(np.sin(2.0 * np.pi * hz * k * time) for k in (1, 2, 3))
    sound += between * sum(np.sin(2.0 * np.pi * hz * (k + 0.5) * time + k) for k in (0, 1, 2, 3))
    cents = _refine(sound.astype(np.float32), float(rate), np.array([0.25]), np.array([hz]), _SETTINGS)[3]
    assert bool(np.isfinite(cents[0, 1])) is read


@pytest.mark.parametrize(("off_cents", "read"), [(120.0, True), (180.0, False)])
def test_partials_a_semitone_and_a_half_off_are_those_of_another_pitch(off_cents, read):
    rate, hz = 24_000, 400.0
    time = np.arange(rate // 2) / rate
    sound = np.sin(2.0 * np.pi * hz * np.outer(time, np.arange(1, 4))).sum(axis=1).astype(np.float32)
    coarse = np.array([hz * 2.0 ** (-off_cents / 1200.0)])
    f0 = _refine(sound, float(rate), np.array([0.25]), coarse, _SETTINGS)[0]
    assert bool(np.isfinite(f0[0])) is read


@pytest.mark.parametrize(("off_cents", "led"), [(29.0, True), (31.0, False)])
def test_a_pitch_is_read_from_where_the_frames_before_lead_within_thirty_cents(off_cents, led):
    before, coarse = np.array([220.0, 221.0, np.nan]), 221.0 * 221.0 / 220.0 * 2.0 ** (off_cents / 1200.0)
    expected = 221.0 * 221.0 / 220.0 if led else coarse
    assert _expected(before, 2, coarse, _SETTINGS) == pytest.approx(expected, rel=1e-12)
    assert _expected(np.array([np.nan, 221.0, np.nan]), 2, coarse, _SETTINGS) == coarse


# A reading of three partials leaves a seventh of what it began off: from 0.35 cents off it moves by 0.3. One of twelve
# leaves a quarter: the fifth would still move by a third of a cent from 120 off.
@pytest.mark.parametrize(("off_cents", "partials", "readings"), [(0.33, 3, 1), (0.37, 3, 2), (120.0, 12, 4)])
def test_a_pitch_a_third_of_a_cent_from_where_it_was_read_is_read_again(off_cents, partials, readings):
    rate, hz = 24_000, 400.0
    time = np.arange(rate // 2) / rate
    sound = np.sin(2.0 * np.pi * hz * np.outer(time, np.arange(1, partials + 1))).sum(axis=1).astype(np.float32)
    coarse = expected = hz * 2.0 ** (off_cents / 1200.0)
    for _ in range(readings):
        delta, spread, amplitude = np.empty((3, _SETTINGS.n_partials))
        work, out = np.empty(WORK), np.empty((4, 2 * _SETTINGS.n_partials + 1))
        count, *_ = _read_partials(
            sound, 0.25 * rate, float(rate), expected, delta, spread, amplitude, work, out, _SETTINGS
        )
        mean, _ = _averaged(delta[:count], spread[:count], amplitude[:count], _SETTINGS)
        expected *= 2.0 ** (mean / 1200.0)
    assert _refine(sound, float(rate), np.array([0.25]), np.array([coarse]), _SETTINGS)[0][0] == expected
    assert 1200.0 * np.log2(expected / hz) == pytest.approx(0.0, abs=0.5)


def test_a_notes_pitches_are_read_where_they_are_said_to_be():
    # It rises by ten cents a frame: each median tells where it was read.
    at = np.arange(200)
    note = note_from(contour_of(cents_up(10.0 * at)), 0.0, 1.0, "attack")

    def middle_s(midi):
        return (midi - 57.0) * 100.0 / 10.0 * 0.005

    assert middle_s(note.plain_midi) == pytest.approx((0.06 + 0.25) / 2.0, abs=0.006)
    assert middle_s(note.start_midi) == pytest.approx((0.03 + 0.12) / 2.0, abs=0.006)
    assert middle_s(note.main_midi) == pytest.approx((0.4 + 1.0) / 2.0, abs=0.006)
