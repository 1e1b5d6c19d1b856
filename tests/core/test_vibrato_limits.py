"""Settings of reading vibratos, in warped time and without, at their limits, held by what changes beside them.

Values are the house's, from its benchmarks, written out here by hand. What is read is made, its truth is known.
"""

from __future__ import annotations

from dataclasses import replace
from types import SimpleNamespace as Made

import numpy as np
import pytest
from fortimetra.hear import warped
from fortimetra.hear.inharmonicity import first_partial
from fortimetra.hear.notes import HeardNote
from fortimetra.hear.warped import _at_rest, _first_course, _Still, _Weights, _Window
from fortimetra.measure import vibrato
from fortimetra.measure.swing_room import u_of_widths
from fortimetra.measure.turns import Turns, _extremes, _leaves, _regular, _with_ends, find_turns, window_response
from fortimetra.measure.vibrato import (
    Swing,
    VibratoMeasured,
    _returns,
    evaluate,
    measure_vibrato,
    straight_slopes,
)

from .sounds import cents_up, contour_of

RATE_HZ, SLOW_HZ, HOP_S = 12_000, 400.0, 0.005
WIDTHS_FACTOR = 4.0
NOTE = HeardNote(0.0, 1.0, 57.0, 57.0, 57.0, -20.0, "attack")


def still(sound, *, hz=100.0, frames=200):
    """A stretch turned back by a steady pitch."""
    return _Still.of(sound.astype(np.float32), 0.5 + np.arange(frames) * HOP_S, np.full(frames, hz), rate_hz=RATE_HZ)


def tone(*parts, seconds=2.5):
    """(Hz, power) of some sines."""
    time = np.arange(round(seconds * RATE_HZ)) / RATE_HZ
    return sum(np.sqrt(power) * np.sin(2.0 * np.pi * hz * time) for hz, power in parts)


def test_twelve_partials_are_read_through_a_fifth_and_through_an_eightieth_of_a_second():
    found = still(tone((100.0, 1.0)))
    assert found.partials.shape[0] == 12
    assert (found.long.length, found.short.length) == (81, 33)


def test_what_lies_beside_a_partial_is_asked_two_and_a_half_bins_away():
    window = _Window.of(0.2, 1000)
    at = [int(np.argmax(np.abs(spectrum))) for spectrum in window.spectra]
    assert at[1:] == [round(1000 * 2.5 / 81), 1000 - round(1000 * 2.5 / 81)]


@pytest.mark.parametrize(("power", "heard"), [(0.6, True), (0.74, False)])
def test_a_partial_stands_out_by_three_times_what_lies_beside_it(power, heard):
    # A tone on one side: half of its power is the mean of both.
    found = still(tone((100.0, 1.0), (100.0 + 2.5 * SLOW_HZ / 81, power)))
    (cents, _), _ = found.read(np.full(200, 100.0), weighed=True)
    assert bool(np.isfinite(cents[100, 0])) is heard


@pytest.mark.parametrize(("frames", "gone"), [(4, True), (5, False)])
def test_what_is_quicker_than_a_twentieth_of_a_second_is_no_hands(frames, gone):
    course = np.full(100, 220.0)
    course[50 : 50 + frames] = 440.0
    assert bool(np.max(_first_course(course)) < 221.0) is gone


def turned(monkeypatch, left_cents):
    """How often a course is turned, and which turns weigh its partials; left_cents: what each leaves."""
    weighed = []
    left = iter([*left_cents, *([left_cents[-1]] * 20)])
    monkeypatch.setattr(warped._Weights, "of", lambda _cents, _sigma: Made(sums=lambda _c: (0.0, 1.0)))
    monkeypatch.setattr(warped, "_left", lambda *_sums: np.full(5, next(left)))

    def read(_f0, *, weighed: bool, asked=weighed):
        asked.append(weighed)
        return [(None, None), (None, None)]

    _at_rest(Made(read=read), np.full(5, 220.0))
    return weighed


def test_a_course_is_turned_eight_times_at_most_and_weighed_in_three(monkeypatch):
    assert turned(monkeypatch, [100.0 * 0.8**i for i in range(12)]) == [True] * 3 + [False] * 5


@pytest.mark.parametrize(("left", "turns"), [([10.0, 0.045], 2), ([10.0, 0.055, 0.01], 3)])
def test_it_is_at_rest_within_a_twentieth_of_a_cent(monkeypatch, left, turns):
    assert len(turned(monkeypatch, left)) == turns


@pytest.mark.parametrize(("left", "turns"), [([10.0, 9.1, 1.0, 0.01], 2), ([10.0, 8.9, 1.0, 0.01], 4)])
def test_or_where_a_turn_leaves_more_than_nine_tenths(monkeypatch, left, turns):
    assert len(turned(monkeypatch, left)) == turns


