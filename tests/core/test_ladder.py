"""Ladders against the table of the handbook (common practice, no source): three clean takes up, two under 80 % down,
and what holds.

Each row of the worked tables is written out by hand.
"""

from __future__ import annotations

from datetime import datetime, timedelta

import pytest
from fortimetra.coach.ladder import LadderTake, Pair, next_step, standing, step_words
from fortimetra.coach.step import at_step, notes_per_click, picked_per_second
from fortimetra.drills.library import library
from fortimetra.errors import DrillError
from fortimetra.model.ladder import LadderRule, Step, rule_for
from pydantic import ValidationError

BENDS = next(b.drill for b in library() if b.drill.title == "String 3: full bend at fret 7")
PICKING = next(b.drill for b in library() if b.drill.title.startswith("Alternate picking 1 2 3 4, up"))
LEGATO = next(b.drill for b in library() if b.drill.title.startswith("Legato 3+3"))
T0 = datetime(2026, 3, 2, 19, 0)
HOUSE = LadderRule()


def takes(*percents, bpm=66.0, per_click=None, unclear=0, outside=None, counted=100):
    """One take a percentage of clean notes, in the order they were played."""
    return [
        LadderTake(
            id=f"t{i}", played_at=T0 + timedelta(days=i), bpm=bpm, per_click=per_click, counted=counted, clean=p,
            unclear=unclear, outside=outside or {},
        )
        for i, p in enumerate(percents)
    ]  # fmt: skip


# Percentages of clean notes, oldest first; what the house's rule says.
TABLE = [
    ((), "stay"),
    ((100,), "stay"),
    ((100, 96), "stay"),
    ((100, 96, 95), "up"),
    ((100, 96, 94), "stay"),
    ((94, 100, 96, 95), "up"),
    ((100, 100, 100, 90), "stay"),
    ((100, 100, 60, 100, 100), "stay"),
    ((100, 100, 60, 100, 100, 100), "up"),
    ((79,), "stay"),
    ((79, 79), "down"),
    ((79, 80), "stay"),
    ((80, 79), "stay"),
    ((100, 79, 60), "down"),
    ((79, 79, 81), "stay"),
]


@pytest.mark.parametrize(("percents", "move"), TABLE)
def test_up_after_three_clean_down_after_two_under_eighty(percents, move):
    found = standing(BENDS, Step(bpm=66), takes(*percents), rule=HOUSE)
    assert found.move == move
    assert found.to.bpm == {"up": 70.0, "down": 62.0}.get(move, 66.0)


@pytest.mark.parametrize(("count", "move"), [(9, "stay"), (10, "up"), (14, "up")])
def test_who_overlearns_stays_for_ten(count, move):
    found = standing(BENDS, Step(bpm=66), takes(*[100] * count), rule=rule_for("overlearn"))
    assert found.move == move
    assert len(found.takes) <= 10


def test_the_sentence_names_the_numbers_and_the_takes_it_rests_on():
    found = standing(BENDS, Step(bpm=66), takes(50, 97, 100, 96), rule=HOUSE)
    assert found.takes == ("t1", "t2", "t3")
    assert found.says == (
        "Up to 70 bpm: the last 3 takes at 66 bpm were clean (97, 100 and 96 %), nothing off twice in one place."
    )
    down = standing(BENDS, Step(bpm=66), takes(100, 71, 64), rule=HOUSE)
    assert (down.takes, down.to.bpm) == (("t1", "t2"), 62.0)
    assert "71 and 64 % that could be clean, under 80 %" in down.says


def test_nothing_goes_up_that_was_off_twice_in_one_place():
    place = BENDS.events[2].id
    found = standing(BENDS, Step(bpm=66), takes(98, 97, 99, outside={place: 1}), rule=HOUSE)
    assert found.move == "stay"
    assert "bar 1, beat 3 was off more than once" in found.says
    once = [*takes(98, 97), *takes(99, outside={place: 1})]
    assert standing(BENDS, Step(bpm=66), once, rule=HOUSE).move == "up"


def test_what_cannot_be_told_neither_lifts_nor_lowers():
    unclear = takes(75, 75, 75, unclear=25)
    found = standing(BENDS, Step(bpm=66), unclear, rule=HOUSE)
    assert found.move == "stay"
    assert "25 % that cannot be told" in found.says


def test_takes_at_another_tempo_or_subdivision_say_nothing():
    mixed = [*takes(100, 100), *takes(100, bpm=60.0), *takes(10, 10, bpm=90.0)]
    assert standing(BENDS, Step(bpm=66), mixed, rule=HOUSE).move == "stay"
    rule = rule_for("notes_per_click")
    at_two = takes(100, 100, 100, bpm=60.0, per_click=2)
    assert standing(PICKING, Step(bpm=60, per_click=1), at_two, rule=rule).move == "stay"
    assert standing(PICKING, Step(bpm=60, per_click=2), at_two, rule=rule).move == "up"
    # The drill is written with two: a take as written is at that step.
    as_written = takes(100, 100, 100, bpm=60.0)
    assert standing(PICKING, Step(bpm=60, per_click=2), as_written, rule=rule).move == "up"


def test_an_empty_take_counts_for_nothing():
    assert standing(BENDS, Step(bpm=66), takes(0, 0, 0, counted=0), rule=HOUSE).move == "stay"


