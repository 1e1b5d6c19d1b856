"""Compiled medians are those of numpy; the scatter made of them and the median slope are scipy's."""

import numpy as np
import pytest
from fortimetra.medians import SLOPE_POINTS, finite_median, finite_medians, median_slope, robust_sd
from scipy import stats


@pytest.mark.parametrize("seed", range(5))
def test_the_scatter_is_the_scaled_median_absolute_deviation_of_scipy(seed):
    values = np.random.default_rng(seed).standard_normal(40 + seed)
    values[:8] *= 300.0
    assert robust_sd(values) == pytest.approx(stats.median_abs_deviation(values, scale="normal"), rel=1e-5)


def test_medians_leave_out_what_is_no_number():
    values = np.random.default_rng(2).standard_normal((7, 4))
    values[2:5, 1] = np.nan
    values[0, 2] = np.nan
    values[:, 3] = np.nan
    assert finite_medians(values)[:3] == pytest.approx(np.nanmedian(values[:, :3], axis=0))
    assert np.isnan(finite_medians(values)[3])
    assert np.isnan(finite_median(np.zeros(0)))


@pytest.mark.parametrize("n", [1, 2, 3, 4, 9, 10, 257])
@pytest.mark.parametrize("kind", [np.float32, np.float64])
def test_a_median_is_that_of_numpy_however_the_values_lie(n, kind):
    rng = np.random.default_rng(n)
    for values in (np.arange(n), -np.arange(n), np.zeros(n), rng.integers(0, 4, n), rng.standard_normal(n)):
        assert finite_median(values.astype(kind)) == pytest.approx(np.median(values.astype(kind).astype(float)))


@pytest.mark.parametrize("n", [2, 3, 40, SLOPE_POINTS - 1])
def test_a_median_slope_is_that_of_scipy(n):
    rng = np.random.default_rng(n)
    x = np.round(np.sort(rng.uniform(0.0, n, n)), 1) + np.linspace(0.0, 0.01, n)
    x[1::5] = x[::5][: len(x[1::5])]  # some at the same place
    x[-1] = n + 1.0
    y = 3.0 * x + rng.standard_t(2, n)
    assert median_slope(y, x) == pytest.approx(stats.theilslopes(y, x)[0], rel=1e-12)


def test_of_many_points_some_pairs_tell_the_slope_as_well():
    rng = np.random.default_rng(3)
    x = np.arange(3_000.0)
    errors = [
        [slope - 3.0 for slope in (median_slope(y, x), stats.theilslopes(y, x)[0])]
        for y in (3.0 * x + rng.standard_t(2, len(x)) for _ in range(4))
    ]
    some, every = np.sqrt(np.mean(np.square(errors), axis=0))
    assert some < 1.1 * every
