"""Every outlier rule against an independent computation on random series with blanks, and on planted traps."""

from __future__ import annotations

from datetime import date

import numpy as np
import pandas as pd
import pytest
from hypothesis import assume, given, settings
from hypothesis import strategies as st
from pydantic import ValidationError
from scipy import stats
from statsmodels.tsa.seasonal import STL

from tests.help import daily_csv, only_line, run_csv, run_values
from zembra.core.arithmetic.outliers import (
    away_from_middle,
    away_from_neighbours,
    away_from_season,
    away_from_trend,
    beyond_fence,
    local_spread,
    outside_limits,
    usual_move,
)
from zembra.core.arithmetic.season import has_season
from zembra.core.calendar.lines import Condition
from zembra.core.entries.readings.trend import Trend
from zembra.core.entries.repairs.blanks import Blanks
from zembra.core.entries.repairs.clauses.newest import LastFew
from zembra.core.entries.repairs.clauses.outliers import (
    BeyondFence,
    Ends,
    FromNeighbours,
    FromTrend,
    FromTrendLine,
    Measure,
    OnlyMarked,
    OutlierFate,
    OutsideLimits,
    PickedByHand,
    PulledIn,
    Reason,
    ReplacedSeasonal,
    ReplacedStraight,
    SetAside,
    SetAsideBridged,
    Side,
)
from zembra.core.entries.repairs.outliers import Outliers
from zembra.core.entries.repairs.provisional import Provisional
from zembra.core.errors import Refusal
from zembra.core.grammar import Point
from zembra.demo import demo_file
from zembra.demo.sailings import ROUTES

NAN = float("nan")
SERIES = st.lists(st.one_of(st.none(), st.integers(-50, 50)), min_size=1, max_size=60).map(
    lambda cells: np.array([NAN if cell is None else float(cell) for cell in cells])
)
BOTH = {"up": True, "down": True}


def plain_neighbours(values: np.ndarray, far: float, percent: bool, side: str, ends: bool) -> list[bool]:
    """The rule as one would tell it, value by value."""
    known = [n for n, v in enumerate(values) if not np.isnan(v)]
    out = [False] * len(values)
    for place, n in enumerate(known):
        beside = [values[known[p]] for p in (place - 1, place + 1) if 0 <= p < len(known)]
        if len(beside) < 2 and not (ends and beside):
            continue
        gaps = [(values[n] - one, abs(one) * far / 100 if percent else far) for one in beside]
        over, under = all(d > t for d, t in gaps), all(-d > t for d, t in gaps)
        either = all(abs(d) > t for d, t in gaps)
        out[n] = {"both": either, "up": over, "down": under}[side]
    return out


@given(SERIES, st.integers(1, 40), st.booleans(), st.sampled_from(["both", "up", "down"]), st.booleans())
def test_neighbours_as_told_value_by_value(values: np.ndarray, far: int, percent: bool, side: str, ends: bool) -> None:
    judged = away_from_neighbours(values, far, percent=percent, up=side != "down", down=side != "up", ends=ends)
    assert judged.out.tolist() == plain_neighbours(values, far, percent, side, ends)


@given(SERIES, st.integers(1, 40))
def test_what_is_pulled_in_no_longer_stands_out_and_moved_least(values: np.ndarray, far: int) -> None:
    judged = away_from_neighbours(values, far, percent=False)
    for n in np.flatnonzero(judged.out):
        pulled = values.copy()
        pulled[n] = judged.nearest[n]
        assert not away_from_neighbours(pulled, far, percent=False).out[n]
    np.testing.assert_array_equal(judged.nearest[~judged.out], values[~judged.out])


@pytest.mark.parametrize(
    ("cells", "far", "out"),
    [
        ([100, 10, 10, 10], 50, []),  # the first has one neighbour only: not judged
        ([10, 10, 10, 100], 50, []),
        ([10, NAN, 100, NAN, 10], 50, [2]),  # blanks next door are passed over
        ([10, 60, 10], 50, []),  # exactly as far as allowed is not beyond
        ([10, 60.001, 10], 50, [1]),
        ([10, 100, 100, 10], 50, []),  # two alike shelter each other
        ([0, 100, 200], 50, [1]),  # on different sides of its neighbours
        ([10, 100, 10, 100, 10], 50, [1, 2, 3]),  # all judged as they stood
        ([NAN, NAN], 50, []),
    ],
)
def test_neighbours_at_the_edges(cells: list[float], far: float, out: list[int]) -> None:
    assert np.flatnonzero(away_from_neighbours(np.array(cells), far, percent=False).out).tolist() == out