@pytest.mark.parametrize(("now", "up", "down"), [(1, 2, None), (2, 3, 1), (3, 4, 2), (4, 6, 3), (6, None, 4)])
def test_subdivisions_go_one_two_three_four_six(now, up, down):
    rule, step = rule_for("notes_per_click"), Step(bpm=60, per_click=now)
    higher, lower = (next_step(step, rule, way=way) for way in (1, -1))
    assert (higher and higher.per_click, lower and lower.per_click) == (up, down)
    assert all(s is None or s.bpm == 60 for s in (higher, lower))


def test_the_top_and_a_free_drill_have_no_step_above():
    rule = rule_for("notes_per_click")
    found = standing(PICKING, Step(bpm=60, per_click=6), takes(100, 100, 100, bpm=60.0, per_click=6), rule=rule)
    assert found.move == "top"
    assert next_step(Step(), HOUSE, way=1) is None
    assert next_step(Step(bpm=22), HOUSE, way=-1) is None


@pytest.mark.parametrize(("fastest", "move"), [(None, "up"), (4.0, "up"), (3.2, "up"), (2.6, "ceiling")])
def test_picking_stays_under_85_percent_of_the_fastest_even_run(fastest, move):
    # Two notes a click: 70 bpm asks 2.33 a second; 85 % of 2.6 is 2.21, of 3.2 is 2.72.
    found = standing(PICKING, Step(bpm=66), takes(100, 100, 100), rule=HOUSE, fastest_nps=fastest)
    assert found.move == move
    assert ("record one" in found.says) == (fastest is None)


def test_the_ceiling_is_for_the_picking_hand_alone():
    slow_run = standing(LEGATO, Step(bpm=66), takes(100, 100, 100), rule=HOUSE, fastest_nps=0.5)
    assert slow_run.move == "up"


@pytest.mark.parametrize(("other", "move"), [(58, "pair"), (62, "pair"), (66, "up"), (70, "up"), (74, "up")])
def test_pairs_stay_within_one_step(other, move):
    pair = Pair("the other way", Step(bpm=other))
    assert standing(BENDS, Step(bpm=66), takes(100, 100, 100), rule=HOUSE, pair=pair).move == move


def test_a_hold_comes_before_everything():
    found = standing(BENDS, Step(bpm=66), takes(100, 100, 100), rule=HOUSE, held="discomfort was logged.")
    assert (found.move, found.to, found.takes) == ("held", Step(bpm=66), ())
    assert found.says == "Held at 66 bpm: discomfort was logged."


def test_a_goal_that_is_clean_is_said_to_be_reached():
    found = standing(BENDS, Step(bpm=84), takes(100, 100, 100, bpm=84.0), rule=HOUSE, goal=Step(bpm=84))
    assert found.move == "goal"
    assert standing(BENDS, Step(bpm=80), takes(100, 100, 100, bpm=80.0), rule=HOUSE, goal=Step(bpm=84)).move == "up"


@pytest.mark.parametrize(
    "wrong",
    [{"clean_takes": 0}, {"subdivisions": (2, 1)}, {"clean_share": 0.7, "down_share": 0.8}, {"tempo_step_bpm": 0}],
)
def test_a_rule_that_contradicts_itself_is_refused(wrong):
    with pytest.raises(ValidationError):
        LadderRule(**wrong)


# -- steps ------------------------------------------------------------------------------------------------------------


@pytest.mark.parametrize(
    ("title", "per_click"),
    [
        ("Alternate picking 1 2 3 4, up", 2),
        ("Alternate picking 1 2 4, up", 3),
        ("Legato 3+3", 4),
        ("Vibrato, slow", None),
        ("String 3: full bend", None),
        ("Fastest even run", 4),
        ("Set-up", None),
    ],
)
def test_even_lines_have_notes_to_a_click_and_bends_have_none(title, per_click):
    drill = next(b.drill for b in library() if b.drill.title.startswith(title))
    assert notes_per_click(drill) == per_click


@pytest.mark.parametrize("per_click", [1, 2, 3, 4, 6])
def test_another_subdivision_is_the_same_line_at_another_pace(per_click):
    there = at_step(PICKING, Step(bpm=60, per_click=per_click))
    assert [(e.id, e.notes) for e in there.events] == [(e.id, e.notes) for e in PICKING.events]
    # n notes to a click at 60 are n a second: common practice, no source.
    assert picked_per_second(PICKING, Step(bpm=60, per_click=per_click)) == pytest.approx(per_click, rel=1e-4)
    assert notes_per_click(there) == per_click
    assert there.length_beats % there.tempo.beats_per_bar == 0


def test_a_drill_that_is_no_even_line_has_no_such_step():
    with pytest.raises(DrillError, match="no even line"):
        at_step(BENDS, Step(bpm=60, per_click=2))
    assert at_step(BENDS, Step(bpm=60)).tempo.bpm == 60


def test_steps_are_said_as_teachers_say_them():
    assert [step_words(s) for s in (Step(), Step(bpm=66), Step(bpm=60, per_click=1), Step(bpm=62.5, per_click=3))] == [
        "free time", "66 bpm", "1 note a click at 60 bpm", "3 notes a click at 62.5 bpm",
    ]  # fmt: skip
