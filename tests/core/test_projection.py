"""The methods of a projection, their limits and how they are held back: against libraries and plain formulas."""

from __future__ import annotations

import re
from collections.abc import Callable
from dataclasses import replace
from datetime import date, timedelta
from typing import Any

import numpy as np
import pytest
from scipy import stats
from scipy.signal import lfilter
from statsmodels.regression.linear_model import OLS
from statsmodels.regression.quantile_regression import QuantReg
from statsmodels.tsa.forecasting.theta import ThetaModel
from statsmodels.tsa.seasonal import STL
from statsmodels.tsa.statespace.sarimax import SARIMAX

from tests.help import curves, daily_csv, run_csv, run_values, smoothing
from zembra.core.entries.projections.clauses.methods import (
    AnyMethod,
    Autoregressive,
    BestOf,
    ByPercentileLine,
    BySmoothing,
    Drift,
    LastSeason,
    LastValue,
    LineSeason,
    MeanOf,
    Named,
    SeasonOff,
    Theta,
)
from zembra.core.entries.projections.clauses.projected import (
    AheadAxis,
    AheadPeriods,
    AheadTime,
    AheadUntil,
    AtEvents,
    InWhat,
    LastPeriods,
    LimitsWord,
    OnClosed,
    Rounding,
    SeasonFound,
    SeasonOf,
    SeasonsOf,
    SinceDay,
)
from zembra.core.entries.projections.projection import Projection
from zembra.core.entries.readings.clauses.trends import Growth, Polynomial
from zembra.core.entries.readings.events import Event, Events
from zembra.core.entries.repairs.follow import Follow
from zembra.core.entries.repairs.marked_shift import Shift
from zembra.core.errors import Refusal
from zembra.core.ledger.run import Result
from zembra.core.ledger.shapes import Area, Curve
from zembra.core.projection.ahead import History, ModelPath, Projected, normal_halves
from zembra.core.projection.backtest import Again, chance_range, fold_back, judged, widening
from zembra.core.projection.intermittent import croston, tsb
from zembra.core.projection.limits import HalfWidth
from zembra.core.projection.lineseason import line_and_season
from zembra.core.projection.paths import chances_beyond
from zembra.core.projection.plain import last_season
from zembra.core.projection.seasonal import has_season, season_chance
from zembra.core.projection.several import mean_of_five
from zembra.core.projection.theta import theta

LEVELS = (80.0, 95.0)
Z = {level: float(stats.norm.ppf(0.5 + level / 200)) for level in LEVELS}
TAIL = {level: float(stats.t.ppf(0.5 + level / 200, 8)) / Z[level] for level in LEVELS}


def weekly(size: int = 210, seed: int = 3) -> np.ndarray:
    rng = np.random.default_rng(seed)
    wave = 90 * np.sin(np.arange(size) * 2 * np.pi / 7)
    return np.round(900 + np.cumsum(rng.normal(0, 4, size)) + wave + rng.normal(0, 20, size), 2)


def shown(values: np.ndarray, season: int | None = 7) -> History:
    return History(values, np.ones(values.size, dtype=bool), season)


def projected(result: Result) -> tuple[Curve, list[Area]]:
    assert not result.problems, result.problems[0].problem
    drawn = next(one for one in curves(result) if one.name == "projection")
    return drawn, [one for one in result.state.shapes if isinstance(one, Area) and one.curve_id == drawn.id]


def by(values: np.ndarray, method: AnyMethod, ahead: int = 14, **words: Any) -> tuple[Curve, list[Area]]:
    entry = Projection(ahead=AheadPeriods(count=ahead), method=method, limits=LimitsWord.OWN, **words)
    return projected(run_values(values.tolist(), entry))


