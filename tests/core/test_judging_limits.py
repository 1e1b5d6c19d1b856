"""Settings of judging at their limits, each held by what changes a quarter beside it.

Values are the house's (common practice, no source), written out here by hand.
"""

from __future__ import annotations

import importlib
from types import SimpleNamespace as Made

import numpy as np
import pytest
from fortimetra.coach.set_up import _rig, _saddle
from fortimetra.hear.notes import HeardNote
from fortimetra.judge import bends
from fortimetra.judge.bends import _bent_up, _beyond_a_hand, _drift, _mostly_up_s, _rests
from fortimetra.judge.compare import _clean_rates, _difference, _least, _overall
from fortimetra.judge.noise_events import (
    _after_stop,
    _hidden,
    _level_verdict,
    _place,
    _what_rings,
    hum_event,
    noise_events,
)
from fortimetra.judge.quiet import _others, _sure
from fortimetra.judge.set_up import _usable
from fortimetra.judge.slides import _judged
from fortimetra.judge.time_and_touch import _accent
from fortimetra.measure.bend import BendMeasured
from fortimetra.measure.level import NoteLevel
from fortimetra.measure.reference import BendReference
from fortimetra.measure.vibrato import VibratoMeasured

from .sounds import contour_of

likely = importlib.import_module("fortimetra.coach.causes")
NOTE = HeardNote(0.0, 1.0, 57.0, 57.0, 57.0, -20.0, "attack")
REFERENCE = BendReference(440.0, 1.0, "temperament")


# -- bends -----------------------------------------------------------------------------------------------------------


@pytest.mark.parametrize(
    ("drift", "said"), [(23.5, "inside"), (24.5, "unclear"), (-25.5, "unclear"), (-26.5, "outside")]
)
def test_a_hold_may_sink_or_rise_by_twenty_five_cents_a_second(drift, said):
    found = BendMeasured(REFERENCE, hold_drift_cents_per_s=drift, u_hold_drift=1.0, held_s=1.0)
    assert _drift(Made(kind="bend"), found, swings=False) == said


@pytest.mark.parametrize(("cents", "beyond"), [(545.0, False), (555.0, True), (-145.0, False), (-155.0, True)])
def test_farther_over_its_target_or_under_its_fret_no_hand_bends(cents, beyond):
    assert _beyond_a_hand(BendMeasured(REFERENCE, reached_cents=cents), Made(middle_cents=200.0)) is beyond


@pytest.mark.parametrize(
    ("begins_s", "held_s", "rests"), [(1.14, 0.1, True), (1.16, 0.1, False), (2.0, 0.29, False), (2.0, 0.31, True)]
)
def test_a_hold_that_begins_at_once_or_lasts_has_no_vibrato_in_it(begins_s, held_s, rests):
    found = BendMeasured(REFERENCE, plateau=(begins_s, begins_s + held_s), held_s=held_s)
    assert _rests(found, 1.0) is rests


@pytest.mark.parametrize(("share", "arrives"), [(0.84, False), (0.86, True)])
def test_a_bend_has_arrived_at_six_sevenths_of_its_way(share, arrives):
    course = np.where(np.arange(200) < 100, 0.0, 200.0 * share)
    played = Made(contour=contour_of(220.0 * 2.0 ** (course / 1200.0)))
    reference = BendReference(220.0 * 2.0 ** (200.0 / 1200.0), 1.0, "temperament")
    assert (_mostly_up_s(played, NOTE, reference, 200.0) is not None) is arrives


def test_a_vibrato_whose_width_nobody_asks_is_taken_to_be_sixty_cents_wide(monkeypatch):
    monkeypatch.setattr(bends, "_vibrato_on_bend", lambda *_a: VibratoMeasured(0))
    monkeypatch.setattr(bends, "judge_vibrato", lambda *_a: (None, []))
    monkeypatch.setattr(bends, "_mostly_up_s", lambda *_a: None)
    monkeypatch.setattr(bends.RatesAsked, "of", lambda *_a: None)
    monkeypatch.setattr(
        bends, "measure_bend", lambda *_a, **_k: BendMeasured(REFERENCE, reached_cents=199.0, u_cents=4.0)
    )
    asked = Made(event=Made(vibrato=Made(extent_cents=None), articulation="pick"))
    played = Made(alignment=Made(spb=0.5), tolerances={}, contour=None)
    found, _, _ = _bent_up(played, asked, Made(middle_cents=200.0, kind="bend"), NOTE, REFERENCE)
    # Half of that to either side.
    assert found.u_cents == pytest.approx(np.hypot(4.0, 30.0))