def test_judged_ends_have_one_neighbour() -> None:
    values = np.array([100.0, 10, 12, 11, 90])
    assert np.flatnonzero(away_from_neighbours(values, 50, percent=False, ends=True).out).tolist() == [0, 4]


@given(SERIES)
def test_the_usual_move_is_the_middle_one(values: np.ndarray) -> None:
    known = pd.Series(values).dropna()
    assume(len(known) > 1)
    assert usual_move(values) == pytest.approx(known.diff().abs().median())


@settings(max_examples=60)
@given(SERIES, st.integers(3, 25), st.floats(1, 5))
def test_hampel_is_pandas_rolling_apply(values: np.ndarray, window: int, far: float) -> None:
    # an even window leans one point back in both
    padded = pd.Series(values)
    rolled = [padded.iloc[max(0, n - window // 2) : n + window - window // 2].dropna() for n in range(len(padded))]
    middle = np.array([part.median() for part in rolled])
    scaled = np.array([stats.median_abs_deviation(part, scale="normal") if len(part) else NAN for part in rolled])
    with np.errstate(invalid="ignore"):
        expected = np.abs(values - middle) > far * scaled * (1 + 1e-12)
        unclear = np.isclose(np.abs(values - middle), far * scaled, rtol=1e-9) & (scaled > 0)
    judged = away_from_middle(values, window, far, **BOTH)
    np.testing.assert_allclose(judged.expected, middle)
    np.testing.assert_array_equal(judged.out[~unclear], expected[~unclear])


@given(SERIES, st.floats(0.5, 3))
def test_the_fence_is_numpys_quartiles(values: np.ndarray, far: float) -> None:
    known = values[~np.isnan(values)]
    if known.size < 4:
        with pytest.raises(Refusal, match="too few"):
            beyond_fence(values, far, **BOTH)
        return
    low, high = np.percentile(known, 25), np.percentile(known, 75)
    edge = far * stats.iqr(known)
    np.testing.assert_array_equal(beyond_fence(values, far, **BOTH).out, (values < low - edge) | (values > high + edge))


@given(SERIES, st.floats(0.5, 3))
def test_away_from_trend_is_scipys_regression(values: np.ndarray, far: float) -> None:
    x = np.arange(values.size, dtype=float)
    known = ~np.isnan(values)
    assume(known.sum() > 2)
    fit = stats.linregress(x[known], values[known])
    rest = values - (fit.intercept + fit.slope * x)
    spread = np.sqrt(np.nansum(rest**2) / (known.sum() - 2))
    judged = away_from_trend(values, x, far, percent=False, **BOTH)
    clear = np.abs(np.abs(rest) - far * spread) > 1e-6
    np.testing.assert_array_equal(judged.out[clear], (np.abs(rest) > far * spread)[clear])


def test_seasonal_residuals_are_statsmodels_stl() -> None:
    rng = np.random.default_rng(4)
    values = 100 + 20 * np.sin(np.arange(140) * 2 * np.pi / 7) + rng.normal(0, 2, 140)
    values[90:92] = NAN
    usual = [[values[n + 7 * k] for k in (-4, -3, -2, -1, 1, 2, 3, 4)] for n in (90, 91)]
    filled = values.copy()
    filled[90:92] = np.median(usual, axis=1)
    parts = STL(filled, period=7, seasonal=15).fit()
    rest = pd.Series(values - parts.trend - parts.seasonal).abs()
    spread = rest.rolling(41, center=True, min_periods=1).quantile(0.8) / stats.norm.ppf(0.9)
    judged = away_from_season(values, 7, 6, **BOTH)
    np.testing.assert_allclose(judged.expected, parts.trend + parts.seasonal)
    assert not judged.out.any()
    np.testing.assert_allclose(local_spread(rest.to_numpy(), 20), spread, rtol=1e-4)
    values[[60, 100]] += 40, -30
    assert np.flatnonzero(away_from_season(values, 7, 6, **BOTH).out).tolist() == [60, 100]
    with pytest.raises(Refusal, match="more than 14 numbers"):
        away_from_season(values[:10], 7, 6, **BOTH)
    with pytest.raises(Refusal, match="no season of 7"):
        away_from_season(rng.normal(0, 1, 200), 7, 6, **BOTH)


def test_a_season_is_there_or_not_whatever_the_gaps() -> None:
    rng = np.random.default_rng(8)
    for strength, there in ((0.0, False), (0.1, False), (1.0, True)):
        values = np.cumsum(rng.normal(0, 0.3, 160)) + strength * np.sin(np.arange(160) * 2 * np.pi / 7)
        values[20:23] = NAN
        assert has_season(values, 7) == there
    assert not has_season(np.full(60, 3.0), 7)


def test_peaks_of_a_growing_season_are_offered_their_own_rule() -> None:
    noise = np.random.default_rng(3).normal(0, 1, 140).tolist()
    weeks = [100 + n // 7 * 4 + (60 if n % 7 == 5 else 0) + noise[n] for n in range(140)]
    result = run_values(weeks, Outliers(rule=FromNeighbours()))
    (offer,) = result.reports[-1].outcome.offers
    assert (offer.change, offer.params["rule"]["kind"]) == (True, "season")
    spiked = [*weeks[:71], 400, *weeks[72:]]
    judged = run_values(spiked, Outliers.model_validate({**offer.params}))
    assert [row[1] for row in judged.reports[-1].outcome.evidence[0].rows] == ["2026-03-13"]


@given(SERIES, st.integers(-40, 0), st.integers(0, 40))
def test_given_limits_are_plain(values: np.ndarray, low: int, high: int) -> None:
    judged = outside_limits(values, low, high)
    np.testing.assert_array_equal(judged.out, (values < low) | (values > high))
    np.testing.assert_array_equal(judged.nearest, np.clip(values, low, high))
    assert not outside_limits(values, None, None).out.any()


SPIKED = [10.0, 11, 12, 90, 11, 10, 12, 11]
RULE = FromNeighbours(far=50, measure=Measure.UNITS)


@pytest.mark.parametrize(
    ("then", "condition", "value", "bridged"),
    [
        (SetAside(), Condition.SET_ASIDE, 90, False),
        (SetAsideBridged(), Condition.SET_ASIDE, 90, True),
        (ReplacedStraight(), Condition.FILLED, 11.5, False),
        (ReplacedSeasonal(season=3), Condition.FILLED, 11, False),
        (PulledIn(), Condition.ADJUSTED, 62, False),
        (OnlyMarked(), Condition.MEASURED, 90, False),
    ],
)
def test_what_happens_then(then: OutlierFate, condition: Condition, value: float, bridged: bool) -> None:
    result = run_values(SPIKED, Outliers(then=then, rule=RULE))
    line = only_line(result)
    assert line.condition[3] == condition
    assert line.value[3] == value
    assert bool(line.bridged[3]) is bridged
    assert line.original[3] == 90
    counted = np.isnan(line.counted[3])
    assert counted == (condition is Condition.SET_ASIDE)
    assert [shape.periods.size for shape in result.state.shapes] == ([1] if isinstance(then, OnlyMarked) else [])
    others = np.arange(8) != 3
    np.testing.assert_array_equal(line.value[others], np.array(SPIKED)[others])


def test_a_kept_point_stays_and_a_reason_is_shown() -> None:
    spiked = Point(series="riders", period="2026-01-04")
    kept = run_values(SPIKED, Outliers(kept=(spiked,), rule=RULE))
    assert only_line(kept).condition[3] == Condition.MEASURED
    (listed,) = [table for table in kept.reports[-1].outcome.evidence if table.title == "What stands out"]
    assert listed.rows[0][5] == "kept"
    (found,) = kept.reports[-1].outcome.findings
    assert listed.findings == (found,)
    assert (found.series, listed.rows[0][1], found.state, found.value) == ("riders", "2026-01-04", "kept", 90)
    noted = run_values(SPIKED, Outliers(reasons=(Reason(point=spiked, text="regatta"),), rule=RULE))
    (mark,) = noted.state.shapes
    assert (mark.labels, mark.value.tolist()) == (("regatta",), [90])
    both = run_values(SPIKED, Outliers(kept=(spiked,), reasons=(Reason(point=spiked, text="regatta"),), rule=RULE))
    (mark,) = both.state.shapes
    assert mark.labels == ("regatta",)


def test_points_picked_by_hand() -> None:
    points = tuple(Point(series="riders", period=f"2026-01-0{n}") for n in (2, 4))
    line = only_line(run_values(SPIKED, Outliers(rule=PickedByHand(points=points))))
    assert np.flatnonzero(line.condition == Condition.SET_ASIDE).tolist() == [1, 3]
    untouched = only_line(run_values(SPIKED, Outliers(rule=PickedByHand())))
    assert not (untouched.condition == Condition.SET_ASIDE).any()


def test_outliers_judge_what_repairs_left_and_not_provisional_values() -> None:
    data = daily_csv([10, None, 12, 90, 11, 10, 12, 200])
    entry = Outliers(rule=RULE.model_copy(update={"ends": Ends.JUDGED}))
    line = only_line(run_csv(data, Blanks(longest=1), Provisional(rule=LastFew(last=1)), entry))
    assert [Condition(code).word for code in line.condition] == [
        "measured", "filled", "measured", "set aside", "measured", "measured", "measured", "provisional",
    ]  # fmt: skip


def test_evidence_tells_the_trend_before_and_after() -> None:
    rng = np.random.default_rng(8)
    values = 100 + 0.8 * np.arange(80) + rng.normal(0, 2, 80)
    values[[20, 61]] += [300, -250]
    result = run_values(values.tolist(), Outliers(rule=RULE), Trend())
    effect = next(t for t in result.reports[-2].outcome.evidence if t.title == "What it did to the figures")
    before, after = effect.rows
    clean = np.delete(np.arange(80), [20, 61])
    for row, kept in ((before, np.arange(80)), (after, clean)):
        fit = stats.linregress(kept, values[kept])
        assert row[1] == kept.size
        assert row[3] == pytest.approx(values[kept].mean())
        assert row[4] == pytest.approx(values[kept].std(ddof=1))
        assert row[7] == pytest.approx(fit.rvalue**2)
    trend = result.reports[-1].outcome.evidence[0].rows[0]
    assert trend[3] == pytest.approx(after[7])


@pytest.mark.parametrize(
    "entry",
    [
        Outliers(),
        Outliers(rule=FromNeighbours(measure=Measure.PERCENT, far=50)),
        Outliers(rule=FromTrendLine(far=4)),
        Outliers(rule=FromTrendLine(far=60, far_in=FromTrend.PERCENT)),
        Outliers(rule=BeyondFence(far=2)),
        Outliers(rule=OutsideLimits(low=300, high=1600)),
    ],
    ids=lambda entry: entry.rule.kind,
)
def test_the_planted_spikes_are_found_and_nothing_else(entry: Outliers) -> None:
    entry = entry.model_copy(update={"series": ("Outer Isles",)})
    result = run_csv(demo_file("sailings.csv"), Provisional(rule=LastFew(last=5)), entry)
    line = result.state.lines[0]
    found = {
        str(day) for day in np.array(result.state.grain.labels(line.periods))[line.condition == Condition.SET_ASIDE]
    }
    assert found == {str(day) for day in ROUTES[0].spikes}
    assert date(2025, 10, 30) in ROUTES[0].spikes


def test_one_side_only() -> None:
    values = [10.0, 11, 90, 11, 10, -80, 11, 10]
    for side, out in ((Side.UP, [2]), (Side.DOWN, [5]), (Side.BOTH, [2, 5])):
        line = only_line(run_values(values, Outliers(rule=RULE.model_copy(update={"side": side}))))
        assert np.flatnonzero(line.condition == Condition.SET_ASIDE).tolist() == out


def test_limits_the_wrong_way_round_are_refused() -> None:
    with pytest.raises(ValidationError, match="lower limit lies above"):
        Outliers(rule=OutsideLimits(low=5, high=1))
