import doctest
import importlib
from pathlib import Path

import fortimetra
import fortimetra.units as units
import numpy as np
import pytest
from fortimetra import SignalError

CORE = Path(fortimetra.__file__).parent
WITH_EXAMPLES = sorted(
    "fortimetra." + ".".join(path.relative_to(CORE).with_suffix("").parts)
    for path in CORE.rglob("*.py")
    if ">>>" in path.read_text()
)


@pytest.mark.parametrize("module", WITH_EXAMPLES)
def test_examples_in_docstrings_hold(module):
    found = doctest.testmod(importlib.import_module(module))
    assert found.attempted > 0
    assert found.failed == 0


@pytest.mark.parametrize(
    ("name", "midi"),
    [("C4", 60), ("E2", 40), ("Bb3", 58), ("F##3", 55), ("B#3", 60), ("Cb4", 59), ("c-1", 0), ("D♭4", 61)],
)
def test_pitch_names_become_midi_numbers(name, midi):
    assert units.name_to_midi(name) == midi


@pytest.mark.parametrize("name", ["", "H2", "E", "2E", "E2 E3", "E10", "E#b2"])
def test_what_is_no_pitch_name_is_refused(name):
    with pytest.raises(SignalError, match="not a pitch name"):
        units.name_to_midi(name)


def test_cents_and_ratio_are_inverse():
    for cents in (-1200.0, -1.5, 0.0, 7.0, 250.0):
        assert units.hz_to_cents(440.0 * units.cents_to_ratio(cents), reference_hz=440.0) == pytest.approx(
            cents, abs=1e-9
        )


@pytest.mark.parametrize(
    ("hz", "reference"), [(0.0, 440.0), (-1.0, 440.0), (440.0, 0.0), (float("inf"), 440.0), (float("nan"), 440.0)]
)
def test_cents_of_what_is_no_frequency_is_refused(hz, reference):
    with pytest.raises(SignalError, match="above 0"):
        units.hz_to_cents(hz, reference_hz=reference)


def test_unvoiced_frames_stay_unvoiced_and_zero_is_refused():
    deviation = units.pitch_deviation_cents(np.array([np.nan, 880.0]), target_hz=440.0)
    assert np.isnan(deviation[0])
    assert deviation[1] == pytest.approx(1200.0)
    with pytest.raises(SignalError):
        units.pitch_deviation_cents(np.array([0.0]), target_hz=440.0)