@pytest.mark.parametrize(("frames", "counts"), [(19, False), (21, True)])
def test_a_partial_counts_that_is_heard_in_a_fifth_of_the_frames(frames, counts):
    cents = np.zeros((100, 3))
    cents[frames:, 2] = np.nan
    found = _Weights.of(cents, np.full((100, 3), 0.5))
    assert bool((found.each[:, 2] > 0.0).any()) is counts


def test_partials_are_weighed_anew_twice_by_how_far_they_stray(monkeypatch):
    asked = []
    plain = _Weights.common
    monkeypatch.setattr(_Weights, "common", lambda self, cents: asked.append(1) or plain(self, cents))
    _Weights.of(np.zeros((50, 3)), np.full((50, 3), 0.5))
    assert len(asked) == 1 + 2


@pytest.mark.parametrize(("frames", "long"), [(11, False), (12, True)])
def test_a_swing_is_looked_for_in_twelve_frames(frames, long):
    f0 = np.full(100, np.nan)
    f0[20 : 20 + frames] = 220.0
    note = HeardNote(0.0, 0.4, 57.0, 57.0, 57.0, -20.0, "attack", 0.4)
    sound = np.zeros(RATE_HZ, np.float32)
    found = measure_vibrato(sound, contour_of(f0), note, Swing("bottom", 220.0), rate_hz=RATE_HZ)
    assert ("too_short" not in found.reasons) is long


def test_a_first_partial_two_standard_deviations_off_its_line_is_not_the_strings_alone():
    # The others scatter about their line by more than a string's own 0.25 cents.
    def share(off_cents):
        places = np.array([off_cents, 1.0, -1.0, 1.0, -1.0, 1.0, -1.0, 1.0])
        return first_partial(contour_of(np.full(60, 220.0), partial_cents=places), slice(None)).own_share

    offs = np.arange(0.0, 6.0, 0.02)
    shares = np.array([share(off) for off in offs])
    usual = float(shares.max())
    heard = 0.25 * np.sqrt(1.0 / usual - 1.0)
    # It counts for as much as ever as long as it lies that near, on either side of the line's own place.
    near = offs[shares > usual - 1e-6]
    line = near.mean() if near[0] > 0.0 else 0.0
    assert (near[-1] - line) / np.hypot(0.25, heard) == pytest.approx(2.0, abs=0.35)


# -- of two readings the one known better ----------------------------------------------------------------------------


@pytest.mark.parametrize(("room_cents", "anew"), [(2.9, False), (3.1, True)])
def test_a_swing_is_read_anew_where_a_room_may_hide_three_cents_of_it(monkeypatch, room_cents, anew):
    wide, narrow = VibratoMeasured(5, u_extent=2.0), VibratoMeasured(5, u_extent=1.0)
    monkeypatch.setattr(Swing, "read", lambda *_a: (wide, room_cents))
    monkeypatch.setattr(Swing, "read_warped", lambda *_a: narrow)
    monkeypatch.setattr(vibrato, "warped", lambda *_a, **_k: None)
    note = HeardNote(0.0, 0.4, 57.0, 57.0, 57.0, -20.0, "attack", 0.4)
    sound = np.zeros(RATE_HZ, np.float32)
    found = measure_vibrato(sound, contour_of(np.full(100, 220.0)), note, Swing("bottom", 220.0), rate_hz=RATE_HZ)
    assert (found is narrow) is anew


def test_what_partials_disagree_by_counts_as_it_was_found_to_and_half_a_hundredth_stays_of_the_quickest(monkeypatch):
    seen = []
    monkeypatch.setattr(Swing, "_in_a_room", lambda _self, found, _turns, _course, cents: seen.append(cents) or found)
    time = np.arange(400) * HOP_S
    course = contour_of(220.0 * 2.0 ** (40.0 * (1.0 - np.cos(2.0 * np.pi * 5.0 * time)) / 1200.0))
    for of_widths in (0.0, 10.0):
        monkeypatch.setattr(vibrato, "u_of_widths", lambda *_a, of_widths=of_widths, **_k: of_widths)
        Swing("bottom", 220.0).read_warped(course)
    # A swing of 80 cents: twice 0.5 % of it.
    assert seen[0] == pytest.approx(0.8, abs=0.02)
    assert np.sqrt(seen[1] ** 2 - seen[0] ** 2) == pytest.approx(10.0 * WIDTHS_FACTOR, rel=0.01)


