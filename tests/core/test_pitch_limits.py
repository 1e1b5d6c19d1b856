"""Settings of reading bends, slides, vibratos and chords at their limits, held by what changes a quarter beside them.

Values are the house's, from its benchmarks, written out here by hand. What is read is made, its truth is known.
"""

from __future__ import annotations

from types import SimpleNamespace as Made

import numpy as np
import pytest
from fortimetra.hear.notes import HeardNote
from fortimetra.measure.bend import _choked, _goes_on, _hold, _to_and_fro, find_plateau
from fortimetra.measure.chord import ChordNote, _are_driven, balances, chord_notes
from fortimetra.measure.reference import fret_reference, middle_of, own_start
from fortimetra.measure.statistics import PitchReading
from fortimetra.measure.strings import Part

from .sounds import contour_of

HOP_S = 0.005


def cents_up(cents, hz=220.0):
    return hz * 2.0 ** (np.asarray(cents, dtype=np.float64) / 1200.0)


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
