"""Set-up takes with known offsets, gaps, orders and rigs (invented sound, known truth)."""

import numpy as np
import pytest
import soundfile
from fortimetra import Drill, TakeError
from fortimetra.drills.fretted_then_bend import fretted_then_bend
from fortimetra.drills.set_up import set_up
from fortimetra.judge.set_up import setup_of
from fortimetra.measure.saddle import fretted_error_cents, saddle_shift_mm
from fortimetra.model.guitar import preset
from fortimetra.player.faults import Faults, NoteFault, Ring

from tests.core.sounds import RATE_HZ, noise, take
from tests.kept import analyse, render

CENTS = 1.0
N = NoteFault
OFFSETS = (4.0, -7.0, 2.0, -12.0, 1.0, 6.0)
STRINGS = range(1, 7)


def found_in(drill=None, notes=None, guitar=None, **faults):
    drill = drill or set_up()
    # A string in two seconds instead of three: as exact, and a third less to measure.
    sound, _ = render(drill, Faults(**{"notes": notes or {}, "tempo_factor": 1.5} | faults))
    return analyse(take(sound), drill=drill, guitar=guitar)


def offsets(analysis):
    return [s.offset_cents for s in analysis.setup.strings]


def advice(analysis, step=None):
    return [(a.code, a.string) for a in analysis.setup.advice if step in (None, a.step)]


@pytest.mark.parametrize("colour", ["none", "cabinet", "body"])
def test_tuning_and_intonation_come_back_string_by_string(colour):
    notes = {"twelfth3": N(cents=9.0), "twelfth5": N(cents=-7.0)}
    found = found_in(notes=notes, tuning_offset_cents=OFFSETS, colour=colour)
    assert offsets(found) == pytest.approx(list(OFFSETS), abs=CENTS)
    errors = [s.twelfth_error_cents for s in found.setup.strings]
    assert errors == pytest.approx([0, 0, 9.0, 0, -7.0, 0], abs=CENTS)
    assert all(s.status == "read" and s.u_offset < 1.5 for s in found.setup.strings)
    assert advice(found, "tune") == [("string_off", 2), ("string_off", 4), ("string_off", 6)]
    assert advice(found, "saddle") == [("intonation", 3), ("intonation", 5)]
    assert found.setup.usable == "yes"


def test_advice_comes_in_the_order_in_which_to_follow_it():
    found = found_in(
        notes={"twelfth2": N(cents=12.0), "open4": N(missed=True)},
        tuning_offset_cents=(15, 0, 0, 0, 0, 0),
        peak_dbfs=-32.0,
        floor_dbfs=-85.0,
    )
    steps = [a.step for a in found.setup.advice]
    assert steps == ["record_again", "tune", "saddle", "rig"]
    assert all(a.text.endswith(".") for a in found.setup.advice)


def test_the_saddle_is_given_in_mm_where_the_guitar_is_known():
    found = found_in(notes={"twelfth3": N(cents=9.0)}, guitar=preset("solid"))
    (one,) = (a for a in found.setup.advice if a.step == "saddle")
    assert f"{saddle_shift_mm(found.setup.strings[2].twelfth_error_cents, scale_mm=648.0):.1f} mm" in one.text
    nylon = found_in(notes={"twelfth3": N(cents=9.0)}, guitar=preset("nylon"))
    assert "does not move" in next(a.text for a in nylon.setup.advice if a.step == "saddle")


@pytest.mark.parametrize("shift", [-130.0, -40.0, 70.0])
def test_a_guitar_out_of_tune_as_a_whole_is_measured_against_itself_and_flagged(shift):
    found = found_in(tuning_offset_cents=tuple(shift + o for o in OFFSETS))
    assert found.setup.common_offset_cents == pytest.approx(shift + float(np.median(OFFSETS)), abs=CENTS)
    assert offsets(found) == pytest.approx([shift + o for o in OFFSETS], abs=CENTS)
    assert all(s.status == "read" for s in found.setup.strings)
    assert ("whole_guitar", None) in advice(found)
    assert "detuned" in found.take.warnings
    assert found.setup.usable == "with_care"


@pytest.mark.parametrize(("string", "cents", "named"), [(3, -100.0, "F#3"), (6, -200.0, "D2"), (2, 100.0, "C4")])
def test_a_string_tuned_to_something_else_is_named_and_not_assumed(string, cents, named):
    off = [0.0] * 6
    off[string - 1] = cents
    found = found_in(tuning_offset_cents=tuple(off))
    one = found.setup.strings[string - 1]
    assert one.status == "other_pitch"
    assert one.offset_cents == pytest.approx(cents, abs=CENTS)
    assert named in next(a.text for a in found.setup.advice if a.code == "other_pitch")
    kept = setup_of(found, drill=set_up())
    assert kept.string_offset_cents[string - 1] is None
    assert sum(v is not None for v in kept.string_offset_cents) == 5


