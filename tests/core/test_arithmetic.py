"""Arithmetic against computations by other libraries, by hand and by definition."""

from __future__ import annotations

import numpy as np
import pytest
import statsmodels.api as sm
from hypothesis import given, settings
from hypothesis import strategies as st
from scipy import stats

from zembra.core.arithmetic import trends
from zembra.core.arithmetic.arrays import Floats
from zembra.core.arithmetic.season import season_chance
from zembra.core.arithmetic.shifts import _correlation, _long_run_spread, find_shifts
from zembra.core.arithmetic.totals import before_by, per_period, running_total, spread_back


def season_chance_by_library(values: Floats, season: int) -> float:
    """The same test by statsmodels, a model fitted for each number of lags."""
    most = max(0, min(12, values.size // 10, season - 1))
    furthest = min(most + 2, season - 1)
    rows = np.arange(furthest, values.size)
    dummies = np.eye(season)[rows % season]
    time = np.linspace(-1, 1, rows.size)[:, None]

    def lagged(count: int) -> Floats:
        return np.column_stack([time, *(values[rows - lag] for lag in range(1, count + 1))])

    def fitted(count: int) -> tuple[float, float]:
        """(AICc with dummies, p-value of the dummies)"""
        full = sm.OLS(values[rows], np.column_stack([dummies, lagged(count)])).fit()
        without = sm.OLS(values[rows], np.column_stack([np.ones(rows.size), lagged(count)])).fit()
        k = season + 1 + count + 1
        n = rows.size
        aicc = n * np.log(full.ssr / n) + 2 * k + 2 * k * (k + 1) / (n - k - 1)
        return float(aicc), float(full.compare_f_test(without)[1])

    each = [fitted(count) for count in range(furthest + 1)]
    best = int(np.argmin([aicc for aicc, _ in each[: most + 1]]))
    return max(chance for _, chance in each[best : best + 3])


@pytest.mark.parametrize("season", [4, 7, 12])
@pytest.mark.parametrize("seed", range(6))
def test_the_chance_of_a_season_is_that_of_an_f_test_by_a_library(season: int, seed: int) -> None:
    rng = np.random.default_rng(100 * season + seed)
    noise = rng.normal(size=70 + 11 * seed)
    for step in range(1, noise.size):
        noise[step] += 0.15 * seed * noise[step - 1]
    values = noise + 0.4 * np.sin(2 * np.pi * np.arange(noise.size) / season) * (seed % 2)
    assert season_chance(values, season) == pytest.approx(season_chance_by_library(values, season), rel=1e-8)


@given(st.lists(st.floats(0.0, 100.0), min_size=6, max_size=30), st.integers(1, 4), st.integers(0, 60))
@settings(max_examples=60)
def test_a_correction_is_shared_by_what_came_before_it(amounts: list[float], every: int, share: int) -> None:
    """The total stays, nothing falls below zero, and what came in keeps its proportions."""
    came_in = np.array([50.0, *amounts])
    place = 2 + every
    total = np.cumsum(came_in)
    down = share / 100 * total[place - 1]
    total[place:] -= came_in[place] + down
    made = per_period(total, 0.1, spread=True)
    after = spread_back(made)
    if made.corrections.tolist() == [place] and not made.resets.size:
        before = made.values[1:place]
        if not 0 < down <= before.sum():
            np.testing.assert_array_equal(after.values, made.values)
            return
        assert np.nansum(after.values[1 : place + 1]) == pytest.approx(total[place] - total[0], abs=1e-9 * total.max())
        assert (after.values[1 : place + 1] >= 0).all()
        if after.values[1:place].sum() > 0:
            own = after.values[1:place] / after.values[1:place].sum()
            np.testing.assert_allclose(own, before / before.sum(), atol=1e-12)
            assert after.values[place] == pytest.approx(after.values[1:place].mean(), abs=1e-9)
            assert after.estimated[1 : place + 1].all()
    np.testing.assert_array_equal(after.values[place + 1 :], made.values[place + 1 :])


def test_a_total_that_falls_by_rounding_alone_is_no_correction() -> None:
    total = np.array([0.1, 0.1 + 0.2, 0.3, 0.7, 0.6])
    made = per_period(total, 0.1, spread=True)
    np.testing.assert_allclose(made.values[1:], [0.2, 0.0, 0.4, -0.1])
    assert made.values[2] == 0.0
    assert made.corrections.tolist() == [4]


@given(st.sets(st.integers(-50, 50), min_size=1), st.integers(-7, 7))
def test_the_value_some_periods_before(periods: set[int], lag: int) -> None:
    own = np.array(sorted(periods))
    values = own * 1.5
    known = dict(zip(own.tolist(), values.tolist(), strict=True))
    wanted = [known.get(period - lag, np.nan) for period in own.tolist()]
    np.testing.assert_array_equal(before_by(values, own, lag), wanted)


@given(st.lists(st.one_of(st.none(), st.integers(-9, 9)), min_size=1, max_size=30), st.sets(st.integers(0, 29)))
def test_a_running_total_by_adding_up(cells: list[int | None], restarts: set[int]) -> None:
    values = np.array([np.nan if cell is None else float(cell) for cell in cells])
    first = np.array(sorted(place for place in restarts if place < values.size), dtype=np.int64)
    total, wanted = 0.0, []
    for place, value in enumerate(values.tolist()):
        total = 0.0 if place in first else total
        total += 0.0 if np.isnan(value) else value
        wanted.append(np.nan if np.isnan(value) else total)
    np.testing.assert_array_equal(running_total(values, np.isin(np.arange(values.size), first)), wanted)


def test_errors_of_trend_lines_are_those_of_other_libraries() -> None:
    rng = np.random.default_rng(5)
    x = np.arange(40.0) + 3
    y = 12 + 0.7 * x - 0.01 * x**2 + rng.normal(size=40)

    found = stats.theilslopes(y, x)
    robust = trends.median_slopes(x, y)
    assert [term.value for term in robust.terms] == pytest.approx([found.intercept, found.slope])
    # a normal estimate has its 95 % interval 1.96 standard errors either side
    assert robust.terms[1].error == pytest.approx((found.high_slope - found.low_slope) / 2 / stats.norm.ppf(0.975))

    design = np.vander(x, 4, increasing=True)
    library = sm.OLS(y, design).fit()
    curve = trends.curved(x, y, 3)
    assert curve is not None
    assert curve.error_at is not None
    ahead = np.array([1.0, 20.5, 50.0])
    told = library.get_prediction(np.vander(ahead, 4, increasing=True))
    np.testing.assert_allclose(curve.at(ahead), told.predicted_mean, rtol=1e-8)
    np.testing.assert_allclose(curve.error_at(ahead), told.se_mean, rtol=1e-6)
    np.testing.assert_allclose([term.error for term in curve.terms], library.bse, rtol=1e-6)

    turns = [2 * np.pi * k * x / 9 for k in (1, 2)]
    waves = sm.OLS(y, np.column_stack([np.ones(40), x, *(w for t in turns for w in (np.sin(t), np.cos(t)))])).fit()
    wave = trends.harmonic(x, y, 9, 2)
    assert wave is not None
    assert wave.slope == pytest.approx(waves.params[1])
    assert wave.terms[1].error == pytest.approx(waves.bse[1])
    np.testing.assert_allclose([term.value for term in wave.terms[2:]], waves.params[2:], rtol=1e-7)
    np.testing.assert_allclose([term.error for term in wave.terms[2:]], waves.bse[2:], rtol=1e-7)

    quantile = trends.percentile_line(x, y, 0.75)
    library = sm.QuantReg(y, sm.add_constant(x)).fit(q=0.75)
    assert [term.value for term in quantile.terms] == pytest.approx(library.params.tolist())
    assert [term.error for term in quantile.terms] == pytest.approx(library.bse.tolist())
    assert (y <= quantile.at(x) + 1e-9).mean() == pytest.approx(0.75, abs=0.05)


def test_the_correlation_of_noise_is_told_without_the_bias_of_few_points() -> None:
    """Kendall (1954): a sample's autocorrelation is too low by (1 + 4 ρ) / n on average."""
    rng = np.random.default_rng(8)
    for truth in (0.3, 0.6):
        found = []
        for _ in range(400):
            noise = rng.normal(size=60)
            for step in range(1, 60):
                noise[step] += truth * noise[step - 1]
            found.append(_correlation(noise[10:]))
        assert np.mean(found) == pytest.approx(truth, abs=0.03)
    rest = np.array([1.0, -2, 3, 1, -1, 0, 2, -3, 1, 1])
    centred = rest - rest.mean()
    plain = (centred[1:] * centred[:-1]).sum() / (centred**2).sum()
    assert _correlation(rest) == max(0.0, plain + (1 + 4 * plain) / 10)
    assert _correlation(-np.arange(3.0)) == 0.0
    rising = np.arange(30.0)
    assert _long_run_spread(rising) == pytest.approx(rising.std() / (1 - _correlation(rising)))


@pytest.mark.parametrize("shortest", [12, 20])
def test_a_shift_is_found_where_two_stretches_just_fit(shortest: int) -> None:
    rng = np.random.default_rng(2)
    values = np.concatenate((np.zeros(shortest), np.full(shortest, 50.0))) + rng.normal(size=2 * shortest)
    assert [shift.place for shift in find_shifts(values, None, shortest, 10.0)] == [shortest]
    assert find_shifts(values[:-1], None, shortest, 10.0) == []
