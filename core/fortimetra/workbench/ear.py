"""The ear check: how small a difference somebody hears, in pitch, time or level.

Method: a transformed up-down staircase chooses the differences, two right answers down, one wrong up, so that most lie
where 71 % of the answers are right (Levitt, J. Acoust. Soc. Am. 49(2B), 1971, p. 467). The difference halves and
doubles until the second turn, then moves by a factor of √2. All answers together give the threshold: what is heard is
the difference plus Gaussian noise, "the same" is said within a margin (equal-variance signal detection; Green &
Swets, Signal Detection Theory and Psychophysics, 1966), and both are estimated with flat priors on a grid. Every
fifth trial has no difference: how often something is heard where nothing is stands beside the result.
"""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass
from typing import Literal

import numpy as np

from fortimetra.units import FloatArray, cents_to_ratio
from fortimetra.workbench.tones import RATE_HZ, click_track, plucked

EarKind = Literal["pitch", "bend", "timing", "level"]
Said = Literal["under", "same", "over"]
EAR_KINDS: tuple[EarKind, ...] = ("pitch", "bend", "timing", "level")
UNITS: dict[EarKind, str] = {"pitch": "cents", "bend": "cents", "timing": "ms", "level": "db"}
_START: dict[EarKind, float] = {"pitch": 40.0, "bend": 40.0, "timing": 80.0, "level": 6.0}
_LEAST: dict[EarKind, float] = {"pitch": 0.5, "bend": 0.5, "timing": 1.0, "level": 0.1}
_MOST: dict[EarKind, float] = {"pitch": 100.0, "bend": 100.0, "timing": 150.0, "level": 12.0}
TURNS_NEEDED, TURNS_AT_LEAST, MOST_TRIALS = 9, 5, 36
RIGHT_SHARE = math.sqrt(0.5)
LAPSE = 0.02
EMPTY_EVERY = 5
_BPM = 80.0


@dataclass(frozen=True)
class Trial:
    """One question. difference is signed, in the unit of its kind; 0 in a trial without a difference."""

    number: int
    difference: float
    base_midi: int


@dataclass(frozen=True)
class EarResult:
    """threshold: smallest difference told right 71 times of 100; u expanded; None where the answers do not settle."""

    threshold: float | None
    u: float | None
    trials: int
    false_alarms: float | None
    reason: str | None = None


@dataclass(frozen=True)
class EarState:
    """What comes next: a trial, or the result."""

    trial: Trial | None
    result: EarResult | None
    answered: int
    turns: int


def ear_state(kind: EarKind, *, seed: int, said: Sequence[Said]) -> EarState:
    """Replay all answers so far; a pure function of kind, seed and answers."""
    size = _START[kind]
    right_in_row = 0
    last_way = 0
    turns: list[float] = []
    differences: list[float] = []
    empty = heard_nothing = 0
    for number, answer in enumerate(said):
        trial = _trial(kind, seed, number, size)
        differences.append(trial.difference)
        if trial.difference == 0.0:
            empty += 1
            heard_nothing += answer != "same"
            continue
        way = 0
        if answer == ("over" if trial.difference > 0 else "under"):
            right_in_row += 1
            if right_in_row == 2:
                way, right_in_row = -1, 0
        else:
            way, right_in_row = 1, 0
        if way:
            if last_way and way != last_way:
                turns.append(size)
            last_way = way
            factor = 2.0 if len(turns) < 2 else math.sqrt(2.0)
            size = min(_MOST[kind], max(_LEAST[kind], size * factor**way))
    done = len(turns) >= TURNS_NEEDED or len(said) >= MOST_TRIALS
    result = None
    if done:
        false_alarms = heard_nothing / empty if empty else None
        result = _result(kind, differences, said, settled=len(turns) >= TURNS_AT_LEAST, false_alarms=false_alarms)
    return EarState(None if done else _trial(kind, seed, len(said), size), result, len(said), len(turns))


def _trial(kind: EarKind, seed: int, number: int, size: float) -> Trial:
    rng = np.random.default_rng((seed, number))
    sign = 1.0 if rng.random() < 0.5 else -1.0
    base = int(rng.integers(55, 68))
    is_empty = number % EMPTY_EVERY == EMPTY_EVERY - 1
    return Trial(number, 0.0 if is_empty else sign * size, base)


def _result(
    kind: EarKind, differences: list[float], said: Sequence[Said], *, settled: bool, false_alarms: float | None
) -> EarResult:
    if not settled:
        return EarResult(None, None, len(said), false_alarms, "not_settled")
    from scipy.special import ndtr, ndtri

    noise = np.geomspace(0.2 * _LEAST[kind], 2.0 * _MOST[kind], 160)[:, None]
    margin = np.linspace(0.0, 2.0, 41)[None, :]
    likelihood = np.zeros((160, 41))
    for difference, answer in zip(differences, said, strict=True):
        over = ndtr(difference / noise - margin)
        under = ndtr(-difference / noise - margin)
        share = {"over": over, "under": under, "same": 1.0 - over - under}[answer]
        likelihood += np.log((1.0 - LAPSE) * share + LAPSE / 3.0)
    weight = np.exp(likelihood - likelihood.max())
    threshold = np.broadcast_to(noise * (margin + ndtri(RIGHT_SHARE)), weight.shape)
    order = np.argsort(threshold, axis=None)
    total = np.cumsum(weight.ravel()[order])
    low, middle, high = (
        float(threshold.ravel()[order][np.searchsorted(total, q * total[-1])]) for q in (0.025, 0.5, 0.975)
    )
    if middle >= 0.9 * _MOST[kind]:
        return EarResult(None, None, len(said), false_alarms, "beyond_range")
    return EarResult(middle, max(high - middle, middle - low), len(said), false_alarms)


def trial_sound(kind: EarKind, trial: Trial) -> FloatArray:
    """What is heard in a trial, shape (n_samples,): the reference first, then what is to be judged."""
    hz = 440.0 * 2.0 ** ((trial.base_midi - 69) / 12.0)
    gap = np.zeros(round(0.25 * RATE_HZ))
    if kind == "pitch":
        return np.concatenate((plucked(hz, 0.9), gap, plucked(hz * cents_to_ratio(trial.difference), 0.9)))
    if kind == "bend":
        time = np.arange(round(1.3 * RATE_HZ)) / RATE_HZ
        rise = 0.5 - 0.5 * np.cos(np.pi * np.clip((time - 0.1) / 0.25, 0.0, 1.0))
        bent = hz * 2.0 ** ((-200.0 + rise * (200.0 + trial.difference)) / 1200.0)
        return np.concatenate((plucked(hz, 0.9), gap, plucked(bent, 1.3)))
    if kind == "level":
        first, second = plucked(hz, 0.9, level=0.2), plucked(hz, 0.9, level=0.2)
        return np.concatenate((first, gap, second * 10.0 ** (trial.difference / 20.0)))
    return _on_the_click(hz, trial.difference)


def _on_the_click(hz: float, late_ms: float) -> FloatArray:
    """Four clicks; a note with the fourth, early or late."""
    click = click_track(bpm=_BPM, bars=1, count_in_bars=0, accent=False).samples * 0.6
    sound = np.concatenate((click, np.zeros(RATE_HZ // 2)))
    start = round((3.0 * 60.0 / _BPM + late_ms / 1000.0) * RATE_HZ)
    note = plucked(hz, 0.7)
    sound[start : start + len(note)] += note[: len(sound) - start]
    return sound
