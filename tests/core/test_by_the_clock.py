"""Hours of a place whose clock changes lie on the days and in the months that its clock shows."""

from __future__ import annotations

from datetime import UTC, date, datetime

import numpy as np
import pandas as pd

from tests.help import AS_OF, asked, curves, only_line, run_csv
from zembra.core.asking.question import settled
from zembra.core.calendar.lines import Condition, Received
from zembra.core.calendar.months import CalendarUnit
from zembra.core.entries.calendar.calendar import Calendar
from zembra.core.entries.calendar.coarser import Coarser, Putting
from zembra.core.entries.calendar.start import first_ledger
from zembra.core.entries.projections.clauses.methods import LastSeason
from zembra.core.entries.projections.clauses.projected import AheadPeriods, AheadTime, LimitsWord, SeasonOf
from zembra.core.entries.projections.projection import Projection
from zembra.core.entries.readings.average import Average
from zembra.core.entries.readings.clauses.edges import AgainstNumber
from zembra.core.entries.readings.clauses.levels import ByMonth
from zembra.core.entries.readings.clauses.windows import CalendarWindow
from zembra.core.entries.readings.compared import By, years_before
from zembra.core.entries.readings.held import HeldLine
from zembra.core.entries.readings.marks import Marks
from zembra.core.entries.readings.spans import BetweenDates, EachWeek, EachYear, Spans
from zembra.core.entries.repairs.against import SetAgainst
from zembra.core.entries.repairs.clauses.against import MonthlyTargets
from zembra.core.entries.repairs.clauses.derivations import Restart, RunningTotal
from zembra.core.entries.repairs.clauses.newest import CurrentSpan
from zembra.core.entries.repairs.derive import Derive
from zembra.core.entries.repairs.provisional import Provisional
from zembra.core.entries.shared.periodwords import Month, Weekday
from zembra.core.intake.bringin import bring_in
from zembra.core.intake.howread import HowRead
from zembra.core.judging.asked import Judging, JudgingRequest, LedgerBefore, study_of
from zembra.core.ledger.entry import Entry
from zembra.core.ledger.model import Ledger, record
from zembra.core.ledger.run import Result, run

HOURS = pd.date_range(datetime(2026, 3, 20, 23, tzinfo=UTC), periods=24 * 225 + 1, freq="h").tz_convert("Europe/Berlin")
MONTHS = pd.Series(HOURS.month, index=HOURS)
WEEKDAYS = pd.Series(HOURS.day_of_week, index=HOURS)


def hourly(values: pd.Series) -> bytes:
    return ("when,riders\n" + "".join(f"{at:%Y-%m-%d %H:%M},{v}\n" for at, v in values.items())).encode()


def ran(values: pd.Series, *entries: Entry) -> Result:
    how = how_read()
    brought = bring_in(hourly(values), how)
    begun = first_ledger(brought.observations, how, AS_OF)
    records = tuple(record(entry, f"t{n}") for n, entry in enumerate(entries))
    result = run(brought.observations, Ledger(intake=how, entries=(*begun.entries, *records)), AS_OF)
    assert not result.problems
    return result


def how_read() -> HowRead:
    """How the hours of the place are read, its question answered."""
    data = hourly(MONTHS)
    return settled(asked(data)[0], bring_in(data).how, asked(data)[0].answers[0])


def value(result: Result) -> np.ndarray:
    return result.state.lines[-1].value


def ends(result: Result) -> tuple[str, str]:
    first, *_, last = result.state.grain.labels(only_line(result).periods)
    return first, last


def test_weekends_and_months_are_those_of_the_clock() -> None:
    weekends = ran((WEEKDAYS >= 5).astype(int), Spans(when=EachWeek()))
    assert weekends.reports[-1].outcome.evidence[0].rows[0][-2:] == (1, 0)
    july = ran((MONTHS == 7).astype(int), Spans(when=EachYear(months=(Month.JULY,))))
    assert july.reports[-1].outcome.evidence[0].rows[0][-2:] == (1, 0)
    sundays = Marks(against=AgainstNumber(number=0), weekdays=(Weekday.SUNDAY,), months=(Month.JULY,))
    found = ran(MONTHS * 10 + WEEKDAYS, sundays).reports[-1].outcome.findings
    assert [one.value for one in found] == [76] * 24 * 4


def test_a_day_that_is_given_is_the_clocks() -> None:
    for day, hours in (("2026-03-28", 24), ("2026-03-29", 23), ("2026-07-05", 24), ("2026-10-25", 25)):
        on = date.fromisoformat(day)
        inside = pd.Series(HOURS.date == on, index=HOURS).astype(int)
        assert inside.sum() == hours
        told = ran(inside, Spans(when=BetweenDates(start=on, end=on))).reports[-1].outcome.evidence[0].rows[0]
        assert told[-3:] == (hours, 1, 0)


