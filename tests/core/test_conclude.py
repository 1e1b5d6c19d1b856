"""What rang is laid to the part of the hand whose job it was."""

import pytest
from fortimetra.coach.conclude import concluded
from fortimetra.drills.generator import generate
from fortimetra.drills.library import GENERATORS
from fortimetra.player.faults import Faults, Ring
from fortimetra.technique.damping import damping_plan

from tests.core.sounds import take
from tests.kept import analyse, render


def found_with(drill, rings):
    sound, truth = render(drill, Faults(rings=rings))
    return analyse(take(sound, truth.sample_rate_hz), drill=drill)


def scale():
    return generate(GENERATORS["low_string_muting"], {"key": "A", "position": "5", "repeats": "2"})


def rings_of(drill, string, where):
    return tuple(
        Ring(string=string, event=e, repeat=r, level_db=-16.0, length_s=1.0)
        for e in where
        for r in range(drill.repeats)
    )


def high_events(drill, most_string):
    """Every third event on thin strings: the low ones should be quiet there."""
    return [e.id for e in drill.events if e.notes and e.notes[0].string <= most_string][::3]


@pytest.fixture(scope="module")
def rung():
    drill = scale()
    return drill, found_with(drill, rings_of(drill, 6, high_events(drill, 3)))


def test_the_cause_names_the_planned_damper_and_shows_both_hands(rung):
    _, found = rung
    (cause,) = [c for c in found.causes if c.code == "low_strings_ring"]
    assert "string 6 is the job of the side of the picking hand's thumb" in cause.damper
    assert cause.posture is not None
    assert cause.posture.damper(6).part == "palm"
    assert cause.posture.event in cause.notes


def test_rings_are_counted_by_whose_job_they_were(rung):
    _, found = rung
    job = found.summary.rings[0]
    assert (job.string, job.part) == (6, "palm")
    assert job.count >= 4
    assert -22.0 < job.level_db < -10.0


def test_a_part_that_rings_where_it_has_to_move_comes_late():
    drill = scale()
    plan = damping_plan(drill)
    palm = [e for e in plan.moves if plan.at(e).damper(6) and plan.at(e).damper(6).part == "palm"]
    assert len(palm) >= 2
    found = found_with(drill, rings_of(drill, 6, palm[:3]))
    assert found.summary.rings[0].moving >= 2
    assert any("comes late" in c.damper for c in found.causes)


def test_a_clean_take_has_no_rings_to_lay_to_anybody():
    found = found_with(scale(), ())
    assert found.summary.rings == ()
    assert all(not c.damper for c in found.causes)


def test_what_the_teacher_excluded_is_laid_to_nobody(rung):
    drill, found = rung
    notes = tuple(n.model_copy(update={"said": "excluded"}) for n in found.notes)
    assert concluded(found.model_copy(update={"notes": notes}), drill).causes == ()
