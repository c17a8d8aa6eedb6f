"""Trend lines of every form against SciPy, statsmodels and numpy, carried, banded, and told."""

from __future__ import annotations

from datetime import date

import numpy as np
import pandas as pd
import pytest
import statsmodels.api as sm
from scipy import stats
from scipy.linalg import toeplitz
from scipy.signal import lfilter

from tests.help import curves, daily_csv, run_csv, run_values
from zembra.core.arithmetic.correlatederrors import correlated_errors
from zembra.core.arithmetic.trends import straight
from zembra.core.calendar.months import CalendarUnit
from zembra.core.entries.readings.clauses.trends import (
    CarriedPeriods,
    CarriedTime,
    CarriedTo,
    CountedFrom,
    Growth,
    Local,
    Logarithmic,
    MedianSlopes,
    PercentileLine,
    Polynomial,
    Power,
    Robustly,
    Straight,
    WithWave,
)
from zembra.core.entries.readings.trend import Around, Over, Trend
from zembra.core.entries.repairs.follow import Follow
from zembra.core.entries.repairs.marked_shift import Shift
from zembra.core.ledger.run import Result
from zembra.core.ledger.shapes import Area, Rests

RNG = np.random.default_rng(21)
N = 80
X = np.arange(N, dtype=float)
Y = (50 + 0.4 * X + RNG.normal(0, 4, N)).round(3)
CELLS: list[float | None] = [None if n % 13 == 5 else v for n, v in enumerate(Y.tolist())]
KNOWN = np.array([n for n, v in enumerate(CELLS) if v is not None])


def fitted(*entries: Trend, cells: list[float | None] = CELLS) -> Result:
    result = run_values(cells, *entries)
    assert not result.problems, result.problems[0].problem
    return result


def row(result: Result) -> dict[str, object]:
    table = result.reports[-1].outcome.evidence[0]
    return dict(zip((column.key for column in table.columns), table.rows[0], strict=True))


def terms(result: Result) -> dict[str, tuple[float, float | None]]:
    return {str(name): (value, error) for _, name, value, error in result.reports[-1].outcome.evidence[1].rows}  # type: ignore[misc]


def test_straight_is_linregress_with_its_errors_and_gains() -> None:
    result = fitted(Trend())
    ours, theirs = row(result), stats.linregress(X[KNOWN], Y[KNOWN])
    (curve,) = curves(result)
    np.testing.assert_allclose(curve.value, theirs.intercept + theirs.slope * X)
    found = terms(result)
    assert found["b"] == (pytest.approx(theirs.slope), pytest.approx(theirs.stderr))
    assert found["a"] == (pytest.approx(theirs.intercept), pytest.approx(theirs.intercept_stderr))
    assert ours["r2"] == pytest.approx(theirs.rvalue**2)
    assert ours["step"] == pytest.approx(theirs.slope)
    assert ours["year"] == pytest.approx(theirs.slope * 365.2425)
    assert curve.label is not None
    assert curve.label[0] == "straight trend"
    assert curve.label[1].startswith("y = ")


def test_r2_of_a_line_through_a_given_value_can_be_compared() -> None:
    """Round the mean like that of every form: one that must pass through a value never fits better than one that need not."""
    result = fitted(Trend(form=Straight(intercept=50)))
    theirs = sm.OLS(Y[KNOWN] - 50, X[KNOWN]).fit()
    assert terms(result)["b"] == (pytest.approx(theirs.params[0]), pytest.approx(theirs.bse[0]))
    known = Y[KNOWN]
    assert row(result)["r2"] == pytest.approx(1 - theirs.ssr / ((known - known.mean()) ** 2).sum())
    free = fitted(Trend(form=Straight()))
    assert row(result)["r2"] < row(free)["r2"]
    assert row(result)["space"] == "values, R² round their mean"


@pytest.mark.parametrize("degree", [2, 3, 6])
def test_polynomials_are_numpys(degree: int) -> None:
    result = fitted(Trend(form=Polynomial(degree=degree)))
    theirs = np.polynomial.Polynomial.fit(X[KNOWN], Y[KNOWN], degree)
    np.testing.assert_allclose(curves(result)[0].value, theirs(X), rtol=1e-9)
    np.testing.assert_allclose([v for v, _ in terms(result).values()], theirs.convert().coef, rtol=1e-6)


def test_forms_with_logarithms_begin_at_one_and_say_where_they_were_fitted() -> None:
    x = X + 1
    log = fitted(Trend(form=Logarithmic()))
    theirs = stats.linregress(np.log(x[KNOWN]), Y[KNOWN])
    np.testing.assert_allclose(curves(log)[0].value, theirs.intercept + theirs.slope * np.log(x))
    assert log.reports[-1].outcome.evidence[0].columns[2].title == "x is 1 at"
    power = fitted(Trend(form=Power()))
    theirs = stats.linregress(np.log(x[KNOWN]), np.log(Y[KNOWN]))
    np.testing.assert_allclose(curves(power)[0].value, np.exp(theirs.intercept) * x**theirs.slope)
    assert (row(power)["space"], row(power)["r2"]) == (
        "logarithms, R² round their mean",
        pytest.approx(theirs.rvalue**2),
    )
    growth = fitted(Trend(form=Growth()))
    theirs = stats.linregress(X[KNOWN], np.log(Y[KNOWN]))
    np.testing.assert_allclose(curves(growth)[0].value, np.exp(theirs.intercept + theirs.slope * X))


