"""What is taken over a window, against pandas on random series with blanks, and against plain loops."""

from __future__ import annotations

from collections.abc import Callable
from datetime import date
from fractions import Fraction
from typing import get_args

import numpy as np
import pandas as pd
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from tests.help import curves, daily_csv, run_csv, run_values
from zembra.core.arithmetic.outliers import local_spread
from zembra.core.arithmetic.rolling import (
    exponential_mean,
    rising_mean,
    rolling_count,
    rolling_mean,
    rolling_middle,
    rolling_order,
    rolling_spread,
    rolling_sum,
    weighted_mean,
)
from zembra.core.arithmetic.windows import Windows, fixed_windows, free_windows
from zembra.core.calendar.months import CalendarUnit
from zembra.core.entries.readings.average import Average
from zembra.core.entries.readings.band import Band
from zembra.core.entries.readings.clauses.averages import (
    AtBlank,
    ByWhat,
    CountOf,
    Divisor,
    Exponential,
    Largest,
    Middle,
    NewestMost,
    PercentPoint,
    PlainMean,
    Smallest,
    SpreadOf,
    SumOf,
    Taken,
    WeightsByHand,
)
from zembra.core.entries.readings.clauses.bands import (
    FixedDistance,
    Percentiles,
    PercentOf,
    RoundReading,
    RoundSeries,
    ScaledDeviations,
    SmallestToLargest,
    Spreads,
    StandardErrors,
    Width,
)
from zembra.core.entries.readings.clauses.windows import AtEnds, CalendarWindow, OneWay, Reach, Window
from zembra.core.entries.readings.trend import Trend
from zembra.core.ledger.shapes import Area

Rolled = Callable[[np.ndarray, Windows, int], np.ndarray]
NUMBERS = st.one_of(st.none(), st.floats(-1e6, 1e6).map(lambda v: round(v, 3)), st.sampled_from([1e12, 1e-6]))
SERIES = st.lists(NUMBERS, min_size=1, max_size=45).map(
    lambda cells: np.array([np.nan if c is None else c for c in cells])
)
KINDS: dict[str, tuple[Rolled, Callable[[np.ndarray], float]]] = {
    "mean": (rolling_mean, np.mean),
    "sum": (rolling_sum, np.sum),
    "count": (rolling_count, len),
    "min": (lambda v, w, n: rolling_order(v, w, n, "min"), np.min),
    "max": (lambda v, w, n: rolling_order(v, w, n, "max"), np.max),
    "median": (lambda v, w, n: rolling_order(v, w, n, "median"), np.median),
    "percentile": (lambda v, w, n: rolling_order(v, w, n, "quantile", 0.9), lambda part: np.percentile(part, 90)),
    "sample": (rolling_spread, lambda part: np.std(part, ddof=1) if part.size > 1 else np.nan),
    "population": (lambda v, w, n: rolling_spread(v, w, n, population=True), np.std),
}


def plainly(values: np.ndarray, windows: Windows, need: int, what: Callable[[np.ndarray], float]) -> np.ndarray:
    """The same with a loop."""
    found = np.full(values.size, np.nan)
    for at, (first, end) in enumerate(zip(windows.first, windows.end, strict=True)):
        part = values[first:end]
        part = part[~np.isnan(part)]
        if part.size >= max(1, need):
            found[at] = what(part)
    return found


@pytest.mark.parametrize("kind", list(KINDS))
@given(
    SERIES,
    st.integers(2, 12),
    st.sampled_from(list(Reach)),
    st.integers(1, 6),
    st.lists(st.integers(1, 40), max_size=2),
)
def test_every_kind_and_alignment_is_a_plain_loop(
    kind: str, values: np.ndarray, length: int, reach: Reach, need: int, cuts: list[int]
) -> None:
    inside = [cut for cut in cuts if cut < values.size]
    windows = fixed_windows(values.size, length, reach.before(length), inside)
    ours, theirs = KINDS[kind]
    found, expected = ours(values, windows, need), plainly(values, windows, need, theirs)
    scale = np.nanmax(np.abs(values), initial=0.0)
    np.testing.assert_allclose(
        found, expected, rtol=1e-9, atol=1e-9 * scale if kind in ("sample", "population") else 1e-9
    )


@pytest.mark.parametrize("kind", list(KINDS))
@given(SERIES, st.integers(0, 9), st.integers(1, 9), st.integers(1, 4))
def test_windows_of_any_bounds_are_a_plain_loop(kind: str, values: np.ndarray, back: int, on: int, need: int) -> None:
    at = np.arange(values.size)
    # lengths that differ from point to point, as months do
    first, end = np.maximum(0, at - back - at % 3), np.minimum(values.size, at + on)
    windows = free_windows(first, end, np.ones(values.size, dtype=bool))
    ours, theirs = KINDS[kind]
    scale = np.nanmax(np.abs(values), initial=0.0)
    expected = plainly(values, windows, need, theirs)
    atol = 1e-9 * scale if kind in ("sample", "population") else 1e-9
    np.testing.assert_allclose(ours(values, windows, need), expected, rtol=1e-9, atol=atol)


