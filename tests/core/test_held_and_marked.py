"""Lines to hold against, and periods marked by them, against pandas."""

from __future__ import annotations

from datetime import date

import numpy as np
import pandas as pd
import pytest

from tests.help import curves, run_values
from zembra.core.entries.readings.average import Average
from zembra.core.entries.readings.band import Band
from zembra.core.entries.readings.clauses.bands import FixedDistance
from zembra.core.entries.readings.clauses.edges import AgainstNumber, AgainstReading
from zembra.core.entries.readings.clauses.levels import (
    AtDay,
    AtLargest,
    AtLast,
    AtMean,
    AtMedian,
    AtPercentile,
    AtSmallest,
    AtValue,
    ByMonth,
    Level,
)
from zembra.core.entries.readings.clauses.windows import Window
from zembra.core.entries.readings.held import HeldLine
from zembra.core.entries.readings.marks import Labelled, Listed, MarkedSide, Marks
from zembra.core.entries.shared.periodwords import Month, Weekday
from zembra.core.figure.build import build_figure
from zembra.core.figure.model import FigureSettings
from zembra.core.ledger.shapes import Points, Rule

VALUES: list[float | None] = [
    None if n % 17 == 9 else round(v, 1) for n, v in enumerate(np.random.default_rng(31).normal(100, 10, 120))
]
SERIES = pd.Series([np.nan if v is None else v for v in VALUES], index=pd.date_range("2026-01-01", periods=120))


@pytest.mark.parametrize(
    ("at", "expected"),
    [
        (AtValue(value=97), 97),
        (AtPercentile(share=10), SERIES.quantile(0.1)),
        (AtMean(), SERIES.mean()),
        (AtMean(spreads=-2), SERIES.mean() - 2 * SERIES.std()),
        (AtMedian(), SERIES.median()),
        (AtSmallest(), SERIES.min()),
        (AtLargest(), SERIES.max()),
        (AtLast(), SERIES.dropna().iloc[-1]),
        (AtDay(day=date(2026, 2, 3)), SERIES["2026-02-03"]),
    ],
    ids=lambda one: one.kind if isinstance(one, Level) else "",
)  # fmt: skip
def test_a_line_stands_where_it_says_and_counts_both_sides(at: Level, expected: float) -> None:
    result = run_values(VALUES, HeldLine(at=at, named="ask the port"))
    rule, curve = result.state.shapes
    assert isinstance(rule, Rule)
    assert rule.value == pytest.approx(expected)
    assert rule.name == "ask the port"
    np.testing.assert_allclose(curve.value, expected)
    (_, level, above, below, on), *_ = result.reports[-1].outcome.evidence[0].rows
    assert level == pytest.approx(expected)
    assert (above, below) == (int((rule.value < SERIES).sum()), int((rule.value > SERIES).sum()))
    assert above + below + on == SERIES.notna().sum()


def test_stretches_are_told_with_their_first_and_last_day() -> None:
    values = [1.0, 9, 9, 9, 1, 9, None, 9, 9, 1, 1, 1, 1]
    result = run_values(values, HeldLine(at=AtValue(value=5), least=3))
    rows = result.reports[-1].outcome.evidence[1].rows
    assert rows == (
        ("riders", "above", "2026-01-02", "2026-01-04", 3, 4.0),
        ("riders", "below", "2026-01-10", "2026-01-13", 4, -4.0),
    )


def test_a_target_for_each_month_is_a_line_of_steps() -> None:
    months = tuple(float(90 + n) for n in range(12))
    (curve,) = curves(run_values(VALUES, HeldLine(at=ByMonth(months=months))))
    assert curve.drawn
    np.testing.assert_array_equal(curve.value, 89.0 + SERIES.index.month)


def test_points_above_a_reading_are_marked_with_their_distance() -> None:
    average = Average(window=Window(length=14, need=8))
    mark = Marks(against=AgainstReading(reading="t0"), weekdays=(Weekday.MONDAY, Weekday.TUESDAY), listed=Listed.LISTED)
    result = run_values(VALUES, average, mark)
    mean = SERIES.rolling(14, min_periods=8).mean()
    expected = SERIES[(mean < SERIES) & (SERIES.index.day_of_week < 2)]
    points = result.state.shapes[-1]
    assert isinstance(points, Points)
    assert points.value.tolist() == expected.tolist()
    findings = result.reports[-1].outcome.findings
    np.testing.assert_allclose([one.distance for one in findings], (expected - mean[expected.index]).to_list())
    assert all(one.listed and one.found_by == "above 14-day average" for one in findings)
    assert "above the reading 14-day average" in result.reports[-1].sentence
    # only the farthest are labelled, by how far they are
    assert sum(bool(label) for label in points.labels) == 8
    farthest = int(np.argmax([one.distance for one in findings]))
    assert points.labels[farthest].startswith("+")
    figure = build_figure(result, FigureSettings())
    assert figure.shapes[-1].labels == list(points.labels)


@pytest.mark.parametrize("side", list(MarkedSide))
def test_sides_of_a_band(side: MarkedSide) -> None:
    band = Band(window=Window(length=10, need=5), width=FixedDistance(distance=8))
    result = run_values(
        VALUES, band, Marks(side=side, against=AgainstReading(reading="t0"), months=(Month.FEBRUARY, Month.MARCH))
    )
    mean = SERIES.rolling(10, min_periods=5).mean()
    place = pd.Series(np.where(mean + 8 < SERIES, 1, np.where(mean - 8 > SERIES, -1, 0)), index=SERIES.index)
    known = SERIES.notna() & mean.notna()
    off = place[known & (place != 0)]
    crossing = pd.Series(False, index=SERIES.index)
    crossing[off.index[1:][np.diff(off) != 0]] = True
    expected = {
        MarkedSide.ABOVE: place == 1, MarkedSide.BELOW: place == -1, MarkedSide.OUTSIDE: place != 0, MarkedSide.INSIDE: place == 0, MarkedSide.CROSSING: crossing,
    }[side] & known & SERIES.index.month.isin([2, 3])  # fmt: skip
    assert [one.value for one in result.reports[-1].outcome.findings] == SERIES[expected].tolist()


def test_runs_and_labels() -> None:
    values = [1.0, 9, 9, 1, 9, 9, 9, 1]
    result = run_values(values, Marks(against=AgainstNumber(number=5), run=3, labelled=Labelled.PERCENT))
    assert [one.period for one in result.reports[-1].outcome.findings] == [20458, 20459, 20460]
    points = result.state.shapes[-1]
    assert isinstance(points, Points)
    assert points.labels == ("+80 %",) * 3
    dates = run_values(values, Marks(against=AgainstNumber(number=5), labelled=Labelled.DATE)).state.shapes[-1]
    assert isinstance(dates, Points)
    assert dates.labels[0] == "2026-01-02"


def test_what_is_not_there_is_refused_in_words() -> None:
    gone = run_values(VALUES, Marks(against=AgainstReading(reading="x"))).reports[-1].problem
    assert "no such reading of riders" in str(gone)
    nothing = run_values(VALUES, HeldLine(at=AtDay(day=date(2031, 1, 1)))).reports[-1].problem
    assert "no number that counts" in str(nothing)
