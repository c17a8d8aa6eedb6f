"""The calendar: what is expected, where lines begin and end, coarser grains, clocks and leap days."""

from __future__ import annotations

from datetime import date, datetime

import holidays
import numpy as np
import pandas as pd
import pytest
from hypothesis import given
from hypothesis import strategies as st

from tests.help import AS_OF, daily_csv, only_line
from zembra.core.calendar.closed import public_holidays
from zembra.core.calendar.complete import Combine, Span, Until
from zembra.core.calendar.grain import Grain, Unit
from zembra.core.calendar.lines import Condition, Received
from zembra.core.calendar.months import CalendarUnit
from zembra.core.entries.calendar.calendar import Calendar
from zembra.core.entries.calendar.coarser import Coarser, Partly, Putting
from zembra.core.entries.calendar.source import Source
from zembra.core.entries.shared.periodwords import Drawn, Month, Periods, Weekday
from zembra.core.errors import Refusal
from zembra.core.figure.build import build_figure
from zembra.core.figure.model import FigureSettings
from zembra.core.intake.bringin import bring_in
from zembra.core.ledger.entry import Entry
from zembra.core.ledger.model import Ledger, record
from zembra.core.ledger.run import Result, run

WORKDAYS = tuple(Weekday)[:5]


def on(data: bytes, calendar: Calendar, *more: Entry, combine: Combine = Combine.SUM, as_of: date = AS_OF) -> Result:
    brought = bring_in(data)
    records = (record(Source(combine=combine), "source"), record(calendar, "calendar"))
    rest = tuple(record(entry, f"t{n}") for n, entry in enumerate(more))
    return run(brought.observations, Ledger(entries=(*records, *rest)), as_of)


def labels(result: Result, at: int = 0) -> list[str]:
    return result.state.grain.labels(result.state.lines[at].periods)


GRAINS = [
    Grain(Unit.MINUTE, 15), Grain(Unit.HOUR), Grain(Unit.DAY), Grain(Unit.WEEK), Grain(Unit.WEEK, week_start=6),
    Grain(Unit.MONTH), Grain(Unit.QUARTER), Grain(Unit.YEAR), Grain(Unit.MOMENT),
]  # fmt: skip


@given(st.sampled_from(GRAINS), st.datetimes(datetime(1950, 1, 1), datetime(2090, 1, 1)))
def test_a_period_is_found_again_by_its_label(grain: Grain, moment: datetime) -> None:
    period = grain.period(moment.replace(microsecond=0))
    assert grain.parse(grain.label(period)) == period


@given(st.dates(date(1990, 1, 1), date(2060, 1, 1)), st.integers(0, 6))
def test_weeks_start_on_any_day(day: date, start: int) -> None:
    grain = Grain(Unit.WEEK, week_start=start)
    begins = grain.starts(np.array([grain.period(day)]))[0].astype("datetime64[D]").item()
    assert begins.weekday() == start
    assert 0 <= (day - begins).days < 7


@given(st.dates(date(1990, 1, 1), date(2060, 1, 1)), st.integers(1, 12))
def test_fiscal_years_are_pandas_years(day: date, start: int) -> None:
    grain = Grain(Unit.YEAR, year_start=start)
    begins = grain.starts(np.array([grain.period(day)]))[0].astype("datetime64[D]").item()
    ends = pd.Period(day, freq=f"Y-{pd.Timestamp(2000, (start - 2) % 12 + 1, 1).strftime('%b').upper()}")
    assert begins == ends.start_time.date()


def test_a_day_of_hours_is_all_of_its_hours() -> None:
    grain = Grain(Unit.HOUR)
    first, last = grain.span(date(2026, 3, 14))
    assert last - first == 23
    assert grain.span(datetime(2026, 3, 14, 7)) == (first + 7, first + 7)


def test_only_working_days_are_expected() -> None:
    data = daily_csv([n if (date(2026, 1, 1 + n).weekday() < 5 and n != 7) else ... for n in range(20)])
    line = only_line(on(data, Calendar(weekdays=WORKDAYS)))
    assert len(line) == 14
    assert (line.received == Received.ABSENT).sum() == 1
    everyday = only_line(on(data, Calendar()))
    assert (everyday.received == Received.ABSENT).sum() == 7


def test_closed_days_and_public_holidays_are_not_missing() -> None:
    data = daily_csv([1, 2, ..., 4, ..., 6], date(2025, 12, 23))
    closed = only_line(on(data, Calendar(closed=(date(2025, 12, 27),))))
    assert (closed.received == Received.ABSENT).sum() == 1
    public = only_line(on(data, Calendar(holidays="DE")))
    assert date(2025, 12, 25) in holidays.country_holidays("DE", years=2025)
    assert (public.received == Received.ABSENT).sum() == 1
    with pytest.raises(Refusal, match="No public holidays are known"):
        public_holidays("XX", 2025, 2025)


