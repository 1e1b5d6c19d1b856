"""Settings of reading bends, chords, set-ups and plain pitch at their limits, held by what changes beside them.

Values are the house's, from its benchmarks, written out here by hand. What is read is made, its truth is known.
"""

from __future__ import annotations

from dataclasses import replace
from types import SimpleNamespace as Made

import numpy as np
import pytest
from fortimetra.errors import SignalError
from fortimetra.hear.combs import Spectra
from fortimetra.hear.notes import HeardNote
from fortimetra.measure import pitch, wander
from fortimetra.measure.bend import _choked, _goes_on, _hold, _rise_ms, _to_and_fro, find_plateau
from fortimetra.measure.chord import ChordNote, _are_driven, _products, balances, chord_notes
from fortimetra.measure.reference import BendReference, fret_reference, middle_of, own_start
from fortimetra.measure.release import measure_release
from fortimetra.measure.saddle import saddle_shift_mm
from fortimetra.measure.set_up import _common, measure_set_up
from fortimetra.measure.statistics import PitchReading
from fortimetra.measure.strings import Part
from fortimetra.measure.wander import wander_cents

from .sounds import cents_up, contour_of

HOP_S = 0.005


# -- bends -----------------------------------------------------------------------------------------------------------


def everywhere(values):
    return np.ones(len(values), np.bool_)


