"""What answers, against physics that is not ours: a bank of damped resonators driven by another maker's guitar.

A free string is its modes, each a second-order resonator (scipy.signal.lfilter) at f_n = n·f0·sqrt(1 + B·n²) that
decays as a free string does; the force at the bridge is the recorded note. What is compared is the energy that is
left after the note. Pairs a guitarist knows by ear (common practice, no source): fretted A makes the open A ring, E
all three of E, B and A, a semitone beside nothing.
"""

import numpy as np
import pytest
from fortimetra import load_take
from fortimetra.errors import SignalError
from fortimetra.model.drill import Drill
from fortimetra.model.guitar import STANDARD_TUNING, pitch_midi, preset
from fortimetra.units import midi_to_hz, name_to_midi
from fortimetra.workbench.calculator import read_inputs
from fortimetra.workbench.registry import CALCULATORS
from fortimetra.workbench.sympathy import (
    DECAY_S,
    USUAL_B,
    FreeString,
    answers,
    free_strings,
    partials_hz,
    risks,
    stiffness,
)
from scipy.signal import lfilter

from tests.core.test_damping import drill
from tests.reference.fluid import GUITARS, Tone, render

RATE_HZ = 22_050
FREE = tuple(FreeString(s, midi_to_hz(pitch_midi(n)), USUAL_B[s - 1]) for s, n in enumerate(STANDARD_TUNING, 1))


def rung_db(sound, string):
    """Energy of a free string after a note, dB, driven through its modes."""
    total = np.zeros(len(sound))
    for n, hz in enumerate(partials_hz(string.hz, b=string.b, most=16), 1):
        if hz > 5000.0:
            break
        radius, angle = np.exp(-1.0 / (DECAY_S * RATE_HZ)), 2.0 * np.pi * hz / RATE_HZ
        total += lfilter([np.sin(angle) / n], [1.0, -2.0 * radius * np.cos(angle), radius**2], sound)
    tail = total[-RATE_HZ // 2 :]
    return 10.0 * np.log10(np.mean(tail**2))


@pytest.fixture(scope="module")
def played(tmp_path_factory):
    """A note's sound by its MIDI number: 1.2 s, then silence."""
    folder = tmp_path_factory.mktemp("sympathy")

    def sound(midi):
        path = render([Tone(midi, 0.05, 1.2)], folder, program=GUITARS["steel"], rate_hz=RATE_HZ)
        samples = load_take(path).guitar().astype(np.float64)
        return np.pad(samples, (0, max(0, 2 * RATE_HZ - len(samples))))[: 2 * RATE_HZ]

    return sound


@pytest.mark.parametrize("note", ["A3", "E3", "B3", "D4", "G3", "E4", "A4", "C4", "F#3"])
def test_resonators_driven_by_a_recorded_note_ring_where_the_calculator_says(played, note):
    midi = round(name_to_midi(note))
    sound = played(midi)
    said = {a.string: a.strength_db for a in answers(midi_to_hz(midi), FREE, b=6e-5)}
    rung = {s.string: rung_db(sound, s) for s in FREE}
    strong = [s for s, db in said.items() if db >= -20.0]
    silent = [s for s in rung if s not in said]
    assert not strong or not silent or min(rung[s] for s in strong) > max(rung[s] for s in silent)
    if strong:
        assert max(said, key=said.__getitem__) in sorted(rung, key=rung.__getitem__)[-2:]


@pytest.mark.parametrize(
    ("note", "strings"),
    [
        ("A3", {5, 4}),
        ("E4", {1, 6, 5}),
        ("B3", {2, 6}),
        ("E3", {1, 6, 5, 2}),
        ("D4", {4, 3}),
        ("C4", set()),
        ("F4", set()),
    ],
)
def test_pairs_a_guitarist_knows(note, strings):
    found = {a.string for a in answers(midi_to_hz(name_to_midi(note)), FREE, b=6e-5)}
    assert found <= strings | {3} if note == "D4" else found == strings


def test_partials_are_the_textbooks():
    # Fletcher and Rossing 2.18: f_n = n f0 sqrt(1 + B n²), with f_1 = f0 sqrt(1 + B).
    f = partials_hz(100.0, b=1e-3, most=10)
    assert f[0] == pytest.approx(100.0)
    assert f[9] / f[0] == pytest.approx(10 * np.sqrt(1.1 / 1.001))
    # From memory: a plain steel string's B is of the order of 1e-5 to 1e-4, a thick plain third's the largest of the
    # thin ones.
    guitar = preset("solid")
    asked = drill([(3, 5, "1")])
    found = [stiffness(asked, s, guitar=guitar) for s in range(1, 7)]
    assert all(3e-6 < b < 6e-4 for b in found)


def test_a_detuned_string_answers_less():
    level = [
        next((a.strength_db for a in answers(220.0, [FreeString(5, 110.0 * 2 ** (c / 1200), 0.0)])), -99.0)
        for c in (0.0, 2.0, 5.0, 12.0, 30.0)
    ]
    assert level == sorted(level, reverse=True)
    assert level[0] > -7.0
    assert level[-1] == -99.0


def test_a_drills_risk_names_the_strings_that_are_free_to_answer():
    found = {r.string: r for r in risks(drill([(3, 2, "1")], [(3, 3, "2")]))}
    assert found[5].strength == "strong"
    assert found[5].events == ("e1",)
    assert 3 not in found


def test_a_bend_answers_at_its_target():
    bent = drill(([(3, 2, "3")], {"bend": {"kind": "bend", "target_cents": 200}}))
    # A3 up to B3: the open B takes it up.
    assert {r.string for r in risks(bent)} >= {2}
    assert isinstance(bent, Drill)
    assert len(free_strings(bent)) == 6


def test_bad_input_is_a_sentence():
    with pytest.raises(SignalError, match="no pitch of a guitar"):
        answers(5.0, FREE)
    calculator = CALCULATORS["sympathy"]
    with pytest.raises(SignalError):
        read_inputs(calculator, {"note": "H9"})
