"""Causes that say where, when and what: patterns of judged notes written by hand, and faults of the simulated student.

Which cause fits is common practice, no source.
"""

from __future__ import annotations

from functools import cache

import pytest
from fortimetra import Drill
from fortimetra.coach.causes import likely_causes
from fortimetra.coach.evidence import Judged
from fortimetra.coach.patterns_place import more_by_chance
from fortimetra.coach.patterns_wrong import why_wrong
from fortimetra.drills.library import library
from fortimetra.model.analysis import Analysis, NoiseEvent, NoiseFound, PitchFound, TimingFound
from fortimetra.model.summary import TimingSummary
from fortimetra.player.faults import Faults, NoteFault
from scipy import stats

from tests.core.sounds import take
from tests.kept import analyse, render

STEADY = {"random_cents": 1.5, "random_ms": 4.0, "random_db": 0.5, "floor_dbfs": -70.0, "seed": 3}
PICKING = "Alternate picking 1 2 3 4, up: strings 3 and 2, position 5, 2 a click"
SHAPES = "Double stops: octaves on 5 and 3"


@cache
def drill(start: str, repeats: int = 4) -> Drill:
    found = next(b.drill for b in library() if b.drill.title.startswith(start))
    return found.model_copy(update={"repeats": min(repeats, found.repeats)})


@cache
def clean(start: str, repeats: int = 4) -> Analysis:
    """A clean take of a drill, to be changed note by note."""
    asked = drill(start, repeats)
    sound, _truth = render(asked, Faults.model_validate(STEADY))
    found = analyse(take(sound), drill=asked)
    assert found.causes == ()
    return found


def changed(analysis: Analysis, change) -> Analysis:
    """The analysis with each note as `change` has it; None leaves one as it is."""
    return analysis.model_copy(update={"notes": tuple(change(i, n) or n for i, n in enumerate(analysis.notes))})


def late(note, ms):
    return note.model_copy(
        update={"timing": TimingFound(grid_s=0.0, error_ms=ms, u=3.0, limit_ms=40.0, verdict="outside")}
    )


def codes(analysis, start, repeats=4):
    return [c.code for c in likely_causes(analysis, drill(start, repeats))]


def test_one_note_late_in_every_repeat_is_named_with_its_place():
    asked = drill(PICKING)
    name = asked.events[6].id
    found = changed(clean(PICKING), lambda i, n: late(n, 85.0) if n.id == name else None)
    cause = next(c for c in likely_causes(found, asked) if c.code == "same_note_timing")
    assert set(cause.notes) == {name}
    assert "4 of 4 times off the click; elsewhere 0 of" in cause.evidence
    assert asked.place(asked.events[6]).lower() in cause.evidence.lower()


def test_three_places_are_no_one_place():
    names = {drill(PICKING).events[i].id for i in (3, 6, 11)}
    found = changed(clean(PICKING), lambda i, n: late(n, 85.0) if n.id in names else None)
    assert "same_note_timing" not in codes(found, PICKING)


def test_a_place_that_is_off_once_is_no_habit():
    name = drill(PICKING).events[6].id
    found = changed(clean(PICKING), lambda i, n: late(n, 85.0) if n.id == name and n.repeat == 1 else None)
    assert codes(found, PICKING) == []


def left_out(note):
    return note.model_copy(update={"status": "missed", "reasons": ("not_played",), "clean": "outside"})


@pytest.mark.parametrize(
    ("silent", "says"),
    [
        ({3}, "1 of 4 repeats is not in the recording: 4."),
        ({2, 3}, "2 of 4 repeats are not in the recording: 3 and 4."),
        ({1, 2, 3}, "3 of 4 repeats are not in the recording: 2 to 4."),
    ],
)
def test_repeats_that_were_not_played_are_no_notes_left_out(silent, says):
    found = changed(clean(PICKING), lambda i, n: left_out(n) if n.repeat in silent else None)
    (cause,) = likely_causes(found, drill(PICKING))
    assert (cause.code, cause.evidence) == ("repeats_missing", says)


def test_a_note_left_out_in_the_repeats_that_were_played_is_named_beside():
    name = drill(PICKING).events[6].id
    found = changed(clean(PICKING), lambda i, n: left_out(n) if n.repeat == 3 or n.id == name else None)
    causes = {c.code: c for c in likely_causes(found, drill(PICKING))}
    assert set(causes) >= {"repeats_missing", "notes_missing"}
    assert causes["notes_missing"].evidence.startswith("3 of 3 notes are not played at the same places")


def test_a_take_that_falls_apart_at_its_end_says_so_and_spares_the_hands():
    notes = clean(PICKING).notes
    start = 2 * len(notes) // 3
    found = changed(clean(PICKING), lambda i, n: late(n, 70.0 * (-1) ** i) if i > start and i % 3 else None)
    cause = next(c for c in likely_causes(found, drill(PICKING)) if c.code == "worse_at_end_timing")
    assert "stop for the day" in " ".join(cause.tries)
    assert "before that 0 of" in cause.evidence


