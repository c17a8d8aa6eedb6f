"""Seasons of few cycles and the spread of errors: held against statsmodels, and against simulated truth."""

from __future__ import annotations

from collections.abc import Sequence
from functools import partial

import numpy as np
import pytest
from scipy.stats import binom
from statsmodels.tsa.seasonal import seasonal_decompose

from zembra.core.errors import Refusal
from zembra.core.projection.ahead import History, Projected
from zembra.core.projection.averaged.errorspread import error_spread
from zembra.core.projection.backtest import chance_range, fold_back, judged, noticed, widening_by
from zembra.core.projection.models import KEPT_FROM, average_of_models, average_of_models_each, fit_side_by_side
from zembra.core.projection.shortseason import MOST_CYCLES, short_season

LEVELS = (80.0, 95.0)
MONTHS = 12
WAVE = 10 * np.sin(np.arange(MONTHS) * 2 * np.pi / MONTHS) + np.arange(MONTHS) % 3


def months(values: np.ndarray, season: int | None = None) -> History:
    return History(values, np.ones(values.size, dtype=bool), season, MONTHS)


def riders(size: int, seed: int, noise: float = 3.0) -> np.ndarray:
    drawn = np.random.default_rng(seed).normal(0, noise, size)
    return np.asarray(200 + 0.5 * np.arange(size) + np.resize(WAVE, size) + drawn)


def projected(history: History, ahead: int = MONTHS) -> Projected:
    return average_of_models(history, ahead, LEVELS)


def each(parts: Sequence[tuple[History, int]], refit_from: Projected | None) -> list[Projected]:
    return [average_of_models(part, far, LEVELS, refit_from) for part, far in parts]


@pytest.mark.parametrize(("season", "size"), [(12, 27), (7, 16), (4, 19), (5, 24)])
def test_the_means_are_those_of_a_classical_decomposition(season: int, size: int) -> None:
    values = np.random.default_rng(season).normal(100, 1, size) + 20 * np.resize(np.arange(season), size)
    found = short_season(History(values, np.ones(size, dtype=bool), season))
    assert found
    theirs = seasonal_decompose(values, period=season, two_sided=True)
    inside = ~np.isnan(theirs.trend)
    trend = theirs.trend.copy()
    before = int(np.argmax(inside))
    slope = np.polyfit(np.arange(int(inside.sum())), trend[inside], 1)[0]
    trend[:before] = trend[before] - slope * np.arange(before, 0, -1)
    trend[~inside & (np.arange(size) > before)] = trend[inside][-1] + slope * np.arange(1, before + 1)
    rest = values - trend
    means = np.array([rest[place::season].mean() for place in range(season)])
    means -= means.mean()
    left = rest - np.resize(means, size)
    share = 1 - left.var() * size / (size - season - 2) / (size / season) / means.var(ddof=1)
    np.testing.assert_allclose(found.cycle, share * means, rtol=1e-9)
    assert found.widening == pytest.approx(np.sqrt(1 + (season - 1) / size))


def test_a_season_of_two_cycles_goes_on_and_one_that_is_none_hardly_costs() -> None:
    size = 2 * MONTHS + 1
    exact = projected(months(riders(size, 0, noise=0.0)))
    np.testing.assert_allclose(exact.mean, riders(size + MONTHS, 0, noise=0.0)[size:], rtol=0.02)
    assert exact.seasonal
    errors = {True: [], False: []}
    for seed in range(25):
        noise = np.random.default_rng(seed).normal(100, 5, size + MONTHS)
        for looked, history in (
            (True, months(noise[:size])),
            (False, History(noise[:size], np.ones(size, dtype=bool))),
        ):
            errors[looked].append(np.abs(projected(history).mean - noise[size:]).mean())
    assert np.mean(errors[True]) < 1.05 * np.mean(errors[False])
    assert (
        short_season(months(riders(2 * MONTHS, 0))) is short_season(months(riders(MOST_CYCLES * MONTHS + 1, 0))) is None
    )


def test_its_limits_hold_at_least_as_often_as_they_say() -> None:
    inside = []
    for seed in range(60):
        size = 2 * MONTHS + 1 + seed % 24
        values = riders(size + MONTHS, seed, noise=5.0)
        found = projected(months(values[:size]))
        inside.append([(limits.lower <= values[size:]) & (values[size:] <= limits.upper) for limits in found.limits])
    of_80, of_95 = np.mean(inside, axis=(0, 2))
    assert 0.78 < of_80 < 0.95
    assert of_95 > 0.94


def test_what_is_cut_and_missing_is_told_in_the_unit_of_the_values() -> None:
    values = riders(40, 4, noise=1.0)
    values[20] += 400
    found = projected(months(values))
    assert 20 in found.cut
    assert found.cut[20] == pytest.approx(riders(40, 4, noise=1.0)[20], abs=15)
    december = riders(40, 4, noise=1.0)
    december[11::MONTHS] += 400
    found = projected(months(december))
    assert not found.cut
    assert found.mean[47 - 40] > 500, "what comes every year stays"
    known = np.ones(40, dtype=bool)
    known[5::MONTHS] = False
    assert short_season(History(values, known, MONTHS)) is None, "a place of the season that no value tells of"