def test_a_logarithm_of_nothing_is_refused_with_its_period() -> None:
    cells = [*CELLS[:40], -2.0, *CELLS[41:]]
    problem = run_values(cells, Trend(form=Growth())).reports[-1].problem
    assert problem is not None
    assert problem.what.startswith("An exponential")
    assert "−2 at 10 Feb 2026" in problem.what


def test_robust_and_percentile_lines_are_scipys_and_statsmodels() -> None:
    robust = fitted(Trend(form=MedianSlopes()))
    theirs = stats.theilslopes(Y[KNOWN], X[KNOWN])
    np.testing.assert_allclose(curves(robust)[0].value, theirs.intercept + theirs.slope * X)
    upper = fitted(Trend(form=PercentileLine(share=90)))
    quant = sm.QuantReg(Y[KNOWN], sm.add_constant(X[KNOWN])).fit(q=0.9)
    np.testing.assert_allclose(curves(upper)[0].value, sm.add_constant(X) @ quant.params)
    below = (Y[KNOWN] <= curves(upper)[0].value[KNOWN] + 1e-3).mean()
    assert 0.85 < below < 0.95
    assert curves(upper)[0].name == "90 % line"


@pytest.mark.parametrize("robustly", list(Robustly))
def test_local_lines_are_statsmodels_lowess(robustly: Robustly) -> None:
    result = fitted(Trend(form=Local(span=40, robustly=robustly)))
    it = 3 if robustly is Robustly.ROBUST else 0
    theirs = sm.nonparametric.lowess(Y[KNOWN], X[KNOWN], frac=0.4, it=it, return_sorted=False)
    np.testing.assert_allclose(curves(result)[0].value[KNOWN], theirs)


def test_a_wave_is_found_with_its_size() -> None:
    wave = 20 + 0.3 * X + 6 * np.sin(2 * np.pi * X / 7) + 2 * np.cos(4 * np.pi * X / 7)
    result = fitted(Trend(form=WithWave(length=7, harmonics=2)), cells=wave.tolist())
    np.testing.assert_allclose(curves(result)[0].value, wave, rtol=1e-9)
    found = terms(result)
    assert found["b"][0] == pytest.approx(0.3)
    assert found["sin, 1 a turn"][0] == pytest.approx(6)
    assert found["cos, 2 a turn"][0] == pytest.approx(2)


def test_x_in_years_gains_the_same() -> None:
    days, years = (row(fitted(Trend(counted_from=one))) for one in (CountedFrom.ZERO, CountedFrom.YEARS))
    assert days["year"] == pytest.approx(years["year"])
    assert days["step"] == pytest.approx(years["step"])
    assert days["widened"] == pytest.approx(years["widened"])


@pytest.mark.parametrize(
    ("carried", "end"),
    [
        (CarriedPeriods(on=10), "2026-03-31"),
        (CarriedTime(on=2, unit=CalendarUnit.MONTH), "2026-05-21"),
        (CarriedTime(on=2, unit=CalendarUnit.WEEK), "2026-04-04"),
        (CarriedTo(day=date(2026, 4, 9)), "2026-04-09"),
    ],
    ids=lambda one: one if isinstance(one, str) else one.kind,
)  # fmt: skip
def test_a_line_is_carried_on_dashed_and_where_it_was_told_to(carried: CarriedPeriods, end: str) -> None:
    result = fitted(Trend(carried=carried))
    line, further = curves(result)
    assert (line.rests, further.rests) == (Rests.MEASURED, Rests.ESTIMATED)
    assert result.state.grain.label(int(further.periods[-1])) == end
    # it goes on from where it was, on the same line
    assert further.value[0] == line.value[-1]
    slopes = np.diff(further.value)
    np.testing.assert_allclose(slopes, slopes[0])
    assert line.label == ()
    assert further.label is not None
    assert further.label[0] == "straight trend"


def test_carried_back_and_further_than_a_third_is_said() -> None:
    result = fitted(Trend(carried=CarriedPeriods(on=40, back=5)))
    _, _, back = curves(result)
    assert result.state.grain.label(int(back.periods[0])) == "2025-12-27"
    assert "further than a third" in result.reports[-1].outcome.warnings[0]
    assert not fitted(Trend(carried=CarriedPeriods(on=20))).reports[-1].outcome.warnings


