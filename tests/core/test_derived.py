"""Derived measures: arithmetic against pandas, and what a blank, a zero and an estimate do to it."""

from __future__ import annotations

from datetime import date, timedelta

import numpy as np
import pandas as pd
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from pydantic import ValidationError

from tests.help import FIRST, daily_csv, only_line, run_csv, run_values
from zembra.core.arithmetic.totals import before_by, per_period, ratio, running_total
from zembra.core.calendar.lines import Condition
from zembra.core.entries.calendar.start import first_ledger
from zembra.core.entries.readings.average import Average
from zembra.core.entries.readings.clauses.windows import Window
from zembra.core.entries.readings.trend import Trend
from zembra.core.entries.repairs.against import How, SetAgainst
from zembra.core.entries.repairs.blanks import Blanks
from zembra.core.entries.repairs.clauses.against import MonthlyTargets, OtherColumn, OtherSeries, Target
from zembra.core.entries.repairs.clauses.blanks import FilledStraight
from zembra.core.entries.repairs.clauses.derivations import (
    Change,
    Gap,
    Index,
    LaggedChange,
    Logarithm,
    PercentChange,
    PerDay,
    PerPeriod,
    Restart,
    RunningTotal,
    Share,
)
from zembra.core.entries.repairs.clauses.newest import LastFew
from zembra.core.entries.repairs.clauses.outliers import OutsideLimits
from zembra.core.entries.repairs.derive import Derive
from zembra.core.entries.repairs.outliers import Outliers
from zembra.core.entries.repairs.provisional import Provisional
from zembra.core.entries.shared.derived import Place
from zembra.core.handover.tables import point_rows
from zembra.core.intake.bringin import bring_in
from zembra.core.ledger.memo import Memo
from zembra.core.ledger.model import Ledger, record
from zembra.core.ledger.order import order_matters
from zembra.demo import demo_file
from zembra.demo.tickets import BLANK, CORRECTION, NO_ROW, RESETS, daily_income

NAN = float("nan")
SERIES = st.lists(st.one_of(st.none(), st.integers(-90, 90)), min_size=2, max_size=50).map(
    lambda cells: np.array([NAN if cell is None else float(cell) for cell in cells])
)


@given(SERIES, st.integers(1, 9))
def test_changes_are_pandas_diff_and_pct_change(values: np.ndarray, lag: int) -> None:
    periods = np.arange(values.size)
    series = pd.Series(values)
    np.testing.assert_array_equal(values - before_by(values, periods, lag), series.diff(lag))
    found, zero = ratio(100 * (values - before_by(values, periods, lag)), np.abs(series.shift(lag).to_numpy()))
    expected = 100 * series.diff(lag) / series.shift(lag).abs()
    np.testing.assert_allclose(found, expected.replace([np.inf, -np.inf], NAN))
    assert not np.any(zero & ~np.isnan(found))


def test_a_lag_counts_calendar_periods_not_rows() -> None:
    values, periods = np.array([1.0, 2, 4, 8]), np.array([10, 11, 13, 14])
    np.testing.assert_array_equal(before_by(values, periods, 1), [NAN, 1, NAN, 4])
    np.testing.assert_array_equal(before_by(values, periods, 3), [NAN, NAN, 1, 2])


@given(SERIES, st.lists(st.booleans(), min_size=50, max_size=50))
def test_a_running_total_is_pandas_cumsum_by_stretch(values: np.ndarray, marks: list[bool]) -> None:
    restarts = np.array(marks[: values.size])
    expected = pd.Series(values).groupby(np.cumsum(restarts)).cumsum()
    np.testing.assert_allclose(running_total(values, restarts), expected)


@settings(max_examples=150)
@given(
    st.lists(st.integers(1, 100), min_size=4, max_size=60),
    st.sets(st.integers(1, 58)),
    st.integers(5, 55),
)
def test_the_figures_behind_a_running_total_come_back(figures: list[int], lost: set[int], reset: int) -> None:
    figures = [0, *figures]
    restarts = np.zeros(len(figures), dtype=bool)
    if reset < len(figures):
        # a total that starts again below half of what it was
        figures[reset] = 1
        restarts[reset] = True
    total = running_total(np.array(figures, dtype=float), restarts)
    lost = {n for n in lost if n < len(figures) - 1 and n != reset}
    gappy = total.copy()
    gappy[list(lost)] = NAN
    made = per_period(gappy, 0.5, spread=True)
    spread, opened = made.values, per_period(gappy, 0.5, spread=False).values
    assert np.isnan(spread[0])
    whole = [n for n in range(1, len(figures)) if n not in lost and n - 1 not in lost]
    np.testing.assert_allclose(spread[whole], np.array(figures, dtype=float)[whole])
    # nothing is lost by sharing a gap, and what cannot be known stays open
    if not any(restarts) or all(n > reset for n in lost):
        assert np.nansum(spread) == pytest.approx(sum(figures))
    known = ~np.isnan(opened)
    np.testing.assert_allclose(opened[known], np.array(figures, dtype=float)[known])
    assert not made.corrections.size or any(restarts)