# -- noise and slides ------------------------------------------------------------------------------------------------


@pytest.mark.parametrize(("over_ms", "said"), [(94.0, "inside"), (96.0, "unclear"), (146.0, "outside")])
def test_how_long_a_string_rings_into_a_rest_is_known_to_twenty_five_milliseconds(over_ms, said):
    ring = Made(string=4, from_s=1.0, to_s=1.0 + over_ms / 1000.0, rest=1.0, role="open")
    kind, judged, _ = _what_rings(ring, Made(parts=()), {"stop_ms": 120.0}, [], echo=False)
    assert (kind, judged) == ("after_stop", said)


def test_the_level_of_a_thud_is_known_to_two_decibels_and_of_a_cough_to_three():
    match = Made(
        heard=[NOTE], others=[Made(from_s=3.0, to_s=3.2, level_dbfs=-30.0)],
        events=[Made(notes=[Made(event=Made(id="e1"), repeat=0)])],
    )  # fmt: skip
    quiet = Made(reading=None, scrapes=(), parts=[Made(from_s=0.0, event=0)])
    thud = HeardNote(2.0, 2.1, 40.0, 40.0, 40.0, -30.0, "attack")
    found = noise_events(match, quiet, [thud], {"ring_db": -26.0}, goes_on=[], echo=False)
    assert [(e.kind, e.u) for e in found] == [("thud", 2.0), ("other", 3.0)]


@pytest.mark.parametrize(
    ("change_db", "said"), [(-8.9, "inside"), (-9.1, "unclear"), (-14.9, "unclear"), (-15.1, "outside")]
)
def test_a_slide_that_loses_twelve_decibels_for_sure_has_been_let_go(change_db, said):
    slide = Made(from_fret=None, length=None)
    match = Made(events=[Made(notes=[Made(event=Made(slide=slide, length=1.0))])], heard=[NOTE])
    read = Made(level_change_db=change_db, travel_ms=100.0, arrives_s=0.0, u_arrives_ms=5.0)
    note = Made(clean="inside", reasons=(), model_copy=lambda update: Made(**update))
    drill = Made(measures=("pitch",), seconds_per_beat=0.5, profile="steady", tolerances=Made(onset_ms=None))
    assert _judged(note, 0, match, read, drill).slide.verdict == said


# -- what belongs to what --------------------------------------------------------------------------------------------


@pytest.mark.parametrize(("at_s", "near"), [(0.985, "e2"), (0.975, "e1")])
def test_what_begins_a_fiftieth_of_a_second_before_a_note_is_that_notes(at_s, near):
    events = [Made(notes=[Made(event=Made(id=f"e{i}"), repeat=0)]) for i in (1, 2)]
    quiet = Made(parts=[Made(from_s=0.0, event=0), Made(from_s=1.0, event=1)])
    assert _place(quiet, Made(events=events), at_s)[0] == near


@pytest.mark.parametrize(("until_s", "over_ms"), [(1.09, 410.0), (1.11, 500.0)])
def test_a_string_has_left_its_note_a_tenth_of_a_second_after_it_begins_to_ring(until_s, over_ms):
    ring = Made(string=4, from_s=1.0, to_s=1.5, rest=1.0, role="last")
    quiet = Made(parts=[Made(string=4, until_s=until_s, event=0)])
    # Judged by how long it goes on after that.
    verdicts = [
        _what_rings(ring, quiet, {"stop_ms": limit}, [], echo=False)[1] for limit in (over_ms - 26.0, over_ms + 26.0)
    ]
    assert verdicts == ["outside", "inside"]


@pytest.mark.parametrize(("until_s", "told"), [(0.71, ("fretting_hand_first",)), (0.69, ())])
def test_a_string_that_rings_three_tenths_after_it_was_left_rings_for_the_fretting_hand(until_s, told):
    quiet = Made(parts=[Made(string=4, until_s=until_s)])
    assert _after_stop(Made(role="open", string=4, from_s=1.0), quiet) == told