@pytest.mark.parametrize("kind", [*KINDS, "rising", "weights"])
def test_one_huge_value_spoils_no_window_that_it_is_not_in(kind: str) -> None:
    rng = np.random.default_rng(8)
    clean = np.where(np.arange(400) % 2, 1e-6, 1.0) * rng.normal(3, 1, 400)
    spoiled = clean.copy()
    spoiled[200] = 1e10
    functions: dict[str, Rolled] = {name: ours for name, (ours, _) in KINDS.items()}
    functions["rising"] = rising_mean
    functions["weights"] = lambda v, w, n: weighted_mean(v, w, n, np.array([1.0, 5, 2, 1, 1, 1, 4]))
    for windows in (fixed_windows(400, 7, 6), free_windows(*_sevens(400))):
        if kind == "weights" and not windows.length:
            continue
        a, b = functions[kind](clean, windows, 2), functions[kind](spoiled, windows, 2)
        away = np.r_[2:200, 207:400]
        np.testing.assert_allclose(b[away], a[away], rtol=1e-9)


@pytest.mark.parametrize("base", [0.0, 1e9])
def test_the_spread_of_a_long_line_is_what_two_passes_make_of_each_window(base: float) -> None:
    rng = np.random.default_rng(3)
    values = base + np.where(
        np.arange(30_000) < 9000, rng.normal(100, 9, 30_000), np.cumsum(rng.normal(0, 1e-3, 30_000))
    )
    values[rng.random(values.size) < 0.1] = np.nan
    values[[5000, 21_000]] = 1e10
    values[12_000:13_000] = 7.3
    windows = fixed_windows(values.size, 28, 27)
    expected = plainly(values, windows, 9, lambda some: some.std(ddof=1))
    np.testing.assert_allclose(rolling_spread(values, windows, 9), expected, rtol=1e-9, atol=1e-12 * (1 + base))


def _sevens(size: int) -> tuple[np.ndarray, np.ndarray, np.ndarray]:
    at = np.arange(size)
    return np.maximum(0, at - 6), at + 1, np.ones(size, dtype=bool)


@given(SERIES, st.integers(2, 9), st.integers(1, 4))
def test_rising_and_given_weights_are_plain_dot_products(values: np.ndarray, length: int, need: int) -> None:
    windows = fixed_windows(values.size, length, length - 1)
    weights = np.arange(1.0, length + 1)

    def dot(at: int) -> float:
        # the weights belong to the places of a full window: at the beginning the oldest are missing
        part = values[max(0, at - length + 1) : at + 1]
        own = weights[-part.size :]
        has = ~np.isnan(part)
        return float((part[has] * own[has]).sum() / own[has].sum()) if has.sum() >= max(1, need) else np.nan

    expected = np.array([dot(at) for at in range(values.size)])
    np.testing.assert_allclose(weighted_mean(values, windows, need, weights), expected, rtol=1e-9, atol=1e-6)
    full = windows.whole
    np.testing.assert_allclose(rising_mean(values, windows, need)[full], expected[full], rtol=1e-9, atol=1e-6)


@given(SERIES, st.floats(0.01, 1), st.booleans(), st.integers(1, 5))
def test_the_exponential_mean_is_its_definition(values: np.ndarray, alpha: float, decays: bool, need: int) -> None:
    found = exponential_mean(values, alpha, need, (), decays=decays)
    known: list[tuple[int, float]] = []
    for at, value in enumerate(values):
        if np.isnan(value):
            assert np.isnan(found[at])
            continue
        known.append((at, float(value)))
        if len(known) < need:
            assert np.isnan(found[at])
            continue
        steps = [(at - one if decays else len(known) - 1 - n) for n, (one, _) in enumerate(known)]
        weights = (1 - alpha) ** np.array(steps, dtype=float)
        expected = float((weights * [v for _, v in known]).sum() / weights.sum())
        assert found[at] == pytest.approx(expected, rel=1e-8, abs=1e-6 * max(1, np.nanmax(np.abs(values)) * 1e-6))


VALUES = [10.0, 14, None, 12, 30, 11, 13, 9, 15, 12, 16, 8]


