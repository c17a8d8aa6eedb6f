"""Seasons by the calendar's place, coarser and finer grains, and what stays decided when periods are put together."""

from __future__ import annotations

from dataclasses import replace
from datetime import UTC, date, datetime, timedelta
from zoneinfo import ZoneInfo

import numpy as np
import pandas as pd
import pytest
from hypothesis import given
from hypothesis import strategies as st

from tests.help import FIRST, asked, only_line, run_csv, run_values, smoothing
from zembra.core.asking.question import settled
from zembra.core.calendar.closed import holiday_places, public_holidays
from zembra.core.calendar.coarser import coarser
from zembra.core.calendar.complete import Combine, Expected
from zembra.core.calendar.grain import DAY, Grain, Unit
from zembra.core.calendar.lines import Condition
from zembra.core.calendar.months import CalendarUnit
from zembra.core.calendar.seasons import even_row, usual_season
from zembra.core.entries.calendar.coarser import Coarser, Partly, Putting, Week
from zembra.core.entries.calendar.finer import Finer, FinerBetween
from zembra.core.entries.calendar.start import first_ledger
from zembra.core.entries.readings.average import Average
from zembra.core.entries.readings.clauses.windows import Window
from zembra.core.entries.readings.moves import Moves
from zembra.core.entries.readings.windowed import Tail
from zembra.core.entries.repairs.blanks import Blanks
from zembra.core.entries.repairs.clauses.blanks import FilledSeasonal
from zembra.core.entries.repairs.clauses.derivations import Correction, Index, PercentChange, PerPeriod
from zembra.core.entries.repairs.clauses.newest import LastFew
from zembra.core.entries.repairs.derive import Derive
from zembra.core.entries.repairs.found_shifts import Shifts
from zembra.core.entries.repairs.marked_shift import Shift
from zembra.core.entries.repairs.provisional import Provisional
from zembra.core.entries.repairs.shiftwords import Follow
from zembra.core.figure.build import build_figure
from zembra.core.figure.model import FigureSettings
from zembra.core.intake.bringin import bring_in
from zembra.core.ledger.entry import Entry
from zembra.core.ledger.model import Ledger, record
from zembra.core.ledger.run import run

MONDAY = date(2026, 1, 5)
WORKING = Expected(DAY, (0, 1, 2, 3, 4))


def dated(rows: dict[date, object]) -> bytes:
    return ("day,sold\n" + "".join(f"{day},{'' if v is None else v}\n" for day, v in rows.items())).encode()


def working_days(count: int, without: tuple[date, ...] = ()) -> list[date]:
    days = (MONDAY + timedelta(n) for n in range(count * 2))
    return [day for day in days if day.weekday() < 5 and day not in without][:count]


def calendar(result_of: bytes, *entries: object, **words: object):  # type: ignore[no-untyped-def]
    """A run in which the calendar has other words than the detected ones."""
    return run_csv(result_of, *entries, calendar=words)  # type: ignore[arg-type]


@pytest.mark.parametrize(
    ("expected", "season"),
    [
        (Expected(DAY), 7),
        (WORKING, 5),
        (Expected(Grain(Unit.HOUR)), 24),
        (Expected(Grain(Unit.MINUTE, 15)), 96),
        (Expected(Grain(Unit.MONTH, 6)), 2),
        (Expected(Grain(Unit.QUARTER)), 4),
        (Expected(Grain(Unit.YEAR)), None),
        (Expected(Grain(Unit.MOMENT)), None),
    ],
)
def test_a_season_counts_expected_periods(expected: Expected, season: int | None) -> None:
    assert usual_season(expected) == season


@given(st.sets(st.integers(0, 60), max_size=20))
def test_a_closed_day_keeps_its_place_on_the_row(closed: set[int]) -> None:
    days = [day for n, day in enumerate(working_days(61)) if n not in closed or n in (0, 60)]
    periods = DAY.periods(np.array(days, dtype="datetime64[s]"))
    row = even_row(WORKING, periods)
    assert row.periods.size == 61
    assert [DAY.weekdays(row.periods[[at]])[0] for at in row.at] == [day.weekday() for day in days]
    np.testing.assert_array_equal(row.at % 5, [day.weekday() for day in days])
    values = np.arange(float(len(days)))
    np.testing.assert_array_equal(row.gather(row.spread(values)), values)