def test_a_closed_day_that_has_a_row_keeps_it() -> None:
    line = only_line(on(daily_csv([1, 2, 3]), Calendar(closed=(date(2026, 1, 2),))))
    assert line.value.tolist() == [1, 2, 3]


LONG = b"day,route,n\n2026-01-02,a,1\n2026-01-04,a,2\n2026-01-03,b,5\n2026-01-04,b,9\n2026-01-06,b,6\n"


@pytest.mark.parametrize(
    ("calendar", "a", "b"),
    [
        (Calendar(), ("02", "04"), ("03", "06")),
        (Calendar(span=Span.WHOLE, until=Until.WHOLE), ("02", "06"), ("02", "06")),
        (Calendar(span=Span.COMMON, until=Until.COMMON), ("03", "04"), ("03", "04")),
        (
            Calendar(span=Span.GIVEN, start=date(2026, 1, 1), until=Until.GIVEN, end=date(2026, 1, 8)),
            ("01", "08"), ("01", "08"),
        ),
        (Calendar(until=Until.AS_OF), ("02", "10"), ("03", "10")),
    ],
)  # fmt: skip
def test_where_lines_begin_and_end(calendar: Calendar, a: tuple[str, str], b: tuple[str, str]) -> None:
    result = on(LONG, calendar, as_of=date(2026, 1, 10))
    for at, (first, last) in enumerate((a, b)):
        found = labels(result, at)
        assert (found[0], found[-1]) == (f"2026-01-{first}", f"2026-01-{last}")
        assert len(found) == int(last) - int(first) + 1


def test_what_an_absent_period_means_is_told_per_series() -> None:
    result = on(LONG, Calendar(zero_for=("a",), closed_for=("b",)))
    a, b = result.state.lines
    assert a.value.tolist() == [1, 0, 2]
    assert a.condition[1] == Condition.FILLED
    assert a.received[1] == Received.ABSENT
    assert labels(result, 1) == ["2026-01-03", "2026-01-04", "2026-01-06"]
    assert b.value.tolist() == [5, 9, 6]


def test_future_periods_without_a_value_are_no_blanks() -> None:
    cells = [1, 2, None, 4, None, None, None]
    data = daily_csv(cells)
    line = only_line(on(data, Calendar(), as_of=date(2026, 1, 5)))
    # the third is a blank, the fifth too; what comes after the as-of date has not happened
    assert line.received.tolist() == [0, 0, 1, 0, 1]
    planned = only_line(on(daily_csv([1, 2, 3, 4]), Calendar(), as_of=date(2026, 1, 2)))
    assert len(planned) == 4  # a value after the as-of date is a value


@pytest.mark.parametrize("combine", [c for c in Combine if c is not Combine.COUNT])
@pytest.mark.parametrize("into", [CalendarUnit.WEEK, CalendarUnit.MONTH, CalendarUnit.QUARTER, CalendarUnit.YEAR])
def test_coarser_grains_are_pandas_resample(combine: Combine, into: CalendarUnit) -> None:
    rng = np.random.default_rng(6)
    values = rng.integers(1, 90, 500).astype(float)
    values[rng.random(500) < 0.1] = np.nan
    data = daily_csv([None if np.isnan(v) else int(v) for v in values], date(2025, 1, 1))
    result = on(data, Calendar(), Coarser(into=into, combine=Putting(combine.value), partly=Partly.PROVISIONAL))
    rule = {CalendarUnit.WEEK: "W-SUN", CalendarUnit.MONTH: "ME", CalendarUnit.QUARTER: "QE", CalendarUnit.YEAR: "YE"}[
        into
    ]
    bins = pd.Series(values, index=pd.date_range("2025-01-01", periods=500)).resample(rule)
    expected = {"sum": bins.sum(min_count=1)}.get(combine.value)
    if expected is None:
        expected = getattr(bins, combine.value)()
    np.testing.assert_allclose(only_line(result).value, expected.to_numpy())


