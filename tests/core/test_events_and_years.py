"""Events, the line of several series, years on one axis, spans between lines, targets of a column: against pandas."""

from __future__ import annotations

from datetime import date

import numpy as np
import pandas as pd
import pytest

from tests.help import curves, daily_csv, run_csv, run_values
from zembra.core.calendar.months import CalendarUnit
from zembra.core.entries.readings.average import Average
from zembra.core.entries.readings.between import Between
from zembra.core.entries.readings.clauses.edges import AgainstNumber, AgainstReading, AgainstSeries
from zembra.core.entries.readings.clauses.levels import AtColumn, AtSeries
from zembra.core.entries.readings.compared import By, Compared, ComparedSeries, StretchBefore
from zembra.core.entries.readings.events import Events
from zembra.core.entries.readings.held import HeldLine
from zembra.core.entries.readings.marks import Labelled, MarkedSide, Marks
from zembra.core.entries.readings.moves import Moves, chances
from zembra.core.entries.readings.together import Across, Together
from zembra.core.entries.readings.years import Years
from zembra.core.figure.build import build_figure
from zembra.core.figure.model import FigureSettings, Opening
from zembra.core.intake.eventlist import read_events
from zembra.core.ledger.shapes import Area, Flags, Points

RNG = np.random.default_rng(21)
DAYS = 900
DATES = pd.date_range("2024-01-01", periods=DAYS)
TABLE = pd.DataFrame(
    {name: np.round(RNG.normal(100, 9, DAYS), 1) for name in ("North Head", "Outer Isles", "Target")}, index=DATES
)
TABLE.iloc[5:9, 0] = np.nan
TABLE.iloc[7, 1] = np.nan
WIDE = TABLE.to_csv(index_label="day", date_format="%Y-%m-%d").encode()
ONE = daily_csv([None if np.isnan(v) else v for v in TABLE["North Head"]], date(2024, 1, 1))


@pytest.mark.parametrize("how", list(Across))
def test_the_line_of_several_series_is_what_pandas_takes_across_them(how: Across) -> None:
    result = run_csv(WIDE, Together(series=("North Head", "Outer Isles"), how=how, need=2, over=7))
    line, counted = curves(result)
    pair = TABLE[["North Head", "Outer Isles"]]
    across = pair.agg(how.value, axis=1).where(pair.notna().sum(axis=1) >= 2)
    np.testing.assert_allclose(line.value, across.rolling(7, min_periods=4).mean(), rtol=1e-12)
    np.testing.assert_array_equal(counted.value, pair.notna().sum(axis=1))
    marked = run_csv(WIDE, Together(), Marks(against=AgainstReading(reading="t0"), series=("Target",)))
    mean = TABLE.mean(axis=1)
    assert marked.reports[-1].outcome.touched == (TABLE["Target"] > mean).sum()
    assert "mean of 3 series" in marked.reports[-1].sentence


def test_years_lie_on_the_axis_of_the_newest_one() -> None:
    result = run_csv(ONE, Years(years=3))
    series = TABLE["North Head"]
    axis = pd.date_range("2026-01-01", "2026-12-31")
    assert [one.name for one in curves(result)] == ["2025", "2024"]
    for one, back in zip(curves(result), (1, 2), strict=True):
        assert list(result.state.grain.labels(one.periods)) == [str(day.date()) for day in axis]
        expected = [series.get(day - pd.DateOffset(years=back), np.nan) for day in axis]
        np.testing.assert_array_equal(one.value, expected)
    newest, before, _ = result.reports[-1].outcome.evidence[0].rows
    both = series["2026"].dropna()
    there = series.reindex(both.index - pd.DateOffset(years=1)).dropna()
    here = both[[day + pd.DateOffset(years=1) in both.index for day in there.index]]
    assert before[5] == len(there)
    assert before[6] == pytest.approx(there.sum())
    assert before[7] == pytest.approx(100 * (here.sum() - there.sum()) / there.sum())
    assert newest[3] == pytest.approx(both.sum())
    weekly = run_csv(ONE, Years(years=1, by=By.WEEKDAY))
    np.testing.assert_array_equal(
        curves(weekly)[0].value, [series.get(day - pd.DateOffset(weeks=52), np.nan) for day in axis]
    )
    assert "does not reach back" in str(run_values([1.0, 2], Years()).reports[-1].problem)


def test_two_stretches_from_a_common_start() -> None:
    before = StretchBefore(start=date(2024, 4, 3), onto=date(2025, 2, 10))
    earlier, away = curves(run_csv(ONE, Compared(before=before)))
    series = TABLE["North Head"]
    shift = pd.Timestamp(2025, 2, 10) - pd.Timestamp(2024, 4, 3)
    expected = [series.get(day - shift, np.nan) if day >= pd.Timestamp(2025, 2, 10) else np.nan for day in DATES]
    np.testing.assert_array_equal(earlier.value, expected)
    np.testing.assert_allclose(away.value, series - expected)
    pair = curves(run_csv(WIDE, Compared(before=ComparedSeries(other="Target"), series=("North Head", "Target"))))
    assert [one.series for one in pair] == ["North Head", "North Head"]
    np.testing.assert_allclose(pair[1].value, TABLE["North Head"] - TABLE["Target"])
    swapped = Compared(before=StretchBefore(start=date(2025, 2, 10), onto=date(2024, 4, 3)))
    assert "Swap" in str(run_csv(ONE, swapped).reports[-1].problem)


