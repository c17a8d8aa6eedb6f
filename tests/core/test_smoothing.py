"""Exponential smoothing against published results and against the library called directly."""

from inspect import signature

import numpy as np
import pandas as pd
import pytest
from statsmodels.tsa.exponential_smoothing.ets import ETSModel

from tests.help import curves, run_values, smoothing
from zembra.core.entries.projections.clauses.methods import SmoothingByHand
from zembra.core.entries.projections.clauses.smoothingforms import ErrorForm, SeasonForm, TrendForm
from zembra.core.errors import Refusal
from zembra.core.ledger.shapes import Area, Rests
from zembra.core.projection.smoothing.begin import begin_of
from zembra.core.projection.smoothing.estimate import estimated_with_states
from zembra.core.projection.smoothing.fit import smooth
from zembra.core.projection.smoothing.fitted import Fit
from zembra.core.projection.smoothing.forms import Form, possible_forms
from zembra.core.projection.smoothing.recursion import Weights, path_along
from zembra.core.projection.smoothing.search import searched
from zembra.core.projection.smoothing.smoothingahead import carried_on
from zembra.core.projection.wholehistory import whole_history

# Hyndman and Athanasopoulos, Forecasting: Principles and Practice, 2nd edition (OTexts 2018).
OIL = [  # table 7.1
    445.36, 453.20, 454.41, 422.38, 456.04, 440.39, 425.19, 486.21, 500.43, 521.28, 508.95, 488.89, 509.87, 456.72,
    473.82, 525.95, 549.83, 542.34,
]  # fmt: skip
TOURISTS = [  # section 7.3, quarterly from 2005
    42.20566386, 24.64917133, 32.66733514, 37.25735401, 45.24246027, 29.35048127, 36.34420728, 41.78208136, 49.27659843,
    31.27540139, 37.85062549, 38.83704413, 51.23690034, 31.83855162, 41.32342126, 42.79900337, 55.70835836, 33.40714492,
    42.31663797, 45.15712257, 59.57607996, 34.83733016, 44.84168072, 46.97124960, 60.01903094, 38.37117851, 46.97586413,
    50.73379646, 61.64687319, 39.29956937, 52.67120908, 54.33231689, 66.83435838, 40.87118847, 51.82853579, 57.49190993,
    65.25146985, 43.06120822, 54.76075713, 59.83447494, 73.25702747, 47.69661873, 61.09776802, 66.05576122,
]  # fmt: skip


WORDS = {"A": "add", "M": "mul", "N": None}


def library(values: np.ndarray, form: Form, season: int, start: str) -> ETSModel:
    return ETSModel(
        pd.Series(values), error=WORDS[form.error], trend=WORDS[form.trend], damped_trend=form.damped,
        seasonal=WORDS[form.season], seasonal_periods=season if form.season != "N" else None, initialization_method=start,
    )  # fmt: skip


def test_simple_smoothing_as_published() -> None:
    fit = smooth(np.array(OIL), None, 3, Form("A", "N", "N"))
    assert fit.weights.alpha[0] == pytest.approx(0.8339, abs=5e-4)
    np.testing.assert_allclose(carried_on(fit, 3, ())[0], 542.68, rtol=1e-4)


@pytest.mark.parametrize(
    ("form", "published", "far"),
    [
        (Form("A", "A", "A"), [76.10, 51.60, 63.97, 68.37], 0.004),
        (Form("M", "A", "M"), [80.09, 50.15, 63.34, 68.18], 0.016),
    ],
)
def test_holt_winters_as_published(form: Form, published: list[float], far: float) -> None:
    mean, _ = carried_on(smooth(np.array(TOURISTS), 4, 8, form), 4, ())
    np.testing.assert_allclose(mean, published, rtol=far)


def weekly(size: int, seed: int = 3) -> np.ndarray:
    rng = np.random.default_rng(seed)
    return (
        900 + np.cumsum(rng.normal(0, 4, size)) + 90 * np.sin(np.arange(size) * 2 * np.pi / 7) + rng.normal(0, 20, size)
    )