def test_what_a_partly_covered_period_is() -> None:
    cells = [2] * 60  # 1 January to 1 March 2026
    cells[40] = None  # a day of February
    for partly, third, condition in (
        (Partly.LEFT_OUT, np.nan, Condition.OPEN),
        (Partly.PROVISIONAL, 2, Condition.PROVISIONAL),
        (Partly.SCALED, 62, Condition.ADJUSTED),
    ):
        line = only_line(on(daily_csv(cells), Calendar(), Coarser(partly=partly)))
        assert line.value[0] == 62
        np.testing.assert_equal(line.value[2], third)
        assert line.condition[2] == condition
        assert line.condition[1] == condition
    scaled = only_line(on(daily_csv(cells), Calendar(), Coarser(partly=Partly.SCALED)))
    assert scaled.value[1] == pytest.approx(2 * 27 * 28 / 27)
    mean = only_line(on(daily_csv(cells), Calendar(), Coarser(combine=Putting.MEAN, partly=Partly.SCALED)))
    assert mean.value.tolist() == [2, 2, 2]


def test_a_working_week_is_fully_covered_by_its_working_days() -> None:
    cells = [1 if date(2026, 1, 5 + n).weekday() < 5 else ... for n in range(14)]
    result = on(daily_csv(cells, date(2026, 1, 5)), Calendar(weekdays=WORKDAYS), Coarser(into=CalendarUnit.WEEK))
    assert only_line(result).value.tolist() == [5, 5]
    assert labels(result) == ["2026-W02", "2026-W03"]


def test_a_coarser_grain_must_be_coarser() -> None:
    problem = (
        on(daily_csv([1, 2, 3]), Calendar(grain=Periods.MONTH), Coarser(into=CalendarUnit.WEEK)).reports[-1].problem
    )
    assert problem is not None
    assert "no coarser than months" in problem.what


@pytest.mark.parametrize(
    ("stamps", "zone"),
    [
        (
            ["2026-10-25T00:00+02:00", "2026-10-25T01:00+02:00", "2026-10-25T02:00+02:00", "2026-10-25T02:00+01:00"],
            None,
        ),
        (["2026-10-25T00:00", "2026-10-25T01:00", "2026-10-25T02:00", "2026-10-25T02:00"], "Europe/Berlin"),
    ],
)
def test_an_hour_the_clocks_repeat_is_two_hours(stamps: list[str], zone: str | None) -> None:
    stamps = [*stamps, "2026-10-25T03:00" + ("+01:00" if zone is None else "")]
    data = ("at,kwh\n" + "".join(f"{stamp},{n}\n" for n, stamp in enumerate(stamps))).encode()
    how = bring_in(data).how
    if zone:
        how = how.model_copy(update={"dates": how.dates.model_copy(update={"zone": zone})})
    brought = bring_in(data, how)
    ledger = Ledger(entries=(record(Source(), "source"), record(Calendar(grain=Periods.HOUR), "calendar")))
    line = only_line(run(brought.observations, ledger, AS_OF))
    assert line.value.tolist() == [0, 1, 2, 3, 4]


def test_an_hour_the_clocks_skip_is_not_missing() -> None:
    data = b"at,kwh\n2026-03-29T01:00+01:00,1\n2026-03-29T03:00+02:00,2\n2026-03-29T04:00+02:00,3\n"
    line = only_line(on(data, Calendar(grain=Periods.HOUR)))
    assert line.value.tolist() == [1, 2, 3]


def test_leap_days_add_no_period_to_a_year_of_months() -> None:
    data = daily_csv([1] * 366, date(2024, 1, 1))
    line = only_line(on(data, Calendar(), Coarser()))
    assert line.value.tolist() == pd.period_range("2024-01", periods=12, freq="M").days_in_month.tolist()


def test_months_are_drawn_at_their_start_or_end() -> None:
    data = b"month,n\n2026-01,1\n2026-02,2\n"
    for drawn, day in ((Drawn.START, "2026-02-01"), (Drawn.END, "2026-02-28")):
        figure = build_figure(on(data, Calendar(grain=Periods.MONTH, drawn=drawn)), FigureSettings())
        assert str(np.datetime64(figure.series[0].t[1], "ms").astype("datetime64[D]")) == day


def test_fiscal_quarters_and_years() -> None:
    data = b"day,n\n" + b"".join(f"2025-{m:02d}-15,{m}\n".encode() for m in range(1, 13))
    result = on(data, Calendar(grain=Periods.YEAR, year_start=Month.APRIL))
    assert only_line(result).value.tolist() == [1 + 2 + 3, sum(range(4, 13))]
    assert labels(result) == ["2024/25", "2025/26"]


def test_a_calendar_that_would_be_endless_is_refused() -> None:
    data = b"at,n\n1900-01-01T00:00,1\n2090-01-01T00:00,2\n"
    with pytest.raises(Refusal, match="points of all series together, more than"):
        on(data, Calendar(grain=Periods.MINUTE))
