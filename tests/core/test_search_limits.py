"""Costs of the alignment's search, each held by what it comes to in a case of its own.

In units of one semitone wrong; values are the house's, from its benchmarks, written out here by hand.
"""

from __future__ import annotations

from types import SimpleNamespace as Made

import numpy as np
import pytest
from fortimetra.align.cheapest import (
    COSTS,
    FREE,
    AskedArrays,
    HeardArrays,
    Pulse,
    _begin,
    _empty_ends,
    _empty_paths,
    _go_on,
    _octaves,
    _once_more,
    _own_costs,
    _unplayed,
    cheapest,
)
from fortimetra.align.click import _bursts
from fortimetra.align.costs import _semitones, leave_costs
from fortimetra.align.extras import _restarts
from fortimetra.hear.notes import HeardNote

NO_CLICK = Pulse(float("nan"), float("nan"), 0.0)
# First beat at 1 s, a beat every half second.
CLICK = Pulse(1.0, 0.5, 0.0)


def asked(count, *, repeats=1, slot_s=0.5):
    """Events half a second apart, each of a pitch of its own."""
    number = np.arange(count)
    again = np.full(count, COSTS.again_cost[2])
    again[:: count // repeats] = COSTS.again_cost[0]
    free = np.full(count, FREE)
    return AskedArrays(
        0.5 * number, number, np.zeros(count, np.int64), free, number // (count // repeats), again,
        np.full(count, slot_s), np.ones(count, np.bool_),
    )  # fmt: skip


def heard(onsets_s, kinds, *, events, leave=0.8, wrong=9.0):
    """Heard notes; kinds: which event's pitch each has, and by how much it is wrong, (kind, cost), or None."""
    pitch = np.full((len(onsets_s), events), wrong)
    for row, own in zip(pitch, kinds, strict=True):
        if own is not None:
            row[own[0]] = own[1]
    count = len(onsets_s)
    return HeardArrays(
        np.asarray(onsets_s, dtype=np.float64), pitch, np.zeros((count, 1)), np.broadcast_to(leave, count).copy(),
        np.full(count, FREE),
    )  # fmt: skip


def paths_of(notes, count):
    return _empty_paths(notes, len(notes.onset_s), count, COSTS)


# -- leaving notes out -----------------------------------------------------------------------------------------------


def test_a_note_nobody_asked_for_costs_so_much_beside_the_playing_and_more_where_it_fits_the_drill():
    def beside(cost):
        return paths_of(heard([1.0], [(0, cost)], events=2), 2).belong[1]

    # As clear as a note can be, within the playing 0.8; beside it 0.15, of the drill six tenths of 0.8.
    assert beside(0.45) == pytest.approx(0.15)
    assert beside(0.35) == pytest.approx(0.48)


def test_a_repeat_that_was_not_begun_costs_a_little_less_than_what_is_left_out_on_the_way():
    of_two = asked(4, repeats=2)
    assert _unplayed(3, of_two, COSTS) == 0.0
    assert _unplayed(2, of_two, COSTS) == pytest.approx(1.4)
    assert _unplayed(1, of_two, COSTS) == pytest.approx(2 * 1.3)
    assert _unplayed(0, of_two, COSTS) == pytest.approx(1.4 + 2 * 1.3)


# -- beginning -------------------------------------------------------------------------------------------------------


def began(pulse, onset_s, *, kinds=None, event=0, before=0, leave=0.8):
    """What it costs that a note is an event and the first that is played; before: so many notes nobody asked for."""
    onsets = [*(onset_s - 0.01 * (before - i) for i in range(before)), onset_s]
    notes = heard(onsets, [None] * before + [kinds or (event, 0.0)], events=4, leave=leave)
    paths = paths_of(notes, 4)
    _begin(before, notes, asked(4), pulse, paths, COSTS)
    return paths.total[before, event]


def test_the_pitch_of_what_begins_counts_once_more():
    assert began(NO_CLICK, 1.0, kinds=(0, 0.3)) == pytest.approx(0.3)


def test_of_repeats_that_fit_alike_the_first_is_meant():
    assert began(NO_CLICK, 1.0, event=2) - 2 * 1.4 == pytest.approx(2e-6, rel=0.01)


def test_to_begin_elsewhere_than_where_a_click_says_costs_by_the_second_and_no_more_than_a_note():
    assert began(CLICK, 3.0) == pytest.approx(0.15 * 2.0)
    assert began(CLICK, 60.0) == pytest.approx(1.5)


def test_everything_before_the_first_note_costs_six_at_most():
    assert began(NO_CLICK, 1.0, before=10, leave=0.8) == pytest.approx(1.5)
    assert began(NO_CLICK, 1.0, before=60, leave=0.8) == pytest.approx(6.0)


# -- going on --------------------------------------------------------------------------------------------------------


def went_on(*, between=0, missed=0, apart_s=0.5, tempo_cost=0.0):
    """What it costs that a note follows the first one; inf where it cannot. between: heard, missed: asked ones left
    out, for nothing each.
    """
    count = missed + 2
    onsets = [1.0, *(1.0 + 0.001 * (i + 1) for i in range(between)), 1.0 + apart_s]
    notes = heard(onsets, [(0, 0.0)] + [None] * between + [(count - 1, 0.0)], events=count, leave=0.0)
    events = asked(count)
    paths = paths_of(notes, count)
    paths.total[0, 0] = 0.0
    paths.least[0, :] = 0.0
    last = len(onsets) - 1
    paths.total[last, count - 1] = 1e6
    _go_on(last, notes, events, Pulse(float("nan"), float("nan"), tempo_cost), paths, _octaves(events, COSTS), COSTS)
    return paths.total[last, count - 1] if paths.from_heard[last, count - 1] == 0 else np.inf


def test_the_time_since_the_last_note_costs_by_the_octave_and_no_more_than_a_note_left_out():
    assert went_on(apart_s=1.0, tempo_cost=1.0) == pytest.approx(1.0)
    assert went_on(apart_s=8.0, tempo_cost=1.0) == pytest.approx(1.6)


@pytest.mark.parametrize(("missed", "follows"), [(7, True), (8, False)])
def test_seven_notes_in_a_row_may_be_left_out(missed, follows):
    assert bool(np.isfinite(went_on(missed=missed))) is follows


@pytest.mark.parametrize(("between", "follows"), [(23, True), (24, False)])
def test_twenty_three_heard_ones_may_lie_between(between, follows):
    assert bool(np.isfinite(went_on(between=between))) is follows


@pytest.mark.parametrize(("event", "found"), [(999, True), (1002, False)])
def test_of_a_long_drill_the_thousand_events_nearest_in_order_are_looked_at(event, found):
    notes = heard([1.0], [(event, 0.0)], events=1100)
    pairs = cheapest(notes, asked(1100), NO_CLICK, COSTS)
    assert bool(pairs[0, 1] == event) is found


# -- beginning again, and after a stop -------------------------------------------------------------------------------


def again(*, apart_s=5.0, slot_s=0.5, pulse=NO_CLICK, onset_s=6.0, pitch=0.0):
    """What it costs to begin again at the first event, after the second was the last that was played."""
    notes = heard([onset_s - apart_s, onset_s], [(1, 0.0), (0, pitch)], events=3, leave=0.0)
    events = asked(3, slot_s=slot_s)
    paths, ends = paths_of(notes, 3), _empty_ends(events)
    ends.broken[0], ends.broken_i[0], ends.broken_j[0] = 0.0, 0, 1
    paths.total[1, 0] = 1e6
    _once_more(1, notes, events, pulse, paths, ends, COSTS)
    return paths.total[1, 0]


@pytest.mark.parametrize(
    ("rise_db", "contrast_db", "kind", "cost"),
    [
        (7.9, 2.9, "attack", 0.24),
        (8.1, 2.9, "attack", 0.8),
        (2.3, 2.9, "attack", 0.24),
        (7.9, 11.9, "attack", 0.8),
        (7.9, 2.9, "step", 0.8),
        # Half of what is clear by itself costs fifteen hundredths less.
        (4.0, 6.0, "attack", 0.68),
    ],
)
def test_what_a_room_may_have_made_costs_three_tenths_of_a_note_nobody_asked_for(rise_db, contrast_db, kind, cost):
    rise = HeardNote(1.0, 1.2, 60.0, 60.0, 60.0, -20.0, kind, rise_db=rise_db, contrast_db=contrast_db)
    assert leave_costs([rise])[0] == pytest.approx(cost, abs=0.01)


def test_to_begin_again_takes_a_moment():
    assert again() == pytest.approx(1.2)
    # 1.6 times the last note's length, 0.8 s where notes are slow.
    assert again(slot_s=0.3, apart_s=0.49) == pytest.approx(1.2)
    assert again(slot_s=0.3, apart_s=0.47) == pytest.approx(2.2)
    assert again(slot_s=2.0, apart_s=0.82) == pytest.approx(1.2)
    assert again(slot_s=2.0, apart_s=0.78) == pytest.approx(2.2)


def test_and_is_done_on_a_beat_and_with_the_right_note():
    assert again(pitch=0.3) == pytest.approx(1.5)
    assert again(pulse=CLICK) == pytest.approx(1.2)
    assert again(pulse=CLICK, onset_s=6.25) == pytest.approx(1.2 + 1.2)
    assert again(pulse=CLICK, onset_s=6.125) == pytest.approx(1.2 + 0.6)


def test_a_repeat_that_was_played_to_its_end_is_played_once_more():
    notes = heard([1.0, 6.0], [(2, 0.0), (0, 0.0)], events=3, leave=0.0)
    events = asked(3)
    paths, ends = paths_of(notes, 3), _empty_ends(events)
    ends.whole[0], ends.whole_i[0], ends.whole_j[0] = 0.0, 0, 2
    paths.total[1, 0] = 1e6
    _once_more(1, notes, events, NO_CLICK, paths, ends, COSTS)
    assert paths.total[1, 0] == pytest.approx(1.6)


@pytest.mark.parametrize(("apart_s", "cost"), [(0.5, 0.0), (1.0, 1.0), (60.0, 1.8)])
def test_after_a_stop_it_goes_on_whatever_its_length(apart_s, cost):
    notes = heard([1.0, 1.0 + apart_s], [(0, 0.0), (1, 0.0)], events=3, leave=0.0)
    events = asked(3)
    paths, ends = paths_of(notes, 3), _empty_ends(events)
    ends.stopped[0], ends.stopped_i[0] = 0.0, 0
    paths.total[1, 1] = 1e6
    _once_more(1, notes, events, Pulse(float("nan"), float("nan"), 1.0), paths, ends, COSTS)
    assert paths.total[1, 1] == pytest.approx(cost)


# -- beside the beats ------------------------------------------------------------------------------------------------


def beside(onset_s, *, slot_s=0.5, pinned=FREE):
    notes = heard([onset_s], [(0, 0.0)], events=3)
    events = asked(3, slot_s=slot_s)
    events.pinned[0] = pinned
    paths = paths_of(notes, 3)
    paths.total[0, 0] = 0.0
    _own_costs(0, notes, events, CLICK, paths, COSTS)
    return paths.total[0, 0]


def test_a_note_beside_the_beats_of_a_click_costs_up_to_three_tenths():
    assert beside(1.0) == pytest.approx(0.0)
    # Half of its length beside, and more: the most.
    assert beside(1.125) == pytest.approx(0.15)
    assert beside(1.25) == pytest.approx(0.3)
    assert beside(1.2, slot_s=0.25) == pytest.approx(0.3)


def test_what_a_person_said_is_worth_more_than_any_path_without_it():
    assert beside(1.0, pinned=0) == pytest.approx(-10_000.0)


# -- what is heard besides -------------------------------------------------------------------------------------------


@pytest.mark.parametrize(("peak", "bursts"), [(0.9e-4, False), (1.1e-4, True)])
def test_a_channel_with_less_than_a_ten_thousandth_holds_no_click(peak, bursts):
    sound = np.zeros(48_000, np.float32)
    for at in range(0, 48_000, 12_000):
        sound[at + 100 : at + 340] = peak
    assert (_bursts(sound, 48_000) is not None) is bursts


@pytest.mark.parametrize(("off", "away"), [(12.55, 1.3), (11.45, 1.3), (12.65, 12.65)])
def test_an_octave_off_within_three_fifths_of_a_semitone_is_taken_for_a_little_more_than_one(off, away):
    assert _semitones(np.array([off]))[0] == pytest.approx(away)


@pytest.mark.parametrize(("right", "restart"), [(3, True), (2, False)])
def test_three_of_four_extra_notes_with_a_stretchs_pitches_are_a_restart(right, restart):
    events = [Made(start_midi=60.0 + 2.0 * i) for i in range(8)]
    extras = [Made(onset_s=0.1 * i, start_midi=60.0 + 2.0 * i + (0.0 if i < right else 30.0)) for i in range(4)]
    match = Made(events=events, offset_cents=0.0, heard=[Made(onset_s=2.0 + i) for i in range(8)])
    assert bool(_restarts(match, extras)) is restart