def test_a_holiday_shifts_no_pattern() -> None:
    holiday = MONDAY + timedelta(23)
    by_weekday = [10.0, 20, 30, 40, 50]
    days = working_days(60, (holiday,))
    rows: dict[date, object] = {day: by_weekday[day.weekday()] for day in days}
    gap = days[40]
    rows[gap] = None
    filled = only_line(calendar(dated(rows), Blanks(treatment=FilledSeasonal(season=5)), closed=[holiday.isoformat()]))
    assert filled.value[40] == by_weekday[gap.weekday()]
    rng = np.random.default_rng(2)
    noisy = dated({day: 100 + by_weekday[day.weekday()] + round(rng.normal(0, 0.5), 3) for day in days})
    result = calendar(noisy, smoothing(ahead=10, season=5), closed=[holiday.isoformat()])
    drawn = result.state.shapes[0]
    weekdays = DAY.weekdays(drawn.periods)
    np.testing.assert_allclose(drawn.value, 100 + np.array(by_weekday)[weekdays], atol=2)
    assert not np.isin(weekdays, (5, 6)).any()


def test_dates_as_they_come_are_not_projected_second_by_second() -> None:
    data = (
        b"day,price\n2026-01-05,1.2\n2026-02-17,1.3\n2026-02-18,1.31\n2026-05-30,1.4\n2026-11-02,1.5\n2027-01-30,1.6\n"
    )
    result = calendar(data, smoothing(ahead=5, season=None), grain="moment")
    assert "no even step" in str(result.reports[-1].problem)


def coarse(data: bytes, entry: Coarser, **words: object) -> dict[str, tuple[float, str]]:
    result = calendar(data, entry, **words)
    line = only_line(result)
    names = [Condition(int(one)).word for one in line.condition]
    labels = result.state.grain.labels(line.periods)
    return {label: (float(v), word) for label, v, word in zip(labels, line.value, names, strict=True)}


def test_weeks_go_into_months_by_the_rule_that_is_said() -> None:
    mondays = [date(2025, 12, 29) + timedelta(7 * n) for n in range(14)]  # to 30 March, so to 5 April
    rows: dict[date, object] = dict.fromkeys(mondays, 70)
    first = coarse(dated(rows), Coarser(weeks=Week.FIRST))
    assert first["2026-01"] == (280, "measured")
    assert first["2026-03"] == (350, "measured")
    middle = coarse(dated(rows), Coarser(weeks=Week.MIDDLE))
    assert middle["2026-01"] == (350, "measured")  # the week of 29 December has its Thursday on 1 January
    assert "2025-12" not in middle
    shared = coarse(dated(rows), Coarser(weeks=Week.SHARED))
    for month, days in (("2026-01", 31), ("2026-02", 28), ("2026-03", 31)):
        assert shared[month][0] == pytest.approx(10 * days)
    assert (shared["2026-01"][1], shared["2025-12"][1]) == ("adjusted", "open")
    said = calendar(dated(rows), Coarser()).reports[-1].outcome.warnings
    assert "first day" in said[0]


def test_what_covers_a_week() -> None:
    rows: dict[date, object] = dict.fromkeys(working_days(15), 1)
    saturday, wednesday = MONDAY + timedelta(5), MONDAY + timedelta(2)
    del rows[wednesday]
    rows[saturday] = 1
    words = {"weekdays": ["mon", "tue", "wed", "thu", "fri"]}
    weeks = Coarser(into=CalendarUnit.WEEK)
    left = coarse(dated(dict(sorted(rows.items()))), weeks, **words)
    assert left["2026-W02"][1] == "open"  # the Saturday does not stand for the Wednesday
    assert left["2026-W03"] == (5, "measured")
    scaled = coarse(dated(dict(sorted(rows.items()))), weeks.model_copy(update={"partly": Partly.SCALED}), **words)
    assert scaled["2026-W02"] == (6, "adjusted")
    del rows[saturday]
    assert coarse(dated(rows), weeks, absent="closed", **words)["2026-W02"] == (4, "measured")


