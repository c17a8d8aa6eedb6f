"""Exponential smoothing against published results and against the library called directly."""

import numpy as np
import pandas as pd
import pytest
from statsmodels.tsa.exponential_smoothing.ets import ETSModel

from tests.help import curves, run_values, smoothing
from zembra.core.errors import Refusal
from zembra.core.ledger.clauses.methods import SmoothingByHand
from zembra.core.ledger.clauses.smoothingforms import ErrorForm, SeasonForm, TrendForm
from zembra.core.ledger.shapes import Area, Rests
from zembra.core.projection.smoothing import Form, smooth, whole_history

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


def test_simple_smoothing_as_published() -> None:
    fitted = smooth(np.array(OIL), None, 3, [80, 95], Form("A", "N", "N"))
    assert fitted.alpha == pytest.approx(0.8339, abs=5e-4)
    np.testing.assert_allclose(fitted.mean, 542.68, rtol=1e-4)


def test_additive_holt_winters_as_published() -> None:
    fitted = smooth(np.array(TOURISTS), 4, 8, [80, 95], Form("A", "A", "A"))
    np.testing.assert_allclose(fitted.mean[:4], [76.10, 51.60, 63.97, 68.37], rtol=0.004)


def test_multiplicative_holt_winters_as_published() -> None:
    fitted = smooth(np.array(TOURISTS), 4, 8, [80, 95], Form("M", "A", "M"))
    np.testing.assert_allclose(fitted.mean[:4], [80.09, 50.15, 63.34, 68.18], rtol=0.016)


def weekly(size: int, seed: int = 3) -> np.ndarray:
    rng = np.random.default_rng(seed)
    return (
        900 + np.cumsum(rng.normal(0, 4, size)) + 90 * np.sin(np.arange(size) * 2 * np.pi / 7) + rng.normal(0, 20, size)
    )


def test_a_named_form_is_the_library_called_directly() -> None:
    values = weekly(210)
    ours = smooth(values, 7, 14, [80, 95], Form("A", "A", "A", damped=True))
    model = ETSModel(
        pd.Series(values), error="add", trend="add", damped_trend=True, seasonal="add", seasonal_periods=7,
    )  # fmt: skip
    direct = model.fit(disp=False)
    # the two searches start in different places; ours must be at least as likely and tell the same story
    assert ours.aicc <= direct.aicc + 0.5
    np.testing.assert_allclose(ours.mean, direct.forecast(14), rtol=0.03)


def test_the_best_form_has_the_lowest_aicc_of_those_tried() -> None:
    fitted = smooth(weekly(210), 7, 7, [95])
    scores = [aicc for _, aicc in fitted.tried]
    assert scores == sorted(scores)
    assert fitted.tried[0][0] == str(fitted.form)
    assert fitted.form.season == "A"


def test_limits_hold_the_line_and_each_other() -> None:
    fitted = smooth(weekly(210), 7, 28, [95, 80])
    narrow, wide = fitted.limits
    assert (narrow.level, wide.level) == (80, 95)
    assert np.all(wide.lower < narrow.lower)
    assert np.all(narrow.lower < fitted.mean)
    assert np.all(fitted.mean < narrow.upper)
    assert np.all(narrow.upper < wide.upper)


def test_simulated_limits_are_the_same_every_time() -> None:
    values = weekly(140) + 500
    first, again = (smooth(values, 7, 7, [95], Form("M", "N", "M")) for _ in range(2))
    np.testing.assert_array_equal(first.limits[0].upper, again.limits[0].upper)


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
    assert [(one.of, one.level) for one in limits] == [(drawn.id, 80), (drawn.id, 95)]


def test_what_cannot_be_fitted_is_said() -> None:
    with pytest.raises(Refusal, match="multiplicative"):
        smooth(np.array([1.0, 2, 3, 0, 5, 6, 7]), None, 2, [95], Form("M", "N", "N"))
    with pytest.raises(Refusal, match="Every value is the same"):
        smooth(np.full(30, 5.0), None, 2, [95])
    named = SmoothingByHand(error=ErrorForm.ADDITIVE, trend=TrendForm.NONE, seasonality=SeasonForm.ADDITIVE)
    by_hand = smoothing(season=30, method=named)
    assert "needs two full cycles, 60 days" in str(run_values(weekly(40).tolist(), by_hand).reports[-1].problem)
