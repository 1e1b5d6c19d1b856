"""Compiled medians are those of numpy, and the scatter made of them is scipy's."""

import numpy as np
import pytest
from fortimetra.medians import finite_median, finite_medians, robust_sd
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