def widths(rate_hz, *, heard=400):
    """What three partials that swing by 2 cents more, and less, leave unknown; heard: frames of the third."""
    time = np.arange(400) * HOP_S
    swing = 40.0 * np.cos(2.0 * np.pi * rate_hz * time)
    partials = np.full((400, 8), np.nan)
    partials[:, :3] = np.outer(swing / 40.0, [2.0, -2.0, 1.0])
    partials[heard:, 2] = np.nan
    course = contour_of(220.0 * 2.0 ** (swing / 1200.0), partial_cents=None)
    course = replace(
        course, partial_cents=partials.astype(np.float32), partial_sigma_cents=np.full((400, 8), 0.5, np.float32)
    )
    return u_of_widths(course, (0.0, 2.0), rate_hz=rate_hz, extent_cents=80.0)


@pytest.mark.parametrize(("heard", "told"), [(116, False), (124, True)])
def test_a_partial_is_asked_that_is_heard_in_three_tenths_of_a_vibrato(heard, told):
    assert bool(widths(5.0, heard=heard) > 0.0) is told


def test_the_long_window_lets_through_fifteen_hundredths_at_least():
    # Of 8 Hz it lets 12 % through.
    assert window_response(8.0, 0.2) < 0.13
    assert widths(8.0) / widths(1.0) == pytest.approx(window_response(1.0, 0.2) / 0.15, rel=0.03)


# -- turns -----------------------------------------------------------------------------------------------------------


@pytest.mark.parametrize(("dip", "turns"), [(14.0, 3), (18.0, 5)])
def test_to_and_fro_of_a_fifth_of_the_swing_turns(dip, turns):
    # From a tenth of the pitches to nine tenths: 80 cents of a hundred.
    corners = [(100.0, 0.0, 100), (0.0, 50.0, 60), (50.0, 50.0 - dip, 20), (50.0 - dip, 100.0, 60)]
    corners += [(100.0, 0.0, 100), (0.0, 100.0, 100)]
    course = np.concatenate([np.linspace(*corner) for corner in corners])
    assert len(_extremes(course, 0.1)[0]) == turns


@pytest.mark.parametrize(("moves", "rests"), [(4.6, True), (5.2, False)])
def test_a_swing_that_is_cut_is_still_moving_by_twice_as_much_as_from_a_turn(moves, rests):
    # Half periods of 40 frames: over a tenth of one a turn of 100 cents moves by 2.45.
    first = np.concatenate((moves / 4.0 * np.arange(5), np.linspace(moves, 100.0, 27)[1:]))
    swings = 50.0 * (1.0 + np.cos(np.pi * np.arange(1, 121) / 40.0))
    smooth = np.concatenate((first, swings))
    at = np.array([30, 70, 110, 150])
    found, _ = _with_ends(smooth, at, np.array([1.0, -1.0, 1.0, -1.0]))
    assert bool(found[0] == 0) is rests


# -- vibrato ---------------------------------------------------------------------------------------------------------


def swing(cents, rate_hz, seconds, *, hop_s=HOP_S):
    time = np.arange(round(seconds / hop_s)) * hop_s
    return time, 0.5 * cents * (1.0 - np.cos(2.0 * np.pi * rate_hz * time))


def turns_of(time, cents, sigma=0.01):
    return find_turns(time, cents, np.full(len(time), sigma))


@pytest.mark.parametrize(("cents", "found"), [(5.5, False), (6.9, True)])
def test_a_swing_goes_by_six_cents(cents, found):
    # Smoothing leaves a little less of it.
    assert (len(turns_of(*swing(cents, 5.0, 1.5)).time_s) > 5) is found


@pytest.mark.parametrize(("sigma", "found"), [(5.5, True), (7.5, False)])
def test_and_by_six_standard_deviations_of_half_the_noise(sigma, found):
    # 20 cents: three times 5.5 are 16.5, three times 7.5 are 22.5.
    assert (len(turns_of(*swing(20.0, 5.0, 1.5), sigma=sigma).time_s) > 5) is found


@pytest.mark.parametrize(("rate_hz", "found"), [(10.0, True), (11.5, False)])
def test_its_shortest_period_is_a_tenth_of_a_second(rate_hz, found):
    # Two tops are 19 frames apart at least: 95 ms.
    time, cents = swing(60.0, rate_hz, 1.5)
    turns = turns_of(time, cents)
    read_hz = 0.5 / np.median(np.diff(turns.time_s)) if len(turns.time_s) else 0.0
    assert bool(abs(read_hz - rate_hz) < 0.5) is found


@pytest.mark.parametrize(("factor", "count"), [(0.38, 7), (0.32, 5)])
def test_a_swing_a_third_as_wide_is_not_of_the_vibrato(factor, count):
    # Turns by hand: four swings of 60 cents, and two of so much less.
    heights = [0.0, 60.0, 0.0, 60.0, 0.0]
    for side in (1.0, -1.0):
        heights.append(heights[-1] + side * 60.0 * factor)
    first, last = _regular(np.arange(7) * 0.1, np.array(heights))
    assert last - first == count


