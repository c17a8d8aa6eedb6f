"""Shaded spans, and a series laid beside itself, against pandas."""

from __future__ import annotations

from datetime import date

import numpy as np
import pandas as pd
import pytest

from tests.help import curves, daily_csv, run_csv, run_values
from zembra.core.entries.readings.compared import By, Compared, PeriodsBefore, Taken, YearBefore
from zembra.core.entries.readings.spans import BetweenDates, EachWeek, EachYear, Spans
from zembra.core.entries.shared.periodwords import Month
from zembra.core.ledger.run import Result
from zembra.core.ledger.shapes import Span

DAYS = 800
VALUES = [None if n % 41 == 7 else round(v, 1) for n, v in enumerate(np.random.default_rng(4).normal(90, 12, DAYS))]
SERIES = pd.Series([np.nan if v is None else v for v in VALUES], index=pd.date_range("2024-01-01", periods=DAYS))


def ran(*entries: Spans | Compared) -> Result:
    result = run_csv(daily_csv(VALUES, date(2024, 1, 1)), *entries)
    assert not result.problems
    return result


def spans(result: Result) -> list[tuple[str, str]]:
    grain = result.state.grain
    return [(grain.label(one.first), grain.label(one.last)) for one in result.state.shapes if isinstance(one, Span)]


def test_spans_lie_where_their_sentence_says_with_what_was_usual_inside() -> None:
    once = ran(Spans(when=BetweenDates(start=date(2024, 3, 5), end=date(2024, 4, 1)), named="works at the pier"))
    assert spans(once) == [("2024-03-05", "2024-04-01")]
    inside = SERIES["2024-03-05":"2024-04-01"]
    *_, known, mean_in, mean_out = once.reports[-1].outcome.evidence[0].rows[0]
    assert known == inside.notna().sum()
    assert mean_in == pytest.approx(inside.mean())
    assert mean_out == pytest.approx(SERIES.drop(inside.index).mean())
    assert spans(ran(Spans(when=EachYear(months=(Month.JULY, Month.AUGUST))))) == [
        ("2024-07-01", "2024-08-31"),
        ("2025-07-01", "2025-08-31"),
    ]
    weekends = spans(ran(Spans(when=EachWeek())))
    assert len(weekends) == 114
    assert all(date.fromisoformat(first).weekday() == 5 for first, _ in weekends)


@pytest.mark.parametrize(
    ("before", "offset"),
    [
        (PeriodsBefore(count=7), pd.DateOffset(days=7)),
        (YearBefore(), pd.DateOffset(years=1)),
        (YearBefore(years=2), pd.DateOffset(years=2)),
        (YearBefore(by=By.WEEKDAY), pd.DateOffset(weeks=52)),
    ],
    ids=["periods", "year", "two years", "weekday"],
)  # fmt: skip
def test_a_series_beside_itself(before: PeriodsBefore | YearBefore, offset: pd.DateOffset) -> None:
    result = ran(Compared(before=before, how=Taken.PERCENT))
    earlier, share = curves(result)
    expected = np.array([SERIES.get(day - offset, np.nan) for day in SERIES.index])
    np.testing.assert_array_equal(earlier.value, expected)
    np.testing.assert_allclose(share.value, 100 * (SERIES - expected) / expected)
    assert not share.drawn
    assert earlier.pale is not None
    assert earlier.pale.all()


def test_what_does_not_reach_back_or_has_no_weekday_is_refused() -> None:
    assert "does not reach back" in str(run_values([1.0, 2, 3], Compared()).reports[-1].problem)
    data = b"month,n\n" + b"".join(f"{y}-{m:02d},{m}\n".encode() for y in (2023, 2024) for m in range(1, 13))
    monthly = run_csv(data, Compared(before=YearBefore(by=By.WEEKDAY)), Spans(when=EachWeek()), Compared())
    assert ["no weekday" in str(report.problem) for report in monthly.reports[2:]] == [True, True, False]
    assert "No period lies within" in str(
        run_values([1.0, 2], Spans(when=BetweenDates(start=date(2030, 1, 1)))).reports[-1].problem
    )