def test_a_tempo_that_creeps_is_not_told_as_tiring():
    notes = clean(PICKING).notes
    found = changed(clean(PICKING), lambda i, n: late(n, 60.0 + i) if i > 2 * len(notes) // 3 else None)
    timing = TimingSummary(bias_ms=10.0, jitter_ms=10.0, drift_ms_per_beat=30.0, string_change_ms=None)
    found = found.model_copy(update={"summary": found.summary.model_copy(update={"timing": timing})})
    said = codes(found, PICKING)
    assert "drags" in said
    assert "worse_at_end_timing" not in said


@pytest.mark.parametrize(("hits", "drawn", "marked", "whole"), [(5, 10, 6, 30), (3, 4, 4, 8), (0, 5, 3, 20)])
def test_the_chance_of_faults_at_the_end_is_fishers(hits, drawn, marked, whole):
    # scipy.stats.hypergeom: survival function of what is drawn.
    expected = stats.hypergeom.sf(hits - 1, whole, marked, drawn)
    assert more_by_chance(hits, drawn, marked, whole) == pytest.approx(expected, rel=1e-9)


def test_sixteenths_that_fall_into_triplets_are_another_division():
    start = "Alternate picking 1 3, up"
    asked = drill(start)
    spb_ms = 1000.0 * asked.seconds_per_beat
    timing = TimingSummary(bias_ms=0.0, jitter_ms=100.0, drift_ms_per_beat=spb_ms / 3.0, string_change_ms=None)
    found = changed(clean(start), lambda i, n: late(n, 80.0 * i) if i else None)
    found = found.model_copy(update={"summary": found.summary.model_copy(update={"timing": timing})})
    cause = likely_causes(found, asked)[0]
    assert cause.code == "other_division"
    assert "three to where four are asked" in cause.evidence


def wrong(note, semitones):
    pitch = PitchFound(median_hz=300.0, error_cents=100.0 * semitones, u=1.0, verdict=None)
    return note.model_copy(update={"status": "wrong_pitch", "clean": "outside", "pitch": pitch})


@pytest.mark.parametrize(
    ("semitones", "why"),
    # Strings 3 and 2 of a guitar in standard tuning are four semitones apart, strings 4 and 3 five.
    [(1, "fret"), (-2, "fret"), (4, "string"), (-5, "string"), (9, "other")],
)
def test_what_a_wrong_note_comes_of(semitones, why):
    asked = drill(PICKING)
    note = next(n for n in clean(PICKING).notes if n.string == 3 and n.fret == 7)
    assert why_wrong(Judged(clean(PICKING), asked), wrong(note, semitones)) == why


def test_the_same_wrong_fret_in_every_repeat_is_named_with_what_was_played():
    asked = drill(PICKING)
    name = asked.events[5].id
    found = changed(clean(PICKING), lambda i, n: wrong(n, 1) if n.id == name else None)
    cause = next(c for c in likely_causes(found, asked) if c.code == "wrong_fret")
    note = asked.events[5].notes[0]
    assert f"fret {note.fret + 1} instead of fret {note.fret} of string {note.string}, 4 times" in cause.evidence


def test_a_wrong_note_without_a_pitch_is_laid_to_nothing():
    asked = drill(PICKING)
    note = clean(PICKING).notes[5]
    bare = note.model_copy(update={"status": "wrong_pitch", "pitch": None})
    assert why_wrong(Judged(clean(PICKING), asked), bare) is None


def pressed(note):
    return NoiseEvent(
        kind="pressed", string=4, fret=note.fret, from_s=note.onset_s + 0.05, to_s=note.onset_s + 0.4, level_db=-14.0,
        u=2.0, near=note.id, repeat=note.repeat, verdict="outside",
    )  # fmt: skip


def test_pressed_strings_say_which_fret_they_sound():
    base = clean(SHAPES)
    noise = NoiseFound(worst_ring_db=-14.0, string=4, u=2.0, decay_ms=None, u_decay=None, verdict="outside")
    found = changed(base, lambda i, n: n.model_copy(update={"noise": noise}))
    found = found.model_copy(update={"noise_events": tuple(pressed(n) for n in base.notes if n.string == 5)})
    cause = likely_causes(found, drill(SHAPES))[0]
    assert cause.code == "strings_pressed"
    assert "String 4 sounds fret" in cause.evidence
    assert "Touch, do not press" in cause.tries[0]


def test_loud_pull_offs_snap():
    asked = drill("Slurred groups, high mid low mid", 2)
    pulls = {e.id for e in asked.events if e.articulation == "pull"}
    sound, _truth = render(
        asked, Faults.model_validate(STEADY | {"notes": {i: NoteFault(level_db=8.0) for i in pulls}})
    )
    cause = next(c for c in analyse(take(sound), drill=asked).causes if c.measure == "level")
    assert cause.code == "pull_hooks"
    assert "plucked" in cause.tries[0]