@pytest.mark.parametrize("missing", [{"open4": N(missed=True)}, {"open4": N(missed=True), "twelfth4": N(missed=True)}])
def test_a_missing_string_is_named_and_the_others_are_read(missing):
    found = found_in(notes=missing, tuning_offset_cents=OFFSETS)
    by_string = {s.string: s for s in found.setup.strings}
    assert by_string[4].status == "missing"
    assert by_string[4].offset_cents is None
    assert [by_string[s].offset_cents for s in (1, 2, 3, 5, 6)] == pytest.approx(
        [OFFSETS[s - 1] for s in (1, 2, 3, 5, 6)], abs=CENTS
    )
    assert ("open_not_heard", 4) in advice(found)
    assert found.setup.usable == "with_care"


def test_another_fret_than_the_12th_is_named():
    found = found_in(notes={"twelfth2": N(wrong_frets=-1)})
    assert found.setup.strings[1].twelfth_error_cents is None
    assert ("twelfth_other_fret", 2) in advice(found)


def reordered(order):
    """The same notes in another order, as a drill of its own to be played."""
    asked = set_up()
    sounding = {e.id: e for e in asked.events if e.notes}
    events = [sounding[name].model_copy(update={"beat": 2.0 + 3.0 * i}) for i, name in enumerate(order)]
    return asked.model_copy(update={"events": tuple(events)})


@pytest.mark.parametrize(
    "order",
    [
        [f"{kind}{s}" for s in STRINGS for kind in ("open", "twelfth")],
        [f"{kind}{s}" for kind in ("open", "twelfth") for s in reversed(STRINGS)],
        [f"{kind}{s}" for s in (3, 1, 6, 2, 5, 4) for kind in ("open", "twelfth")],
    ],
)
def test_strings_in_another_order_are_told_apart_and_it_is_said(order):
    sound, _ = render(reordered(order), Faults(tuning_offset_cents=OFFSETS))
    found = analyse(take(sound), drill=set_up())
    assert found.setup.order == "other"
    assert list(found.setup.heard_order) == order
    assert offsets(found) == pytest.approx(list(OFFSETS), abs=CENTS)
    assert ("other_order", None) in advice(found)


def test_a_note_struck_twice_does_not_confuse_the_rest():
    asked = set_up()
    again = [e for e in asked.events if e.id == "open5"]
    events = sorted(
        [*asked.events, again[0].model_copy(update={"id": "x", "beat": again[0].beat + 1.0})], key=lambda e: e.beat
    )
    sound, _ = render(asked.model_copy(update={"events": tuple(events)}), Faults(tuning_offset_cents=OFFSETS))
    found = analyse(take(sound), drill=asked)
    assert offsets(found) == pytest.approx(list(OFFSETS), abs=CENTS)
    assert found.setup.order == "as_asked"


def test_other_strings_that_ring_along_do_not_bend_the_readings():
    rings = [
        Ring(string=s, event=f"open{o}", level_db=-20.0, length_s=2.5) for s, o in ((6, 5), (5, 4), (4, 3), (3, 2))
    ]
    found = found_in(tuning_offset_cents=OFFSETS, rings=tuple(rings), sympathetic_db=-40.0)
    assert offsets(found) == pytest.approx(list(OFFSETS), abs=1.5)


@pytest.mark.parametrize(
    ("tuning", "capo"),
    [
        (("E4", "B3", "G3", "D3", "A2", "E2", "B1"), 0),
        (("D4", "A3", "F3", "C3", "G2", "C2"), 0),
        (("E4", "B3", "G3", "D3", "A2", "E2"), 2),
    ],
)
def test_other_tunings_string_counts_and_a_capo(tuning, capo):
    off = tuple(float(v) for v in np.linspace(-8, 8, len(tuning)))
    found = found_in(set_up(tuning=tuning, capo=capo), tuning_offset_cents=off)
    assert offsets(found) == pytest.approx(list(off), abs=1.5)
    assert found.setup.order == "as_asked"


def test_a_take_of_something_else_is_refused():
    sound, _ = render(fretted_then_bend(title="t", string=2, fret=8), Faults())
    with pytest.raises(TakeError, match="set-up take"):
        analyse(take(sound), drill=set_up())


