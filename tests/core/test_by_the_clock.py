"""Hours of a place whose clock changes lie on the days and in the months that its clock shows."""

from __future__ import annotations

from datetime import UTC, date, datetime

import numpy as np
import pandas as pd

from tests.help import AS_OF, asked, curves, only_line, run_csv
from zembra.core.asking.question import settled
from zembra.core.intake.bringin import bring_in
from zembra.core.ledger.clauses.against import MonthlyTargets
from zembra.core.ledger.clauses.derivations import Restart, RunningTotal
from zembra.core.ledger.clauses.edges import AgainstNumber
from zembra.core.ledger.clauses.levels import ByMonth
from zembra.core.ledger.clauses.newest import CurrentSpan
from zembra.core.ledger.entries.readings.held import HeldLine
from zembra.core.ledger.entries.readings.marks import Marks
from zembra.core.ledger.entries.readings.spans import BetweenDates, EachWeek, EachYear, Spans
from zembra.core.ledger.entries.repairs.against import SetAgainst
from zembra.core.ledger.entries.repairs.derive import Derive
from zembra.core.ledger.entries.repairs.provisional import Provisional
from zembra.core.ledger.entry import Entry
from zembra.core.ledger.model import Ledger, record
from zembra.core.ledger.periodwords import Month, Weekday
from zembra.core.ledger.run import Result, run
from zembra.core.ledger.start import first_ledger
from zembra.core.lines import Condition

HOURS = pd.date_range(datetime(2026, 3, 20, 23, tzinfo=UTC), periods=24 * 225 + 1, freq="h").tz_convert("Europe/Berlin")
MONTHS = pd.Series(HOURS.month, index=HOURS)
WEEKDAYS = pd.Series(HOURS.day_of_week, index=HOURS)


def hourly(values: pd.Series) -> bytes:
    return ("when,riders\n" + "".join(f"{at:%Y-%m-%d %H:%M},{v}\n" for at, v in values.items())).encode()


def ran(values: pd.Series, *entries: Entry) -> Result:
    data = hourly(values)
    brought = bring_in(data)
    how = settled(asked(data)[0], brought.how, asked(data)[0].answers[0])
    brought = bring_in(data, how)
    begun = first_ledger(brought.observations, how, AS_OF)
    records = tuple(record(entry, f"t{n}") for n, entry in enumerate(entries))
    result = run(brought.observations, Ledger(intake=how, entries=(*begun.entries, *records)), AS_OF)
    assert not result.problems
    return result


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
