"""Faults the simulated student is told to make lead to the cause that belongs to them (drills.md's table), and clean
takes to none.

That the advice helps is common practice, no source.
"""

from functools import cache

import pytest
from fortimetra import Drill, Setup
from fortimetra.coach.causes import likely_causes
from fortimetra.coach.evidence import ShownBy, least_share, sure_slope
from fortimetra.coach.patterns_quiet import side_of
from fortimetra.coach.rules import RULES
from fortimetra.coach.settings import CAUSES
from fortimetra.drills.library import library
from fortimetra.model.drill import School
from fortimetra.player.faults import Faults, NoteFault, Ring
from scipy import stats

from tests.core.sounds import take
from tests.kept import analyse, render

N = NoteFault
STEADY = {"random_cents": 1.5, "random_ms": 4.0, "random_db": 0.5, "floor_dbfs": -70.0, "seed": 3}


@cache
def _drills() -> dict[str, Drill]:
    return {b.drill.title: b.drill for b in library()}


def drill(start: str, *, repeats: int = 2) -> Drill:
    found = next(d for title, d in _drills().items() if title.startswith(start))
    return found.model_copy(update={"repeats": min(repeats, found.repeats)})


def analysed(asked: Drill, notes=None, **faults):
    sound, _truth = render(asked, Faults.model_validate(STEADY | {"notes": notes or {}} | faults))
    return analyse(take(sound), drill=asked)


def codes(analysis):
    return [c.code for c in analysis.causes]


BEND = "String 3: full bend at fret 7"


@pytest.mark.parametrize("start", [BEND, "Alternate picking 1 2 3 4", "Double stops: sixths", "Unison bend"])
def test_a_clean_take_has_no_cause(start):
    found = analysed(drill(start))
    assert found.causes == ()


def test_flat_bends_say_why_and_what_to_try_and_where():
    found = analysed(drill(BEND, repeats=4), {"bend": N(cents=-34.0)})
    (cause,) = found.causes
    assert (cause.code, cause.measure) == ("bend_flat", "bend")
    assert "4 of 4 bends lie 34 cents flat" in cause.evidence.replace("35", "34").replace("33", "34")
    assert any("turn the wrist" in t for t in cause.tries)
    assert {p.id for p in cause.places} == {"bend"}
    assert {p.repeat for p in cause.places} == {0, 1, 2, 3}
    assert cause.weight == pytest.approx(least_share(4, 4), abs=0.01)


def test_sharp_bends_are_another_cause():
    assert codes(analysed(drill(BEND, repeats=4), {"bend": N(cents=30.0)})) == ["bend_sharp"]


def test_vibratos_that_never_come_back_down():
    asked = drill("Vibrato, slow and wide")
    found = analysed(asked, {e.id: N(vibrato_return_cents=32.0) for e in asked.events if e.vibrato})
    assert codes(found)[:1] == ["vibrato_never_back"]


def test_bends_that_change_up_the_neck_are_not_simply_flat():
    asked = drill("Bend ladder: string 4, half")
    bends = [e for e in asked.events if e.bend]
    lowest = min(e.notes[0].fret for e in bends)
    found = analysed(asked, {e.id: N(cents=6.0 - 14.0 * (e.notes[0].fret - lowest)) for e in bends})
    assert codes(found)[:1] == ["bends_change_along"]


def test_one_flat_bend_of_four_is_a_fault_but_no_cause():
    found = analysed(drill(BEND, repeats=4), {"bend@1": N(cents=-34.0)})
    assert found.summary.not_clean == 1
    assert found.causes == ()


def test_bends_to_both_sides_are_scatter_not_a_habit():
    found = analysed(
        drill(BEND, repeats=4), {f"bend@{r}": N(cents=c) for r, c in enumerate((-34.0, 33.0, -31.0, 35.0))}
    )
    assert found.summary.not_clean == 4
    assert not {"bend_flat", "bend_sharp"} & set(codes(found))


def test_low_strings_that_ring_ask_for_the_picking_hand():
    asked = drill("Scale over quiet low strings")
    rings = tuple(Ring(string=6, event="e9", repeat=r, level_db=-17.0, length_s=1.8) for r in range(asked.repeats))
    found = analysed(asked, rings=rings)
    cause = next(c for c in found.causes if c.measure == "noise")
    assert cause.code == "low_strings_ring"
    assert "String 6" in cause.evidence
    assert "picking hand" in cause.tries[0]


