"""The drill card: whole for every drill, in words a student can use, and true to the drill's numbers."""

from typing import get_args

import pytest
from fortimetra.card.card import MOST_LINE_CHARS, SECTION_NAMES, Card, card, with_own
from fortimetra.card.clean import clean_means
from fortimetra.card.teaching import LIGHT_SLURS, OVERLEARN, TEACHING
from fortimetra.drills.library import library
from fortimetra.model.drill import Family, School
from fortimetra.model.guitar import preset
from fortimetra.player.shown import at_tempo, faults_of
from fortimetra.technique.strokes import stroke_plan

from tests.core.test_damping import chord, drill

ONE_A_FAMILY = {b.drill.family: b.drill for b in reversed(library())}


def section(made: Card, name: str) -> tuple[str, ...]:
    return next((s.lines for s in made.sections if s.name == name), ())


def test_every_family_is_taught():
    assert set(TEACHING) == set(get_args(Family))


@pytest.mark.parametrize("family", list(ONE_A_FAMILY))
def test_a_card_has_all_its_parts(family):
    made = card(ONE_A_FAMILY[family])
    assert {s.name for s in made.sections} >= set(SECTION_NAMES) - {"compare"}
    assert made.clean
    assert made.wrong
    assert made.shapes
    assert made.silent
    lines = [line for s in made.sections for line in s.lines] + [w.says for w in made.wrong] + list(made.clean)
    assert all(line.endswith((".", "!", "?")) and len(line) <= MOST_LINE_CHARS for line in lines)


@pytest.mark.parametrize("family", list(ONE_A_FAMILY))
def test_what_goes_wrong_can_be_played_and_differs_from_a_clean_take(family):
    asked = ONE_A_FAMILY[family]
    once = at_tempo(asked, None)
    for fault in card(asked).wrong:
        if fault.shown is not None:
            faults = faults_of(once, fault.shown)
            assert faults.rings or any(
                f.cents or f.late_ms or f.level_db or f.vibrato_rate_cv for f in faults.notes.values()
            )


def test_clean_means_what_the_drill_is_judged_by():
    bend = ([(3, 7, "3")], {"bend": {"kind": "bend", "target_cents": 200, "arrives_beats": 1}})
    asked = drill(bend).model_copy(update={"measures": ("bend", "noise"), "profile": "exacting"})
    words = " ".join(clean_means(asked))
    limits = asked.limits()
    assert f"within {limits['bend_error_cents']:g} cents" in words
    assert "within 1 beat of the stroke" in words
    assert f"{abs(limits['ring_db']):g} dB under the notes" in words
    assert "in tune" not in words


def test_schools_speak_differently():
    hammer = ([(3, 7, "3")], {"articulation": "hammer"})
    asked = drill([(3, 5, "1")], hammer, family="finger_pairs")
    light = asked.model_copy(update={"school": School(slur_force="light", speed="overlearn")})
    assert LIGHT_SLURS[0] in section(card(light), "fretting")
    assert LIGHT_SLURS[0] not in section(card(asked), "fretting")
    assert OVERLEARN in section(card(light), "practise")


def test_a_teachers_words_stand_before_the_families_and_the_drills_before_both():
    asked = ONE_A_FAMILY["sweep"]
    family = {("family", "practise"): ("As I teach it.",)}
    own = family | {("drill", "practise"): ("Only here.",)}
    assert section(with_own(card(asked), family), "practise") == ("As I teach it.",)
    found = next(s for s in with_own(card(asked), own).sections if s.name == "practise")
    assert (found.lines, found.own) == (("Only here.",), "drill")
    assert section(with_own(card(asked), own), "picking") == TEACHING["sweep"].picking


def test_each_bend_says_which_way_and_why():
    pulled = drill(([(5, 5, "3")], {"bend": {"kind": "bend", "target_cents": 100}}))
    assert any("leave the neck" in line for line in section(card(pulled), "fretting"))
    pushed = drill(([(2, 8, "3")], {"bend": {"kind": "bend", "target_cents": 200}}))
    assert any("toward the thicker" in line for line in section(card(pushed), "fretting"))


def test_strain_and_heavy_strings_are_cautioned_on_the_card():
    asked = ONE_A_FAMILY["fretted_then_bend"]
    assert "strain" in {c.code for c in card(asked).cautions}
    full = drill(([(3, 7, "3")], {"bend": {"kind": "bend", "target_cents": 200}}))
    assert "wide_bend" in {c.code for c in card(full, guitar=preset("steel_acoustic")).cautions}
    assert "wide_bend" not in {c.code for c in card(full, guitar=preset("solid")).cautions}


def test_the_same_hand_at_another_fret_is_one_shape():
    power = [chord((6, f, "1"), (5, f + 2, "3")) for f in (3, 5, 7)]
    made = card(drill(*power, family="mute_check"))
    assert len(made.shapes) == 1
    assert made.shapes[0].events == ("e1", "e2", "e3")


@pytest.mark.parametrize(
    ("events", "code"),
    [
        ([[(3, 2, "1"), (1, 14, "4")]], "reach"),
        ([[(3, 5, "slide")], [(3, 7, "2")]], "slide_and_fingers"),
        ([chord((6, 5, "1"), (1, 9, "4"), (2, 0, None))], "unreachable"),
    ],
)
def test_what_no_hand_can_do_is_said(events, code):
    found = card(drill(*events, family="mute_check" if code == "unreachable" else "free")).problems
    assert any(code in p.code for p in found), found


def test_strings_that_answer_are_named():
    assert {a.string for a in card(drill([(3, 2, "1")])).answers} == {4, 5}


# -- strokes -----------------------------------------------------------------------------------------------


def strokes_of(*rows):
    return drill(*[([(s, 5, "1")], {"stroke": way}) for s, way in rows], family="alternate_picking", length=0.25)


def test_changes_after_up_strokes_ask_for_one_slant():
    plan = stroke_plan(strokes_of((3, "down"), (3, "up"), (2, "down"), (2, "up"), (1, "down")))
    assert (plan.kind, plan.slant) == ("alternate", "frees_up_strokes")
    assert [(c.event, c.after) for c in plan.changes] == [("e3", "up"), ("e5", "up")]


def test_three_notes_a_string_ask_for_both_in_turn():
    ways = ["down", "up"] * 6
    plan = stroke_plan(strokes_of(*[(6 - i // 3, ways[i]) for i in range(12)]))
    assert plan.slant == "both_in_turn"
    assert [c.after for c in plan.changes] == ["down", "up", "down"]


def test_a_stroke_that_goes_on_its_way_need_not_leave():
    # Down from 3 to 2 and on to 1: it rests into the next string; back up likewise.
    plan = stroke_plan(strokes_of((3, "down"), (2, "sweep_down"), (1, "sweep_down"), (2, "up"), (3, "sweep_up")))
    assert plan.kind == "sweep"
    assert [c.leaves for c in plan.changes] == [False, False, True, False]


def test_long_notes_have_no_stroke_plan():
    assert stroke_plan(drill([(3, 5, "1")], [(2, 5, "1")], length=4.0)).kind == "none"


def test_every_drill_of_the_library_has_a_card():
    for built in library()[::5]:
        assert card(built.drill).title == built.drill.title