@pytest.mark.parametrize(("cents", "wavers"), [(5.6, False), (6.9, True)])
def test_a_hold_wavers_that_goes_six_cents_to_either_side(cents, wavers):
    # As rectangles of a quarter of a second, so that a median does not make them lower.
    course = cents * np.where(np.arange(800) // 50 % 2, 1.0, -1.0)
    assert (_to_and_fro(course, everywhere(course)) is not None) is wavers


@pytest.mark.parametrize(("turns", "wavers"), [(2, False), (3, True)])
def test_and_three_times_at_least(turns, wavers):
    course = 20.0 * np.where(np.arange((turns + 1) * 60 + 16) < 76, 1.0, np.nan)
    for side in range(turns):
        course[76 + 60 * side : 136 + 60 * side] = 20.0 * (-1.0) ** (side + 1)
    assert (_to_and_fro(course, everywhere(course)) is not None) is wavers


@pytest.mark.parametrize(("seconds", "held"), [(0.36, False), (0.40, True)])
def test_the_slope_of_a_wavering_hold_is_read_over_a_quarter_of_a_second_of_one_and_a_half(seconds, held):
    # To and fro by 8 cents, eight times a second: too steep for anything shorter.
    at = np.arange(120 + round(seconds / HOP_S))
    course = 200.0 + 8.0 * (np.abs(at % 24 - 12) / 6.0 - 1.0)
    after = (at >= 60) & (at < len(at) - 60)
    contour = contour_of(cents_up(course))
    found = _hold(contour, slice(0, len(course)), course, everywhere(course), after, 220.0)
    assert (found is not None and "unsteady_hold" in found.reasons) is held


@pytest.mark.parametrize(("frames", "told"), [(98, False), (102, True)])
def test_half_a_second_of_a_hold_tells_whether_it_sinks(frames, told):
    time = np.arange(frames) * HOP_S
    found = _goes_on(time, 200.0 - 30.0 * time, np.ones(frames, np.bool_), 0)
    assert (found is not None) is told
    if told:
        assert found[0] == pytest.approx(-30.0)


def joined(gap_frames, step_cents):
    course = np.concatenate((np.full(40, 200.0), np.full(40 + gap_frames, 200.0 + step_cents)))
    usable = everywhere(course)
    usable[40 : 40 + gap_frames] = False
    course[40 : 40 + gap_frames] = np.linspace(200.0, 200.0 + step_cents, gap_frames)
    found = find_plateau(course, usable, everywhere(course), slope_over_s=0.01, at_least_s=0.08)
    return found.stop - found.start > 45


@pytest.mark.parametrize(("gap_frames", "step_cents", "one"), [(11, 0.0, True), (13, 0.0, False), (9, 9.5, True)])
def test_two_flat_stretches_six_hundredths_apart_are_one_hold(gap_frames, step_cents, one):
    assert joined(gap_frames, step_cents) is one


def test_unless_they_lie_ten_cents_apart():
    assert joined(9, 10.5) is False


@pytest.mark.parametrize(("fall_db", "frames", "choked"), [(12.5, 12, True), (11.5, 12, False), (13.0, 14, False)])
def test_a_bend_is_choked_that_falls_by_twelve_decibels_in_six_hundredths(fall_db, frames, choked):
    level = np.concatenate((np.full(60, -20.0), -20.0 - fall_db * np.arange(1, frames + 1) / frames))
    level = np.concatenate((level, np.full(40, level[-1])))
    assert _choked(level, 90) is choked


@pytest.mark.parametrize(("frames", "choked"), [(16, False), (20, True)])
def test_and_that_stays_down_for_a_tenth_of_a_second(frames, choked):
    # Down for so many frames, the last of the fall included: a room's soft place is passed sooner.
    level = np.concatenate(
        (np.full(60, -20.0), np.linspace(-20.0, -36.0, 12), np.full(frames, -36.0), np.full(80, -21.0))
    )
    assert _choked(level, 110) is choked


# -- what it is held against -----------------------------------------------------------------------------------------

NOTE = HeardNote(0.0, 1.0, 57.0, 57.0, 57.0, -20.0, "attack")


def start_of(course):
    return own_start(contour_of(cents_up(course)), NOTE)


@pytest.mark.parametrize(
    ("from_frame", "to_frame", "rests"),
    [
        # Rising steeply but for a while: a bend rests for 20 ms, from 20 to 100 ms after its stroke.
        (4, 9, True),
        (4, 7, False),
        (6, 30, False),
    ],
)
def test_a_bend_rests_where_its_pitch_stays_within_four_cents_for_four_frames(from_frame, to_frame, rests):
    at = np.arange(60)
    course = 20.0 * np.where(at < from_frame, at - from_frame, np.maximum(0, at - to_frame + 1))
    found = start_of(course)
    assert (found is not None) is rests
    if rests:
        assert (round(1200.0 * np.log2(found.hz / 220.0), 3), found.u_cents) == (0.0, 5.0)


@pytest.mark.parametrize(("wiggle", "rests"), [(3.7, True), (4.3, False)])
def test_a_rest_moves_by_less_than_four_cents(wiggle, rests):
    assert (start_of(wiggle * (np.arange(60) % 2)) is not None) is rests


def test_a_rest_is_read_up_to_a_tenth_of_a_second_after_the_stroke():
    # The longest stretch within four cents is taken: all sixteen frames of one that rests.
    still = start_of(np.where(np.arange(60) < 20, 0.0, 300.0))
    assert still.hz == pytest.approx(220.0)
    # Three cents up from the middle of the sixteen frames on: its median lies between both.
    half = start_of(np.where(np.arange(60) < 12, 0.0, 3.0))
    assert 1200.0 * np.log2(half.hz / 220.0) == pytest.approx(1.5)


def test_a_reference_that_was_played_once_is_known_to_five_cents():
    assert middle_of([PitchReading(220.0, 1.0, 1)], 220.0).u_cents == 5.0
    assert middle_of([PitchReading(220.0, 1.0, 1)] * 3, 220.0).u_cents == 1.0


def test_a_guitar_nobody_set_up_is_taken_to_be_tuned_to_three_cents():
    asked = Made(note=Made(string=1, fret=5))
    nothing = Made(events=[], offset_cents=0.0)
    known = fret_reference(nothing, asked, [], fretted_hz=220.0, rest=None)
    assert (known.u_cents, known.source) == (3.0, "temperament")


# -- chords ----------------------------------------------------------------------------------------------------------

RATE_HZ = 12_000


def part(string, hz, until_s=1.0):
    return Part(0, string, 0, hz, 0.0, until_s, False)


@pytest.mark.parametrize(("level_db", "there"), [(-24.0, True), (-36.0, False)])
def test_a_note_thirty_decibels_under_its_chord_is_none_of_it(level_db, there):
    time = np.arange(RATE_HZ) / RATE_HZ
    sound = np.zeros(RATE_HZ)
    for hz, level in ((196.0, 0.0), (277.0, level_db)):
        sound += (
            0.1 * 10.0 ** (level / 20.0) * np.sin(2.0 * np.pi * hz * np.outer(time, np.arange(1, 9)) + 1.0).sum(axis=1)
        )
    (notes,), _ = chord_notes(sound.astype(np.float32), [[part(4, 196.0), part(3, 277.0)]], rate_hz=RATE_HZ)
    assert [n.present for n in notes] == [True, there]


def chord(level_db):
    return [ChordNote(part(4, 196.0), True, level_db, 196.0, 1.0), ChordNote(part(3, 247.0), True, 0.0, 247.0, 1.0)]


@pytest.mark.parametrize(("count", "told"), [(2, False), (3, True)])
def test_three_chords_tell_how_loud_a_string_is_usually_to_three_decibels(count, told):
    found = balances([chord(0.0)] * (count - 1) + [chord(-6.0)])
    assert bool(found) is told
    if told:
        assert next(iter(found.values())).u == pytest.approx(3.0)


@pytest.mark.parametrize(
    ("level_db", "count", "driven"), [(-37.5, 3, True), (-38.5, 3, False), (-37.5, 2, False), (-30.0, 3, True)]
)
def test_drive_makes_three_tones_of_an_order_that_stand_thirty_eight_decibels_under_the_chord(level_db, count, driven):
    assert _are_driven({3: [level_db] * count, 5: [-60.0] * 3}) is driven


@pytest.mark.parametrize(("level_db", "driven"), [(-41.5, True), (-42.5, False)])
def test_or_two_orders_that_stand_forty_two_under_it(level_db, driven):
    assert _are_driven({2: [-40.0] * 3, 3: [level_db] * 3, 5: [-60.0] * 3}) is driven
    assert not _are_driven({2: [-40.0] * 3, 3: [level_db] * 2})


# -- set-up and plain pitch ------------------------------------------------------------------------------------------


@pytest.mark.parametrize(("cents", "common"), [(19.0, 0.0), (21.0, 21.0), (-21.0, -21.0)])
def test_a_guitar_twenty_cents_off_is_out_of_tune_as_a_whole(cents, common):
    assert _common([cents] * 6) == common


@pytest.mark.parametrize(("apart", "common"), [(59.0, 30.0), (61.0, 0.0)])
def test_where_most_strings_share_it_within_sixty_cents(apart, common):
    assert _common([30.0 - apart, 30.0 - apart, 30.0, 30.0 + apart, 30.0 + apart]) == common


@pytest.mark.parametrize(("cents", "other"), [(59.0, False), (61.0, True)])
def test_a_string_sixty_cents_off_is_tuned_to_another_pitch(cents, other):
    guitar = Made(tuning=(0,) * 6, open_midi=lambda _s: 57.0, a4_hz=440.0)
    events = [Made(notes=[Made(note=Made(string=s, fret=0))]) for s in range(1, 7)]
    readings = [PitchReading(float(cents_up(cents if s == 3 else 0.0)), 1.0, 9) for s in range(1, 7)]
    strings, _ = measure_set_up(Made(events=events), readings, guitar)
    assert [s.other_pitch for s in strings] == [False, False, other, False, False, False]


def test_a_string_twelve_cents_from_its_set_up_has_changed(monkeypatch):
    monkeypatch.setattr(pitch, "_own_offsets", lambda *_a: [11.5, 12.5, -11.5, -12.5, None, 0.0])
    setup = Made(a4_hz=440.0, string_offset_cents=(0.0,) * 6, twelfth_fret_error_cents=None)
    guitar = Made(tuning=(0,) * 6, a4_hz=440.0)
    assert pitch._setup_offsets(guitar, Made(offset_cents=0.0), [], setup).changed == (2, 4)


def test_a_note_without_a_pitch_at_first_is_read_a_tenth_of_a_second_later_and_later():
    # Its pitch rises by a cent a frame, from a time on: which stretch was read, its middle tells.
    def read(from_s):
        at = np.arange(200)
        found = pitch._plain_reading(contour_of(np.where(at * HOP_S < from_s, np.nan, cents_up(at))), NOTE)
        return None if found is None else 1200.0 * np.log2(found.hz / 220.0) * HOP_S

    # Of each stretch of 0.19 s more than half has to have a pitch.
    assert read(0.0) == pytest.approx(0.5 * (0.06 + 0.25), abs=0.01)
    assert read(0.16) == pytest.approx(0.5 * (0.16 + 0.35), abs=0.01)
    assert read(0.26) == pytest.approx(0.5 * (0.26 + 0.45), abs=0.01)
    assert read(0.36) == pytest.approx(0.5 * (0.36 + 0.55), abs=0.01)
    assert read(0.47) is None


def test_a_note_slid_into_is_read_a_tenth_of_a_second_after_it_should_be_there():
    at = np.arange(300)
    rising = contour_of(cents_up(at))
    event = Made(slide=Made(from_fret=2, length=0.5))
    asked = Made(bend=None, note=Made(muted=False), event=event)
    match = Made(
        events=[Made(notes=[asked], main_midi=57.0, start_midi=57.0)], heard=[NOTE], offset_cents=0.0,
        fits=lambda _i: False,
    )  # fmt: skip
    (found,) = pitch.plain_readings(rising, match, seconds_per_beat=0.4)
    # A fifth of a second on its way, and a tenth.
    assert 1200.0 * np.log2(found.hz / 220.0) * HOP_S == pytest.approx(0.3 + 0.5 * (0.06 + 0.25), abs=0.01)


# -- wavering --------------------------------------------------------------------------------------------------------


@pytest.mark.parametrize(("end_s", "told"), [(0.475, False), (0.485, True)])
def test_a_note_is_looked_at_for_a_third_of_a_second_without_its_beginning_and_end(end_s, told):
    # From a tenth of a second after the attack to 30 ms before the end: 0.35 s.
    found = contour_of(np.full(200, 220.0))
    assert (wander_cents(found, replace(NOTE, end_s=end_s)) is not None) is told


@pytest.mark.parametrize(("fall_db", "told"), [(11.5, True), (12.5, False)])
def test_where_it_stands_within_twelve_decibels_of_its_loudest(fall_db, told):
    level = np.where(np.arange(200) < 60, -20.0, -20.0 - fall_db)
    found = contour_of(np.full(200, 220.0), level)
    assert (wander_cents(found, replace(NOTE, end_s=0.7)) is not None) is told


@pytest.mark.parametrize(
    ("cents", "wavers"),
    [
        ([2.1, 2.1], False),
        ([2.1, 2.1, 2.1], True),
        ([1.9, 1.9, 1.9], False),
        ([2.1, 2.1, 2.1, 0.0, 0.0], True),
        ([2.1, 2.1, 0.0, 0.0], False),
    ],
)
def test_a_take_wavers_where_three_notes_of_five_do_by_two_cents(monkeypatch, cents, wavers):
    values = iter(cents)
    monkeypatch.setattr(wander, "wander_cents", lambda *_a: next(values))
    assert wander.pitch_wavers(None, [NOTE] * len(cents)) is wavers


# -- bends let down --------------------------------------------------------------------------------------------------


def let_down(course):
    reference = BendReference(float(cents_up(200.0)), 1.0, "temperament")
    note = replace(NOTE, end_s=len(course) * HOP_S, sounds_to_s=len(course) * HOP_S)
    return measure_release(contour_of(cents_up(course)), note, reference, target_cents=200.0)


@pytest.mark.parametrize(("way", "down"), [(38.0, False), (42.0, True)])
def test_a_bend_that_falls_by_forty_cents_is_let_down(way, down):
    course = np.concatenate((np.full(80, 200.0), np.linspace(200.0, 200.0 - way, 10), np.full(80, 200.0 - way)))
    assert ("no_release" not in let_down(course).reasons) is down


@pytest.mark.parametrize(("frames", "down"), [(7, False), (9, True)])
def test_its_landing_is_looked_for_in_the_last_eight_hundredths(frames, down):
    course = np.concatenate((np.full(100, 200.0), np.full(frames, 0.0)))
    assert ("no_release" not in let_down(course).reasons) is down


# -- the shortest bends, and what belongs to the whole guitar ---------------------------------------------------------


@pytest.mark.parametrize(("way", "told"), [(19.0, False), (21.0, True)])
def test_a_way_up_of_twenty_cents_takes_a_time(way, told):
    smooth = np.concatenate((np.zeros(20), np.linspace(0.0, way, 20), np.full(40, way)))
    time = np.arange(80) * HOP_S
    assert (_rise_ms(time, smooth, everywhere(smooth), 0.0, way, 40) is not None) is told


def test_the_tones_of_drive_are_looked_for_between_fifty_and_three_thousand_hertz():
    windows = Spectra(np.zeros(1), 0.3, np.full((1, 3000), 1e-9, np.float32))
    free = np.zeros((1, 3000), np.bool_)

    def orders(low_hz, high_hz):
        return len(_products(windows, [part(4, low_hz), part(3, high_hz)], 1.0, free))

    # The difference of the two, and the four of higher order about them.
    assert orders(1000.0, 1055.0) == 5
    assert orders(1000.0, 1045.0) == 4
    assert orders(500.0, 1400.0) == 4  # 3·1400 − 2·500 lies over the band, 2·1400 − 500 in it
    assert orders(500.0, 1800.0) == 3


@pytest.mark.parametrize(("sharing", "common"), [(2, 0.0), (3, 30.0)])
def test_three_strings_of_five_tell_that_the_whole_guitar_is_off(sharing, common):
    offsets = [30.0] * sharing + [130.0 + 100.0 * i for i in range((5 - sharing) // 2)]
    offsets += [-170.0 - 100.0 * i for i in range(5 - len(offsets))]
    assert _common(offsets) == common


def test_the_octaves_error_of_a_guitar_is_no_matter_of_its_saddle_beyond_two_hundred_cents():
    assert saddle_shift_mm(199.0, scale_mm=648.0) > 0.0
    with pytest.raises(SignalError):
        saddle_shift_mm(-201.0, scale_mm=648.0)