def test_a_line_that_ends_on_a_day_has_all_its_hours() -> None:
    data = b"when,riders\n" + b"".join(b"2026-10-%02d %02d:00,5\n" % (d, h) for d in range(20, 32) for h in range(24))
    given = run_csv(data, calendar={"span": "given", "start": "2026-10-22", "until": "given", "end": "2026-10-24"})
    assert ends(given) == ("2026-10-22T00:00", "2026-10-24T23:00")
    assert ends(run_csv(data, calendar={"until": "as-of"})) == ("2026-10-20T00:00", "2026-10-31T23:00")
    unfinished = data.replace(b"2026-10-31 1", b"2026-11-30 1").replace(b"2026-10-31 2", b"2026-11-30 2")
    assert ends(run_csv(unfinished, calendar={"until": "as-of"})) == ("2026-10-20T00:00", "2026-10-31T09:00")


def test_targets_restarts_and_the_current_month_go_by_the_clock() -> None:
    twelve = tuple(float(month) for month in range(1, 13))
    assert set(value(ran(MONTHS, SetAgainst(against=MonthlyTargets(months=twelve))))) == {0.0}
    (curve,) = curves(ran(MONTHS, HeldLine(at=ByMonth(months=twelve))))
    np.testing.assert_array_equal(curve.value, MONTHS)
    total = ran(MONTHS, Derive(what=RunningTotal(restart=Restart.MONTH)))
    np.testing.assert_array_equal(value(total), MONTHS.groupby(MONTHS).cumsum())
    newest = ran(MONTHS, Provisional(rule=CurrentSpan()))
    (line,) = newest.state.lines
    assert set(line.value[line.condition == Condition.PROVISIONAL]) == {10.0}
    assert (line.condition == Condition.PROVISIONAL).sum() == (MONTHS == 10).sum()


def test_the_day_before_a_held_back_one_is_whole() -> None:
    """Days made of hours: what had come in by a day in summer ends with that day's midnight, not an hour before it."""
    days = Coarser(into=CalendarUnit.DAY, combine=Putting.SUM)
    result = ran(WEEKDAYS * 0 + 14, days)
    entry = Projection(ahead=AheadPeriods(count=7), method=LastSeason(), season=SeasonOf(), limits=LimitsWord.OWN)
    begun = [record(report.entry, report.id) for report in result.reports]
    ledger = Ledger(intake=how_read(), entries=(*begun, record(entry, "p")))
    judging = Judging(ahead=7, starts=2, apart=7)
    observations = bring_in(hourly(WEEKDAYS * 0 + 14), how_read()).observations
    study = study_of(result.state, "p")
    one = JudgingRequest(observations, ledger, ("riders",), AS_OF, "test.csv", judging, study)
    for start in LedgerBefore.before_entry(one).starting_points(("riders",)):
        line = start.known.line
        assert line.periods[-1] == start.period - 1
        assert line.value[-1] == 24 * 14


def test_weekdays_without_rows_are_those_of_the_clock() -> None:
    """Monday to Friday, around the clock: in summer its Monday begins on standard time's Sunday."""
    working = HOURS[HOURS.day_of_week < 5]
    result = ran(pd.Series(1, index=working))
    calendar = result.reports[1].entry
    assert isinstance(calendar, Calendar)
    assert calendar.weekdays == tuple(Weekday)[:5]
    assert not (result.base.lines[0].received == Received.ABSENT).any()


def test_windows_and_years_before_go_by_the_clock() -> None:
    lately = Average(window=CalendarWindow(length=1, unit=CalendarUnit.DAY, need=1))
    (curve,) = curves(ran(pd.Series(HOURS.hour == 23, index=HOURS).astype(int), lately))
    at_23 = np.flatnonzero(HOURS.hour == 23)[1:]
    lengths = np.array([24 if HOURS[n].utcoffset() == HOURS[n - 24].utcoffset() else 0 for n in at_23])
    # up to and including 23:00 a day has all its hours, however many the clock gave it
    days = pd.Series(HOURS.date, index=HOURS).value_counts()
    expected = [1 / days[HOURS[n].date()] for n in at_23]
    assert (lengths == 0).sum() == 2
    np.testing.assert_allclose(curve.value[at_23], expected)
    grain = ran(MONTHS).state.grain
    noon = grain.span(date(2026, 7, 6))[0] + 12
    assert grain.label(noon) == "2026-07-06T12:00+02:00"
    for by, there in ((By.DATE, "2025-07-06T12:00+02:00"), (By.WEEKDAY, "2025-07-07T12:00+02:00")):
        assert grain.labels(years_before(grain, np.array([noon]), 1, by)) == [there]
    winter = AheadTime(count=2, unit=CalendarUnit.MONTH)
    last = grain.span(date(2026, 9, 15))[0] + 12
    study = study_of(ran(MONTHS).state, "p")
    assert grain.label(last + winter.how_many(last, study)) == "2026-11-15T12:00"


def test_hours_of_minutes_keep_their_place() -> None:
    halves = pd.date_range(HOURS[0], HOURS[24 * 20], freq="30min")
    result = ran(pd.Series(1, index=halves), Coarser(into=CalendarUnit.HOUR, combine=Putting.SUM))
    assert result.state.grain.zone == "Europe/Berlin"
    assert set(value(result)[:-1]) == {2.0}
    assert ends(result)[0] == "2026-03-21T00:00"
