"""The provisional tail and what counts it; trend lines; moves; finer grains."""

from __future__ import annotations

from datetime import date

import numpy as np
import pandas as pd
import pytest
from hypothesis import assume, given
from hypothesis import strategies as st
from scipy import stats

from tests.help import daily_csv, only_line, run_csv, run_values, smoothing
from zembra.core.arithmetic.regression import straight_fit
from zembra.core.calendar.grain import Unit
from zembra.core.calendar.lines import Condition
from zembra.core.calendar.months import CalendarUnit
from zembra.core.entries.calendar.finer import Finer, FinerBetween, FinerUntil
from zembra.core.entries.readings.average import Average
from zembra.core.entries.readings.clauses.windows import Window
from zembra.core.entries.readings.moves import Moves, before_places, moves
from zembra.core.entries.readings.trend import Trend
from zembra.core.entries.readings.windowed import Tail
from zembra.core.entries.repairs.clauses.newest import CalendarSpan, CurrentSpan, EverySince, FewRows, LastFew
from zembra.core.entries.repairs.provisional import Provisional
from zembra.core.entries.shared.sharedwords import Counting
from zembra.demo import demo_file
from zembra.demo.fuel import PRICES

NAN = float("nan")


def tail_of(entry: Provisional, data: bytes) -> list[str]:
    result = run_csv(data, entry)
    line = only_line(result)
    return [
        label
        for label, code in zip(result.state.grain.labels(line.periods), line.condition, strict=True)
        if code == Condition.PROVISIONAL
    ]


def test_which_periods_are_provisional() -> None:
    data = daily_csv(range(300, 340), date(2026, 9, 21))  # to 30 October; as of 31 October
    assert tail_of(Provisional(rule=LastFew(last=3)), data) == ["2026-10-28", "2026-10-29", "2026-10-30"]
    assert tail_of(Provisional(rule=EverySince(since=date(2026, 10, 29))), data) == ["2026-10-29", "2026-10-30"]
    month = tail_of(Provisional(rule=CurrentSpan(current=CalendarSpan.MONTH)), data)
    assert (month[0], len(month)) == ("2026-10-01", 30)
    week = tail_of(Provisional(rule=CurrentSpan(current=CalendarSpan.WEEK)), data)
    assert week == [f"2026-10-{day}" for day in range(26, 31)]


def test_periods_with_few_rows_at_the_end_are_provisional() -> None:
    rows = [f"2026-01-{day:02d},{n}" for day in range(1, 21) for n in range(4)]
    rows += ["2026-01-21,1", "2026-01-21,2", "2026-01-22,1"]
    rows.remove("2026-01-05,3")  # an old day with few rows is not unfinished
    data = ("day,riders\n" + "\n".join(rows) + "\n").encode()
    entry = Provisional(rule=FewRows(share=75))
    assert tail_of(entry, data) == ["2026-01-21", "2026-01-22"]
    assert tail_of(Provisional(rule=FewRows(share=50)), data) == ["2026-01-22"]


def test_a_tail_that_cannot_be_is_refused() -> None:
    missing = run_values([1.0, 2, 3], Provisional(rule=EverySince())).reports[-1].problem
    assert missing is not None
    assert "No day is given" in missing.what
    data = b"month,riders\n2026-01,1\n2026-02,2\n2026-03,3\n"
    coarse = run_csv(data, Provisional(rule=CurrentSpan(current=CalendarSpan.MONTH))).reports[-1].problem
    assert coarse is not None
    assert "no more than one month" in coarse.what


VALUES = [10.0, 12, 11, 13, 12, 14, 13, 15, 4, 2]


@pytest.mark.parametrize("tail", list(Tail))
def test_an_average_stops_goes_on_faded_or_counts_them(tail: Tail) -> None:
    result = run_values(VALUES, Provisional(rule=LastFew(last=2)), Average(window=Window(length=3, need=1), tail=tail))
    drawn = result.state.shapes[0]
    measured = pd.Series([*VALUES[:-2], NAN, NAN])
    counted = pd.Series(VALUES) if tail is Tail.COUNTED else measured
    expected = counted.rolling(3, min_periods=1).mean().to_numpy().copy()
    if tail is Tail.STOP:
        expected[-2:] = NAN
        assert drawn.faded is None
    else:
        assert drawn.faded is not None
        assert np.flatnonzero(drawn.faded).tolist() == [8, 9]
    np.testing.assert_allclose(drawn.value, expected)


def test_a_trend_and_a_projection_count_them_only_when_told() -> None:
    values = [float(v) for v in 100 + np.arange(60) + np.random.default_rng(2).normal(0, 1, 60)]
    values[-3:] = [20, 15, 10]
    for counting, points in ((Counting.NOT, 57), (Counting.COUNTED, 60)):
        result = run_values(
            values,
            Provisional(rule=LastFew(last=3)),
            Trend(provisional=counting),
            smoothing(season=None, ahead=4, provisional=counting),
        )
        fit = stats.linregress(np.arange(points), values[:points])
        row = result.reports[-2].outcome.evidence[0].rows[0]
        assert row[5] == points
        assert row[3] == pytest.approx(fit.rvalue**2)
        assert result.reports[-1].outcome.touched == points
        ahead = result.state.shapes[-1].periods
        assert ahead[0] == result.state.lines[0].periods[points - 1] + 1