def test_a_string_that_left_its_set_up_is_the_guitars_not_the_hands():
    asked = drill("Alternate picking 1 2 3 4, up").model_copy(update={"measures": ("pitch",)})
    sound, _ = render(asked, Faults.model_validate(STEADY | {"tuning_offset_cents": (0.0, 26.0, 0.0, 0.0, 0.0, 0.0)}))
    set_up = Setup(format="fortimetra-setup", version=1, string_offset_cents=(0.0,) * 6)
    found = analyse(take(sound), drill=asked, setup=set_up)
    assert codes(found) == ["string_detuned"]
    assert "string 2 lie 26 cents sharp" in found.causes[0].evidence
    # Without a set-up take the string is read against itself, and nothing is off.
    assert analyse(take(sound), drill=asked).causes == ()


def test_no_more_than_three_and_the_guitars_first():
    asked = drill("Bottleneck")
    rings = tuple(
        Ring(string=2, event=e.id, repeat=r, level_db=-16.0, length_s=1.0)
        for e in asked.events[1:6]
        for r in range(asked.repeats)
    )
    found = analysed(asked, {e.id: N(cents=-24.0) for e in asked.events if e.notes}, rings=rings)
    assert 1 <= len(found.causes) <= CAUSES.most_causes
    assert "slide_behind" in codes(found)


def test_soft_slurs_are_advised_by_school():
    strong = drill("Slurred, then picked")
    light = strong.model_copy(update={"school": School(slur_force="light")})
    slurred = [e.id for e in strong.events if e.articulation in ("hammer", "pull")]
    found = analysed(strong, {i: N(level_db=-9.0) for i in slurred})
    (cause,) = [c for c in found.causes if c.measure == "level"]
    assert cause.code == "slurs_drop"
    assert "first sound like the second" in cause.tries[0]
    (again,) = [c for c in likely_causes(found, light) if c.code == "slurs_drop"]
    assert "light" in again.tries[0]
    assert again.tries != cause.tries


def test_weak_hammer_ons_alone_are_not_laid_to_all_slurs():
    asked = drill("Slurred, then picked")
    found = analysed(asked, {e.id: N(level_db=-9.0) for e in asked.events if e.articulation == "hammer"})
    (cause,) = [c for c in found.causes if c.measure == "level"]
    assert cause.code == "hammer_weak"
    assert "close behind the fret" in cause.tries[0]


def test_unclear_notes_are_laid_to_the_floor_only_where_they_say_so_themselves():
    asked = drill("Alternate picking 1 2 3 4, up", repeats=4)
    found = analysed(asked, floor_dbfs=-45.0, random_db=1.6)
    assert "high_floor" in found.take.warnings
    assert found.summary.unclear > 5
    said = [n for n in found.notes if "floor_too_high" in n.reasons]
    told = [c for c in found.causes if c.code == "floor_high"]
    assert bool(told) == (len(said) > 0.1 * len(found.notes))


def test_codes_are_unique_and_every_rule_says_something_to_try():
    assert len({r.code for r in RULES}) == len(RULES)
    for rule in RULES:
        assert rule.tries
        assert rule.says[0].isupper()
        assert not rule.says.endswith(".")
        assert all(t.text.endswith(".") for t in rule.tries)
        for force in ("strong", "light"):
            assert [t for t in rule.tries if t.force in (None, force)], rule.code


@pytest.mark.parametrize(("k", "n"), [(2, 2), (2, 8), (5, 9), (30, 32), (3, 200)])
def test_the_least_share_is_wilsons_bound_as_scipy_has_it(k, n):
    # scipy.stats.binomtest(...).proportion_ci(method="wilson"): two-sided 80 % has the one-sided 90 % bound.
    bound = stats.binomtest(k, n).proportion_ci(0.8, method="wilson").low
    assert least_share(k, n) == pytest.approx(bound, abs=1e-4)


def test_one_note_shows_nothing():
    assert ShownBy((), 4, "").weight == 0.0
    assert least_share(1, 1) == 0.0


def test_a_slope_needs_to_stand_clear_of_chance():
    straight = [(float(x), 3.0 * x + (0.2 if x % 2 else -0.2)) for x in range(8)]
    assert sure_slope(straight) == pytest.approx(stats.linregress(*zip(*straight, strict=True)).slope)
    assert sure_slope([(float(x), 10.0 if x % 2 else -10.0) for x in range(8)]) is None
    assert sure_slope(straight[:4]) is None


@pytest.mark.parametrize(
    ("string", "wanted", "side"),
    [(6, {3}, "below"), (1, {3}, "above"), (2, {1, 3}, "between"), (3, {3}, None), (4, set(), None)],
)
def test_sides_of_the_hand(string, wanted, side):
    assert side_of(string, frozenset(wanted)) == side