def test_decided_zeros_stay_decided() -> None:
    rows: dict[date, object] = {MONDAY: 3, MONDAY + timedelta(27): 4}
    weeks = coarse(dated(rows), Coarser(into=CalendarUnit.WEEK), grain="day", absent="zero")
    assert weeks == {
        "2026-W02": (3, "measured"), "2026-W03": (0, "filled"), "2026-W04": (0, "filled"), "2026-W05": (4, "measured"),
    }  # fmt: skip


def test_decided_zeros_stay_filled_on_a_finer_grain() -> None:
    data = b"month,paid\n2026-01,3\n2026-03,4\n"
    line = only_line(
        calendar(
            data, Finer(onto=CalendarUnit.DAY, between=FinerBetween.OPEN), grain="month", absent="zero", until="own"
        )
    )
    february = line.periods == DAY.period(date(2026, 2, 1))
    assert line.condition[february] == Condition.FILLED
    assert line.value[february] == 0
    assert (np.isnan(line.value) == (line.condition == Condition.OPEN)).all()


def test_a_filled_point_that_is_provisional_is_told_as_both() -> None:
    result = run_values([1, 2, None, 4], Blanks(), Provisional(rule=LastFew(last=2)))
    from zembra.core.handover.tables import point_rows

    rows = list(point_rows(result))
    assert [row[5] for row in rows] == ["measured", "measured", "provisional", "provisional"]
    assert rows[2][6].startswith("Treat the last 2")
    assert "Fill on a straight line" in rows[2][6]
    assert "Fill" not in rows[3][6]


TOTAL = [100.0, 220, 330, 440, 430, 560]


def test_a_correction_of_a_total_is_offered_three_ways() -> None:
    left = run_values(TOTAL, Derive(what=PerPeriod()))
    assert only_line(left).value[4] == -10
    assert [offer.params["what"]["correction"] for offer in left.reports[-1].outcome.offers] == ["spread", "aside"]
    spread = only_line(run_values(TOTAL, Derive(what=PerPeriod(correction=Correction.SPREAD))))
    assert np.nansum(spread.value[1:5]) == pytest.approx(430 - 100)
    assert (spread.value[1:5] > 0).all()
    assert [Condition(int(c)).word for c in spread.condition[1:]] == ["filled"] * 4 + ["measured"]
    aside = only_line(run_values(TOTAL, Derive(what=PerPeriod(correction=Correction.ASIDE))))
    assert np.isnan(aside.value[4])
    assert aside.value[5] == 130


def test_a_faded_average_says_why_it_stops() -> None:
    result = run_values(
        [*range(1, 11)], Provisional(rule=LastFew(last=3)), Average(window=Window(length=4, need=4), tail=Tail.FADED)
    )
    assert "provisional ones do not" in result.reports[-1].outcome.warnings[0]


def test_a_move_over_missing_periods_says_over_how_many() -> None:
    result = run_csv(b"year,people\n2018,10\n2019,12\n2021,40\n2022,41\n", Moves(largest=1))
    assert result.state.shapes[-1].labels[0] == "+28 (+233 %) over 2 years"
    below = run_values([-4, 2, 5], Moves())
    assert "below zero" in below.reports[-1].outcome.warnings[0]


def test_a_yearly_step_is_looked_for_over_ten_years() -> None:
    rng = np.random.default_rng(4)
    flow = np.concatenate([rng.normal(1100, 140, 28), rng.normal(850, 125, 72)])
    data = "year,flow\n" + "".join(f"{1871 + n},{value:.0f}\n" for n, value in enumerate(flow))
    base = run_csv(data.encode())
    entry = Shifts.suggest(base.state)
    assert (entry.shortest, entry.season) == (10, None)
    (row,) = run_csv(data.encode(), entry).reports[-1].outcome.evidence[0].rows
    assert abs(int(str(row[1])) - 1899) <= 1


