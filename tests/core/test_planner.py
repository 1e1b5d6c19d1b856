"""The week: no more than the student's minutes, pairs together, breaks in time, nothing made up for."""

from __future__ import annotations

from datetime import date, timedelta

import pytest
from fortimetra.coach import cautions
from fortimetra.coach.planner import WantedDrill, week
from fortimetra.coach.settings import PLANNER
from fortimetra.drills.library import library
from fortimetra.model.guitar import preset
from hypothesis import given, settings
from hypothesis import strategies as st

MONDAY = date(2026, 3, 2)
EVERY_DAY = [60.0] * 7


def days_of(plan, wanted_id):
    return [d.day.weekday() for d in plan if any(b.id == wanted_id for b in d.blocks)]


def test_five_days_of_three_minutes_by_default_lie_apart():
    plan = week([WantedDrill(1, 3, 5)], monday=MONDAY, minutes=EVERY_DAY)
    assert len(days_of(plan, 1)) == 5
    two = days_of(week([WantedDrill(1, 3, 2)], monday=MONDAY, minutes=EVERY_DAY), 1)
    assert abs(two[1] - two[0]) >= 3
    assert all(d.minutes in (0, 3) for d in plan)


def test_days_without_minutes_stay_free():
    plan = week([WantedDrill(1, 3, 7)], monday=MONDAY, minutes=[10, 0, 10, 0, 10, 0, 0])
    assert days_of(plan, 1) == [0, 2, 4]


def test_what_does_not_fit_is_left_out_the_least_needed_first_and_named():
    wanted = [
        WantedDrill(1, 4, 7, weakness=0.1),
        WantedDrill(2, 4, 7, weakness=0.6),
        WantedDrill(3, 4, 7, weakness=0.3),
    ]
    for day in week(wanted, monday=MONDAY, minutes=[8.0] * 7):
        assert [b.id for b in day.blocks] == [2, 3]
        assert day.left_out == (1,)


@pytest.mark.parametrize(("weak", "strong", "share"), [(0.4, 0.4, 0.5), (0.6, 0.0, 2 / 3), (0.5, 0.4, 5 / 9)])
def test_the_weaker_of_a_pair_gets_the_time_within_bounds(weak, strong, share):
    wanted = [WantedDrill(1, 4, 5, weakness=weak, pair=2), WantedDrill(2, 4, 5, weakness=strong, pair=1)]
    day = week(wanted, monday=MONDAY, minutes=EVERY_DAY)[0]
    assert {b.id for b in day.blocks} == {1, 2}
    minutes = {b.id: b.minutes for b in day.blocks}
    assert minutes[1] == pytest.approx(8 * share, abs=0.26)  # to half minutes
    assert sum(minutes.values()) == pytest.approx(8, abs=0.5)


def test_a_pair_may_share_equally_and_is_played_on_the_same_days():
    wanted = [
        WantedDrill(1, 4, 3, weakness=0.9, pair=2, sharing="equal"),
        WantedDrill(2, 4, 5, weakness=0.0, pair=1, sharing="equal"),
    ]
    plan = week(wanted, monday=MONDAY, minutes=EVERY_DAY)
    assert days_of(plan, 1) == days_of(plan, 2)
    assert {b.minutes for d in plan for b in d.blocks} == {4}


def test_a_break_comes_before_twenty_minutes_are_over():
    plan = week([WantedDrill(i, 7, 7) for i in range(1, 6)], monday=MONDAY, minutes=EVERY_DAY)
    for day in plan:
        run = 0.0
        for block in day.blocks:
            run = 0.0 if block.id is None else run + block.minutes
            assert run <= PLANNER.break_after_minutes
        assert any(b.id is None for b in day.blocks)
        assert day.minutes == 35  # breaks are no practice


@pytest.mark.parametrize(("minutes", "parts"), [(20, [20]), (21, [10.5, 10.5]), (45, [15, 15, 15]), (60, [20, 20, 20])])
def test_a_long_dose_is_broken_as_well(minutes, parts):
    day = week([WantedDrill(1, minutes, 1), WantedDrill(2, 5, 7)], monday=MONDAY, minutes=[80] * 7)
    own = next(d for d in day if any(b.id == 1 for b in d.blocks))
    assert [b.minutes for b in own.blocks if b.id == 1] == parts
    run = 0.0
    for block in own.blocks:
        run = 0.0 if block.id is None else run + block.minutes
        assert run <= PLANNER.break_after_minutes
    assert own.minutes == minutes + 5