# -- two takes compared ----------------------------------------------------------------------------------------------


def off(x, y, u, *, least=0.0):
    found = _difference("bend_error", "cents", x, y, u, zero=0.0, least=least)
    return found.clear, found.better


@pytest.mark.parametrize(
    ("x", "y", "u", "least", "clear", "better"),
    [
        (10.0, 6.0, 3.9, 0.0, True, True),
        (10.0, 6.0, 4.0, 0.0, False, None),
        (10.0, 6.0, 1.0, 4.0, False, None),
        (10.0, 6.0, 1.0, 3.9, True, True),
        (-2.0, 6.0, 5.0, 0.0, True, False),
        # From one side to the other: clearly different, and nearer by less than half of what is not known.
        (-10.0, 8.0, 4.5, 0.0, True, None),
        (-10.0, 8.0, 3.5, 0.0, True, True),
    ],
)
def test_a_difference_is_clear_beyond_its_u_and_what_matters_and_better_where_it_is_nearer(
    x, y, u, least, clear, better
):
    assert off(x, y, u, least=least) == (clear, better)


def test_a_fifth_of_what_is_allowed_does_not_matter():
    notes = [Made(timing=Made(limit_ms=40.0)), Made(timing=Made(limit_ms=30.0)), Made(timing=Made(limit_ms=20.0))]
    least = _least(Made(notes=notes), {"bend_error_cents": 15.0, "level_db": 3.5})
    assert least == {"bend_error": 3.0, "level_deviation": pytest.approx(0.7), "onset_error": pytest.approx(6.0)}


def bent(errors):
    notes = [
        Made(bend=Made(error_cents=e, u=1.0), pitch=None, vibrato=None, timing=None, level=None, noise=None, said=None)
        for e in errors
    ]
    nothing = Made(level=None, fastest_even_run_nps=None, timing=None, clean_rate=0.5, asked=10, excluded=0, clean=5)
    return Made(notes=notes, summary=nothing)


@pytest.mark.parametrize(("count", "told"), [(2, False), (3, True)])
def test_a_value_is_compared_from_three_notes_on(count, told):
    found = _overall(bent([9.0, 10.0, 11.0][:count]), bent([1.0, 2.0, 3.0][:count]), {})
    assert ("bend_error" in {d.code for d in found}) is told


def test_the_uncertainty_of_a_median_is_twice_its_standard_error():
    (found,) = [d for d in _overall(bent([9.0, 10.0, 11.0]), bent([9.0, 10.0, 11.0]), {}) if d.code == "bend_error"]
    # 2 · 1.2533 · 1 / sqrt(3), of both.
    assert found.u == pytest.approx(2.0 * 1.2533 / 3**0.5 * 2**0.5, abs=0.01)
    # Agresti & Coull: (5 + 2) / (10 + 4), twice, of both.
    rate = _clean_rates(bent([1.0]), bent([1.0]))
    assert rate.u == pytest.approx(100.0 * 2.0 * (0.5 * 0.5 / 14.0) ** 0.5 * 2**0.5, abs=0.1)


# -- the set-up take -------------------------------------------------------------------------------------------------


def usable(*, clipped=0.0, noise=60.0, read=6, common=0.0, gain=False, gate=False):
    strings = [Made(status="read" if i < read else "missing") for i in range(6)]
    rig = Made(automatic_gain=Made(found=gain), noise_gate=Made(found=gate), signal_to_noise_db=noise)
    return _usable(strings, common, Made(clipped_fraction=clipped), rig)


@pytest.mark.parametrize(
    ("what", "said"),
    [
        ({}, "yes"),
        ({"clipped": 1.0e-4}, "yes"),
        ({"clipped": 1.1e-4}, "with_care"),
        ({"clipped": 0.010}, "with_care"),
        ({"clipped": 0.011}, "no"),
        ({"noise": 40.0}, "yes"),
        ({"noise": 39.0}, "with_care"),
        ({"noise": 20.0}, "with_care"),
        ({"noise": 19.0}, "no"),
        ({"noise": None}, "yes"),
        ({"read": 5}, "with_care"),
        ({"read": 3}, "with_care"),
        ({"read": 2}, "no"),
        ({"common": -20.0}, "with_care"),
        ({"gain": True}, "no"),
        ({"gate": True}, "with_care"),
    ],
)
def test_a_set_up_take_is_usable_with_care_or_not(what, said):
    assert usable(**what) == said