def test_months_of_whole_days_agree_with_pandas() -> None:
    rng = np.random.default_rng(5)
    days = pd.date_range("2025-11-01", "2026-02-28", freq="D")
    values = pd.Series(rng.integers(0, 90, len(days)), index=days)
    data = dated({day.date(): int(v) for day, v in values.items()})
    for how, name in ((Putting.SUM, "sum"), (Putting.MEAN, "mean"), (Putting.MEDIAN, "median")):
        told = coarse(data, Coarser(combine=how))
        monthly = values.resample("MS").agg(name)
        assert [v for v, _ in told.values()] == pytest.approx(monthly.to_list())


def test_rows_of_a_day_combine_by_what_each_column_measures() -> None:
    data = b"day,income,margin %,stock\n" + b"".join(
        f"2026-01-{d:02d},{10 * d},{d / 10},{100 - d}\n2026-01-{d:02d},{d},{d / 5},{90 - d}\n".encode()
        for d in range(1, 13)
    )
    result = run_csv(data)
    assert "adds up values from test.csv for every series, but averages margin % and takes the last of stock." in (
        result.reports[0].sentence
    )
    first = {line.name: float(line.value[0]) for line in result.state.lines}
    assert first == {"income": 11, "margin %": pytest.approx(0.15), "stock": 89}


def test_a_price_is_not_added_up_without_a_question() -> None:
    rng = np.random.default_rng(6)
    rows = [
        f"{date(2026, 1, 1) + timedelta(n)},T{n}-{k},{rng.integers(5, 9)}.50 €"
        for n in range(30)
        for k in range(rng.integers(1, 6))
    ]
    data = ("day,ticket,fare\n" + "\n".join(rows) + "\n").encode()
    (question,) = asked(data)
    assert "fare looks like a price" in question.title
    assert [answer.label for answer in question.answers] == ["average them", "take the last", "add them up"]
    figure = build_figure(run_csv(data), FigureSettings())
    assert figure.scales[0].title == "fare, €"


def test_the_axis_is_named_by_what_is_drawn() -> None:
    def named(*entries: Entry) -> str:
        return build_figure(run_values([10, 20, 30], *entries), FigureSettings()).scales[0].title

    assert named() == "riders, per day"
    assert named(Derive(what=PercentChange())) == "riders, change, %"
    assert named(Derive(what=Index())) == "riders, index"
    assert named(Coarser(into=CalendarUnit.WEEK, partly=Partly.PROVISIONAL)) == "riders, per week"


def test_a_clock_that_jumps_is_asked_about_and_its_days_have_23_24_or_25_hours() -> None:
    place, at = ZoneInfo("Europe/Berlin"), datetime(2026, 3, 20, 23, tzinfo=UTC)
    rows = [f"{(at + timedelta(hours=n)).astimezone(place):%Y-%m-%d %H:%M},22" for n in range(24 * 225 + 1)]
    data = ("when,riders\n" + "\n".join(rows) + "\n").encode()
    question = asked(data)[0]
    assert "there is no 02:00 on 29 Mar 2026 and 02:00 on 25 Oct 2026 stands twice" in question.title
    assert "Europe/Berlin" in [answer.label for answer in question.answers]
    how = settled(question, bring_in(data).how, question.answers[0])
    brought = bring_in(data, how)
    begun = first_ledger(brought.observations, how, date(2026, 11, 20))
    ledger = Ledger(intake=how, entries=(*begun.entries, record(Coarser(into=CalendarUnit.DAY), "d")))
    (line,) = run(brought.observations, ledger, date(2026, 11, 20)).state.lines
    days = dict(zip(DAY.labels(line.periods), line.value.tolist(), strict=True))
    assert (days["2026-03-28"], days["2026-03-29"], days["2026-10-25"], days["2026-10-26"]) == (528, 506, 550, 528)
    assert {value for day, value in days.items() if day[5:] not in ("03-29", "10-25") and not np.isnan(value)} == {528}
    steady = b"when,riders\n" + b"".join(b"2026-03-%02d %02d:00,5\n" % (d, h) for d in range(20, 32) for h in range(24))
    assert asked(steady) == ()


