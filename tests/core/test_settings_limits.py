"""Settings of judging and coaching at their limits, each held by what changes a quarter beside it.

Values are the house's (common practice, no source), written out here by hand.
"""

from __future__ import annotations

from types import SimpleNamespace as Made

import pytest
from fortimetra.coach.causes import _enough, _unexplained
from fortimetra.coach.evidence import ShownBy, least_share, slope, sure_slope
from fortimetra.coach.patterns_place import always_same_note
from fortimetra.coach.set_up import _rig, _saddle
from fortimetra.judge.compare import _clean_rates, _difference, _least, _overall
from fortimetra.judge.noise_events import _hidden, _level_verdict, hum_event
from fortimetra.judge.quiet import _others, _stop_reasons, _sure
from fortimetra.judge.set_up import _usable
from fortimetra.judge.time_and_touch import _accent
from fortimetra.measure.level import NoteLevel
from scipy import stats

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


@pytest.mark.parametrize(("from_s", "reasons"), [(5.29, ["rings_after_stop", "r"]), (5.31, ["rings_after_stop"])])
def test_what_rings_within_three_tenths_of_a_stop_is_said_of_it(from_s, reasons):
    stop = Made(due_s=5.0, decay_ms=400.0)
    rings = [event("after_stop", from_s=from_s), event("bleed", from_s=5.0)]
    assert _stop_reasons(stop, "outside", rings) == reasons


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


# -- causes ----------------------------------------------------------------------------------------------------------


def off_click(*places):
    """Notes by place, each with whether it is off in each repeat."""
    return [
        Made(
            id=f"e{i}", repeat=r, string=3, fret=5, status="played",
            timing=Made(verdict="outside" if is_off else "inside"), onset_s=float(r), end_s=r + 0.4,
        )
        for i, repeats in enumerate(places)
        for r, is_off in enumerate(repeats)
    ]  # fmt: skip


ALWAYS, NEVER, MOSTLY, OFTEN = [True] * 4, [False] * 4, [True, True, True, False], [True, True, False, False]
ONCE = [True, False, False, False]


@pytest.mark.parametrize(
    ("places", "named"),
    [
        ([ALWAYS, NEVER, NEVER, NEVER], 4),
        ([MOSTLY, NEVER, NEVER, NEVER], 3),
        ([OFTEN, NEVER, NEVER, NEVER], None),
        ([[True] * 3, [False] * 3, [False] * 3], 3),
        ([[True] * 2, [False] * 2, [False] * 2], None),
        ([ALWAYS, ALWAYS, NEVER, NEVER, NEVER, NEVER], 8),
        ([ALWAYS, ALWAYS, ALWAYS, NEVER, NEVER, NEVER, NEVER], None),
        # Elsewhere three notes of 20 are off: 15 %; then four.
        (
            [
                ALWAYS,
                [True, False, False, False],
                [True, False, False, False],
                [True, False, False, False],
                NEVER,
                NEVER,
            ],
            4,
        ),
        ([ALWAYS, OFTEN, [True, False, False, False], [True, False, False, False], NEVER, NEVER], None),
    ],
)
def test_the_same_note_is_named_where_one_place_or_two_are_off_and_the_others_hardly(places, named):
    seen = Made(asks=lambda _: True, played=off_click(*places), event=lambda _: None, drill=None)
    found = always_same_note("timing")(seen)
    assert (None if found is None else len(found.notes)) == named


def rule(*, outer=False, least=2, measure="timing", besides=False):
    return Made(outer=outer, least=least, measure=measure, besides=besides)


@pytest.mark.parametrize(
    ("shown", "of", "off", "outer", "enough"),
    [
        # Two are enough where they are 8 % for sure (of 10), three where they are 3 % (of 48), and then no more.
        (2, 10, 2, False, True),
        (2, 11, 2, False, False),
        (3, 11, 3, False, True),
        (3, 48, 3, False, True),
        (3, 49, 3, False, False),
        # A cause outside of the hands takes 8 % in any case.
        (3, 18, 3, True, True),
        (3, 19, 3, True, False),
    ],
)
def test_a_cause_takes_so_many_notes_and_such_a_share_of_them(shown, of, off, outer, enough):
    notes = off_click([True] * off + [False] * (of - off))
    seen = Made(notes=notes)
    assert _enough(rule(outer=outer), ShownBy(tuple(notes[:shown]), of, ""), seen) is enough


def test_a_cause_explains_a_quarter_of_what_is_off_at_least_for_sure():
    notes = off_click([True] * 40)

    def enough(count):
        return _enough(rule(), ShownBy(tuple(notes[:count]), 40, ""), Made(notes=notes))

    # 13 of 40 are 24 % for sure, 14 are 26 %.
    assert [enough(n) for n in (13, 14)] == [False, True]


@pytest.mark.parametrize(("k", "n"), [(2, 8), (4, 4), (3, 48), (14, 40)])
def test_the_least_share_is_wilsons_bound_and_one_note_is_chance(k, n):
    assert least_share(k, n) == pytest.approx(stats.binomtest(k, n).proportion_ci(0.8, "wilson").low, abs=1e-4)
    assert least_share(1, n) == 0.0


def test_a_cause_whose_notes_are_explained_to_seven_tenths_is_not_said_as_well():
    notes = off_click([True] * 10)
    stronger = [(rule(), ShownBy(tuple(notes[:7]), 10, ""))], [(rule(), ShownBy(tuple(notes[:6]), 10, ""))]
    whole = ShownBy(tuple(notes), 10, "")
    assert [_unexplained(rule(), whole, chosen) is None for chosen in stronger] == [True, False]
    assert _unexplained(rule(measure="pitch"), whole, stronger[0]) is whole
    assert _unexplained(rule(besides=True), whole, stronger[0]) is whole


def test_a_slope_is_sure_from_three_standard_errors_and_six_points_on():
    line = [(float(i), 2.0 * i + (1.0 if i % 2 else -1.0)) for i in range(6)]
    assert slope(line) is not None
    assert slope(line[:5]) is None
    b, se = slope(line)
    flat = [(x, y - (b - 2.9 * se) * x) for x, y in line]
    steep = [(x, y - (b - 3.1 * se) * x) for x, y in line]
    assert sure_slope(flat) is None
    assert sure_slope(steep) == pytest.approx(3.1 * se)
