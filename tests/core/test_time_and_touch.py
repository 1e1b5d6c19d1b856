"""Onsets, grid, volume and length of the simulated student, whose every departure is written down."""

from dataclasses import replace

import numpy as np
import pytest
from fortimetra import TakeError
from fortimetra.align.grid import due_times, find_grid
from fortimetra.align.pair import match
from fortimetra.drills.fretted_then_bend import fretted_then_bend
from fortimetra.drills.library import built_in_drills
from fortimetra.hear.notes import HeardNote
from fortimetra.measure.slide import Arrival
from fortimetra.measure.timing import note_timings
from fortimetra.model.context import Click
from fortimetra.model.drill import Drill
from fortimetra.model.tolerance import onset_limit_ms
from fortimetra.player.faults import Faults, NoteFault

from tests.core.sounds import take
from tests.kept import analyse, render

RATE = 48_000
LEAD_S = 1.0
BUILT_IN = built_in_drills()


def built_in(family: str, **changes) -> Drill:
    return next(d for d in BUILT_IN if d.family == family).model_copy(update={"repeats": 1, **changes})


def told(drill: Drill, faults: Faults, *, with_click: bool = True, sound=None):
    samples, truth = render(drill, faults)
    click = Click(
        format="fortimetra-click",
        version=1,
        source="recorder",
        bpm=drill.tempo.bpm,
        first_beat_s=LEAD_S,
        latency_ms=0.0,
    )
    found = analyse(
        take(samples if sound is None else sound(samples)), drill=drill, click=click if with_click else None
    )
    return found, {(n.id, n.repeat): n for n in truth.notes}


@pytest.mark.parametrize(
    "family",
    ["finger_pairs", "slur_vs_pick", "legato_cycle", "tapping", "alternate_picking", "fastest_run", "sweep"],
)
def test_a_clean_take_is_heard_whole_and_called_clean(family):
    drill = built_in(family)
    found, truth = told(drill, Faults(random_ms=4.0, random_db=0.6, random_cents=1.5))
    assert found.summary.missed == 0
    assert found.extras == ()
    errors = [1000 * (n.onset_s - truth[n.id, n.repeat].onset_s) for n in found.notes]
    assert np.median(np.abs(errors)) < 1.0
    assert np.percentile(np.abs(errors), 95) < 8.0
    assert abs(found.summary.timing.bias_ms) < 3.0
    for measure in ("timing", "level", "length"):
        if measure in drill.measures:
            assert found.summary.by_measure[measure].outside == 0, measure


def test_every_note_late_by_what_it_was_late():
    drill = built_in("alternate_picking")
    late = {f"e{i}": NoteFault(late_ms=ms) for i, ms in ((3, 55.0), (10, -48.0), (17, 61.0), (24, 12.0))}
    found, truth = told(drill, Faults(notes=late))
    for note in found.notes:
        assert note.timing.error_ms == pytest.approx(truth[note.id, 0].late_ms, abs=note.timing.u)
    verdicts = {n.id: n.timing.verdict for n in found.notes}
    assert [verdicts[i] for i in ("e3", "e10", "e17", "e24")] == ["outside"] * 3 + ["inside"]
    assert found.summary.by_measure["timing"].outside == 3


def test_hesitation_at_a_change_of_string_is_told_from_being_late():
    drill = built_in("alternate_picking")
    changes = [f"e{i}" for i in (5, 9, 13, 17, 21, 25, 29)]
    found, _ = told(drill, Faults(random_ms=2.0, notes={i: NoteFault(late_ms=30.0) for i in changes}))
    timing = found.summary.timing
    assert timing.string_change_ms == pytest.approx(30.0, abs=timing.u_string_change_ms + 1.0)
    assert abs(timing.bias_ms) < 4.0
    first = timing.groups[0]
    assert first.place == 1
    assert first.error_ms > 15.0


def test_bias_and_drift_against_a_click():
    drill = built_in("fastest_run")
    late = Faults(every_note=NoteFault(late_ms=17.0), random_ms=2.0)
    found, _ = told(drill, late)
    assert found.summary.timing.bias_ms == pytest.approx(17.0, abs=2.0)
    assert abs(found.summary.timing.drift_ms_per_beat) < 1.0
    slow, _ = told(drill, Faults(tempo_factor=0.995))
    # 0.5 % slower than the click: 2.5 ms a beat at 120.
    assert slow.summary.timing.drift_ms_per_beat == pytest.approx(2.5, abs=0.3)


