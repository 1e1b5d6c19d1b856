"""Faults the simulated student was told to make come back as they were stated (invented sound, known truth)."""

import numpy as np
import pytest
from fortimetra import Drill, Setup, TakeError, pipeline
from fortimetra.drills.fretted_then_bend import fretted_then_bend
from fortimetra.hear.contour import track
from fortimetra.player import rendering as player
from fortimetra.player.faults import Faults, NoteFault
from fortimetra.units import hz_to_cents

from tests.core.sounds import take
from tests.kept import analyse, render

CENTS = 1.0
N = NoteFault


def drill(**changes):
    return fretted_then_bend(**({"title": "t", "string": 3, "fret": 7, "repeats": 2, "bpm": 72.0} | changes))


def analysed(asked, /, notes=None, **faults):
    sound, truth = render(asked, Faults(notes=notes or {}, **faults))
    return analyse(take(sound), drill=asked), truth


def bends(analysis):
    return [n for n in analysis.notes if n.bend]


@pytest.mark.parametrize("hz", [82.41, 196.0, 440.0, 987.8])
def test_the_simulated_string_sounds_the_pitch_it_is_told(hz):
    asked = fretted_then_bend(
        title="t", string=1, fret=5, repeats=1, tuning=(69 + 12 * np.log2(hz / 440) - 5, 59, 55, 50, 45, 40)
    )
    quiet = Faults(attack_sharp_cents=0, colour="none", sympathetic_db=-120, floor_dbfs=-110, stiffness=0)
    sound, _truth = render(asked, quiet)
    contour = track(sound, rate_hz=48_000)
    wanted = asked.hz(asked.events[1].notes[0])
    read = float(np.nanmedian(contour.f0_hz[contour.frames(2.1, 2.6)]))
    assert hz_to_cents(read, reference_hz=wanted) == pytest.approx(0.0, abs=CENTS)


@pytest.mark.parametrize("string,fret", [(1, 5), (2, 8), (2, 13), (3, 7), (3, 12), (4, 9)])
@pytest.mark.parametrize("colour", ["cabinet", "body"])
def test_bend_error_comes_back_against_the_students_own_note(string, fret, colour):
    asked = drill(string=string, fret=fret)
    faults = {"bend@0": N(cents=-18.0), "bend@1": N(cents=12.0), "target": N(cents=4.0)}
    found, _ = analysed(asked, faults, colour=colour)
    errors = [n.bend.error_cents for n in bends(found)]
    assert errors == pytest.approx([-22.0, 8.0], abs=CENTS)
    assert [n.bend.reference_source for n in bends(found)] == ["target", "target"]
    assert [n.bend.error_tempered_cents for n in bends(found)] == pytest.approx([-18.0, 12.0], abs=1.5)


@pytest.mark.parametrize(
    "extra", [{}, {"drive_db": 20.0, "floor_dbfs": -55.0}, {"hum_hz": 50.0, "hum_dbfs": -50.0}, {"stiffness": 3e-4}]
)
def test_values_of_a_bend_survive_drive_noise_hum_and_stiff_strings(extra):
    faults = {"bend@0": N(cents=-30.0, rise_ms=240.0), "bend@1": N(cents=5.0, rise_ms=90.0, overshoot_cents=25.0)}
    found, _ = analysed(drill(), faults, **extra)
    first, second = (n.bend for n in bends(found))
    assert first.error_cents == pytest.approx(-30.0, abs=1.5)
    assert second.error_cents == pytest.approx(5.0, abs=1.5)
    assert first.rise_ms == pytest.approx(240.0, abs=25.0)
    assert second.rise_ms == pytest.approx(90.0, abs=25.0)
    assert second.overshoot_cents == pytest.approx(25.0, abs=8.0)
    assert first.overshoot_cents < 3.0
    assert first.verdict == "outside"
    assert second.verdict == "inside"
    assert first.choked is False


