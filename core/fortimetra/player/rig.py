"""What a simulated recording chain does to the sound: automatic gain, a noise gate, an offset. Invented data."""

from __future__ import annotations

from typing import Any

import numpy as np
from numba import njit

from fortimetra.units import FloatArray

TARGET_DBFS = -18.0
MOST_GAIN_DB = 36.0
ATTACK_S = 0.01
GATE_FALL_S = 0.03
_DETECTOR_S = 0.02


def automatic_gain(sound: FloatArray, *, rate_hz: int, release_db_per_s: float) -> FloatArray:
    """Sound, shape (n_samples,), under a gain that falls at once when it is loud and climbs when it is soft."""
    return np.asarray(
        sound * _gain(_envelope_db(sound, rate_hz), release_db_per_s / rate_hz, 1.0 / (ATTACK_S * rate_hz))
    )


def gate(sound: FloatArray, *, rate_hz: int, threshold_dbfs: float, range_db: float = 30.0) -> FloatArray:
    """Sound, shape (n_samples,), turned down by range_db where it is under the threshold."""
    open_ = (_envelope_db(sound, rate_hz) > threshold_dbfs).astype(np.float64)
    return np.asarray(sound * 10.0 ** (-range_db * (1.0 - _follow(open_, 1.0 / (GATE_FALL_S * rate_hz))) / 20.0))


def _envelope_db(sound: FloatArray, rate_hz: int) -> FloatArray:
    return np.asarray(10.0 * np.log10(_follow(np.square(sound), 1.0 / (_DETECTOR_S * rate_hz)) + 1e-12) + 3.0)


@njit(cache=True)
def _follow(values: Any, share: float) -> Any:
    out = np.empty(len(values))
    state = 0.0
    for i in range(len(values)):
        state += share * (values[i] - state) if values[i] < state else 0.2 * (values[i] - state)
        out[i] = state
    return out


@njit(cache=True)
def _gain(level_db: Any, release_db: float, attack_share: float) -> Any:
    out = np.empty(len(level_db))
    gain_db = 0.0
    for i in range(len(level_db)):
        wanted = min(MOST_GAIN_DB, TARGET_DBFS - level_db[i])
        if wanted < gain_db:
            gain_db += attack_share * (wanted - gain_db)
        else:
            gain_db = min(wanted, gain_db + release_db)
        out[i] = 10.0 ** (gain_db / 20.0)
    return out