def test_ticket_income_to_date_becomes_daily_income() -> None:
    result = run_csv(demo_file("ticket_income_to_date.csv"), Derive(), Average(window=Window(length=7, need=5)))
    line = only_line(result)
    days = [date.fromisoformat(label) for label in result.state.grain.labels(line.periods)]
    truth = daily_income()
    gap = {*NO_ROW, *BLANK}
    after_gap = {day + timedelta(1) for day in gap} - gap
    for day, value, condition in zip(days, line.value, line.condition, strict=True):
        if day == days[0]:
            assert np.isnan(value)
        elif day in gap | after_gap:
            assert condition == Condition.FILLED
        else:
            assert value == pytest.approx(truth[day], abs=0.011)
            assert condition == Condition.MEASURED
    # over each gap nothing is lost and nothing made up
    two = [n for n, day in enumerate(days) if day in (date(2025, 8, 10), date(2025, 8, 11), date(2025, 8, 12))]
    assert sum(line.value[two]) == pytest.approx(sum(truth[days[n]] for n in two), abs=0.02)
    told = " ".join(result.reports[-2].outcome.warnings)
    assert f"starts again at {RESETS[0].day} {RESETS[0]:%b %Y}" in told
    assert f"a correction, at {CORRECTION[0].day} {CORRECTION[0]:%b %Y}" in told
    weekly = pd.Series(line.value).rolling(7, min_periods=5).mean()
    np.testing.assert_allclose(result.state.shapes[0].value, weekly, rtol=1e-9)


def two_series() -> bytes:
    rows = ["day,a,b"]
    for n, (a, b) in enumerate([(10, 5), (20, 0), ("", 4), (40, ""), (50, 10), ("closed", 2)]):
        rows.append(f"{FIRST + timedelta(n)},{a},{b}")
    return ("\n".join(rows) + "\n").encode()


def test_two_series_a_blank_on_either_side_is_a_blank_with_its_reason() -> None:
    entry = SetAgainst(series=("a",), against=OtherSeries(other="b"), how=How.RATIO)
    result = run_csv(two_series(), entry)
    made = result.state.lines[-1]
    assert made.name == "a, to b"
    np.testing.assert_array_equal(made.value, [2, NAN, NAN, NAN, 5, NAN])
    reasons = [row[6].rsplit("(")[-1] for row in point_rows(result) if row[0] == "a, to b"]
    assert reasons[1] == "division by zero)"
    assert reasons[2] == "a has no number)"
    assert reasons[3] == "what it is set against has no number)"
    assert [Condition(code).word for code in made.condition] == ["measured", *["open"] * 3, "measured", "open"]


@pytest.mark.parametrize(("how", "first"), [(How.DIFFERENCE, 5), (How.RATIO, 2), (How.PERCENT, 200)])
def test_difference_ratio_and_percent(how: How, first: float) -> None:
    entry = SetAgainst(series=("a",), against=OtherSeries(other="b"), how=how)
    assert run_csv(two_series(), entry).state.lines[-1].value[0] == first


def test_a_target_by_months_and_one_number() -> None:
    values = list(range(1, 60))
    months = tuple(float(100 * m) for m in range(1, 13))
    by_month = run_values([float(v) for v in values], SetAgainst(against=MonthlyTargets(months=months)))
    made = by_month.state.lines[-1].value
    assert made[0] == 1 - 100
    assert made[31] == 32 - 200
    number = run_values(
        [float(v) for v in values], SetAgainst(against=Target(number=7), how=How.PERCENT, place=Place.IN_PLACE)
    )
    np.testing.assert_allclose(only_line(number).value, np.array(values) * 100 / 7)
    with pytest.raises(ValidationError, match="twelve numbers"):
        MonthlyTargets(months=(1.0, 2.0))


def test_another_column_of_the_file_on_the_same_calendar() -> None:
    entry = SetAgainst(series=("Harbour Loop",), against=OtherColumn(measure="vehicles"), how=How.RATIO)
    result = run_csv(demo_file("sailings.csv"), entry)
    frame = pd.read_csv(__import__("io").BytesIO(demo_file("sailings.csv")), parse_dates=["day"], na_values=["n/a"])
    loop = frame[frame.route == "Harbour Loop"].set_index("day").asfreq("D")
    expected = pd.to_numeric(loop.passengers) / loop.vehicles
    made = result.state.lines[-1]
    np.testing.assert_allclose(made.value, expected.to_numpy())