@pytest.mark.parametrize(
    ("how", "rolled"),
    [
        (PlainMean(), lambda r: r.mean()),
        (Middle(), lambda r: r.median()),
        (SumOf(), lambda r: r.sum()),
        (Smallest(), lambda r: r.min()),
        (Largest(), lambda r: r.max()),
        (CountOf(), lambda r: r.count()),
        (SpreadOf(), lambda r: r.std()),
        (SpreadOf(divisor=Divisor.POPULATION), lambda r: r.std(ddof=0)),
        (PercentPoint(share=75), lambda r: r.quantile(0.75)),
    ],
    ids=lambda one: one.kind if isinstance(one, Taken) else "",
)  # fmt: skip
def test_the_entry_agrees_with_pandas(
    how: Taken, rolled: Callable[[pd.core.window.rolling.Rolling], pd.Series]
) -> None:
    series = pd.Series([np.nan if v is None else v for v in VALUES])
    for reach, window in ((Reach.TRAILING, series.rolling(5, min_periods=3)),):
        (curve,) = curves(run_values(VALUES, Average(how=how, window=Window(length=5, need=3, reach=reach))))
        expected = rolled(window).where(series.rolling(5, min_periods=1).count() >= 3)
        np.testing.assert_allclose(curve.value, expected.to_numpy(), rtol=1e-12)
    assert curve.name == f"5-day {how.spoken}"
    assert curve.pale is not None
    assert curve.pale.tolist() == [True] * 4 + [False] * 8
    (full,) = curves(run_values(VALUES, Average(how=how, window=Window(length=5, need=3, ends=AtEnds.FULL))))
    assert np.isnan(full.value[:4]).all()


def test_an_even_centred_mean_is_the_two_step_one() -> None:
    values = [float(n * n) for n in range(20)]
    (curve,) = curves(run_values(values, Average(window=Window(length=4, need=4, reach=Reach.CENTRED))))
    series = pd.Series(values)
    twice = series.rolling(4).mean().rolling(2).mean().shift(-2)
    np.testing.assert_allclose(curve.value[2:-2], twice.to_numpy()[2:-2])


def test_weights_must_be_as_many_as_the_window_holds() -> None:
    weights = WeightsByHand(weights=(1, 2, 5))
    (curve,) = curves(run_values([1.0, 2, 3, 4], Average(how=weights, window=Window(length=3, need=3))))
    np.testing.assert_allclose(curve.value[2:], [(1 + 4 + 15) / 8, (2 + 6 + 20) / 8])
    problem = run_values([1.0, 2, 3, 4], Average(how=weights, window=Window(length=4, need=3))).reports[-1].problem
    assert "3 weights are given for a window of 4" in str(problem)


def test_newest_most_and_exponential_have_names_that_tell_them_apart() -> None:
    entries = (
        Average(how=NewestMost(), window=Window(length=5, need=3)),
        Average(how=Exponential(amount=5, need=1)),
        Average(how=Exponential(by=ByWhat.HALF_LIFE, amount=3, need=1, at_blank=AtBlank.DECAYS)),
    )
    result = run_values(VALUES, *entries)
    assert [one.name for one in curves(result)] == [
        "5-day average, newest most", "exponential average, span 5", "exponential average, half-life 3",
    ]  # fmt: skip
    series = pd.Series([np.nan if v is None else v for v in VALUES])
    span = series.ewm(span=5, ignore_na=True).mean().where(series.notna())
    half = series.ewm(halflife=3, ignore_na=False).mean().where(series.notna())
    np.testing.assert_allclose(curves(result)[1].value, span, rtol=1e-12)
    np.testing.assert_allclose(curves(result)[2].value, half, rtol=1e-12)


@pytest.mark.parametrize("unit", [CalendarUnit.MONTH, CalendarUnit.WEEK])
@pytest.mark.parametrize("reach", get_args(OneWay))
def test_a_window_in_calendar_time_holds_what_the_calendar_says(unit: CalendarUnit, reach: OneWay) -> None:
    rng = np.random.default_rng(3)
    cells = [None if n % 11 == 4 else round(v, 2) for n, v in enumerate(rng.normal(50, 9, 150))]
    window = CalendarWindow(length=1, unit=unit, reach=reach, need=5)
    (curve,) = curves(run_csv(daily_csv(cells, date(2024, 1, 1)), Average(window=window)))
    series = pd.Series([np.nan if c is None else c for c in cells], index=pd.date_range("2024-01-01", periods=150))
    offset = pd.DateOffset(months=1) if unit is CalendarUnit.MONTH else pd.DateOffset(weeks=1)
    for day, found in zip(series.index, curve.value, strict=True):
        after = day + pd.Timedelta(days=1)
        part = (
            series[(series.index >= after - offset) & (series.index < after)]
            if reach is Reach.TRAILING
            else series[(series.index >= day) & (series.index < day + offset)]
        ).dropna()
        expected = part.mean() if len(part) >= 5 else np.nan
        np.testing.assert_allclose(found, expected, rtol=1e-12)
    # all of February, on its last day
    if unit is CalendarUnit.MONTH and reach is Reach.TRAILING:
        assert curve.value[59] == pytest.approx(series["2024-02"].mean())


