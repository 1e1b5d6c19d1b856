"""Linear and long-term prediction, held against scipy's solver of Toeplitz equations and numpy's least squares."""

import numpy as np
import pytest
from fortimetra.hear.foretold import beyond_period, stretches, unforetold
from fortimetra.hear.settings import ATTACK
from scipy import linalg, signal

RATE_HZ = 36_000
LEARN = 1620
WIDTH = 3204


def resonant(count=5, width=WIDTH, seed=3):
    """Noise through resonances, one row each."""
    rng = np.random.default_rng(seed)
    poles = np.exp(2j * np.pi * rng.uniform(0.01, 0.3, (count, 3))) * rng.uniform(0.9, 0.999, (count, 3))
    return np.array(
        [
            signal.lfilter([1.0], np.poly([*row, *row.conj()]).real, rng.standard_normal(width))
            for row in poles
        ]
    )  # fmt: skip


def test_the_sound_about_a_place_is_silence_beyond_its_ends():
    sound = np.arange(1, 11, dtype=np.float32)
    rows = stretches(sound, np.array([0, 5, 10, 40, -20]), 3, 2)
    assert rows.tolist() == [
        [0, 0, 0, 1, 2],
        [3, 4, 5, 6, 7],
        [8, 9, 10, 0, 0],
        [0, 0, 0, 0, 0],
        [0, 0, 0, 0, 0],
    ]


def test_what_is_not_foretold_is_the_error_of_the_toeplitz_equations():
    rows = resonant()
    found = unforetold(rows, LEARN)
    assert found.dtype == np.float32
    for row, error in zip(rows, found, strict=True):
        learned = row[:LEARN] * np.hanning(LEARN + 2)[1:-1]
        full = np.correlate(learned, learned, mode="full")[LEARN - 1 : LEARN + ATTACK.order]
        full[0] = full[0] * (1.0 + 1e-7) + ATTACK.floor**2 * LEARN
        weights = linalg.solve_toeplitz(full[:-1], full[1:])
        expected = signal.lfilter([1.0, *-weights], [1.0], row)
        assert np.allclose(error, expected, atol=1e-5 * np.abs(expected).max())


def test_noise_through_resonances_is_foretold_down_to_the_noise():
    rows = resonant(width=36_000)
    errors = unforetold(rows, 30_000)[:, ATTACK.order :]
    assert np.std(errors, axis=1) == pytest.approx(np.ones(len(rows)), rel=0.03)


def test_silence_stays_silence():
    error = unforetold(np.zeros((2, WIDTH)), LEARN)
    assert not error.any()
    assert not beyond_period(error, slice(ATTACK.order, LEARN), RATE_HZ).any()


@pytest.mark.parametrize("period", [260, 333, 430])
def test_what_repeats_with_a_period_is_taken_out_as_least_squares_would(period):
    # Twice as long is longer than any that is looked for.
    rng = np.random.default_rng(period)
    pulses = np.zeros(WIDTH)
    pulses[rng.integers(0, period) :: period] = 1.0
    rows = np.array([pulses + 0.02 * rng.standard_normal(WIDTH) for _ in range(3)], np.float32)
    known = slice(ATTACK.order, LEARN)
    left = beyond_period(rows, known, RATE_HZ)
    longest = round(ATTACK.periods_s[1] * RATE_HZ)
    learned = slice(known.start + longest + 2, known.stop)
    for row, rest in zip(rows, left, strict=True):
        padded = np.concatenate((np.zeros(longest + 2), row, np.zeros(2))).astype(np.float64)
        earlier = np.array([padded[longest + 2 - period + k :][:WIDTH] for k in range(-2, 3)])
        x, y = earlier[:, learned], row[learned].astype(np.float64)
        # A thousandth of the mean power is added to the diagonal, as the predictor does.
        gram = x @ x.T
        gram += np.eye(5) * (1e-3 * np.trace(gram) / 5 + 1e-12)
        expected = row - np.linalg.solve(gram, x @ y) @ earlier
        assert np.allclose(rest, expected, atol=1e-4)
        # Of a pulse that came before hardly anything is left; of the first, which nothing foretold, all.
        at = np.flatnonzero(pulses)
        assert np.abs(rest[at[at >= 2 * period]]).max() < 0.35
        assert rest[at[0]] > 0.9