def test_side_by_side_and_alone_short_seasons_have_the_same_numbers() -> None:
    histories = [months(riders(size, size)) for size in (30, 30, 41, 41, 70)]
    alone = [projected(history) for history in histories]
    fit_side_by_side(histories)
    for single, cached, beside in zip(
        alone,
        map(projected, histories),
        average_of_models_each([(history, MONTHS) for history in histories], LEVELS),
        strict=True,
    ):
        assert not isinstance(beside, Refusal)
        np.testing.assert_array_equal(single.mean, cached.mean)
        # sums over another number of rows round otherwise
        np.testing.assert_allclose(single.mean, beside.mean, rtol=1e-12)
        np.testing.assert_allclose(single.halves[1].above, beside.halves[1].above, rtol=1e-11)


@pytest.mark.parametrize("size", [40, KEPT_FROM - 50])
def test_a_backtest_of_a_short_history_is_fitted_anew(size: int) -> None:
    values = riders(size, 3)
    whole = projected(months(values, MONTHS), 6)

    for fold in fold_back(months(values, MONTHS), 6, partial(each, refit_from=whole)):
        np.testing.assert_array_equal(fold.said.mean, projected(months(values[: fold.start], MONTHS), 6).mean)


def test_backtests_of_long_histories_are_not_much_too_kind() -> None:
    """From KEPT_FROM values the weights of the whole history are kept."""
    inside = []
    for seed in range(12):
        rng = np.random.default_rng(seed)
        history = History(200 + np.cumsum(rng.normal(0, 2, KEPT_FROM)), np.ones(KEPT_FROM, dtype=bool))
        whole = average_of_models(history, 8, LEVELS)
        assert whole.form is not None
        shares = []
        for refit_from in (whole, None):
            again = partial(each, refit_from=refit_from)
            found = judged(fold_back(history, 8, again), history)
            assert found
            shares.append(found.inside[0][1] / found.points)
        inside.append(shares)
    kinder = np.mean(inside, axis=0)
    assert abs(kinder[0] - kinder[1]) < 0.04


def test_limits_of_what_grows_by_a_rate_grow_with_it() -> None:
    inside = []
    for seed in range(40):
        drawn = np.random.default_rng(seed).normal(0.03, 0.05, 132)
        values = 100 * np.exp(np.cumsum(drawn))
        found = average_of_models(History(values[:120], np.ones(120, dtype=bool)), 12, LEVELS)
        inside.append([(limits.lower <= values[120:]) & (values[120:] <= limits.upper) for limits in found.limits])
    of_80, of_95 = np.mean(inside, axis=(0, 2))
    assert 0.74 < of_80 < 0.92
    assert of_95 > 0.9


def test_the_spread_of_errors_follows_the_level_the_recent_past_and_the_tails() -> None:
    rng = np.random.default_rng(1)
    level = np.geomspace(100, 4000, 300)[:, None]
    evidence, onward = np.ones(level.shape, dtype=bool), np.array([[8000.0]])
    errors = level * rng.normal(0, 0.05, level.shape)
    root_mean = float(np.sqrt(np.mean(errors**2)))
    grows = error_spread(errors, level + errors, evidence, onward).factor[0, 0] * root_mean
    assert grows == pytest.approx(0.05 * 8000, rel=0.2)
    flat = rng.normal(0, 5, level.shape)
    even = error_spread(flat, level + flat, evidence, onward).factor[0, 0]
    assert even == pytest.approx(1.0, rel=0.15)
    louder = np.where(np.arange(300)[:, None] < 240, 0.5, 2.0) * flat
    assert error_spread(louder, 1000 + louder, evidence, onward).factor[0, 0] > 1.3
    heavy = rng.standard_t(3, level.shape)
    tails = [error_spread(drawn, 1000 + drawn, evidence, onward).tails(80.0)[0] for drawn in (heavy, flat)]
    # in standard deviations, which few large errors set
    assert tails[0] < 0.92 * tails[1]


def test_overlapping_starts_are_fewer_draws_and_it_is_said_what_they_can_notice() -> None:
    values = riders(60, 5)
    history = months(values, MONTHS)
    folds = fold_back(history, MONTHS, partial(each, refit_from=None))
    held = {fold.start + place for fold in folds for place in range(MONTHS)}
    found = judged(folds, history)
    assert found
    assert found.starts == 8
    assert found.draws == round(len(held) / MONTHS) < 4
    for draws in (3, 8, 40):
        fewest = chance_range(80, draws, draws)[0]
        assert binom.cdf(fewest - 1, draws, 0.8) <= 0.025 < binom.cdf(fewest, draws, 0.8)
        if fewest:
            assert binom.cdf(fewest - 1, draws, noticed(80, draws) / 100) == pytest.approx(0.8)
    assert noticed(80, 1) == 0.0
    alike = [4.0] * 12
    assert widening_by(alike, 2) == pytest.approx(np.sqrt((2 * 4 + 8) / 10))
    assert widening_by(alike) == pytest.approx(np.sqrt((12 * 4 + 8) / 20))