def test_no_row_means_zero_says_where_and_asks_where_series_end_apart() -> None:
    data = b"day,route,riders\n" + b"".join(
        f"{MONDAY + timedelta(n)},{route},5\n".encode() for route, last in (("North Head", 20), ("Harbour Loop", 12)) for n in range(last) if n != 6
    )  # fmt: skip
    apart = calendar(data, absent="zero")
    (offer,) = [one for one in apart.reports[1].outcome.offers if one.change]
    assert "8 days before or after" in offer.why
    whole = calendar(data, absent="zero", **offer.params)
    assert [len(line) for line in whole.state.lines] == [20, 20]
    assert not [one for one in whole.reports[1].outcome.offers if one.change]


def test_fiscal_years_are_named_by_both_years_wherever_they_begin() -> None:
    data = b"year,riders\n" + b"".join(f"{y}/{(y + 1) % 100:02d},{y}\n".encode() for y in range(2015, 2024))
    for month, first in (("1", "2015"), ("4", "2015/16"), ("10", "2015/16")):
        result = calendar(data, year_start=month)
        line = only_line(result)
        assert result.state.grain.label(int(line.periods[0])) == first
        assert line.value.tolist() == list(range(2015, 2024))


def test_a_month_of_whole_weeks_is_not_shared() -> None:
    """February 2027 begins on a Monday and ends on a Sunday: no week lies across its edges."""
    rows: dict[date, object] = {date(2027, 1, 4) + timedelta(7 * n): 70 for n in range(12)}
    shared = coarse(dated(rows), Coarser(weeks=Week.SHARED))
    assert shared["2027-02"] == (280, "measured")


def test_an_adjusted_point_that_is_provisional_is_told_as_both() -> None:
    from zembra.core.handover.tables import point_rows

    lifted = Shift(on=FIRST + timedelta(3), stretch=3, then=(Follow.DIFFERENCE,))
    result = run_values([1.0, 1.1, 0.9, 5.0, 5.1, 4.9], lifted, Provisional(rule=LastFew(last=6)))
    rows = list(point_rows(result))
    assert [row[5] for row in rows] == ["provisional"] * 6
    moved = [row[6] for row in rows if float(row[2]) != float(row[3])]
    assert moved
    assert all("provisional" in reason and "level shift" in reason for reason in moved)


def test_estimates_stay_estimates_where_periods_are_put_together() -> None:
    line = only_line(run_values([1, 2, None, 4, 5, 6, 7], Blanks()))
    assert line.condition[2] == Condition.FILLED
    (week,) = coarser(line, Expected(DAY), Grain(Unit.WEEK, week_start=3), Combine.SUM).line.condition
    assert week == Condition.FILLED


def test_a_count_of_weeks_is_shared_by_days() -> None:
    line = replace(only_line(run_values([70.0] * 9)), periods=np.arange(9) + Grain(Unit.WEEK).period(date(2027, 1, 4)))
    made = coarser(line, Expected(Grain(Unit.WEEK)), Grain(Unit.MONTH), Combine.COUNT, week_day=None)
    february = made.line.periods == Grain(Unit.MONTH).period(date(2027, 2, 1))
    assert made.line.value[february] == pytest.approx(4)


def test_parts_of_countries_have_holidays_of_their_own() -> None:
    assert "Germany, Bayern" in holiday_places()
    everywhere, there = (public_holidays(place, 2026, 2026) for place in ("Germany", "Germany, Bayern"))
    assert there - everywhere == {
        date(2026, 1, 6), date(2026, 6, 4), date(2026, 11, 1),
    }  # fmt: skip
