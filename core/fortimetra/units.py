"""Conversions between the units of the trade.

Conventions: cents are 1200·log2 of a frequency ratio, positive is sharp; MIDI numbers may have
fractions, 69 is A4; dB are 20·log10 of an amplitude ratio. Equal temperament after ISO 16:1975
(A4 = 440 Hz unless a drill says otherwise).
"""

from __future__ import annotations

import math
import re
from functools import lru_cache

import numpy as np
from numpy.typing import NDArray

from fortimetra.errors import SignalError

FloatArray = NDArray[np.float64]
MAD_TO_SD = 1.4826  # of a normal distribution: 1 / Φ⁻¹(3/4)

A4_HZ = 440.0
A4_MIDI = 69
_SEMITONE = {"C": 0, "D": 2, "E": 4, "F": 5, "G": 7, "A": 9, "B": 11}
_NAME = re.compile(r"^([A-Ga-g])(#{1,2}|b{1,2}|♯|♭)?(-?\d)$")
_SHARPS = ("C", "C#", "D", "D#", "E", "F", "F#", "G", "G#", "A", "A#", "B")


def midi_to_hz(midi: float, *, a4_hz: float = A4_HZ) -> float:
    """Frequency of an equal-tempered pitch.

    >>> round(midi_to_hz(40), 3)
    82.407
    """
    return float(a4_hz * 2.0 ** ((midi - A4_MIDI) / 12.0))


def hz_to_midi(hz: float, *, a4_hz: float = A4_HZ) -> float:
    """Equal-tempered pitch of a frequency, with its fraction.

    Raises SignalError(code="not_positive") if hz is not above 0.

    >>> hz_to_midi(880.0)
    81.0
    """
    return A4_MIDI + hz_to_cents(hz, reference_hz=a4_hz) / 100.0


def hz_to_cents(hz: float, *, reference_hz: float) -> float:
    """Signed distance in cents; positive is sharp.

    Raises SignalError(code="not_positive") if a frequency is not above 0 or not finite.

    >>> round(hz_to_cents(441.0, reference_hz=440.0), 2)
    3.93
    """
    if not (hz > 0 and reference_hz > 0 and math.isfinite(hz) and math.isfinite(reference_hz)):
        raise SignalError("not_positive", f"Frequencies must be above 0 Hz; got {hz} and {reference_hz}.")
    return 1200.0 * math.log2(hz / reference_hz)


def cents_to_ratio(cents: float) -> float:
    """Frequency ratio of an interval.

    >>> cents_to_ratio(1200.0)
    2.0
    """
    return float(2.0 ** (cents / 1200.0))


def pitch_deviation_cents(f0_hz: FloatArray, *, target_hz: float) -> FloatArray:
    """Signed distance of each frame from the target; positive is sharp.

    f0_hz: float64, shape (n_frames,), Hz. NaN marks an unvoiced frame.
    target_hz: Hz, > 0, at the player's reference A4.
    Returns float64, shape (n_frames,), cents. Unvoiced stays NaN: silence is not in tune.
    Raises SignalError(code="not_positive") if a value is <= 0 or infinite.

    >>> pitch_deviation_cents(np.array([440.0, 441.0, np.nan]), target_hz=440.0).round(1)
    array([0. , 3.9, nan])
    """
    voiced = f0_hz[~np.isnan(f0_hz)]
    if not (target_hz > 0 and math.isfinite(target_hz)) or np.any(voiced <= 0) or np.any(np.isinf(voiced)):
        raise SignalError("not_positive", "Frequencies must be above 0 Hz and finite.")
    return np.asarray(1200.0 * np.log2(f0_hz / target_hz), dtype=np.float64)


def amplitude_to_db(amplitude: float, *, floor_db: float = -200.0) -> float:
    """Level of an amplitude relative to 1; silence is the floor.

    >>> amplitude_to_db(0.5).__round__(2)
    -6.02
    """
    return max(floor_db, 20.0 * math.log10(amplitude)) if amplitude > 0 else floor_db


@lru_cache(maxsize=256)
def name_to_midi(name: str) -> int:
    """MIDI number of a scientific pitch name: letter, sharps (#) or flats (b), octave.

    Raises SignalError(code="not_a_pitch") for anything else.

    >>> name_to_midi("E2"), name_to_midi("Bb3"), name_to_midi("F#4")
    (40, 58, 66)
    """
    match = _NAME.match(name.strip())
    if not match:
        raise SignalError("not_a_pitch", f"{name!r} is not a pitch name; write for example E2, F#3 or Bb3.")
    letter, accidental, octave = match.groups()
    shift = {"#": 1, "♯": 1, "b": -1, "♭": -1}.get((accidental or "#")[0], 0) * len(accidental or "")
    return _SEMITONE[letter.upper()] + shift + 12 * (int(octave) + 1)


def midi_to_name(midi: float) -> str:
    """Nearest pitch name, with sharps.

    >>> midi_to_name(39.8)
    'E2'
    """
    nearest = round(midi)
    return f"{_SHARPS[nearest % 12]}{nearest // 12 - 1}"


def beat_hz(cents: float, *, at_hz: float) -> float:
    """Beats per second between a tone and another `cents` above it.

    >>> round(beat_hz(10.0, at_hz=440.0), 2)
    2.55
    """
    return at_hz * (cents_to_ratio(cents) - 1.0)


def rounded(value: float | None, digits: int) -> float | None:
    """A value to so many decimal places; None stays None.

    >>> rounded(2.345, 1), rounded(None, 1)
    (2.3, None)
    """
    return None if value is None else round(float(value), digits)