def test_a_drill_has_its_time():
    wanted = [WantedDrill(1, 3, 7, begins=MONDAY + timedelta(days=2), ends=MONDAY + timedelta(days=4))]
    assert days_of(week(wanted, monday=MONDAY, minutes=EVERY_DAY), 1) == [2, 3, 4]


def test_work_put_off_moves_alone_also_into_another_week():
    first = days_of(week([WantedDrill(1, 3, 2)], monday=MONDAY, minutes=EVERY_DAY), 1)
    since = MONDAY + timedelta(days=first[0])
    next_week = MONDAY + timedelta(days=8)
    moved = [WantedDrill(1, 3, 2, moved={since: next_week})]
    assert days_of(week(moved, monday=MONDAY, minutes=EVERY_DAY), 1) == first[1:]
    later = days_of(week(moved, monday=MONDAY + timedelta(days=7), minutes=EVERY_DAY), 1)
    assert 1 in later
    left_out = [WantedDrill(1, 3, 2, moved={since: date.min})]
    assert days_of(week(left_out, monday=MONDAY, minutes=EVERY_DAY), 1) == first[1:]


@settings(max_examples=150, deadline=None)
@given(
    st.lists(st.tuples(st.floats(0.5, 15), st.integers(1, 7), st.floats(0, 1), st.booleans()), min_size=0, max_size=12),
    st.lists(st.floats(0, 60), min_size=7, max_size=7),
)
def test_no_day_asks_for_more_than_it_has(rows, minutes):
    wanted = [
        WantedDrill(i, m, d, weakness=w, pair=(i ^ 1) if paired and (i ^ 1) < len(rows) else None)
        for i, (m, d, w, paired) in enumerate(rows)
    ]
    for day, most in zip(week(wanted, monday=MONDAY, minutes=minutes), minutes, strict=True):
        # Blocks are said in half minutes; each may be rounded up by a quarter.
        assert day.minutes <= most + 0.25 * len(day.blocks) + 1e-6
        assert len({b.id for b in day.blocks if b.id is not None}) == sum(b.id is not None for b in day.blocks)


# -- cautions ---------------------------------------------------------------------------------------------------------

FULL = next(b.drill for b in library() if b.drill.title == "String 3: full bend at fret 7")
HALF = next(b.drill for b in library() if b.drill.title == "String 4: half bend at fret 9")
RUN = next(b.drill for b in library() if b.drill.title.startswith("Fastest"))


@pytest.mark.parametrize(
    ("drill", "kind", "codes"),
    [
        (FULL, "steel_acoustic", ["wide_bend", "breaking"]),
        (FULL, "nylon", ["wide_bend", "breaking"]),
        (FULL, "solid", ["breaking"]),
        (HALF, "steel_acoustic", []),
        (RUN, "solid", []),
    ],
)
def test_cautions_stand_where_they_belong(drill, kind, codes):
    assert [c.code for c in cautions.for_drill(drill, preset(kind))] == codes


def test_a_long_day_is_told_to_rest_and_each_caution_is_said_once():
    said = [c.code for c in cautions.for_day(25, [FULL, FULL], preset("steel_acoustic"))]
    assert said == ["strain", "wide_bend", "breaking"]
    assert cautions.for_day(10, [], None) == []


def test_no_caution_gives_medical_advice():
    assert "doctor" in cautions.PAIN.text
    assert all(c.text.endswith(".") for c in cautions.ALL.values())


def test_what_builds_on_another_drill_comes_after_it_on_a_day_that_has_both():
    wanted = [
        WantedDrill(1, 3, 7, weakness=0.9, after=2),
        WantedDrill(2, 3, 7, weakness=0.1),
        WantedDrill(3, 3, 7, weakness=0.5),
    ]
    for day in week(wanted, monday=MONDAY, minutes=EVERY_DAY):
        assert [b.id for b in day.blocks] == [2, 1, 3]


def test_a_circle_of_befores_plans_every_drill_once():
    wanted = [WantedDrill(1, 3, 7, after=2), WantedDrill(2, 3, 7, after=3), WantedDrill(3, 3, 7, after=1)]
    for day in week(wanted, monday=MONDAY, minutes=EVERY_DAY):
        assert sorted(b.id for b in day.blocks) == [1, 2, 3]


def test_what_comes_first_and_is_not_worked_on_changes_nothing():
    wanted = [WantedDrill(1, 3, 7, weakness=0.9, after=99), WantedDrill(2, 3, 7, weakness=0.1)]
    assert [b.id for b in week(wanted, monday=MONDAY, minutes=EVERY_DAY)[0].blocks] == [1, 2]