@given(st.lists(st.one_of(st.none(), st.integers(-1000, 1000)), min_size=3, max_size=50))
def test_the_trend_line_is_scipys_linregress(cells: list[int | None]) -> None:
    y = np.array([NAN if cell is None else float(cell) for cell in cells])
    x = np.arange(y.size, dtype=float)
    known = ~np.isnan(y)
    assume(known.sum() > 2 and np.ptp(y[known]) > 0)
    ours, theirs = straight_fit(x, y), stats.linregress(x[known], y[known])
    assert ours is not None
    assert ours.slope == pytest.approx(theirs.slope, abs=1e-9)
    assert ours.intercept == pytest.approx(theirs.intercept, abs=1e-7)
    assert ours.r2 == pytest.approx(theirs.rvalue**2, abs=1e-9)


def test_the_equation_says_what_x_is() -> None:
    result = run_values([5.0, 7, 9, 11], Trend())
    table = result.reports[-1].outcome.evidence[0]
    assert (table.columns[1].title, table.columns[1].kind) == ("Equation, x in days", "equation")
    assert table.rows[0][1:4] == ("y = 5 + 2 x", "2026-01-01", 1.0)
    assert result.reports[-1].outcome.touched_what == "points, R² 1.000"


def test_a_trend_line_over_a_part() -> None:
    result = run_values([1.0, 2, 3, 50, 60, 70], Trend(start=date(2026, 1, 4), end=date(2026, 1, 6)))
    drawn = result.state.shapes[0]
    np.testing.assert_allclose(drawn.value, [50, 60, 70])
    empty = run_values([1.0, 2, 3], Trend(start=date(2027, 1, 1))).reports[-1].problem
    assert empty is not None


@given(st.lists(st.one_of(st.none(), st.integers(-40, 40)), min_size=1, max_size=40))
def test_moves_are_changes_from_the_value_before(cells: list[int | None]) -> None:
    values = np.array([NAN if cell is None else float(cell) for cell in cells])
    series = pd.Series(values)
    before = series.ffill().shift()
    change, percent = moves(values, before_places(values))
    np.testing.assert_array_equal(change, series - before)
    expected = (100 * (series - before) / before.abs()).replace([np.inf, -np.inf], NAN)
    np.testing.assert_allclose(percent, expected)


def test_moves_of_the_fuel_price() -> None:
    result = run_csv(demo_file("fuel_contract.csv"), Moves(largest=2, times=3))
    prices = [price for _, price in PRICES]
    changes = np.diff(prices)
    largest = np.argsort(-np.abs(changes))[:2] + 1
    rows = result.reports[-1].outcome.evidence[0].rows
    assert [row[1] for row in rows] == [str(PRICES[n][0]) for n in largest]
    assert rows[0][2] == pytest.approx(changes[largest[0] - 1])
    *lines, marks = result.state.shapes
    assert [label for label in marks.labels if label] == ["+0.19 (+20 %)", "+0.057 (+6.3 %)"]
    assert [one.period for one in result.reports[-1].outcome.findings] == marks.periods.tolist()
    assert all(not one.drawn for one in lines)
    lines = {one.name: one for one in lines}
    np.testing.assert_allclose(lines["moves"].value[1:], changes)


@pytest.mark.parametrize("between", list(FinerBetween))
def test_a_price_on_days_between_two_dates(between: FinerBetween) -> None:
    result = run_csv(demo_file("fuel_contract.csv"), Finer(between=between))
    line = only_line(result)
    series = pd.Series([p for _, p in PRICES], index=pd.DatetimeIndex([d for d, _ in PRICES]))
    daily = series.reindex(pd.date_range(series.index[0], series.index[-1]))
    expected = {
        FinerBetween.HELD: daily.ffill(), FinerBetween.EARLY: daily.bfill(),
        FinerBetween.STRAIGHT: daily.interpolate("time"), FinerBetween.OPEN: daily,
    }[between]  # fmt: skip
    np.testing.assert_allclose(line.value, expected.to_numpy())
    own = ~np.isnan(daily.to_numpy())
    assert (line.condition[own] == Condition.MEASURED).all()
    assert (line.condition[~own] == (Condition.OPEN if between is FinerBetween.OPEN else Condition.FILLED)).all()


def test_a_price_holds_up_to_the_as_of_date() -> None:
    result = run_csv(demo_file("fuel_contract.csv"), Finer(onto=CalendarUnit.MONTH, until=FinerUntil.AS_OF))
    assert result.state.grain.unit is Unit.MONTH
    line = only_line(result)
    assert result.state.grain.label(int(line.periods[-1])) == "2026-10"
    assert line.value[-1] == PRICES[-1][1]
    finer = run_csv(daily_csv([1, 2, 3]), Finer(onto=CalendarUnit.WEEK)).reports[-1].problem
    assert finer is not None
    assert "no finer than days" in finer.what
