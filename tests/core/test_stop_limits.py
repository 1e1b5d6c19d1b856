"""Settings of stops at their limits: when a note is gone, when it was let go, and what a room may keep of it.

Values are the house's, from its benchmarks, written out here by hand. What is read is made, its truth is known.
"""

from __future__ import annotations

from dataclasses import replace
from types import SimpleNamespace as Made

import numpy as np
import pytest
from fortimetra.hear.notes import HeardNote
from fortimetra.judge.noise_events import _may_be_the_rooms
from fortimetra.judge.quiet import _of_stop
from fortimetra.measure.stop import Stop, _decay, _let_go_ms, _rests, stops
from fortimetra.measure.strings import Part

from .sounds import wave

RATE_HZ = 12_000


def note(onset_s, end_s):
    return HeardNote(onset_s, end_s, 57.0, 57.0, 57.0, -20.0, "attack")


def part(string, hz, from_s, until_s):
    return Part(0, string, 0, hz, from_s, until_s, False)


def rings_on(from_s, kind):
    return Made(kind=kind, from_s=from_s, to_s=from_s + 0.3, reasons=("r",))


# -- when it is gone -------------------------------------------------------------------------------------------------


@pytest.mark.parametrize(("frames", "gone"), [(8, False), (9, True)])
def test_a_note_is_gone_that_stays_so_for_three_hundredths(frames, gone):
    level = np.concatenate((np.zeros(20), np.full(frames, -60.0), np.zeros(30)))
    assert _decay(level, -40.0)[1] is gone


@pytest.mark.parametrize(("rest_s", "judged"), [(0.095, 0), (0.105, 1)])
def test_a_rest_of_a_tenth_of_a_second_is_judged(rest_s, judged):
    parts = [part(5, 110.0, 0.5, 1.0)]
    match = Made(notes=[note(0.5, 1.0), note(1.0 + rest_s, 2.0)])
    assert len(list(_rests(match, parts, 3.0))) == judged


@pytest.mark.parametrize(("floor_db", "told"), [(-21.5, False), (-22.5, True)])
def test_a_stop_is_told_where_twenty_decibels_lie_between_note_and_floor(floor_db, told):
    sound = wave(lambda t: np.where((t >= 0.5) & (t < 1.0), 0.0, floor_db), 2.0)
    (found,) = stops(sound, Made(notes=[note(0.5, 1.0)]), [part(5, 110.0, 0.5, 1.0)], rate_hz=RATE_HZ, grid_u_ms=5.0)
    assert (found.decay_ms is not None) is told


# -- when it was let go ------------------------------------------------------------------------------------------------


@pytest.mark.parametrize(("fall_db", "let_go"), [(9.5, False), (10.5, True)])
def test_a_note_has_been_let_go_when_it_has_fallen_by_ten_decibels(fall_db, let_go):
    time = np.arange(0.0, 2.0, 0.004)
    level = np.where(time < 1.08, -20.0, -20.0 - fall_db)
    found = _let_go_ms(level, 0.7, 1.0, 2.0)
    assert found == (pytest.approx(80.0, abs=4.0) if let_go else np.inf)


def test_a_note_let_go_before_its_stop_was_due_has_been_let_go_before():
    time = np.arange(0.0, 2.0, 0.004)
    assert _let_go_ms(np.where(time < 0.9, -20.0, -40.0), 0.7, 1.0, 2.0) == pytest.approx(-100.0, abs=4.0)


@pytest.mark.parametrize(("ends_s", "let_go_ms"), [(0.69, np.inf), (0.71, -290.0)])
def test_what_a_note_was_is_read_three_tenths_of_a_second_before_its_stop(ends_s, let_go_ms):
    """It falls by 12 dB once, that long before."""
    sound = wave(lambda t: np.where(t < 0.3, -90.0, np.where(t < ends_s, -10.0, np.where(t < 1.9, -22.0, -90.0))), 3.0)
    (found,) = stops(sound, Made(notes=[note(0.3, 1.0)]), [part(5, 110.0, 0.3, 1.0)], rate_hz=RATE_HZ, grid_u_ms=5.0)
    assert found.let_go_ms == pytest.approx(900.0 if np.isinf(let_go_ms) else let_go_ms, abs=20.0)


# -- what is said of it ------------------------------------------------------------------------------------------------


@pytest.mark.parametrize(("from_s", "reasons"), [(5.29, ["rings_after_stop", "r"]), (5.31, ["rings_after_stop"])])
def test_what_rings_within_three_tenths_of_a_stop_is_said_of_it(from_s, reasons):
    rings = [rings_on(from_s, "after_stop"), rings_on(5.0, "bleed")]
    assert _of_stop(stop_at(5.0, np.inf), 150.0, BY_CABLE, rings, echo=False) == ("outside", reasons)


BY_CABLE, ROOM = Made(in_a_room=False), Made(in_a_room=True)


def stop_at(due_s, let_go_ms):
    return Stop(0, due_s, decay_ms=400.0, u_ms=10.0, gone=True, floor_db=-40.0, let_go_ms=let_go_ms)


@pytest.mark.parametrize(
    ("quiet", "let_go_ms", "said"),
    [(BY_CABLE, 20.0, "outside"), (ROOM, 139.0, "unclear"), (ROOM, 137.0 + 6.0, "outside"), (ROOM, np.inf, "outside")],
)
def test_a_note_let_go_in_time_is_not_held_against_a_room_that_keeps_it(quiet, let_go_ms, said):
    # 150 ms are allowed; the stop is known to 10.
    reasons = ["room_rings"] if said == "unclear" else ["rings_after_stop"]
    assert _of_stop(stop_at(5.0, let_go_ms), 150.0, quiet, [], echo=False) == (said, reasons)


def test_a_stop_that_is_open_in_a_room_for_another_reason_does_not_blame_the_room():
    hardly = replace(stop_at(5.0, 20.0), decay_ms=155.0)
    assert _of_stop(hardly, 150.0, ROOM, [], echo=False) == ("unclear", [])
    cough = rings_on(5.2, "other")
    assert _of_stop(stop_at(5.0, np.inf), 150.0, ROOM, [cough], echo=False) == ("unclear", [])


@pytest.mark.parametrize(
    ("quiet", "let_go_ms", "said"), [(BY_CABLE, 20.0, False), (ROOM, 139.0, True), (ROOM, 141.0, False)]
)
def test_what_a_window_shows_in_a_rest_may_be_the_rooms_where_the_note_was_let_go_in_time(quiet, let_go_ms, said):
    stops = [stop_at(5.0, let_go_ms), stop_at(9.0, 0.0)]
    heard = Made(stops=stops, in_a_room=quiet.in_a_room, may_be_a_rooms=lambda _ring: False)
    assert _may_be_the_rooms("after_stop", Made(from_s=5.1), heard, {"stop_ms": 150.0}) is said
    assert _may_be_the_rooms("open_ring", Made(from_s=5.1), heard, {"stop_ms": 150.0}) is False
    assert _may_be_the_rooms("after_stop", Made(from_s=4.9), heard, {"stop_ms": 150.0}) is False