@pytest.mark.parametrize("around", [Around.LINE, Around.NEW])
def test_bands_of_independent_residuals_are_those_of_ordinary_least_squares(around: Around) -> None:
    alternating = 10 + 0.1 * X + np.where(np.arange(X.size) % 2, 2.0, -2.0)
    result = fitted(Trend(around=around, level=90), cells=alternating.tolist())
    (area,) = (one for one in result.state.shapes if isinstance(one, Area))
    design = sm.add_constant(X)
    theirs = sm.OLS(alternating, design).fit().get_prediction(design).summary_frame(alpha=0.1)
    name = "mean" if around is Around.LINE else "obs"
    np.testing.assert_allclose(area.lower, theirs[f"{name}_ci_lower"], rtol=1e-6)
    np.testing.assert_allclose(area.upper, theirs[f"{name}_ci_upper"], rtol=1e-6)


@pytest.mark.parametrize(("columns", "length"), [(2, 40), (3, 25)])
def test_errors_of_autocorrelated_residuals_are_those_of_generalised_covariance(columns: int, length: int) -> None:
    rng = np.random.default_rng(columns)
    design = np.vander(np.linspace(-1, 1, length), columns, increasing=True)
    values = lfilter([1], [1, -0.7], rng.normal(size=length))
    fit = sm.OLS(values, design).fit()
    errors = correlated_errors(design, np.linalg.inv(np.linalg.qr(design)[1]), fit.resid)
    assert errors.rho > 0.3
    omega = toeplitz(errors.rho ** np.arange(length))
    inverse = np.linalg.inv(design.T @ design)
    hat = design @ inverse @ design.T
    variance = fit.resid @ fit.resid / (length - np.trace(hat @ omega))
    covariance = variance * inverse @ design.T @ omega @ design @ inverse
    np.testing.assert_allclose(errors.root @ errors.root.T, covariance, rtol=1e-8, atol=1e-12)
    assert errors.slope_inflation == pytest.approx(np.sqrt(covariance[1, 1]) / fit.bse[1])
    assert errors.spread == pytest.approx(np.sqrt(variance))


@pytest.mark.parametrize(
    ("weights", "least"), [((1.0,), 92), ((1.0, -0.6), 90), ((1.0, -0.8), 87), ((1.0, -0.5, -0.3), 78)]
)
def test_a_band_and_a_gain_hold_as_often_as_they_say(weights: tuple[float, ...], least: float) -> None:
    """Of 80 points; with independent errors, 67 and 46 of 100 would hold for the second and the third."""
    rng = np.random.default_rng(7)
    x, of_band, of_gain = np.arange(80.0), [], []
    for _ in range(120):
        line = straight(x, lfilter([1], weights, rng.normal(size=180))[100:])
        assert line
        assert line.correlated
        assert line.design
        errors = line.correlated()
        reach = errors.quantile(95)
        of_band.append(np.abs(line.at(x)) <= reach * errors.error_at(line.design(x)))
        of_gain.append(abs(line.terms[1].value) <= reach * (line.terms[1].error or 0) * errors.slope_inflation)
    assert least < 100 * np.mean(of_band) < 99
    assert least < 100 * np.mean(of_gain) < 100


def test_related_residuals_widen_the_error_and_say_so() -> None:
    noise = lfilter([1], [1, -0.8], np.random.default_rng(2).normal(size=300))
    told = row(fitted(Trend(), cells=(10 + noise).tolist()))
    error = stats.linregress(np.arange(300), 10 + noise).stderr
    rho = pd.Series(stats.linregress(np.arange(300), noise).slope * -np.arange(300) + noise).autocorr()
    assert told["rho"] == pytest.approx(rho, abs=0.02)
    assert 2 < told["widened"] / error < 4  # type: ignore[operator]
    few = fitted(Trend(around=Around.LINE), cells=(10 + noise[:20]).tolist())
    assert "residuals hang together, so that 20 points tell as much as" in few.reports[-1].outcome.warnings[0]


def test_a_line_for_each_stretch_between_shifts() -> None:
    values = [*(10.0 + n for n in range(30)), *(100.0 - 2 * n for n in range(30))]
    shift = Shift(on=date(2026, 1, 31), season=None, then=(Follow.BEGIN, Follow.AFRESH))
    result = run_values(values, shift, Trend(over=Over.EACH))
    first, second = curves(result)
    np.testing.assert_allclose(first.value, values[:30])
    np.testing.assert_allclose(second.value, values[30:])
    whole = run_values(values, shift, Trend())
    assert len(curves(whole)) == 1


def test_two_lines_on_one_series_and_one_removed_leave_the_other() -> None:
    both = fitted(Trend(), Trend(form=Polynomial(degree=3), carried=CarriedTime(on=12, unit=CalendarUnit.MONTH)))
    alone = run_csv(daily_csv(CELLS), Trend())
    np.testing.assert_array_equal(curves(both)[0].value, curves(alone)[0].value)
    assert len({one.name for one in curves(both)}) == 3
