"""What is planted in the demo data is what Zembra finds; docs/demo-data.md lists it."""

from __future__ import annotations

from datetime import date, datetime, timedelta

import numpy as np
import pytest

from tests.help import run_csv
from zembra.core.asking.census import census
from zembra.core.calendar.grain import Unit
from zembra.core.calendar.lines import Received
from zembra.core.entries.shared.periodwords import Weekday
from zembra.core.intake.bringin import bring_in
from zembra.core.intake.dates import DateForm
from zembra.core.intake.howread import Encoding, ValueKind
from zembra.core.intake.numbercell import DecimalMark
from zembra.core.ledger.run import Result
from zembra.demo import DEMO_FILES, demo_file, dock, fuel, incidents, rota, tickets, upkeep
from zembra.demo.generate import FILES
from zembra.demo.sailings import LAST, ROUTES


@pytest.mark.parametrize("name", list(DEMO_FILES))
def test_the_shipped_file_is_what_the_generator_makes(name: str) -> None:
    assert demo_file(name) == FILES[name]()


def received(result: Result, at: int, kind: Received) -> set[str]:
    line = result.state.lines[at]
    return set(result.state.grain.labels(line.periods[line.received == kind]))


def counted(result: Result) -> dict[str, int]:
    return {count.key: count.count for count in census(result.base)}


def test_sailings_planted_and_found() -> None:
    result = run_csv(demo_file("sailings.csv"))
    grain = result.state.grain
    for at, (route, line) in enumerate(zip(ROUTES, result.state.lines, strict=True)):
        assert line.name == route.name
        blank_texts = {day for day, text in route.texts.items() if text == "n/a"}
        closed = {
            str(day)
            for first, last in route.closed
            for day in np.arange(first, date(last.year, last.month, last.day + 1))
        }
        assert received(result, at, Received.ABSENT) == {str(day) for day in route.no_sailing} | closed
        assert received(result, at, Received.BLANK) == {str(day) for day in (*route.blank, *blank_texts)}
        unreadable = {str(day) for day in route.texts if day not in blank_texts}
        assert received(result, at, Received.UNREADABLE) == unreadable
        zeros = grain.labels(line.periods[line.original == 0])
        assert set(zeros) == {str(day) for day in route.zeros}
        for day, value in route.spikes.items():
            assert line.original[line.periods == grain.period(day)] == [value]
    texts = next(count for count in census(result.base) if count.key == "unreadable")
    assert {example.text for example in texts.examples} == {"closed", "see note", "tbc", "error"}


def test_the_last_days_are_under_reported() -> None:
    line = run_csv(demo_file("sailings.csv")).state.lines[0]
    assert line.original[-1] < 0.5 * np.median(line.original[-30:-5])
    assert line.periods[-1] == np.datetime64(LAST, "D").astype(int)


def month(of: tuple[int, int]) -> str:
    return f"{of[0]}-{of[1]:02d}"


def test_upkeep_periods_across_with_blank_text_and_future_months() -> None:
    brought = bring_in(demo_file("upkeep_by_month.xlsx"))
    how = brought.how
    assert (how.table.sheet, how.table.header_row, how.table.skip_last) == ("By month", 4, 1)
    assert (how.values.kind, how.dates.form, how.series.column) == (ValueKind.ACROSS, DateForm.NAMED_MONTH, "Vessel")
    assert brought.table.sheets == ("By month", "By year")
    assert any("totals" in notice.text and notice.change == {"skip_last": 0} for notice in brought.notices)
    result = run_csv(demo_file("upkeep_by_month.xlsx"))
    assert result.state.grain.unit is Unit.MONTH
    costs = upkeep.costs()
    for at, (vessel, last) in enumerate(upkeep.VESSELS.items()):
        line = result.state.lines[at]
        assert line.name == vessel
        # months after the as-of date are not there; what a vessel has not reached before it is blank
        assert result.state.grain.label(int(line.periods[-1])) == "2026-10"
        late = {month(m) for m in upkeep.MONTHS if last < m <= (2026, 10)}
        blank = {month(m) for v, m in upkeep.BLANK if v == vessel} | late
        assert received(result, at, Received.BLANK) == blank
        texts = {month(m) for v, m in upkeep.TEXTS if v == vessel}
        assert received(result, at, Received.UNREADABLE) == texts
        for value, truth, kind in zip(line.original, costs[vessel], line.received, strict=False):
            if kind == Received.MEASURED:
                assert value == pytest.approx(truth)