def test_without_a_click_early_and_late_as_a_whole_are_not_told():
    drill = built_in("fastest_run")
    found, _ = told(drill, Faults(every_note=NoteFault(late_ms=25.0), random_ms=3.0), with_click=False)
    timing = found.summary.timing
    assert found.reference.grid.source == "fitted"
    assert timing.bias_ms is None
    assert timing.jitter_ms == pytest.approx(3.0, abs=1.5)
    assert abs(np.median([n.timing.error_ms for n in found.notes])) < 1.0


def test_another_tempo_than_asked_is_said_and_judged_by_itself():
    drill = built_in("alternate_picking")
    found, _ = told(drill, Faults(tempo_factor=0.85, random_ms=3.0), with_click=False)
    assert "other_tempo" in found.take.warnings
    assert found.reference.grid.bpm == pytest.approx(0.85 * drill.tempo.bpm, rel=0.003)
    assert found.summary.by_measure["timing"].outside == 0
    assert found.summary.timing.drift_ms_per_beat is None


@pytest.mark.parametrize("with_click", [True, False])
def test_slots_are_as_long_as_the_tempo_that_was_played(with_click):
    # A step of a tempo ladder: the drill asks for 60, the click (or the student) went at 78.
    drill = built_in("tapping")
    samples, truth = render(drill, Faults(tempo_factor=1.3))
    click = Click(
        format="fortimetra-click", version=1, source="recorder", bpm=78.0, first_beat_s=LEAD_S, latency_ms=0.0
    )
    found = analyse(take(samples), drill=drill, click=click if with_click else None)
    assert truth.bpm == pytest.approx(78.0)
    assert found.summary.length.ratio == pytest.approx(1.0, abs=0.03)
    assert found.summary.by_measure["length"].outside == 0
    assert found.summary.by_measure["timing"].outside == 0
    assert ("other_tempo" in found.take.warnings) == (not with_click)


def test_free_time_judges_no_time():
    drill = built_in("alternate_picking")
    samples, _ = render(drill, Faults())
    found = analyse(take(samples), drill=drill.model_copy(update={"tempo": None}))
    assert found.summary.timing is None
    assert {n.timing.verdict for n in found.notes} == {"unclear"}
    assert all("no_grid" in n.reasons for n in found.notes)


def test_soft_loud_dying_and_missing_accents():
    drill = built_in("alternate_picking")
    found, _ = told(
        drill,
        Faults(
            notes={
                "e4": NoteFault(level_db=-8.0),
                "e11": NoteFault(level_db=7.0),
                "e14": NoteFault(length=0.15),
                "e17": NoteFault(level_db=-5.0),
            }
        ),
    )
    notes = {n.id: n for n in found.notes}
    assert notes["e4"].level.deviation_db == pytest.approx(-8.0, abs=0.8)
    assert notes["e11"].level.deviation_db == pytest.approx(7.0, abs=0.8)
    assert [notes[i].level.verdict for i in ("e4", "e11", "e14", "e17")] == ["outside"] * 4
    asked = found.summary.by_measure
    assert [np.sign(notes[i].deviation(asked)) for i in ("e4", "e11", "e14", "e17")] == [-1, 1, -1, -1]
    assert "dies" in notes["e14"].reasons
    assert "accent_missing" in notes["e17"].reasons
    assert found.summary.by_measure["level"].outside == 4


@pytest.mark.parametrize(("force", "verdict"), [("strong", "outside"), ("light", "inside")])
def test_the_school_decides_how_soft_a_slur_may_be(force, verdict):
    drill = built_in("slur_vs_pick")
    school = drill.school.model_copy(update={"slur_force": force})
    softer = {f"e{i}": NoteFault(level_db=-4.5) for i in range(2, 17)}
    found, _ = told(drill.model_copy(update={"school": school}), Faults(notes=softer))
    level = found.summary.level
    clean, _ = told(drill, Faults())
    assert level.slur_deficit_db - clean.summary.level.slur_deficit_db == pytest.approx(4.5, abs=0.7)
    assert level.slur_verdict == verdict


def test_a_string_that_rings_into_the_next_note_is_measured():
    drill = built_in("sweep")
    found, truth = told(drill, Faults(notes={"e3": NoteFault(length=1.3), "e7": NoteFault(length=1.3)}))
    notes = {n.id: n for n in found.notes}
    for which, after in (("e3", "e4"), ("e7", "e8")):
        true_ms = 1000 * (truth[which, 0].end_s - truth[after, 0].onset_s)
        assert notes[which].length.overlap_ms == pytest.approx(true_ms, abs=25.0)
        assert "rings_on" in notes[which].reasons
    assert sum("rings_on" in n.reasons for n in found.notes) == 2