def test_drift_and_wavering_of_the_hold_are_told():
    found, _ = analysed(drill(), {"bend@0": N(hold_drift_cents_per_s=-25.0), "bend@1": N(wobble_cents=20.0)})
    sinking, wavering = bends(found)
    assert sinking.bend.hold_drift_cents_per_s == pytest.approx(-25.0, abs=3.0)
    assert sinking.bend.hold_sd_cents < 2.0
    assert wavering.bend.hold_sd_cents == pytest.approx(20.0 / np.sqrt(2), abs=2.5)
    assert wavering.bend.error_cents == pytest.approx(0.0, abs=6.0)
    assert "unsteady_hold" in wavering.reasons
    assert wavering.clean == "outside"


@pytest.mark.parametrize(
    ("drift", "said"), [(-10.0, "inside"), (-45.0, "outside"), (-110.0, "outside"), (45.0, "outside")]
)
def test_a_hold_that_moves_is_no_clean_bend(drift, said):
    # More than 25 cents a second over half a second or more: common practice, no source.
    found, _ = analysed(drill(repeats=1), {"bend": N(hold_drift_cents_per_s=drift)})
    (bend,) = bends(found)
    assert bend.bend.verdict == said
    assert ("hold_drifts" in bend.reasons) == (said == "outside")
    assert bend.bend.hold_drift_cents_per_s == pytest.approx(drift, abs=4.0 + 0.1 * abs(drift))


def test_a_bend_that_never_rests_is_read_at_its_peak_and_is_not_clean():
    found, _ = analysed(drill(repeats=1), {"bend": N(rise_ms=1200.0)})
    (bend,) = bends(found)
    assert "no_plateau" in bend.reasons
    assert bend.bend.plateau is None
    assert bend.bend.verdict != "inside"


def test_a_re_plucked_bend_is_a_note_of_its_own():
    asked = drill(string=2, fret=8, re_pluck=True)
    found, _ = analysed(asked, {"bend": N(cents=10.0), "again": N(cents=-6.0)})
    errors = {n.id: n.bend.error_cents for n in bends(found)}
    assert errors == pytest.approx({"bend": 10.0, "again": -6.0}, abs=CENTS)


def test_missed_and_wrong_notes_are_counted_as_such():
    found, _ = analysed(drill(), {"bend@0": N(missed=True), "check@1": N(wrong_frets=2)})
    by_place = {(n.id, n.repeat): n for n in found.notes}
    assert by_place["bend", 0].status == "missed"
    assert by_place["check", 1].status == "wrong_pitch"
    assert by_place["check", 1].clean == "outside"
    summary = found.summary
    assert (summary.asked, summary.clean, summary.not_clean, summary.unclear, summary.missed) == (8, 6, 1, 0, 1)
    assert summary.by_measure["bend"].inside == 1


@pytest.mark.parametrize("string", [1, 2, 3, 4])
@pytest.mark.parametrize("extra", [{}, {"drive_db": 15.0}, {"floor_dbfs": -50.0}, {"colour": "body", "decay_s": 8.0}])
def test_no_false_alarm_on_a_clean_take(string, extra):
    asked = drill(string=string, fret=7, profile="exacting")
    found, _ = analysed(asked, random_cents=1.0, random_ms=8.0, random_db=1.0, seed=string, **extra)
    assert [n.clean for n in found.notes] == ["inside"] * 8
    assert found.extras == ()
    assert found.summary.extra == 0


@pytest.mark.parametrize("cents", [-80.0, 55.0])
def test_a_detuned_guitar_is_measured_against_itself_and_flagged(cents):
    found, _ = analysed(drill(), {"bend": N(cents=-20.0)}, tuning_offset_cents=(cents,) * 6)
    assert "detuned" in found.take.warnings
    assert [n.bend.error_cents for n in bends(found)] == pytest.approx([-20.0] * 2, abs=CENTS)
    assert all(n.pitch.verdict == "inside" for n in found.notes if n.pitch and n.pitch.verdict)


