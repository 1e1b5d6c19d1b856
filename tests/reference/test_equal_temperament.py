"""Equal temperament and beats.

Sources: ISO 16:1975 (A4 = 440 Hz); note frequencies of the open strings as printed in handbooks of acoustics, to
three decimals (from memory); a fret is one hundred cents, a half bend one fret, a full bend two (common practice, no
source); beat frequency as the difference of two frequencies (any textbook of acoustics).
"""

import librosa
import pytest
from fortimetra import Drill
from fortimetra.drills.fretted_then_bend import fretted_then_bend
from fortimetra.model.drill import DrillNote
from fortimetra.model.guitar import STANDARD_TUNING
from fortimetra.units import beat_hz, cents_to_ratio, hz_to_midi, midi_to_hz, midi_to_name, name_to_midi

OPEN_STRINGS_HZ = {"E2": 82.407, "A2": 110.000, "D3": 146.832, "G3": 195.998, "B3": 246.942, "E4": 329.628}


@pytest.mark.parametrize(("name", "hz"), OPEN_STRINGS_HZ.items())
def test_open_strings_have_their_frequencies(name, hz):
    assert midi_to_hz(name_to_midi(name)) == pytest.approx(hz, abs=5e-4)


@pytest.mark.parametrize("midi", range(20, 91))
def test_every_semitone_agrees_with_librosa(midi):
    assert midi_to_hz(midi) == pytest.approx(librosa.midi_to_hz(midi), rel=1e-12)
    assert hz_to_midi(float(librosa.midi_to_hz(midi))) == pytest.approx(midi, abs=1e-9)
    assert name_to_midi(midi_to_name(midi)) == librosa.note_to_midi(librosa.midi_to_note(midi))


def test_ten_cents_at_a4_beat_two_and_a_half_times_a_second():
    assert beat_hz(10.0, at_hz=440.0) == pytest.approx(2.55, abs=0.005)


@pytest.mark.parametrize(("cents", "frets"), [(100, 1), (200, 2), (300, 3)])
def test_a_bend_sounds_the_fret_it_is_named_after(cents, frets):
    drill: Drill = fretted_then_bend(title="t", string=3, fret=7, target_cents=cents)
    bent = drill.hz(DrillNote(string=3, fret=7)) * cents_to_ratio(cents)
    assert bent == pytest.approx(drill.hz(DrillNote(string=3, fret=7 + frets)), rel=1e-12)


def test_string_two_sounds_as_string_three_four_frets_higher():
    drill = fretted_then_bend(title="t", string=3, fret=7, tuning=STANDARD_TUNING)
    assert drill.hz(DrillNote(string=2, fret=5)) == pytest.approx(drill.hz(DrillNote(string=3, fret=9)), rel=1e-12)