def test_a_bend_take_is_read_against_the_set_up_before_it():
    asked = fretted_then_bend(title="t", string=3, fret=7, repeats=1)
    off = (0.0, 0.0, 14.0, 0.0, 0.0, 0.0)
    kept = setup_of(found_in(tuning_offset_cents=off), drill=set_up())
    missed = {"target": N(missed=True), "check": N(missed=True)}
    sound, _ = render(asked, Faults(tuning_offset_cents=off, notes=missed))
    alone = analyse(take(sound), drill=asked)
    against = analyse(take(sound), drill=asked, setup=kept)
    assert against.reference.offset_source == "setup"
    plain = [n.pitch.error_cents for n in against.notes if n.bend is None and n.pitch]
    assert plain == pytest.approx([0.0] * len(plain), abs=CENTS)
    (bend,) = (n.bend for n in against.notes if n.bend)
    assert bend.error_cents == pytest.approx(0.0, abs=CENTS)
    # The student's own plain note of that fret comes before any tuning.
    assert bend.reference_source == alone.notes[2].bend.reference_source == "fret 7 of this take"
    assert alone.notes[2].bend.error_cents == pytest.approx(0.0, abs=CENTS)


@pytest.mark.parametrize("twelfth", [-14.0, 11.0])
def test_what_the_saddle_does_is_not_taken_for_the_hand(twelfth):
    # Fretted notes as a saddle that is off would make them: half of the 12th fret's error at fret 7, less lower down.
    asked = fretted_then_bend(title="t", string=3, fret=7, repeats=1)
    kept = setup_of(found_in(notes={"twelfth3": N(cents=twelfth)}), drill=set_up())
    guitar = {fret: fretted_error_cents(fret, twelfth_error_cents=twelfth) for fret in (7, 9)}
    notes = {"target": N(cents=guitar[9]), "check": N(cents=guitar[9]), "back": N(cents=guitar[7])}
    sound, _ = render(asked, Faults(notes=notes))
    alone = [n.pitch.error_cents for n in analyse(take(sound), drill=asked).notes if n.id == "target"]
    against = analyse(take(sound), drill=asked, setup=kept)
    plain = [n.pitch.error_cents for n in against.notes if n.bend is None and n.pitch]
    assert plain == pytest.approx([0.0] * len(plain), abs=CENTS)
    assert alone[0] == pytest.approx(guitar[9], abs=CENTS)
    assert "tuning_changed" not in against.take.warnings


def test_a_saddles_error_grows_up_the_neck():
    errors = [fretted_error_cents(n, twelfth_error_cents=8.0) for n in range(20)]
    assert errors == sorted(errors)
    assert errors[12] == pytest.approx(8.0, abs=1e-9)
    assert errors[0] == pytest.approx(0.0, abs=1e-9)


def test_a_guitar_that_went_out_of_tune_since_its_set_up_is_said():
    asked = fretted_then_bend(title="t", string=3, fret=7, repeats=3)
    kept = setup_of(found_in(), drill=set_up())
    sound, _ = render(asked, Faults(tuning_offset_cents=(0, 0, -25.0, 0, 0, 0)))
    assert "tuning_changed" in analyse(take(sound), drill=asked, setup=kept).take.warnings
    sound, _ = render(asked, Faults(tuning_offset_cents=(0, 0, -4.0, 0, 0, 0)))
    assert "tuning_changed" not in analyse(take(sound), drill=asked, setup=kept).take.warnings


def test_a_drill_is_played_on_the_guitars_tuning():
    lowered = preset("solid").model_copy(update={"tuning": ("Eb4", "Bb3", "Gb3", "Db3", "Ab2", "Eb2")})
    asked = fretted_then_bend(title="t", string=3, fret=7, repeats=1)
    assert asked.on(lowered).tuning == lowered.tuning
    opened = preset("solid").model_copy(update={"tuning": ("D4", "A3", "F#3", "D3", "A2", "D2")})
    assert asked.on(opened) == asked
    assert set_up().on(opened).tuning == opened.tuning
    sound, _ = render(asked.on(lowered), Faults())
    found = analyse(take(sound), drill=asked, guitar=lowered)
    assert {n.clean for n in found.notes} == {"inside"}
    assert "detuned" not in found.take.warnings


def test_a_setup_file_says_what_the_take_said(tmp_path, pytestconfig):
    found = found_in(tuning_offset_cents=OFFSETS, hum_hz=60.0, hum_dbfs=-62.0)
    kept = setup_of(found, drill=set_up())
    assert kept.hum_hz == 60.0
    assert kept.tuning == (64, 59, 55, 50, 45, 40)
    assert (
        setup_of(
            analyse(take(noisy_note())),
            drill=Drill.read(pytestconfig.rootpath / "docs/formats/examples/drill.example.json"),
        )
        is None
    )