@pytest.mark.parametrize(
    "width", [Spreads(times=1.5), StandardErrors(), Percentiles(), SmallestToLargest(), PercentOf(), FixedDistance(distance=3), ScaledDeviations()],
    ids=lambda width: width.kind,
)  # fmt: skip
def test_bands_reach_as_far_as_their_sentence_says(width: Width) -> None:
    rng = np.random.default_rng(5)
    values = rng.normal(80, 6, 60).round(2).tolist()
    result = run_values(values, Band(width=width, window=Window(length=9, need=4)))
    area = result.state.shapes[-1]
    assert isinstance(area, Area)
    series = pd.Series(values)
    rolled = series.rolling(9, min_periods=4)
    mean, count = rolled.mean(), rolled.count().clip(upper=9)
    mad = rolled.apply(lambda part: np.median(np.abs(part - np.median(part))))
    low, high = {
        "spreads": (mean - 1.5 * rolled.std(), mean + 1.5 * rolled.std()),
        "errors": (mean - 2 * rolled.std() / np.sqrt(count), mean + 2 * rolled.std() / np.sqrt(count)),
        "percentiles": (rolled.quantile(0.1), rolled.quantile(0.9)),
        "range": (rolled.min(), rolled.max()),
        "percent": (mean * 0.9, mean * 1.1),
        "distance": (mean - 3, mean + 3),
        "mad": (mean - 2 * 1.482602218505602 * mad, mean + 2 * 1.482602218505602 * mad),
    }[width.kind]  # type: ignore[attr-defined]
    np.testing.assert_allclose(area.lower, low.to_numpy(), rtol=1e-9)
    np.testing.assert_allclose(area.upper, high.to_numpy(), rtol=1e-9)
    _, judged, inside, *_ = result.reports[-1].outcome.evidence[0].rows[0]
    assert (judged, inside) == (57, int(((series >= low) & (series <= high)).sum()))


def test_a_band_round_a_reading_moves_with_it_and_is_named_in_its_sentence() -> None:
    rng = np.random.default_rng(6)
    values = (np.arange(50) * 2 + rng.normal(0, 3, 50)).round(2).tolist()
    band = Band(round=RoundReading(reading="t0"), window=Window(length=10, need=5))
    result = run_values(values, Trend(), band)
    trend, middle, area = result.state.shapes
    assert isinstance(area, Area)
    np.testing.assert_array_equal(middle.value, trend.value)
    residual = pd.Series(values) - trend.value
    np.testing.assert_allclose(area.upper, trend.value + 2 * residual.rolling(10, min_periods=5).std(), rtol=1e-9)
    assert "a reading that is there, straight trend, as the series" in result.reports[-1].sentence
    moved = run_values(values, Trend(start=date(2026, 1, 20)), band)
    assert not np.array_equal(moved.state.shapes[-1].upper, area.upper, equal_nan=True)
    gone = run_values(values, Average(window=Window(length=5, need=2)), Band(round=RoundReading(reading="x")))
    assert "no such reading" in str(gone.reports[-1].problem)
    own = run_values(values, Band(round=RoundSeries(), width=FixedDistance(distance=4))).state.shapes[-1]
    np.testing.assert_allclose(own.upper - own.lower, 8)


def test_a_line_without_a_point_has_windows_without_one() -> None:
    nothing = np.empty(0)
    windows = fixed_windows(0, 7, 6)
    assert rolling_mean(nothing, windows, 1).size == 0
    assert rolling_sum(nothing, windows, 1).size == 0
    assert rolling_spread(nothing, windows, 2).size == 0
    assert rising_mean(nothing, windows, 1).size == 0
    assert rolling_middle(nothing, 7)[0].size == 0
    assert local_spread(nothing, 3).size == 0


@given(
    st.lists(st.one_of(st.none(), st.floats(-1e6, 1e6)), min_size=40, max_size=200),
    st.sampled_from([0.0, 1e3, 1e9]),
    st.integers(min_value=2, max_value=30),
)
@settings(deadline=None)
def test_spreads_are_those_of_each_window_alone(cells: list[float | None], level: float, length: int) -> None:
    values = np.array([np.nan if cell is None else cell + level for cell in cells])
    found = rolling_spread(values, fixed_windows(values.size, length, length - 1), 2)
    for end in range(values.size):
        window = values[max(0, end - length + 1) : end + 1]
        known = [Fraction(float(value)) for value in window[~np.isnan(window)]]
        if len(known) < 2:
            assert np.isnan(found[end])
            continue
        mean = sum(known, Fraction(0)) / len(known)
        exact = float(sum(((value - mean) ** 2 for value in known), Fraction(0)) / (len(known) - 1)) ** 0.5
        assert found[end] == pytest.approx(exact, rel=1e-9, abs=1e-12 * max(1.0, level))