def test_a_set_up_take_shifts_the_plain_pitch():
    asked = drill()
    sound, _ = render(asked, Faults(tuning_offset_cents=(0, 0, 9.0, 0, 0, 0)))
    setup = Setup(format="fortimetra-setup", version=1, string_offset_cents=(0, 0, 9.0, 0, 0, 0))
    plain = [
        n.pitch.error_cents
        for n in analyse(take(sound), drill=asked, setup=setup).notes
        if n.pitch.error_cents is not None
    ]
    assert plain == pytest.approx([0.0] * len(plain), abs=CENTS)


def test_another_note_at_the_targets_place_stands_in_for_a_missed_reference():
    found, _ = analysed(drill(repeats=1), {"target": N(missed=True), "bend": N(cents=-15.0)})
    (bend,) = bends(found)
    assert bend.bend.reference_source == "check"
    assert "reference_by_temperament" not in bend.reasons
    assert bend.bend.error_cents == pytest.approx(-15.0, abs=CENTS)


def test_without_a_reference_note_the_bends_own_fret_is_named():
    asked = drill(repeats=1)
    found, _ = analysed(asked, {"target": N(missed=True), "check": N(missed=True), "bend": N(cents=-15.0)})
    (bend,) = bends(found)
    assert bend.bend.reference_source == "fret 7 of this take"
    assert bend.bend.error_cents == pytest.approx(-15.0, abs=CENTS)


def test_without_a_drill_notes_are_listed_and_nothing_is_judged():
    asked = drill(repeats=1)
    sound, truth = render(asked, Faults())
    found = analyse(take(sound))
    assert found.reasons == ("no_drill",)
    assert [n.onset_s for n in found.notes] == pytest.approx([n.onset_s for n in truth.notes], abs=0.01)
    assert {n.clean for n in found.notes} == {None}


def test_the_same_take_gives_the_same_analysis():
    asked = drill(repeats=1)
    sound, _ = player.render(asked, Faults(seed=3))
    again, _ = player.render(asked, Faults(seed=3))
    assert np.array_equal(sound, again)
    assert pipeline.analyse(take(sound), drill=asked) == pipeline.analyse(take(sound), drill=asked)


def test_another_drill_is_refused_and_progress_is_told_on_the_way():
    sound, _ = render(drill(string=1, fret=12), Faults())
    stages: list[tuple[str, float]] = []
    with pytest.raises(TakeError, match="does not look like"):
        pipeline.measure_take(take(sound), drill=drill(string=4, fret=3), progress=lambda s, f: stages.append((s, f)))
    fractions = [f for _, f in stages]
    assert fractions == sorted(fractions)
    assert [s for s, _ in stages][:3] == ["decode", "levels", "onsets"]


def test_uncertainty_covers_the_truth_and_is_not_inflated():
    misses, widths, errors = 0, [], []
    for seed in range(6):
        asked = drill(string=2 + seed % 3, fret=7, repeats=2)
        wanted = {f"bend@{r}": N(cents=float(c)) for r, c in enumerate(np.random.default_rng(seed).uniform(-40, 40, 2))}
        found, _ = analysed(asked, wanted, seed=seed, floor_dbfs=-60.0)
        for note in bends(found):
            error = note.bend.error_cents - wanted[f"bend@{note.repeat}"].cents
            errors.append(abs(error))
            widths.append(note.bend.u)
            misses += abs(error) > note.bend.u + 0.35  # the string settles into its pitch by some tenths of a cent
    assert misses <= len(errors) // 10
    assert np.median(widths) < 1.5


def test_the_drill_of_the_contract_can_be_played_and_measured(pytestconfig):
    asked = Drill.read(pytestconfig.rootpath / "docs/formats/examples/drill.example.json")
    found, _ = analysed(asked, {"e2": N(cents=-11.6)})
    bend = next(n for n in found.notes if n.id == "e2").bend
    assert bend.reference_source == "e1"
    assert bend.reached_cents == pytest.approx(188.4, abs=CENTS)
    assert next(n for n in found.notes if n.id == "e4").status == "played"