@pytest.mark.parametrize(("error", "told"), [(3.9, 0), (4.4, 0), (4.6, 1), (-4.6, 1)])
def test_a_saddle_is_moved_from_four_cents_on_that_are_sure(error, told):
    string = Made(string=1, twelfth_error_cents=error, u_twelfth=0.5)
    assert len(_saddle(Made(strings=[string]), None)) == told


@pytest.mark.parametrize(("noise_db", "codes"), [(40.0, []), (39.0, ["floor"])])
def test_a_floor_is_said_where_it_stands_nearer_than_forty_decibels(noise_db, codes):
    quiet = Made(found=False, value_db=0.0)
    rig = Made(
        automatic_gain=quiet, noise_gate=quiet, level_change_db=None, signal_to_noise_db=noise_db, dc_fraction=0.0
    )
    assert [a.code for a in _rig(Made(clipped_fraction=0.0, hum=None), rig)] == codes


# -- noise -----------------------------------------------------------------------------------------------------------


def event(kind="open_ring", string=4, from_s=12.56, to_s=12.96, level_db=-9.0, u=3.0, verdict="outside"):
    return Made(
        kind=kind, string=string, from_s=from_s, to_s=to_s, level_db=level_db, u=u, verdict=verdict, reasons=("r",)
    )


@pytest.mark.parametrize(("until_s", "hidden"), [(12.83, False), (12.85, True)])
def test_a_string_heard_for_an_eighth_of_a_second_beside_a_cough_rings_by_itself(until_s, hidden):
    match = Made(others=[Made(from_s=12.5, to_s=until_s)])
    assert _hidden(event(), match) is hidden


@pytest.mark.parametrize(("level_db", "said"), [(-19.1, "unclear"), (-18.9, "outside")])
def test_a_ring_of_a_string_that_could_hardly_be_heard_is_sure_from_four_decibels_over_the_limit(level_db, said):
    # A limit of -26 dB, and ±3 dB.
    assert _sure(event(level_db=level_db), [4], -26.0) == said
    assert _sure(event(level_db=level_db), [5], -26.0) == "outside"
    assert _sure(event(level_db=level_db, verdict="inside"), [4], -26.0) == "inside"


@pytest.mark.parametrize(("share", "others"), [(0.25, False), (0.26, True)])
def test_other_sounds_are_heard_where_they_fit_in_a_quarter_of_the_windows(share, others):
    assert _others(Made(reading=Made(other_share=share))) is others
    assert _others(Made(reading=None)) is False


@pytest.mark.parametrize(("hum_dbfs", "said"), [(-69.9, 1), (-70.1, 0)])
def test_hum_is_said_from_fifty_decibels_under_the_notes_on(hum_dbfs, said):
    note = Made(level_dbfs=-20.0, onset_s=1.0, end_s=2.0)
    match = Made(heard=[note, None, note], notes=[note])
    found = hum_event(Made(hum=Made(level_dbfs=hum_dbfs, hz=50.0)), match)
    assert len(found) == said


@pytest.mark.parametrize(
    ("level_db", "said"), [(-23.9, "outside"), (-24.0, "unclear"), (-27.9, "unclear"), (-28.0, "inside")]
)
def test_a_sound_within_its_u_of_the_limit_is_open(level_db, said):
    assert _level_verdict(level_db, 2.0, -26.0) == said


# -- accents ---------------------------------------------------------------------------------------------------------


@pytest.mark.parametrize(
    ("lifts_db", "said"),
    [
        ([1.5, 1.5, 1.5, -0.5], "unclear"),
        ([1.5, 1.5, -0.5, -0.5], "outside"),
        ([1.5, 1.5, 1.5, -0.5, -0.5, 1.5, 1.5], "outside"),
        ([1.5, 1.5, 1.5], "unclear"),
        ([1.5, 1.5], "outside"),
    ],
)
def test_accents_are_pressed_where_three_quarters_of_three_or_more_stand_out_a_little(lifts_db, said):
    levels = [NoteLevel(0.0, 0.3, "accented", lift, 0.5, "neighbours") for lift in lifts_db]
    assert _accent(Made(levels=levels), lifts_db[0], 0.5, 3.0) == said