def noisy_note():
    sound, _ = render(fretted_then_bend(title="t", string=2, fret=8, repeats=1), Faults())
    return sound


# -- the rig ---------------------------------------------------------------------------------------------


@pytest.mark.parametrize("release", [6.0, 15.0, 40.0])
@pytest.mark.parametrize("floor", [-62.0, -75.0])
def test_automatic_gain_is_seen_in_the_pauses(release, floor):
    found = found_in(automatic_gain_db_per_s=release, floor_dbfs=floor, tempo_factor=1.0)
    assert found.setup.rig.automatic_gain.found is True
    assert ("automatic_gain", None) in advice(found, "rig")
    assert found.setup.usable == "no"


CLEAN = [
    {"seed": seed, "colour": colour, "drive_db": drive, "floor_dbfs": floor, "hum_hz": hum, "hum_dbfs": -58.0}
    for seed, (colour, drive, floor, hum) in enumerate(
        (c, d, f, h)
        for c in ("cabinet", "body")
        for d in (0.0, 20.0)
        for f in (-52.0, -66.0, -80.0)
        for h in (None, 50.0)
    )
][:20]


@pytest.mark.parametrize(
    "faults", CLEAN, ids=lambda f: f"{f['colour']}-{f['drive_db']:.0f}-{f['floor_dbfs']:.0f}-{f['hum_hz']}"
)
def test_no_false_sign_of_automatic_gain_or_gating_on_clean_takes(faults):
    rig = found_in(random_ms=15.0, random_db=2.0, **faults).setup.rig
    assert rig.automatic_gain.found is not True
    assert rig.noise_gate.found is not True


@pytest.mark.parametrize("floor", [-55.0, -68.0])
def test_a_noise_gate_is_seen_when_notes_stop(floor):
    found = found_in(gate_dbfs=floor + 15.0, floor_dbfs=floor)
    assert found.setup.rig.noise_gate.found is True
    assert ("noise_gate", None) in advice(found, "rig")


def test_what_cannot_be_told_of_the_rig_is_said_so(tmp_path):
    drill = set_up()
    sound, _ = render(drill, Faults(floor_dbfs=-120.0))
    soundfile.write(tmp_path / "a.ogg", sound, RATE_HZ, format="OGG", subtype="VORBIS")
    rig = analyse(tmp_path / "a.ogg", drill=drill).setup.rig
    assert (rig.noise_gate.found, rig.noise_gate.reason) == (None, "lossy_coding")
    assert rig.automatic_gain.found is not True


def test_offset_level_and_noise_of_the_rig_are_named():
    loud = found_in(dc_fraction=0.05, peak_dbfs=-14.0)
    assert loud.setup.rig.dc_fraction == pytest.approx(0.05, abs=0.002)
    assert ("dc", None) in advice(loud)
    soft = found_in(peak_dbfs=-34.0, floor_dbfs=-90.0)
    assert soft.setup.rig.level_change_db == pytest.approx(26.0, abs=1.0)
    noisy = found_in(floor_dbfs=-42.0)
    assert ("floor", None) in advice(noisy)
    assert noisy.setup.usable in {"with_care", "no"}
    hummed = found_in(hum_hz=50.0, hum_dbfs=-40.0)
    assert ("hum", None) in advice(hummed)
    assert hummed.take.hum.level_dbfs == pytest.approx(-40.0, abs=1.0)


def test_a_clipped_take_is_to_be_recorded_again():
    drill = set_up()
    sound, _ = render(drill, Faults())
    found = analyse(take(np.clip(sound * 4.0, -1.0, 1.0)), drill=drill)
    assert ("clipped", None) in advice(found, "record_again")
    assert found.setup.usable in {"with_care", "no"}


def test_hum_that_drowns_the_strings_is_named_instead_of_another_drill():
    drill = set_up()
    sound, _ = render(drill, Faults(peak_dbfs=-24.0, floor_dbfs=-60.0))
    hum = 0.012 * np.sin(2 * np.pi * 50.0 * np.outer(np.arange(len(sound)) / RATE_HZ, [1, 2, 3, 4])).sum(axis=1)
    with pytest.raises(TakeError, match="Hum at 50 Hz"):
        analyse(take((sound + hum).astype(np.float32)), drill=drill)


def test_noise_alone_is_no_set_up_take():
    with pytest.raises(TakeError):
        analyse(take(noise(8.0, -30.0)), drill=set_up())