def test_upkeep_by_year_is_the_other_sheet() -> None:
    from zembra.core.intake.formats import detect_table

    data = demo_file("upkeep_by_month.xlsx")
    brought = bring_in(data, table_how=detect_table(data, "By year"))
    assert brought.how.dates.form is DateForm.YEAR
    assert brought.observations.series == tuple(upkeep.LEVELS)


def hours(stretch: tuple[datetime, int]) -> set[str]:
    return {f"{stretch[0] + timedelta(hours=n):%Y-%m-%dT%H:%M}" for n in range(stretch[1])}


def test_the_dock_meter_keeps_every_hour_over_the_clock_change() -> None:
    result = run_csv(demo_file("dock_meter.csv"))
    (line,) = result.state.lines
    assert result.state.grain.unit is Unit.HOUR
    assert len(line) == dock.HOURS
    grain = result.state.grain

    def told(labels: set[str]) -> set[str]:
        # a label without an offset is on standard time; in summer a period is named by the clock on the wall
        return {grain.label(grain.parse(label)) for label in labels}

    assert received(result, 0, Received.ABSENT) == told(hours(dock.NO_ROWS))
    assert received(result, 0, Received.BLANK) == told(hours(dock.BLANK))
    assert received(result, 0, Received.UNREADABLE) == told(hours(dock.OFFLINE))
    zeros = set(result.state.grain.labels(line.periods[line.original == 0]))
    assert zeros == told({f"{at:%Y-%m-%dT%H:%M}" for at in dock.ZEROS})
    (offer,) = result.reports[1].outcome.offers
    assert "3 zeros stand alone" in offer.why


def test_incidents_are_counted_and_quiet_days_are_zero() -> None:
    brought = bring_in(demo_file("incidents.csv"))
    assert brought.how.values.kind is ValueKind.EVENTS
    assert brought.how.series.column == "kind"
    result = run_csv(demo_file("incidents.csv"))
    truth = incidents.counts()
    for line in result.state.lines:
        days = [date.fromisoformat(label) for label in result.state.grain.labels(line.periods)]
        assert len(days) == len(truth)
        assert line.value.tolist() == [truth[day][line.name] for day in days]
    assert not result.reports[1].outcome.offers  # the zeros were decided, not received


def test_the_rota_is_read_as_an_older_program_wrote_it() -> None:
    brought = bring_in(demo_file("rota_hours.csv"))
    how = brought.how
    assert how.table.encoding is Encoding.CP1252
    assert (how.table.header_row, how.table.skip_last) == (4, 1)
    assert (how.dates.form, how.values.decimal) == (DateForm.DAY_FIRST, DecimalMark.COMMA)
    assert brought.observations.series == tuple(rota.CREWS)
    result = run_csv(demo_file("rota_hours.csv"))
    calendar = result.reports[1].entry
    assert calendar.weekdays == tuple(Weekday)[:5]  # type: ignore[attr-defined]
    assert received(result, 0, Received.ABSENT) == {str(day) for day in rota.SHUT}
    assert received(result, 0, Received.UNREADABLE) == {"2026-05-14"}
    assert received(result, 2, Received.BLANK) == {"2026-06-09"}
    assert received(result, 1, Received.BLANK) == {"2026-09-02"}