def test_plain_methods_are_their_formulas() -> None:
    values = weekly()
    n, k = values.size, np.arange(1, 15)
    steps = np.diff(values)
    spread = {
        "last": (np.full(14, values[-1]), np.sqrt(np.mean(steps**2)) * np.sqrt(k), 1 / n),
        "season": (np.tile(values[-7:], 2), np.sqrt(np.mean((values[7:] - values[:-7]) ** 2)) * np.sqrt((k - 1) // 7 + 1), 1 / (n - 7)),
        "drift": (values[-1] + steps.mean() * k, steps.std(ddof=1) * np.sqrt(k * (1 + k / (n - 1))), 1 / n),
    }  # fmt: skip
    for name, method in (("last", LastValue()), ("season", LastSeason()), ("drift", Drift())):
        mean, width, share = spread[name]
        drawn, areas = by(values, method)
        np.testing.assert_allclose(drawn.value, mean)
        for area in areas:
            assert area.level
            wider = np.sqrt((1 + share) / (1 - share)) * TAIL[area.level] * Z[area.level]
            np.testing.assert_allclose(area.upper - drawn.value, width * wider)


def test_theta_agrees_with_the_library_on_a_series_without_a_season() -> None:
    rng = np.random.default_rng(5)
    values = np.round(100 + 0.4 * np.arange(150) + np.cumsum(rng.normal(0, 1, 150)), 3)
    drawn, _ = by(values, Theta(), 8)
    library = ThetaModel(values, period=1, deseasonalize=False).fit()
    np.testing.assert_allclose(drawn.value, library.forecast(8, theta=2), rtol=2e-3)


def test_the_line_with_season_is_least_squares_whose_last_error_fades() -> None:
    values = weekly()
    made = line_and_season(shown(values), 10, LEVELS)
    part = values[-42:]
    at = np.arange(168, 220)
    design = np.column_stack([at - 168, *[(at % 7 == d).astype(float) for d in range(7)]])
    beta, *_ = np.linalg.lstsq(design[:42], part, rcond=None)
    error = part - design[:42] @ beta
    rho = (error[1:] * error[:-1]).sum() / (error**2).sum()
    rho = np.clip(rho + (1 + 3 * rho) / 42, 0, 0.95)
    np.testing.assert_allclose(made.mean, design[42:] @ beta + error[-1] * rho ** np.arange(1, 11))


def test_season_off_percentile_and_autoregressive_agree_with_the_library() -> None:
    values = weekly()
    drawn, _ = by(values, SeasonOff())
    cycle = np.asarray(STL(values, period=7, seasonal=11, robust=True).fit(outer_iter=6).seasonal[-7:])
    away = drawn.value - np.tile(cycle, 2)
    steps = np.diff(away)
    np.testing.assert_allclose(steps[1:] / steps[:-1], steps[1] / steps[0], rtol=1e-6)  # a damped trend, nothing else
    line, _ = by(values, ByPercentileLine(share=50))
    x = np.arange(values.size)
    fit = QuantReg(values, np.column_stack((np.ones(values.size), x))).fit(q=0.5)
    np.testing.assert_allclose(line.value, fit.params[0] + fit.params[1] * np.arange(210, 224))
    result = run_values(values.tolist(), Projection(ahead=AheadPeriods(count=7), method=Autoregressive()))
    told = dict(row[:2] for row in result.reports[-1].outcome.evidence[0].rows)
    order = str(told["Order"])
    pdq, seasonal = (
        tuple(int(n) for n in part.strip("()").split(",")) for part in order.split("[", maxsplit=1)[0].split(")(")
    )
    direct = SARIMAX(values, order=pdq, seasonal_order=(*seasonal, 7), trend="n").fit(disp=False, maxiter=60)
    np.testing.assert_allclose(projected(result)[0].value, direct.forecast(7), rtol=1e-6)
    assert told["AICc"] == pytest.approx(direct.aicc)
    several, _ = by(weekly(160), SeasonOff(), season=SeasonsOf(seasons=(7, 30)))
    assert several.value.size == 14


def test_intermittent_demand_as_worked_out_by_hand() -> None:
    values = np.array([0, 0, 6, 0, 4, 0, 0, 0, 8, 0], dtype=float)
    size, interval = 6.0, 3.0
    for demand, since in ((4, 2), (8, 4)):
        size += 0.1 * (demand - size)
        interval += 0.1 * (since - interval)
    np.testing.assert_allclose(croston(shown(values, None), 3, LEVELS).mean, 0.95 * size / interval)
    chance, size = 1 / 3, 6.0
    for value in values[3:]:
        size += 0.1 * (value - size) * (value > 0)
        chance += 0.1 * ((value > 0) - chance)
    np.testing.assert_allclose(tsb(shown(values, None), 3, LEVELS).mean, chance * size)


def test_a_mean_of_methods_has_the_tails_of_students_t() -> None:
    found = mean_of_five(shown(weekly()), 14, LEVELS)
    assert len(found.parts) == 5
    np.testing.assert_allclose(found.mean, np.mean([one.mean for one in found.parts], axis=0))
    for n, level in enumerate(LEVELS):
        wide = np.mean([one.halves[n].above for one in found.parts], axis=0)
        np.testing.assert_allclose(found.halves[n].above, wide * TAIL[level])
    assert TAIL[80.0] == pytest.approx(1.0899, abs=1e-4)
    assert TAIL[95.0] == pytest.approx(1.1766, abs=1e-4)
    chosen, _ = by(weekly(), MeanOf(methods=(Named.LINE, Named.THETA)))
    pair = [by(weekly(), one)[0].value for one in (LineSeason(), Theta())]
    np.testing.assert_allclose(chosen.value, np.mean(pair, axis=0))


def test_a_season_is_found_where_there_is_one_and_else_hardly_ever() -> None:
    rng = np.random.default_rng(17)
    there, nowhere = [], []
    for n in range(400):
        size, season = int(rng.integers(60, 200)), int(rng.choice([4, 7, 12]))
        noise = rng.normal(0, 1, size)
        if n % 4 == 1:
            noise = np.cumsum(noise)
        elif n % 4 == 2:
            noise = lfilter([1.0], [1.0, -1.2, 0.5], noise)
        elif n % 4 == 3:
            noise = lfilter([1.0, 0.7], [1.0], noise)
        pattern = rng.normal(0, 1, season)
        there.append(has_season(50 + noise + 3 * np.resize(pattern - pattern.mean(), size), season))
        nowhere.append(has_season(50 + noise, season))
    assert np.mean(there) >= 0.9
    assert np.mean(nowhere) <= 0.02
    # gaps shift no place of the season
    gappy = np.where(
        rng.random(160) < 0.3, np.nan, 50 + 3 * np.sin(np.arange(160) * 2 * np.pi / 7) + rng.normal(0, 1, 160)
    )
    assert season_chance(gappy, 7) < 1e-6
    found = run_values(gappy.tolist(), Projection(ahead=AheadPeriods(count=7))).reports[-1].outcome.evidence[0].rows
    assert dict(row[:2] for row in found)["Season"] == "7 days"
    # the F test as the library has it, with the lags that AICc chooses and two more
    values = rng.normal(0, 1, 71) + np.resize([0.8, 0, 0, 0, 0, 0, -0.8], 71)
    assert season_chance(values, 7) == pytest.approx(max(by_library(values, 7)))


def by_library(values: np.ndarray, season: int) -> list[float]:
    """Chances of the season dummies beside a line and p, p + 1, p + 2 lags, p by AICc; at most six of these."""

    def both(p: int) -> tuple[Any, Any]:
        at = np.arange(6, values.size)
        lags = [values[at - lag] for lag in range(1, p + 1)]
        dummies = np.eye(season)[at % season]
        return (
            OLS(values[at], np.column_stack((dummies, at, *lags))).fit(),
            OLS(values[at], np.column_stack((np.ones(at.size), at, *lags))).fit(),
        )

    def aicc(p: int) -> float:
        full, _ = both(p)
        n, k = full.nobs, season + 2 + p
        return float(n * np.log(full.ssr / n) + 2 * k * n / (n - k - 1))

    best = min(range(7), key=aicc)
    return [float(full.compare_f_test(without)[1]) for full, without in map(both, range(best, min(best + 2, 6) + 1))]


def one_by_one(project: Callable[[History, int], Projected]) -> Again:
    return lambda parts: [project(part, far) for part, far in parts]


def test_scores_are_the_plain_formulas_and_no_method_sees_what_is_held_back() -> None:
    values = weekly()
    seen: list[int] = []

    def again(part: History, far: int) -> Projected:
        seen.append(part.size)
        assert np.array_equal(part.values, values[: part.size])
        return last_season(part, far, LEVELS)

    history = shown(values)
    folds = fold_back(history, 14, one_by_one(again))
    starts = [one.start for one in folds]
    assert starts == seen == sorted(starts, reverse=True)
    assert len(starts) == 8
    found = judged(folds, history)
    assert found
    errors = np.concatenate([values[s : s + 14] - np.tile(values[s - 7 : s], 2) for s in starts])
    assert found.mae == pytest.approx(np.abs(errors).mean())
    assert found.bias == pytest.approx(errors.mean())
    assert found.mase == pytest.approx(
        np.abs(errors).mean() / np.mean([np.abs(values[7:s] - values[: s - 7]).mean() for s in starts])
    )
    half = np.concatenate([one.said.halves[1].above for one in folds])
    assert found.inside[1] == (95.0, int((np.abs(errors) <= half).sum()))
    missed = np.maximum(np.abs(errors) - half, 0)
    assert found.interval[1][1] == pytest.approx((2 * half + 2 / 0.05 * missed).mean())

    # values that are held back may be anything: what is said of them does not change
    poisoned = values.copy()
    poisoned[-14:] = 1e9
    for method in (BySmoothing(), Theta(), LineSeason(), SeasonOff()):
        clean = method.project(shown(values[:-14]), 14, LEVELS)
        last = fold_back(shown(poisoned), 14, lambda parts, m=method: m.project_each(parts, LEVELS), starts=1)
        np.testing.assert_array_equal(last[0].said.mean, clean.mean)


def test_limits_that_held_less_than_chance_allows_are_widened_and_that_is_said() -> None:
    rng = np.random.default_rng(2)
    values = rng.normal(100, 10, 120)

    def narrow(part: History, far: int) -> Projected:
        return Projected("narrow", np.full(far, 100.0), normal_halves(np.full(far, 1.0), LEVELS))

    history = shown(values, None)
    folds = fold_back(history, 6, one_by_one(narrow))
    found = judged(folds, history)
    assert found
    low, high = chance_range(95, found.draws, found.points)
    assert found.inside[1][1] < low <= high == found.points
    squares = [np.mean(np.minimum(np.abs(one.actual - 100), 6.0) ** 2) for one in folds]
    assert widening(folds) == pytest.approx(np.sqrt((sum(squares) + 8) / (len(folds) + 8)))
    faster = np.arange(200.0) ** 2
    entry = Projection(ahead=AheadPeriods(count=8), method=LastValue())
    said = run_values(faster.tolist(), entry).reports[-1].outcome.warnings
    assert any("held" in one and "widened" in one for one in said)


def test_limits_as_they_have_held_so_far_are_so_many_times_as_wide() -> None:
    own, held = (
        run_values(weekly().tolist(), smoothing(14).model_copy(update={"limits": word, "wider": 0.2}))
        for word in (LimitsWord.OWN, LimitsWord.HELD)
    )
    narrow, wide = ([shape for shape in found.state.shapes if isinstance(shape, Area)] for found in (held, own))
    for mine, theirs in zip(narrow, wide, strict=True):
        np.testing.assert_allclose(mine.upper - mine.lower, 0.2 * (theirs.upper - theirs.lower))
    assert "as they have held so far, 0.2 times as wide" in held.reports[-1].sentence
    # what is said of held-back points is said of the limits that are drawn
    few, many = (
        int(re.findall(r"(\d+) of 112 days lay inside 80", found.reports[-1].sentence)[0]) for found in (held, own)
    )
    assert few < 0.5 * many


def test_how_far_from_where_and_within_what() -> None:
    values = weekly()
    first = date(2026, 1, 1)
    drawn, _ = by(values, LastSeason())
    entry = Projection(ahead=AheadUntil(day=date(2026, 8, 31)), method=LastSeason())
    until, _ = projected(run_values(values.tolist(), entry))
    assert until.value.size == (date(2026, 8, 31) - first).days - 209
    by_month, _ = projected(run_values(values.tolist(), Projection(ahead=AheadTime(count=1), method=LastSeason())))
    assert by_month.value.size == 31
    part, _ = by(values, LineSeason(), since=LastPeriods(count=30))
    only, _ = by(values[-30:], LineSeason())
    np.testing.assert_allclose(part.value, only.value, rtol=1e-6)
    since, _ = by(values, LineSeason(), since=SinceDay(day=date(2026, 6, 30)))
    np.testing.assert_allclose(since.value, part.value)
    held, areas = by(values, LastSeason(), least=850, most=1000, rounding=Rounding.WHOLE)
    np.testing.assert_array_equal(held.value, np.round(np.clip(drawn.value, 850, 1000)))
    assert all(area.lower.min() >= 850 and area.upper.max() <= 1000 for area in areas)
    logs, wide = by(values, LastValue(), on=InWhat.LOGARITHM)
    np.testing.assert_allclose(logs.value, values[-1])
    assert np.all(wide[1].upper - logs.value > logs.value - wide[1].lower)
    assert "above zero" in str(run_values([*values, 0.0], Projection(on=InWhat.LOGARITHM)).reports[-1].problem)
    few = run_values([1.0, 2, 4], Projection()).reports[-1].problem
    assert "at least 5 values" in str(few)


def test_closed_days_events_and_what_was_said_before() -> None:
    rng = np.random.default_rng(9)
    values = 200 + 30 * np.sin(np.arange(140) * 2 * np.pi / 7) + rng.normal(0, 2, 140)
    values[[40, 41, 90]] += 500
    fairs = Events(
        events=(
            Event(on=date(2026, 2, 10), until=date(2026, 2, 11), name="fair"),
            Event(on=date(2026, 4, 1), name="fair"),
            Event(on=date(2026, 5, 26), name="fair"),
        )
    )
    entry = Projection(ahead=AheadPeriods(count=14), method=BySmoothing(), events=AtEvents.USUAL)
    with_fair, _ = projected(run_csv(daily_csv(values.round(2).tolist()), fairs, entry))
    plain, _ = projected(
        run_csv(daily_csv(values.round(2).tolist()), fairs, entry.model_copy(update={"events": AtEvents.NOT}))
    )
    labels = run_values([1.0], fairs).state.grain.labels(with_fair.periods)
    lift = dict(zip(labels, with_fair.value - np.median(with_fair.value), strict=True))
    assert lift["2026-05-26"] == pytest.approx(500, abs=60)
    assert abs(lift["2026-05-27"]) < 60
    assert abs(plain.value[labels.index("2026-05-26")] - np.median(plain.value)) < 120
    shut = run_csv(
        daily_csv(values.round(2).tolist()),
        Projection(ahead=AheadPeriods(count=14), method=LastSeason(), closed=OnClosed.ZERO),
        calendar={"closed": ["2026-05-25"]},
    )
    zero, areas = projected(shut)
    at = shut.state.grain.labels(zero.periods).index("2026-05-25")
    assert zero.value[at] == areas[0].lower[at] == areas[0].upper[at] == 0
    assert zero.value.size == 15
    earlier = run_values(
        values.tolist(), Projection(ahead=AheadPeriods(count=10), method=LastSeason(), earlier=28, season=SeasonOf())
    )
    held = next(one for one in curves(earlier) if one.name.startswith("projection as of"))
    assert held.name == "projection as of 22 Apr 2026"
    np.testing.assert_allclose(held.value, np.resize(values[105:112], 10))


def test_doubts_are_said_in_words() -> None:
    rng = np.random.default_rng(4)
    gappy = [v if n % 5 < 2 else None for n, v in enumerate(rng.normal(50, 5, 120))]
    said = run_values(gappy, Projection(ahead=AheadPeriods(count=7))).reports[-1].outcome.warnings
    assert any("59 % of the history are gaps" in one for one in said), said
    spiked = [*rng.normal(50, 1, 80), 95.0]
    said = run_values(spiked, Projection(ahead=AheadPeriods(count=7))).reports[-1].outcome.warnings
    assert any("95 of" in one and "counts as" in one for one in said), said
    said = run_values(spiked, Projection(ahead=AheadPeriods(count=7), method=LastValue())).reports[-1].outcome.warnings
    assert any("usual moves from the one before it, and counts in full" in one for one in said)
    none = Projection(ahead=AheadPeriods(count=7), season=SeasonsOf(seasons=(7,)), method=LineSeason())
    said = run_values(rng.normal(50, 5, 120).tolist(), none).reports[-1].outcome.warnings
    assert any("than chance has it" in one and "7 days" in one for one in said)
    wave = 50 + 9 * np.sin(np.arange(120) * 2 * np.pi / 7) + rng.normal(0, 1, 120)
    said = (
        run_values(wave.tolist(), Projection(ahead=AheadPeriods(count=7), method=Drift())).reports[-1].outcome.warnings
    )
    assert any("still hangs together" in one for one in said)
    shift = Shift(on=date(2026, 4, 27), named="new berth", then=(Follow.AFRESH,))
    stepped = np.where(np.arange(120) < 116, 50, 80) + rng.normal(0, 1, 120)
    said = run_values(stepped.tolist(), shift, Projection(ahead=AheadPeriods(count=7))).reports[-1].outcome.warnings
    assert any("shifted within the last" in one for one in said)
    exact = run_values(np.arange(60.0).tolist(), Projection(ahead=AheadPeriods(count=5), method=Drift()))
    assert "40 of 40" in str(exact.reports[-1].outcome.evidence[1].rows[0])


def test_the_target_and_the_best_of_several() -> None:
    rising = np.arange(100) * 2.0 + np.random.default_rng(1).normal(0, 3, 100)
    entry = Projection(ahead=AheadPeriods(count=30), method=LineSeason(), target=230, season=SeasonFound())
    result = run_values(rising.tolist(), entry)
    drawn, areas = projected(result)
    _, target, at, chance, by_then, likely, end, by_end = result.reports[-1].outcome.evidence[-1].rows[0]
    crossing = int(np.argmax(drawn.value >= 230))
    assert (target, at) == (230, result.state.grain.labels(drawn.periods)[crossing])
    spread = (areas[-1].upper - drawn.value) / Z[95.0]
    assert end == pytest.approx(100 * stats.norm.cdf((drawn.value[-1] - 230) / spread[-1]))
    assert chance == pytest.approx(100 * stats.norm.cdf((drawn.value[crossing] - 230) / spread[crossing]))
    assert likely > at
    assert chance <= by_then <= by_end
    assert end <= by_end
    best = Projection(ahead=AheadPeriods(count=7), method=BestOf(methods=(Named.LAST, Named.LAST_SEASON, Named.LINE)))
    told = dict(row[:2] for row in run_values(weekly().tolist(), best).reports[-1].outcome.evidence[0].rows)
    scores = {name: value for name, value in told.items() if str(name).startswith("Mean error")}
    assert min(scores, key=lambda name: scores[name]).endswith(str(told["Chosen"]))
    # whether the choice is more than chance
    best = Projection(ahead=AheadPeriods(count=7), method=BestOf(methods=(Named.USUAL, Named.LINE)))
    told = dict(row[:2] for row in run_values(rising.tolist(), best).reports[-1].outcome.evidence[0].rows)
    assert told["Chosen"] == "straight line and season"
    assert str(told["Lead"]).startswith("nearer than the average of many models on ")


@pytest.mark.parametrize(
    ("stays", "upward", "said"),
    [
        (np.ones(30), True, False),
        (np.eye(1, 30)[0], False, False),
        (0.8 ** np.arange(30), True, False),
        ((-0.7) ** np.arange(30), True, True),
    ],
    ids=["walk", "noise", "fades", "alternates"],
)
def test_the_chance_of_having_reached_a_target_is_that_of_simulated_series(
    stays: np.ndarray, *, upward: bool, said: bool
) -> None:
    """stays: how much of an error is left so many periods later. said: whether the method says so, or its limits tell."""
    steps = np.random.default_rng(8).normal(0, 1, (30, 20000))
    mean, target = np.linspace(0, 0.5 if upward else -0.5, 30), 2.0 if upward else -2.0
    series = mean[:, None] + np.array([[*stays[:n][::-1], *np.zeros(30 - n)] for n in range(1, 31)]) @ steps
    beyond = series >= target if upward else series <= target
    width = Z[95.0] * np.sqrt(np.cumsum(stays**2))
    model = ModelPath(1.0, mean, stays, np.ones(30), np.zeros(0), in_logs=False, steps=np.arange(30))
    found = Projected("m", mean, (HalfWidth(95.0, width, width),), paths=(model,) if said else ())
    there, by_then = chances_beyond(found, target, upward=upward)
    np.testing.assert_allclose(there, beyond.mean(axis=1), atol=0.02)
    np.testing.assert_allclose(by_then, np.logical_or.accumulate(beyond, axis=0).mean(axis=1), atol=0.02)


def test_a_floor_above_all_and_whole_numbers_of_little_are_told() -> None:
    noise = np.round(50 + np.random.default_rng(0).normal(0, 3, 80), 1).tolist()
    above = run_values(noise, Projection(ahead=AheadPeriods(count=10), least=500)).reports[-1].outcome.warnings
    assert any("never below 500, it has no limits for 10 days" in said for said in above)
    few = np.where(np.random.default_rng(0).random(80) < 0.15, 2.0, 0.0).tolist()
    entry = Projection(ahead=AheadPeriods(count=10), rounding=Rounding.WHOLE)
    assert any("whole numbers make the sum" in said for said in run_values(few, entry).reports[-1].outcome.warnings)
    assert not any(
        "never" in said or "whole" in said for said in run_values(noise, Projection()).reports[-1].outcome.warnings
    )


def test_a_polynomial_with_season_is_least_squares_with_dummies() -> None:
    from statsmodels.regression.linear_model import OLS

    n, far = 90, 14
    rng = np.random.default_rng(4)
    season = np.array([0, 2, 5, -3, 4, -6, -2.0])
    x = np.arange(1.0, n + far + 1)
    y = 40 + 0.8 * x - 0.006 * x**2 + season[(x.astype(int) - 1) % 7] + rng.normal(0, 1, x.size)
    made = LineSeason(form=Polynomial(degree=2)).project(History(y[:n], np.ones(n, bool), 7), far, (80.0,))
    places = ((x.astype(int) - 1)[:, None] % 7 == np.arange(7)[None, :]).astype(float)
    design = np.column_stack((x, x**2, places))
    fit = OLS(y[:n], design[:n]).fit()
    rho = float(made.estimates["Fading of the last error ρ"])  # type: ignore[arg-type]
    fading = fit.resid[-1] * rho ** np.arange(1, far + 1)
    np.testing.assert_allclose(made.mean, design[n:] @ fit.params + fading, rtol=1e-7)
    assert made.estimates["Residual spread"] == pytest.approx(
        np.sqrt(((fit.resid[1:] - rho * fit.resid[:-1]) ** 2).sum() / (n - 3 - 6 - 1)), rel=1e-6
    )


def test_growth_with_season_multiplies_and_refuses_zeros() -> None:
    factor = np.array([1.0, 1.2, 0.9, 0.8])
    x = np.arange(1, 49)
    y = 100 * 1.02**x * factor[(x - 1) % 4]
    rng = np.random.default_rng(4)
    history = History(y[:40] * np.exp(rng.normal(0, 1e-6, 40)), np.ones(40, bool), 4)
    made = LineSeason(form=Growth()).project(history, 8, (95.0,))
    np.testing.assert_allclose(made.mean, y[40:], rtol=1e-5)
    assert np.all(made.halves[0].above > made.halves[0].below)
    with pytest.raises(Refusal, match="above zero"):
        LineSeason(form=Growth()).project(replace(history, values=history.values - 200), 8, (95.0,))


def test_as_far_as_the_time_axis_ends_with_the_longest_series() -> None:
    rows = ["day,route,riders", *(f"{date(2026, 1, 1) + timedelta(n)},long,{n % 7 + n}" for n in range(60))]
    rows += [f"{date(2026, 1, 1) + timedelta(n)},short,{n % 7 + 2 * n}" for n in range(50)]
    made = run_csv("\n".join(rows).encode(), Projection(ahead=AheadAxis(), method=LastSeason(), season=SeasonOf()))
    (curve,) = (one for one in curves(made) if one.kind == "projection")
    assert curve.series == "short"
    assert made.state.grain.labels(curve.periods) == [str(date(2026, 2, 20) + timedelta(n)) for n in range(10)]
    report = made.reports[-1]
    assert any(
        "long is not projected. The time axis ends with the last number" in one for one in report.outcome.warnings
    )


def test_limits_of_theta_grow_as_those_of_simple_smoothing() -> None:
    """σ √(1 + (k − 1) α²) k periods ahead (Hyndman et al. 2008, table 6.1), for three quantities that were estimated."""
    history = shown(np.random.default_rng(6).normal(0, 4, 120).cumsum() + 500, None)
    found = theta(history, 9, [80.0])
    alpha, spread = (float(found.estimates[name]) for name in ("Level weight α", "Residual spread"))
    k = np.arange(1, 10)
    by = np.sqrt((1 + 3 / 120) / (1 - 3 / 120))
    np.testing.assert_allclose(
        found.halves[0].above, 1.281552 * spread * np.sqrt(1 + (k - 1) * alpha**2) * by, rtol=1e-5
    )


def test_whole_numbers_leave_no_value_outside_that_was_inside() -> None:
    halves = (HalfWidth(80, np.array([1.1, 0.4]), np.array([1.1, 0.4])),)
    whole = Projected("m", np.array([10.4, 3.5]), halves).mapped(None, None, whole=True)
    (limit,) = whole.limits
    assert (limit.lower.tolist(), limit.upper.tolist()) == ([9, 3], [12, 4])
