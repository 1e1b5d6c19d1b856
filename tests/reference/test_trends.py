"""Trends and intervals against SciPy's own: Theil's slope with Sen's interval, Wilson's interval."""

from __future__ import annotations

import numpy as np
import pytest
from fortimetra.coach.progress import pool_bends, trend
from fortimetra.coach.series import clean_share
from scipy import stats


@pytest.mark.parametrize("seed", range(12))
def test_slope_and_interval_are_scipys(seed):
    chance = np.random.default_rng(seed)
    n = int(chance.integers(5, 80))
    days = np.sort(chance.integers(0, 90, n)).astype(float)
    values = 20 - 0.15 * days + chance.normal(0, 3, n)
    if seed % 3 == 0:
        values = np.round(values)  # ties, as takes of one percentage are
    found = trend(days.tolist(), values.tolist())
    theirs = stats.theilslopes(values, days, alpha=0.95)
    assert found.per_week == pytest.approx(7 * theirs.slope, rel=1e-9, abs=1e-12)
    assert found.low == pytest.approx(7 * theirs.low_slope, rel=1e-9, abs=1e-12)
    assert found.high == pytest.approx(7 * theirs.high_slope, rel=1e-9, abs=1e-12)


def test_scatter_is_called_a_change_about_as_rarely_as_said():
    chance = np.random.default_rng(7)
    sure = [trend(np.arange(12.0).tolist(), chance.normal(0, 5, 12).tolist()).sure for _ in range(1500)]
    assert np.mean(sure) < 0.06


def test_one_odd_take_does_not_bend_a_trend():
    days = [float(7 * i) for i in range(9)]
    values = [-(30.0 - 3 * i) for i in range(9)]
    values[4] = -90.0
    found = trend(days, values)
    assert found.per_week == pytest.approx(3.0, abs=0.6)


def test_too_few_takes_or_one_day_have_no_trend():
    assert trend([0.0, 1.0, 2.0, 3.0], [1.0, 2.0, 3.0, 4.0]) is None
    assert trend([5.0] * 8, list(range(8))) is None
    with pytest.raises(ValueError, match="values"):
        trend([1.0], [])


@pytest.mark.parametrize(("clean", "of"), [(0, 10), (5, 10), (19, 20), (16, 16), (300, 320)])
def test_the_share_of_clean_notes_is_known_as_far_as_wilson_says(clean, of):
    low, high = stats.binomtest(clean, of).proportion_ci(0.95, method="wilson")
    found = clean_share(clean, of)
    assert found.value == pytest.approx(100 * clean / of)
    assert found.u == pytest.approx(100 * max(clean / of - low, high - clean / of), abs=1e-6)


def test_bends_of_one_place_are_put_together_with_what_they_differ_by():
    pooled = pool_bends([(3, 7, 200.0, 4, -20.0, 1.0), (3, 7, 200.0, 4, -10.0, 1.0), (2, 8, 200.0, 3, 4.0, 2.0)])
    assert [(p.string, p.fret, p.takes, p.count, p.error_cents) for p in pooled] == [
        (2, 8, 1, 3, 4.0),
        (3, 7, 2, 8, -15.0),
    ]
    assert pooled[0].u == 2.0
    assert pooled[1].u == pytest.approx(2 * np.std([-20, -10], ddof=1) / np.sqrt(2))