def test_events_are_flagged_named_by_marks_and_read_from_a_list() -> None:
    text = "date;until;name\n2024-03-05;2024-03-07;storm; west pier\n\n2024-03-06;;gala\n"
    events = Events.model_validate({"events": read_events(text)})
    assert [(one.name, str(one.until)) for one in events.events] == [
        ("storm; west pier", "2024-03-07"),
        ("gala", "None"),
    ]
    mark = Marks(side=MarkedSide.ABOVE, against=AgainstNumber(number=0), labelled=Labelled.EVENT, most=200)
    result = run_csv(ONE, events, mark)
    flags = next(one for one in result.state.shapes if isinstance(one, Flags))
    assert result.state.grain.labels(flags.last) == ["2024-03-07", "2024-03-06"]
    points = next(one for one in result.state.shapes if isinstance(one, Points))
    named = dict(zip(result.state.grain.labels(points.periods), points.labels, strict=True))
    rows = {row[1]: row[-1] for row in result.reports[-1].outcome.evidence[0].rows}
    assert rows["2024-03-06"] == "storm; west pier, gala"
    assert named["2024-03-08"] == rows["2024-03-08"] == ""
    (storm, _) = result.reports[-2].outcome.evidence[0].rows
    assert storm[4] == pytest.approx(TABLE["North Head"]["2024-03-05":"2024-03-07"].mean())
    figure = build_figure(result, FigureSettings())
    assert figure.shapes[0].names == ["storm; west pier", "gala"]
    for wrong, told in (
        ("2024-13-01,x", "line 1"),
        ("2024-01-01", "no name"),
        ("2024-02-02,2024-02-01,x", "before it"),
    ):
        with pytest.raises(ValueError, match=told):
            Events.model_validate({"events": read_events(wrong)})


def test_between_two_lines_and_a_target_of_a_column() -> None:
    result = run_csv(
        WIDE,
        Average(series=("Outer Isles",)),
        Between(one=AgainstReading(reading="t0"), other=AgainstSeries(other="Target"), series=("Outer Isles",)),
    )
    area = next(one for one in result.state.shapes if isinstance(one, Area))
    average = curves(result)[0].at(area.periods)
    target = TABLE["Target"].to_numpy()[~np.isnan(curves(result)[0].value)]
    np.testing.assert_array_equal(area.lower, np.minimum(average, target))
    np.testing.assert_array_equal(area.upper, np.maximum(average, target))
    own = TABLE["Outer Isles"].to_numpy()[~np.isnan(curves(result)[0].value)]
    assert result.reports[-1].outcome.touched == ((own >= area.lower) & (own <= area.upper)).sum()
    held = run_csv(WIDE, HeldLine(at=AtSeries(other="Target"), series=("North Head",)))
    assert held.reports[-1].outcome.touched == (TABLE["North Head"] > TABLE["Target"]).sum()
    long = b"day,route,n,plan\n" + b"".join(f"2024-01-{n:02d},a,{n * 7 % 29},{10}\n".encode() for n in range(1, 29))
    column = run_csv(long, HeldLine(at=AtColumn(measure="plan")))
    assert not column.problems
    assert column.reports[-1].outcome.touched == 18


def test_a_move_is_judged_against_chance() -> None:
    steps = RNG.normal(0, 2, 300)
    steps[150] = 30
    result = run_values(list(np.cumsum(steps)), Moves(largest=2))
    largest, second = result.reports[-1].outcome.evidence[0].rows
    change = np.diff(np.cumsum(steps))
    spread = 1.482602218505602 * np.median(np.abs(change - np.median(change)))
    from scipy.stats import norm

    p = 2 * norm.sf(abs(30 - np.median(change)) / spread) * change.size
    assert largest[5] == pytest.approx(p, rel=1e-6)
    assert (largest[6], second[6]) == ("yes", "no")
    assert chances(np.array([np.nan, 1.0, 1.0])) == [1.0, 1.0, 1.0]


def test_the_axis_reaches_further_and_opens_where_it_is_told() -> None:
    result = run_csv(ONE)
    settings = FigureSettings(further=2, unit=CalendarUnit.QUARTER, opening=Opening.NEWEST_YEAR)
    figure = build_figure(result, settings)
    last = DATES[-1]
    assert pd.Timestamp(figure.until, unit="ms") == last + pd.DateOffset(months=6)
    assert figure.opens
    ends = (figure.opens.start, figure.opens.end)
    assert [str(pd.Timestamp(one, unit="ms").date()) for one in ends] == ["2026-01-01", "2026-12-31"]
    plain = build_figure(result, FigureSettings())
    assert plain.until is None
    assert plain.opens is None