def test_a_note_is_not_blamed_for_the_next_ones_early_entry():
    drill = built_in("sweep")
    early = {"e4": NoteFault(late_ms=-110.0)}
    found, _ = told(drill, Faults(notes=early))
    e3, e4 = (next(n for n in found.notes if (n.id, n.repeat) == (which, 0)) for which in ("e3", "e4"))
    assert e4.timing.verdict == "outside"
    assert e3.length.overlap_ms > 80.0
    assert e3.length.verdict == "unclear"
    assert "next_is_off" in e3.reasons
    # What sounds on beyond where the next one was due is its own.
    found, _ = told(drill, Faults(notes=early | {"e3": NoteFault(length=1.4)}))
    assert next(n for n in found.notes if (n.id, n.repeat) == ("e3", 0)).length.verdict == "outside"


def test_notes_cut_short_are_short():
    drill = built_in("tapping")
    found, _ = told(drill, Faults(notes={f"e{i}": NoteFault(length=0.55) for i in (6, 10, 14)}))
    short = [n for n in found.notes if n.length.verdict == "outside"]
    # A slurred note takes over the string: what can be cut short is a note before a tap.
    assert all(n.length.length_ratio < 0.9 for n in short)


@pytest.mark.parametrize("gap_ms", [35.0, 42.0, 50.0])
def test_a_double_hit_is_one_note_and_one_double(gap_ms):
    drill = built_in("alternate_picking")
    found, truth = told(drill, Faults(notes={"e7": NoteFault(double_ms=gap_ms), "e18": NoteFault(double_ms=gap_ms)}))
    assert [(e.kind, e.near) for e in found.extras] == [("double_hit", "e7"), ("double_hit", "e18")]
    notes = {n.id: n for n in found.notes}
    for which in ("e7", "e18"):
        assert notes[which].onset_s == pytest.approx(truth[which, 0].onset_s, abs=0.004)
        assert notes[which].length is None or notes[which].length.length_ratio > 0.8


def test_missed_notes_are_missing_and_shift_nothing():
    drill = built_in("alternate_picking")
    gone = ("e6", "e15", "e16", "e27")
    found, _ = told(drill, Faults(notes={i: NoteFault(missed=True) for i in gone}))
    assert {n.id for n in found.notes if n.status == "missed"} == set(gone)
    assert found.extras == ()
    assert max(abs(n.timing.error_ms) for n in found.notes if n.timing) < 5.0


def test_the_fastest_even_run_sets_the_ceiling():
    drill = built_in("fastest_run")
    found, _ = told(drill, Faults(random_ms=3.0))
    # Four notes a click at 120: eight a second, for two seconds.
    assert found.summary.fastest_even_run_nps == pytest.approx(8.0, abs=0.15)
    uneven = {f"e{i}": NoteFault(late_ms=(-1) ** i * 22.0) for i in range(1, 17)}
    found, _ = told(drill, Faults(notes=uneven))
    assert found.summary.fastest_even_run_nps == pytest.approx(4.0, abs=0.1)
    paces = {p.notes_per_s: p for p in found.summary.timing.paces}
    assert paces[8.0].jitter_ms > 15.0 > 5.0 > paces[4.0].jitter_ms


