"""Verdicts, steps of a ladder, planned days and table cells, each at its limit and just beside it."""

from datetime import UTC, date, datetime

import pytest
from fortimetra.coach.ladder import LadderTake, _steps_ahead, at_this_step, next_step
from fortimetra.coach.planner import WantedDrill, week
from fortimetra.coach.step import at_step, notes_per_click
from fortimetra.drills.library import library
from fortimetra.formats.table_csv import table_csv
from fortimetra.judge.verdict import corridor_verdict, together
from fortimetra.model.drill import Member
from fortimetra.model.ladder import LadderRule, Step

from tests.core.test_deciding import even

MONDAY = date(2026, 11, 23)


@pytest.mark.parametrize(
    ("value", "u", "wanted"),
    [
        (42.0, 2.0, "inside"),
        (68.0, 2.0, "inside"),
        (41.9, 2.0, "unclear"),
        (68.1, 2.0, "unclear"),
        (38.0, 2.0, "unclear"),
        (72.0, 2.0, "unclear"),
        (37.9, 2.0, "outside"),
        (72.1, 2.0, "outside"),
        (None, 2.0, "unclear"),
        (55.0, None, "unclear"),
    ],
)
def test_a_corridor_holds_what_touches_it(value, u, wanted):
    assert corridor_verdict(value, u, 40.0, 70.0) == wanted


def test_of_several_verdicts_the_worst_counts():
    assert together([]) == "inside"
    assert together(["inside", "unclear"]) == "unclear"
    assert together(["unclear", "outside", "inside"]) == "outside"


def test_cells_that_a_table_program_would_reckon_are_words_and_numbers_stay_numbers():
    text = table_csv(
        ("a", "b", "c", "d"), [("=1+1", -3.0, None, True), ("-5", "+x", "plain", 0), ("@a", "1e3", "", "-")]
    )
    assert text.splitlines() == ["a,b,c,d", "'=1+1,-3.0,,True", "-5,'+x,plain,0", "'@a,1e3,,'-"]


# -- ladder ----------------------------------------------------------------------------------------------------------


def played(bpm, per_click=None):
    return LadderTake("t", datetime(2026, 11, 23, tzinfo=UTC), bpm, per_click, 10, 10, 0, {})


@pytest.mark.parametrize(
    ("step", "take", "written", "there"),
    [
        (Step(bpm=80.0), played(80.5), None, True),
        (Step(bpm=80.0), played(79.5), None, True),
        (Step(bpm=80.0), played(80.6), None, False),
        (Step(bpm=80.0), played(None), None, False),
        (Step(bpm=None), played(None), None, True),
        (Step(bpm=None), played(120.0), None, True),
        (Step(bpm=60.0, per_click=4), played(60.0), 4, True),
        (Step(bpm=60.0, per_click=4), played(60.0), 3, False),
        (Step(bpm=60.0), played(60.0, 3), 3, True),
    ],
)
def test_a_take_is_of_a_step_within_half_a_bpm_at_its_notes_to_the_click(step, take, written, there):
    assert at_this_step(take, step, written=written) is there


def test_a_step_whose_notes_nobody_wrote_counts_as_one_to_the_click():
    rule = LadderRule(speed="notes_per_click", subdivisions=(1, 2, 3, 4, 6))
    above = next_step(Step(bpm=60.0), rule, way=1)
    assert above is not None
    assert above.per_click == 2
    assert next_step(Step(bpm=60.0), rule, way=-1) is None


@pytest.mark.parametrize(
    ("mine", "theirs", "written", "ahead"),
    [
        (4, 2, None, 2.0),
        (2, 4, None, -2.0),
        (3, 3, None, 0.0),
        (6, None, None, 4.0),
        (None, 6, None, -4.0),
        (6, None, 4, 1.0),
    ],
)
def test_steps_ahead_are_counted_up_and_down(mine, theirs, written, ahead):
    rule = LadderRule(speed="notes_per_click", subdivisions=(1, 2, 3, 4, 6))
    assert _steps_ahead(Step(bpm=60.0, per_click=mine), Step(bpm=60.0, per_click=theirs), rule, written) == ahead