ADDITIVE = [form for form in possible_forms(weekly(90), 7) if form.season != "M"]


@pytest.mark.parametrize("form", ADDITIVE, ids=str)
def test_with_fixed_weights_it_is_the_library_to_the_last_digits(form: Form) -> None:
    values = weekly(90)
    season = 7 if form.season != "N" else 1
    weights = Weights(*(np.array([w if has else rest]) for w, has, rest in zip(
        (0.3, 0.05, 0.2, 0.9), form.weights, (0, 0, 0, 1), strict=True)))  # fmt: skip
    begin = begin_of(values, form, season)
    model = library(values, form, 7, "heuristic")
    direct = model.smooth([w for w, has in zip((0.3, 0.05, 0.2, 0.9), form.weights, strict=True) if has])
    path = path_along(values[:, None], weights, begin, factor=form.season == "M")
    np.testing.assert_allclose(path.means[:, 0], direct.fittedvalues, rtol=1e-9)
    ours = Fit(form, season, values, weights, begin, path, 0.0, 0)
    mean, halves = carried_on(ours, 20, [80, 95])
    np.testing.assert_allclose(mean, direct.forecast(20), rtol=1e-9)
    simulated = "M" in (form.error, form.season)
    # as its versions name it
    seed = "rng" if "rng" in signature(direct.simulate).parameters else "random_state"
    chance = np.random.default_rng(5) if seed == "rng" else np.random.RandomState(1)
    how = {"method": "simulated", "simulate_repetitions": 4000, seed: chance} if simulated else {}
    for half in halves:
        edges = direct.get_prediction(start=90, end=109, **how).pred_int(alpha=1 - half.level / 100).to_numpy()
        # both are simulated where no formula is known
        np.testing.assert_allclose(mean - half.below, edges[:, 0], rtol=1e-9, atol=30 if simulated else 0)
        np.testing.assert_allclose(mean + half.above, edges[:, 1], rtol=1e-9, atol=30 if simulated else 0)


def test_a_season_that_multiplies_goes_as_the_table_has_it() -> None:
    """Hyndman et al. (2008), table 2.3, (M, Ad, M); the library divides by the new level instead of the one before."""
    values, (alpha, beta, gamma, phi) = weekly(90), (0.3, 0.05, 0.2, 0.9)
    begin = begin_of(values, Form("M", "A", "M", damped=True), 7)
    level, trend, season = begin.level[0], begin.trend[0], [*begin.season[:, 0]]
    means = []
    for value in values:
        base = level + phi * trend
        means.append(base * season[0])
        share = value / means[-1] - 1
        level, trend = base * (1 + alpha * share), phi * trend + beta * base * share
        season = [*season[1:], season[0] * (1 + gamma * share)]
    weights = Weights(*(np.array([weight]) for weight in (alpha, beta, gamma, phi)))
    path = path_along(values[:, None], weights, begin, factor=True)
    np.testing.assert_allclose(path.means[:, 0], means, rtol=1e-12)
    np.testing.assert_allclose(path.season[90:, 0], season, rtol=1e-12)


@pytest.mark.parametrize("form", [Form("A", "A", "A", damped=True), Form("M", "A", "M"), Form("A", "N", "N")], ids=str)
@pytest.mark.parametrize(("size", "season"), [(210, 7), (48, 12)])
def test_what_is_found_is_at_least_as_likely_as_what_the_library_finds(form: Form, size: int, season: int) -> None:
    values = weekly(size)
    own = season if form.season != "N" else 1
    direct = library(values, form, season, "estimated").fit(disp=False)
    _, _, misfit = estimated_with_states(values, form, own)
    assert -size / 2 * (np.log(2 * np.pi) + 1 + misfit) > direct.llf - 0.1