@pytest.mark.parametrize(("factor", "count"), [(2.5, 6), (2.7, 4)])
def test_nor_one_two_and_a_half_times_as_long(factor, count):
    times = np.cumsum([0.0, 0.1, 0.1, 0.1, 0.1 * factor, 0.1])
    first, last = _regular(times, 60.0 * (np.arange(6) % 2))
    assert last - first == count


@pytest.mark.parametrize(("turns", "cycles"), [(6, None), (7, 3)])
def test_a_vibrato_has_three_cycles(turns, cycles):
    found = evaluate(hand_made(turns), line="bottom")
    assert (found.cycles if found.rate_hz is not None else None) == cycles


def hand_made(count, *, cents=60.0):
    time = np.arange(count) * 0.1
    kind = np.where(np.arange(count) % 2, 1.0, -1.0)
    return Turns(time, np.where(kind > 0, cents, 0.0), kind, time[:-1] + 0.05, 0.002, 0.1)


def test_the_windows_correction_is_known_to_three_in_a_hundred():
    exact, through = (evaluate(hand_made(9), line="bottom", window_s=w) for w in (0.0, 0.05))
    left = window_response(5.0, 0.05)
    own = 2.0 * np.hypot(1.25 * 0.1 / 2.0, 0.002 * 60.0)
    assert exact.u_extent == pytest.approx(own)
    more = np.hypot(0.03 * (1.0 / left - 1.0), 0.002) * 60.0
    assert through.u_extent == pytest.approx(2.0 * np.hypot(1.25 * 0.1 / 2.0, more))


@pytest.mark.parametrize(("off", "returns"), [(14.0, 5), (16.0, 4)])
def test_the_last_turn_a_quarter_of_the_width_from_its_line_is_no_return(off, returns):
    assert len(_returns(np.array([0.0, 0.0, 0.0, 0.0, off]), 60.0)) == returns


@pytest.mark.parametrize(
    ("cents", "shape"), [(49.0, "subtle"), (51.0, "medium"), (99.0, "medium"), (101.0, "wide"), (None, None)]
)
def test_a_vibrato_is_subtle_medium_or_wide(cents, shape):
    assert VibratoMeasured(5, extent_cents=cents).shape == shape


def vibrato_with_a_gap(frames):
    """Read of a vibrato of a second with a gap in its middle; how many cycles."""
    _, cents = swing(60.0, 5.0, 1.2)
    f0 = cents_up(cents)
    f0[120 : 120 + frames] = np.nan
    note = replace(NOTE, end_s=1.2, sounds_to_s=1.2)
    sound = np.zeros(round(1.3 * 12_000), np.float32)
    return measure_vibrato(sound, contour_of(f0), note, Swing("bottom", 220.0), rate_hz=12_000).cycles


def test_a_gap_in_the_pitch_is_bridged_up_to_four_hundredths():
    assert vibrato_with_a_gap(7) == vibrato_with_a_gap(0)
    assert vibrato_with_a_gap(9) < vibrato_with_a_gap(0)


@pytest.mark.parametrize(("longer", "own"), [(1.25, True), (1.3, False)])
def test_a_half_period_at_an_end_seen_longer_by_a_seventh_is_placed_by_its_crossing(longer, own):
    # The first way up takes so much longer than those after it.
    time, cents = swing(60.0, 5.0, 1.4)
    first = 0.1 * longer
    course = np.where(
        time < first, 30.0 * (1.0 - np.cos(np.pi * time / first)), np.interp(time - first + 0.1, time, cents)
    )
    before = 30.0 * (1.0 + np.cos(np.pi * np.arange(16) / 16.0))
    course = np.concatenate((before, course))
    found = turns_of(np.arange(len(course)) * HOP_S, course)
    by_crossing_s = 2.0 * found.crossing_s[0] - found.time_s[1]
    assert bool(abs(found.time_s[0] - by_crossing_s) > 1e-6) is own


@pytest.mark.parametrize(("share", "leaves"), [(0.37, False), (0.43, True)])
def test_a_swing_leaves_its_line_by_two_fifths_at_its_ends(share, leaves):
    ways = ((60.0 * share, 0.0), (0.0, 60.0), (60.0, 0.0))
    smooth = np.concatenate([np.linspace(*way, 20) for way in ways])
    found = _leaves(smooth, np.array([19, 39]), np.array([-1.0, 1.0]), 30.0, 20)
    assert found[0] is leaves


@pytest.mark.parametrize(("frames", "told"), [(19, False), (20, True)])
def test_twenty_frames_tell_how_a_string_fades(frames, told):
    found = contour_of(np.full(100, 220.0), -0.1 * np.arange(100))
    note = replace(NOTE, end_s=0.1 + 0.03 + frames * HOP_S - 1e-4)
    slopes = straight_slopes(found, [(2, note)])
    assert slopes == ({2: pytest.approx(-20.0)} if told else {})
