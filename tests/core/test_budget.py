"""What a run may hold: whatever makes periods is refused before it holds more, and the rest of the run stands."""

from __future__ import annotations

from collections.abc import Sequence
from datetime import date, timedelta

import pytest

from tests.help import AS_OF
from zembra.core.calendar.budget import Budget
from zembra.core.calendar.complete import Until
from zembra.core.calendar.months import CalendarUnit
from zembra.core.entries.calendar.finer import Finer
from zembra.core.entries.calendar.start import first_ledger
from zembra.core.entries.projections.clauses.methods import LastValue
from zembra.core.entries.projections.clauses.projected import AheadPeriods
from zembra.core.entries.projections.projection import Projection
from zembra.core.entries.readings.average import Average
from zembra.core.entries.readings.clauses.trends import CarriedPeriods
from zembra.core.entries.readings.trend import Trend
from zembra.core.errors import Refusal
from zembra.core.intake.bringin import bring_in
from zembra.core.ledger.entry import Entry
from zembra.core.ledger.model import Ledger, record
from zembra.core.ledger.run import Result, run

SERIES, DAYS = 40, 60


def result(budget: Budget, *entries: Entry, as_of: date = AS_OF, **calendar: object) -> Result:
    """A run of forty series of sixty days."""
    names = ",".join(f"route {n}" for n in range(SERIES))
    rows = [
        f"{date(2026, 1, 1) + timedelta(day)}," + ",".join(str(100 + day % 7 + n) for n in range(SERIES))
        for day in range(DAYS)
    ]
    brought = bring_in("\n".join([f"day,{names}", *rows]).encode())
    begun = first_ledger(brought.observations, brought.how, AS_OF)
    source, first = begun.entries
    told = first.model_copy(update={"params": {**first.params, **calendar}})
    added = (record(entry, f"{entry.kind}-{n}") for n, entry in enumerate(entries))
    ledger = Ledger(intake=begun.intake, entries=(source, told, *added))
    return run(brought.observations, ledger, as_of, budget=budget)


def refused(ran: Result) -> list[str]:
    return [str(report.problem) for report in ran.problems]


def test_a_calendar_that_reaches_far_says_what_it_would_need() -> None:
    far = {"until": Until.AS_OF.value}
    with pytest.raises(Refusal, match=r"That would be 6,937,160 points .* more than 1,000,000") as told:
        result(Budget(points=1_000_000), as_of=date(2500, 10, 31), **far)
    assert "coarser grain or a shorter range" in str(told.value)
    assert "1 Jan 2026 to 31 Oct 2500, 40 series" in str(told.value)
    assert len(result(Budget(points=1_000_000), as_of=date(2026, 10, 31), **far).state.lines[0]) == 304


def test_a_finer_grain_is_counted_over_all_series() -> None:
    hours = SERIES * (DAYS * 24 - 23)
    (told,) = refused(result(Budget(points=hours - 1), Finer(onto=CalendarUnit.HOUR)))
    assert f"That would be {hours:,} points of all series together" in told
    assert refused(result(Budget(points=hours), Finer(onto=CalendarUnit.HOUR))) == []


@pytest.mark.parametrize(
    "entry",
    [
        Average(),
        Trend(carried=CarriedPeriods(on=20_000)),
        Projection(ahead=AheadPeriods(count=3650), method=LastValue()),
        Trend(carried=CarriedPeriods(back=20_000)),
    ],
    ids=lambda entry: str(entry.kind),
)
def test_what_an_entry_draws_is_counted_while_it_is_made(entry: Entry) -> None:
    plain = result(Budget())
    base = SERIES * DAYS * 40
    ran = result(Budget(bytes=base + 10_000), entry, Average())
    assert len(refused(ran)) == 2
    assert all("the run would need more than" in told for told in refused(ran))
    # what came before stands as it was
    assert [len(line) for line in ran.state.lines] == [len(line) for line in plain.state.lines]
    assert ran.state.shapes == ()


def titles(entries: Sequence[Entry]) -> list[str]:
    asked: list[str] = []
    begun = [*entries]

    def check(title: str) -> None:
        asked.append(title)

    brought = bring_in(b"day,riders\n" + b"".join(b"2026-01-%02d,%d\n" % (n, n) for n in range(1, 29)))
    ledger = first_ledger(brought.observations, brought.how, AS_OF)
    added = tuple(record(entry, f"{entry.kind}-{n}") for n, entry in enumerate(begun))
    run(brought.observations, ledger.model_copy(update={"entries": (*ledger.entries, *added)}), AS_OF, check=check)
    return asked


def test_a_run_can_be_ended_before_every_entry_and_line() -> None:
    assert titles([Average(), Trend()]) == ["Source", "Calendar", "Average", "Average", "Trend line", "Trend line"]