def test_talking_and_tuning_before_and_half_a_take():
    drill = built_in("alternate_picking")
    samples, _ = render(drill, Faults(lead_in_s=LEAD_S))
    half = samples[: round((LEAD_S + 16 * 0.5 + 0.2) * RATE)]
    found = analyse(take(half), drill=drill)
    assert found.summary.missed == pytest.approx(15, abs=1)
    rng = np.random.default_rng(5)
    talk = np.convolve(rng.standard_normal(3 * RATE), np.hanning(60), "same") * np.repeat(rng.random(30), RATE // 10)
    before = np.concatenate([(0.02 * talk / np.std(talk)).astype(np.float32), samples])
    found = analyse(take(before), drill=drill)
    assert found.summary.missed == 0
    assert found.extras == ()
    with pytest.raises(TakeError) as error:
        analyse(take(samples), drill=built_in("sweep"))
    assert error.value.code == "wrong_drill"
    assert "notes fit" in str(error.value)


@pytest.mark.parametrize("seconds", [4, 30])
def test_noise_alone_is_no_performance(seconds):
    noise = np.random.default_rng(4).standard_normal(seconds * RATE).astype(np.float32) * 0.1
    with pytest.raises(TakeError) as error:
        analyse(take(noise), drill=built_in("alternate_picking"))
    assert error.value.code in {"wrong_drill", "no_notes"}


def note(onset_s: float, midi: float) -> HeardNote:
    return HeardNote(onset_s, onset_s + 0.4, midi, midi, midi, -20.0, "attack")


LINE = fretted_then_bend(title="t", string=3, fret=7, target_cents=200, repeats=4, bpm=60)
CLICK = Click(format="fortimetra-click", version=1, source="recorder", bpm=60, first_beat_s=2.0, latency_ms=0.0)


def bend_line(jump_s: float, from_repeat: int) -> list[HeardNote]:
    score = ((0, 64.0), (1, 62.0), (2, 62.0), (4, 64.0))
    return [
        note(2.0 + 8 * repeat + beat + (jump_s if repeat >= from_repeat else 0.0), midi)
        for repeat in range(4)
        for beat, midi in score
    ]


@pytest.mark.parametrize("beats", [1.0, -1.0, 2.0])
def test_a_lost_beat_is_one_slip_on_the_click(beats):
    matched = match(bend_line(beats + 0.01, 2), LINE)
    due = due_times(matched, LINE, find_grid(matched, LINE, CLICK))
    off = [1000 * (n.onset_s - d) for n, d in zip(matched.heard, due.time_s, strict=True) if n]
    assert due.jumps
    assert set(due.moved_beats[:8]) == {0.0}
    assert set(due.moved_beats[8:]) == {beats}
    assert max(abs(o) for o in off) < 15.0


def test_half_a_beat_off_is_no_other_beat():
    matched = match(bend_line(0.45, 2), LINE)
    due = due_times(matched, LINE, find_grid(matched, LINE, CLICK))
    assert set(due.moved_beats) == {0.0}


def test_a_pause_leaves_a_fitted_grid_whole():
    matched = match(bend_line(1.37, 2), LINE)
    grid = find_grid(matched, LINE, None)
    assert grid.source == "fitted"
    assert grid.bpm == pytest.approx(60.0, rel=2e-3)
    due = due_times(matched, LINE, grid)
    assert due.jumps
    assert max(abs(n.onset_s - d) for n, d in zip(matched.heard, due.time_s, strict=True) if n) < 0.02


@pytest.mark.parametrize(
    ("profile", "slot_s", "limit"),
    [("starting", 0.25, 30.0), ("starting", 1.0, 60.0), ("starting", 0.1, 25.0), ("steady", 0.25, 20.0),
     ("steady", 0.375, 30.0), ("exacting", 0.4, 20.0), ("exacting", 0.1, 12.0)],
)  # fmt: skip
def test_tolerance_of_an_onset_follows_its_slot(profile, slot_s, limit):
    assert onset_limit_ms(profile, slot_s) == pytest.approx(limit)
    assert onset_limit_ms(profile, slot_s, 7.0) == 7.0


@pytest.mark.parametrize(("followed", "u_ms"), [(True, 125.0), (False, 400.0)])
def test_a_slide_that_was_not_followed_may_have_arrived_on_time_wherever_it_was_heard(followed, u_ms):
    matched = match(bend_line(0.45, 2), LINE)
    grid = find_grid(matched, LINE, CLICK)
    due = due_times(matched, LINE, grid)
    late = Arrival(float(due.time_s[1]) + 0.4, 125.0, followed)
    timing = note_timings(matched, due, grid, {1: late})[1]
    assert timing.error_ms == pytest.approx(400.0)
    assert timing.u_ms == pytest.approx(u_ms, abs=1.0)


@pytest.mark.parametrize(("notes", "known"), [(1, 0), (2, 2)])
def test_one_note_alone_against_a_click_of_unknown_delay_is_no_timing(notes, known):
    matched = match(bend_line(0.45, 2), LINE)
    heard = [n if sum(m is not None for m in matched.heard[:i]) < notes else None for i, n in enumerate(matched.heard)]
    matched = replace(matched, heard=tuple(heard))
    grid = find_grid(matched, LINE, CLICK.model_copy(update={"latency_ms": None}))
    found = [t for t in note_timings(matched, due_times(matched, LINE, grid), grid) if t is not None]
    assert len(found) == known
    assert all(np.isfinite(t.u_ms) for t in found)