def test_steps_of_tempo_are_counted_in_steps_and_free_time_has_none():
    rule = LadderRule(tempo_step_bpm=5.0)
    assert _steps_ahead(Step(bpm=90.0), Step(bpm=80.0), rule, None) == 2.0
    assert _steps_ahead(Step(bpm=None), Step(bpm=80.0), rule, None) == 0.0
    assert _steps_ahead(Step(bpm=80.0), Step(bpm=None), rule, None) == 0.0


def test_a_step_moves_slides_and_held_stretches_with_their_notes():
    drill = next(
        b.drill
        for b in library()
        if notes_per_click(b.drill) == 1 and any(e.slide and e.slide.length for e in b.drill.events)
    )
    thirds = at_step(drill, Step(bpm=60.0, per_click=3))
    assert [e.beat for e in thirds.events] == [round(e.beat / 3.0, 6) for e in drill.events]
    for was, now in zip(drill.events, thirds.events, strict=True):
        if was.slide is not None and was.slide.length is not None:
            assert now.slide is not None
            assert now.slide.length == round(was.slide.length / 3.0, 6)


def test_a_step_moves_the_drills_of_a_set_with_their_notes():
    drill = even(2, count=8)
    members = (Member(title="one", from_beat=0.0, to_beat=1.0), Member(title="two", from_beat=1.0, to_beat=4.0))
    sixth = at_step(drill.model_copy(update={"members": members}), Step(bpm=60.0, per_click=6))
    assert [(m.from_beat, m.to_beat) for m in sixth.members] == [(0.0, 0.333333), (0.333333, 1.333333)]
    assert [e.beat for e in sixth.events][:4] == [0.0, 0.166667, 0.333333, 0.5]
    assert {e.length for e in sixth.events} == {0.166667}


# -- days ------------------------------------------------------------------------------------------------------------


def days_of(number, plan):
    return [i for i, day in enumerate(plan) if any(b.id == number for b in day.blocks)]


def planned(*wanted, minutes=(30.0,) * 7):
    return week(wanted, monday=MONDAY, minutes=minutes)


def test_two_drills_of_one_day_a_week_do_not_fall_on_the_same_one():
    plan = planned(WantedDrill(1, 10.0, 1), WantedDrill(8, 10.0, 1), WantedDrill(15, 10.0, 1), WantedDrill(22, 10.0, 1))
    days = [days_of(number, plan)[0] for number in (1, 8, 15, 22)]
    assert len(set(days)) == 4


def test_the_emptiest_of_equal_days_is_taken():
    # The first stands on every open day but for the second's choice: that is the one with less.
    first = WantedDrill(1, 12.0, 1, ends=MONDAY)
    second = WantedDrill(2, 10.0, 1)
    plan = planned(first, second, minutes=(30.0, 0.0, 0.0, 0.0, 0.0, 0.0, 30.0))
    assert days_of(1, plan) == [0]
    assert days_of(2, plan) == [6]


def test_a_drill_goes_where_it_fits_to_the_minute():
    assert days_of(1, planned(WantedDrill(1, 10.5, 1), minutes=(10.0, 10.5, 0, 0, 0, 0, 0))) == [1]
    assert days_of(1, planned(WantedDrill(1, 10.0, 1), minutes=(10.0, 30.0, 0, 0, 0, 0, 0))) == [0]


def test_the_minutes_of_a_pair_lean_to_the_weaker_by_what_is_not_clean_and_no_further_than_twice():
    def minutes(a, b):
        pair = (WantedDrill(1, 10.0, 7, a, pair=2), WantedDrill(2, 10.0, 7, b, pair=1))
        return [b.minutes for b in planned(*pair, minutes=(60.0,) * 7)[0].blocks if b.id is not None]

    assert minutes(0.3, 0.3) == [10.0, 10.0]
    assert sorted(minutes(0.02, 0.03)) == [8.0, 12.0]
    # Nothing is quite clean: a share under 2 % counts as 2 %.
    assert sorted(minutes(0.0, 0.03)) == [8.0, 12.0]
    assert sorted(minutes(0.0, 0.9)) == pytest.approx([6.5, 13.5])


def test_a_block_shorter_than_half_a_minute_is_no_block():
    assert days_of(1, planned(WantedDrill(1, 0.5, 7))) == list(range(7))
    assert days_of(1, planned(WantedDrill(1, 0.49, 7))) == []
    assert days_of(1, planned(WantedDrill(1, 1.0, 7))) == list(range(7))