def test_fuel_prices_are_kept_as_they_come() -> None:
    result = run_csv(demo_file("fuel_contract.csv"))
    (line,) = result.state.lines
    assert result.state.grain.unit is Unit.MOMENT
    assert result.state.grain.labels(line.periods) == [str(day) for day, _ in fuel.PRICES]
    assert line.value.tolist() == [price for _, price in fuel.PRICES]
    assert counted(result)["absent"] == 0


def test_ticket_income_has_its_gaps() -> None:
    result = run_csv(demo_file("ticket_income_to_date.csv"))
    assert received(result, 0, Received.ABSENT) == {str(day) for day in tickets.NO_ROW}
    assert received(result, 0, Received.BLANK) == {str(day) for day in tickets.BLANK}


def test_every_demo_study_runs_without_a_problem(tmp_path_factory: pytest.TempPathFactory) -> None:
    from zembra.demo.seed import seed
    from zembra.demo.studies import MONTHLY, STUDIES
    from zembra.service.application import Application
    from zembra.store.database import open_database
    from zembra.store.home import Home
    from zembra.store.studies import kept_studies

    home = Home(tmp_path_factory.mktemp("demo"))
    engine = open_database(home.database)
    shared = Application(engine, home)
    seed(shared)
    seed(shared)  # a second start adds nothing
    studies = kept_studies(engine).studies
    assert sorted(kept.study.name for kept in studies) == sorted(study.name for study in (*STUDIES, MONTHLY))
    for kept in studies:
        assert not shared.runs.run_whole(kept).result.problems, kept.study.name


def test_a_demo_that_was_ended_in_the_middle_goes_on(
    tmp_path_factory: pytest.TempPathFactory, monkeypatch: pytest.MonkeyPatch
) -> None:
    """After each step, before that is taken down; between a feed and the first look at it; with a machine that is slow."""
    from zembra.demo import seed as seeding
    from zembra.demo.studies import MONTHLY, STUDIES
    from zembra.service.application import Application
    from zembra.store.database import open_database
    from zembra.store.feeds import feed_of
    from zembra.store.home import Home
    from zembra.store.studies import kept_studies
    from zembra.store.watching import every_finding
    from zembra.work.queue import Busy

    home = Home(tmp_path_factory.mktemp("demo"))
    shared = Application(open_database(home.database), home)
    few = [study for study in STUDIES if study.name != MONTHLY.name][:2]
    monkeypatch.setattr(seeding, "STUDIES", few)
    ended: set[str] = set()
    add, run_whole, look = seeding._Steps.add, type(shared.runs).run_whole, seeding.look
    busy = iter([True, True])

    def killed_before(steps: seeding._Steps, name: str) -> None:
        if name not in ended:
            ended.add(name)
            raise KeyboardInterrupt
        add(steps, name)

    def killed_look(*args: object, **how: object) -> object:
        if "look" not in ended:
            ended.add("look")
            raise KeyboardInterrupt
        return look(*args, **how)  # type: ignore[arg-type]

    def slow(*args: object) -> object:
        if next(busy, False):
            raise Busy("It is not done yet.")
        return run_whole(*args)  # type: ignore[arg-type]

    monkeypatch.setattr(seeding._Steps, "add", killed_before)
    monkeypatch.setattr(seeding, "look", killed_look)
    monkeypatch.setattr(type(shared.runs), "run_whole", slow)
    said: list[str] = []
    starts = 0
    while True:
        try:
            seeding.seed(shared, said.append)
            break
        except KeyboardInterrupt:
            starts += 1
    assert starts == len(few) + 5 + 1
    assert len(said) == len(set(said)) + 1  # the look was told twice
    studies = {kept.study.name: kept for kept in kept_studies(shared.engine).studies}
    assert set(studies) == {study.name for study in few} | {MONTHLY.name}
    monthly = studies[MONTHLY.name].study
    assert monthly.head == 2
    feed = feed_of(shared.engine, monthly.id or 0)
    assert feed is not None
    assert feed.received_id is not None
    assert every_finding(shared.engine)[monthly.id or 0]
    said.clear()
    seeding.seed(shared, said.append)
    assert said == []
