"""Drive is told from the tones it makes of two notes, whether it clips both sides alike or not."""

import numpy as np
import pytest
from fortimetra.measure.chord import chord_notes
from fortimetra.measure.strings import Part

from tests.core.sounds import RATE_HZ, noise, tone

# Sixths, a fourth and a third, as two strings have them (equal temperament).
LOWER_HZ = (220.0, 246.94, 196.0, 261.63)
SEMITONES = (9, 8, 5, 4)
LENGTH_S = 0.8


def chords(changed):
    """Four chords of two strings, what an amplifier makes of them, and their parts."""
    sounds, parts = [], []
    for i, (low_hz, above) in enumerate(zip(LOWER_HZ, SEMITONES, strict=True)):
        pair = (low_hz, low_hz * 2.0 ** (above / 12.0))
        at_s = i * LENGTH_S
        sounds.append(sum(tone(hz, LENGTH_S, decay_per_s=1.5) for hz in pair))
        parts.append([Part(i, 3 - n, 5, hz, at_s, at_s + LENGTH_S, False) for n, hz in enumerate(pair)])
    clean = np.concatenate(sounds)
    return (changed(clean) + noise(len(clean) / RATE_HZ, -75.0)).astype(np.float32), parts


CLIPPERS = {
    "alike on both sides": lambda x: 0.3 * np.tanh(6.0 * x),
    "harder on one side": lambda x: x + 1.2 * x**2,
    "cut off above only": lambda x: np.minimum(x, 0.12),
}


@pytest.mark.parametrize("kind", CLIPPERS)
def test_a_driven_chord_is_told_whatever_the_clipping(kind):
    sound, parts = chords(CLIPPERS[kind])
    assert chord_notes(sound, parts, rate_hz=RATE_HZ)[1]


@pytest.mark.parametrize("change", [lambda x: x, lambda x: 0.1 * x, lambda x: np.diff(x, prepend=0.0)])
def test_a_chord_that_is_only_louder_or_brighter_is_not_driven(change):
    sound, parts = chords(change)
    assert not chord_notes(sound, parts, rate_hz=RATE_HZ)[1]


def test_one_chord_is_too_few_to_tell():
    sound, parts = chords(CLIPPERS["alike on both sides"])
    assert not chord_notes(sound, parts[:1], rate_hz=RATE_HZ)[1]


def test_a_take_without_chords_says_nothing_of_drive():
    assert chord_notes(chords(lambda x: x)[0], [], rate_hz=RATE_HZ) == ([], False)