@pytest.mark.parametrize(
    ("entry", "expected"),
    [
        (Derive(what=Change()), [NAN, 10, NAN, NAN, 10]),
        (Derive(what=PercentChange()), [NAN, 100, NAN, NAN, 25]),
        (Derive(what=LaggedChange(lag=3)), [NAN, NAN, NAN, 30, 30]),
        (Derive(what=RunningTotal(restart=Restart.NEVER)), [10, 30, NAN, 70, 120]),
        (Derive(what=Index()), [100, 200, NAN, 400, 500]),
        (Derive(what=Index(base=date(2026, 1, 2))), [50, 100, NAN, 200, 250]),
        (Derive(what=Logarithm()), np.log([10, 20, NAN, 40, 50])),
        (Derive(what=Share()), [100, 100, NAN, 100, 100]),
        (Derive(what=PerDay()), [10, 20, NAN, 40, 50]),
    ],
    ids=lambda one: one.what.kind if isinstance(one, Derive) else "",
)
def test_one_series(entry: Derive, expected: list[float]) -> None:
    line = only_line(run_values([10, 20, None, 40, 50], entry))
    np.testing.assert_allclose(line.value, expected)


def test_shares_of_the_total_add_up_where_every_series_has_a_number() -> None:
    result = run_csv(demo_file("sailings.csv"), Derive(what=Share()))
    shares = np.array([line.value for line in result.state.lines])
    whole = ~np.isnan(shares).any(axis=0)
    np.testing.assert_allclose(shares[:, whole].sum(axis=0), 100)
    assert np.isnan(shares[:, ~whole]).all()


def test_months_have_their_own_days() -> None:
    data = b"month,riders\n" + b"".join(f"2024-{m:02d},{m * 60}\n".encode() for m in range(1, 13))
    line = only_line(run_csv(data, Derive(what=PerDay())))
    days = pd.period_range("2024-01", periods=12, freq="M").days_in_month
    np.testing.assert_allclose(line.value, np.arange(1, 13) * 60 / days)


def test_a_total_starts_again_each_year_and_month() -> None:
    values = [1.0] * 70
    monthly = only_line(run_values(values, Derive(what=RunningTotal(restart=Restart.MONTH))))
    assert monthly.value[[0, 30, 31, 58, 59]].tolist() == [1, 31, 1, 28, 1]
    yearly = only_line(run_values(values, Derive(what=RunningTotal())))
    assert yearly.value[-1] == 70


def test_logs_of_zero_and_less_are_blank_with_a_reason() -> None:
    result = run_values([0.0, -1, 1], Derive(what=Logarithm()))
    np.testing.assert_array_equal(only_line(result).value, [NAN, NAN, 0])
    assert all("no logarithm" in row[6] for row in list(point_rows(result))[:2])


def test_a_derived_measure_is_what_its_least_sure_part_is() -> None:
    entries = (Blanks(treatment=FilledStraight(), longest=1), Provisional(rule=LastFew(last=1)), Derive(what=Index()))
    line = only_line(run_csv(daily_csv([10, None, 30, 40, 50]), *entries))
    words = [Condition(code).word for code in line.condition]
    assert words == ["measured", "filled", "measured", "measured", "provisional"]


def test_a_derived_series_is_repaired_read_and_exported_like_any_other() -> None:
    values = [10.0, 12, 11, 500, 12, 11, 10, 12]
    result = run_values(
        values,
        Derive(what=Change(), place=Place.BESIDE),
        Outliers(rule=OutsideLimits(low=-100, high=100), series=("riders, change",)),
        Trend(series=("riders, change",)),
    )
    assert [line.name for line in result.state.lines] == ["riders", "riders, change"]
    made = result.state.lines[1]
    assert np.flatnonzero(made.condition == Condition.SET_ASIDE).tolist() == [3, 4]
    assert result.state.shapes[0].series == "riders, change"
    exported = [row for row in point_rows(result) if row[0] == "riders, change"]
    assert exported[1][3] == "2"
    assert all(row[2] == "" for row in exported)  # nothing of it stands in the file


def test_open_gaps_stay_open_when_asked() -> None:
    line = only_line(run_values([10, None, 30, 45], Derive(what=PerPeriod(gap=Gap.OPEN))))
    np.testing.assert_array_equal(line.value, [NAN, NAN, NAN, 15])


def test_the_screen_is_told_where_the_order_matters() -> None:
    brought = bring_in(daily_csv([10, 20, None, 500, 40, 50, 60, 70]))
    begun = first_ledger(brought.observations, brought.how, FIRST)
    spike = Outliers(rule=OutsideLimits(high=100))
    change = Derive(what=Change())
    fill = Blanks(longest=1)

    def told(*entries: object) -> list[str]:
        records = tuple(record(entry, f"e{n}") for n, entry in enumerate(entries))  # type: ignore[arg-type]
        ledger = Ledger(entries=(*begun.entries, *records))
        return order_matters(brought.observations, ledger, date(2026, 10, 31), "f", Memo())

    assert told(spike, change) == ["e0"]
    assert told(fill, Outliers(rule=OutsideLimits(high=1000))) == []
    assert told(fill, change, spike) == ["e0", "e1"]