def test_many_series_side_by_side_are_what_each_is_alone() -> None:
    together = np.stack([weekly(80, seed) for seed in range(5)], axis=1)
    forms = possible_forms(together, 7)
    shares, misfits = searched(together, forms, 7)
    for n, values in enumerate(together.T):
        alone, misfit = searched(values[:, None], forms, 7)
        part = slice(n * len(forms), (n + 1) * len(forms))
        np.testing.assert_allclose(shares[:, part], alone, atol=1e-6)
        np.testing.assert_allclose(misfits[part], misfit, atol=1e-9)


def test_the_best_form_has_the_lowest_aicc_of_those_tried() -> None:
    fit = smooth(weekly(210), 7, 7)
    scores = [aicc for _, aicc in fit.tried]
    assert scores == sorted(scores)
    assert fit.tried[0][0] == str(fit.form)
    assert fit.form.season == "A"


def test_standing_earlier_it_says_what_its_states_were_then() -> None:
    values = weekly(140)
    fit = smooth(values, 7, 7, Form("A", "A", "A"))
    then, halves = carried_on(fit, 7, [80.0], 100)
    cut = path_along(values[:100, None], fit.weights, fit.begin, factor=False)
    shorter = Fit(fit.form, 7, values[:100], fit.weights, fit.begin, cut, 0.0, 0)
    mean, own = carried_on(shorter, 7, [80.0])
    np.testing.assert_allclose(then, mean, rtol=1e-12)
    np.testing.assert_allclose(halves[0].above, own[0].above, rtol=1e-12)


def test_simulated_limits_are_the_same_every_time() -> None:
    fit = smooth(weekly(140) + 500, 7, 7, Form("M", "N", "M"))
    first, again = (carried_on(fit, 7, [95])[1][0] for _ in range(2))
    np.testing.assert_array_equal(first.above, again.above)


def test_gaps_are_closed_for_the_fit_only() -> None:
    values = weekly(140)
    values[[20, 21, 50]] = np.nan
    history, gaps = whole_history(values, 7)
    assert gaps == 3
    assert not np.isnan(history).any()
    result = run_values(values.tolist(), smoothing(ahead=14, season=7))
    assert np.isnan(result.state.lines[0].value[[20, 21, 50]]).all()
    assert dict(result.reports[-1].outcome.evidence[0].rows)["Gaps closed for the fit only"] == 3


def test_a_short_history_is_projected_with_a_warning_in_words() -> None:
    result = run_values(weekly(20).tolist(), smoothing(ahead=3, season=7))
    assert any("2 full seasons of 7 days" in warning for warning in result.reports[-1].outcome.warnings)
    few = run_values(weekly(8).tolist(), smoothing(ahead=3, season=None))
    assert any("only 8 days have a number" in warning for warning in few.reports[-1].outcome.warnings)


def test_a_projection_starts_after_the_last_number_and_keeps_the_calendar() -> None:
    result = run_values([*weekly(70), None, None], smoothing(ahead=5, season=7))
    (drawn,) = curves(result)
    line = result.state.lines[0]
    assert drawn.periods.tolist() == [int(line.periods[69]) + n for n in range(1, 6)]
    assert drawn.rests is Rests.PROJECTED
    limits = [one for one in result.state.shapes if isinstance(one, Area)]
    assert [(one.curve_id, one.level) for one in limits] == [(drawn.id, 80), (drawn.id, 95)]


def test_what_cannot_be_fitted_is_said() -> None:
    with pytest.raises(Refusal, match="multiplicative"):
        smooth(np.array([1.0, 2, 3, 0, 5, 6, 7]), None, 2, Form("M", "N", "N"))
    with pytest.raises(Refusal, match="Every value is the same"):
        smooth(np.full(30, 5.0), None, 2)
    named = SmoothingByHand(error=ErrorForm.ADDITIVE, trend=TrendForm.NONE, seasonality=SeasonForm.ADDITIVE)
    by_hand = smoothing(season=30, method=named)
    assert "needs two full cycles, 60 days" in str(run_values(weekly(40).tolist(), by_hand).reports[-1].problem)
