"""Putting the demo studies into a database."""

from __future__ import annotations

import contextlib
import os
from collections.abc import Callable
from dataclasses import dataclass, field
from datetime import UTC, date, datetime

from sqlalchemy import Engine

from zembra.core.calendar.months import CalendarUnit
from zembra.core.errors import Refusal
from zembra.core.feeds.words import FeedHow, WatchedFolder
from zembra.core.figure.model import Arrangement, FigureSettings, Opening, Shape
from zembra.core.grammar import Point
from zembra.core.intake.bringin import bring_in, quiet
from zembra.core.ledger.clauses.blanks import FilledSeasonal
from zembra.core.ledger.clauses.edges import AgainstReading
from zembra.core.ledger.clauses.levels import AtPercentile, AtValue
from zembra.core.ledger.clauses.newest import LastFew
from zembra.core.ledger.clauses.outliers import Reason
from zembra.core.ledger.clauses.projected import AheadPeriods
from zembra.core.ledger.clauses.trends import CarriedTime
from zembra.core.ledger.clauses.windows import Window
from zembra.core.ledger.entries.projections.projection import Projection
from zembra.core.ledger.entries.readings.average import Average
from zembra.core.ledger.entries.readings.compared import By, Compared, Taken, YearBefore
from zembra.core.ledger.entries.readings.events import Event, Events
from zembra.core.ledger.entries.readings.held import HeldLine
from zembra.core.ledger.entries.readings.marks import Listed, Marks
from zembra.core.ledger.entries.readings.moves import Moves
from zembra.core.ledger.entries.readings.spans import EachYear, Spans
from zembra.core.ledger.entries.readings.trend import Trend
from zembra.core.ledger.entries.readings.years import Years
from zembra.core.ledger.entries.repairs.blanks import Blanks, Missing
from zembra.core.ledger.entries.repairs.derive import Derive
from zembra.core.ledger.entries.repairs.marked_shift import Shift
from zembra.core.ledger.entries.repairs.outliers import Outliers
from zembra.core.ledger.entries.repairs.provisional import Provisional
from zembra.core.ledger.entries.repairs.zeros import Zeros
from zembra.core.ledger.entry import Entry
from zembra.core.ledger.follow import Follow
from zembra.core.ledger.model import Ledger, record
from zembra.core.ledger.periodwords import Month, Weekday
from zembra.core.ledger.run import run
from zembra.core.ledger.start import first_ledger
from zembra.core.ledger.windowed import Tail
from zembra.core.study.summary import summary_of
from zembra.core.watching.words import OutsideLimits, RevisionLarger, RowsLate, WatchWords
from zembra.demo import AS_OF, demo_file
from zembra.demo.pictures import BOARD, INCOME, TWO_ROUTES, WHOLE
from zembra.service.application import Application
from zembra.service.feeds.look import connected, look
from zembra.service.newrows import incoming, take_in
from zembra.service.watching.look import watch_over, watching
from zembra.store.datasets import keep_dataset
from zembra.store.studies import Kept, create_study, kept_studies
from zembra.store.summaries import Summaries

OUTER = ("Outer Isles",)
MONDAY_TO_THURSDAY = (Weekday.MONDAY, Weekday.TUESDAY, Weekday.WEDNESDAY, Weekday.THURSDAY)


EVENTS = (
    Event(on=date(2026, 2, 16), until=date(2026, 2, 18), name="westerly storm"),
    Event(on=date(2026, 4, 3), until=date(2026, 4, 6), name="Easter timetable"),
    Event(on=date(2026, 6, 13), name="regatta"),
    Event(on=date(2026, 7, 25), until=date(2026, 8, 2), name="island week"),
)


@dataclass(frozen=True)
class DemoStudy:
    """A study made of a demo file. entries: what is done after source and calendar."""

    name: str
    file: str
    entries: Callable[[], tuple[Entry, ...]]
    settings: FigureSettings = field(default_factory=FigureSettings)


def _noted(day: str, text: str) -> Reason:
    return Reason(point=Point(series="Outer Isles", period=day), text=text)


def _sailings() -> tuple[Entry, ...]:
    reasons = (
        _noted("2025-08-14", "storm refuge crowd"),
        _noted("2025-10-30", "no fuel"),
        _noted("2026-02-17", "storm refuge crowd"),
    )
    return (
        Outliers(series=OUTER, reasons=reasons),
        Blanks(longest=3),
        Provisional(rule=LastFew(last=5)),
        Shift(on=date(2025, 11, 28), named="new timetable", series=OUTER, then=(Follow.AFRESH, Follow.BEGIN)),
        Average(window=Window(length=28, need=20)),
        Trend(series=OUTER, carried=CarriedTime(on=6, unit=CalendarUnit.MONTH)),
        HeldLine(at=AtValue(value=1150), named="second vessel pays", series=OUTER),
        HeldLine(at=AtPercentile(share=10), named="ask the port about these", series=OUTER),
        Marks(
            against=AgainstReading(reading="held-7"),
            weekdays=MONDAY_TO_THURSDAY,
            series=OUTER,
            listed=Listed.LISTED,
        ),
        Projection(ahead=AheadPeriods(count=56), series=OUTER),
    )


STUDIES = (
    DemoStudy(
        "Ticket income, day by day",
        "ticket_income_to_date.csv",
        lambda: (Derive(), Average(window=Window(length=7, need=5))),
        FigureSettings(pictures=(INCOME,)),
    ),
    DemoStudy(
        "Contract price of fuel",
        "fuel_contract.csv",
        lambda: (Moves(largest=3, times=3),),
        FigureSettings(shape=Shape.HELD),
    ),
    DemoStudy(
        "Power at the dock",
        "dock_meter.csv",
        lambda: (
            Zeros(),
            Blanks(treatment=FilledSeasonal(season=24), longest=12),
            Average(window=Window(length=168, need=120), tail=Tail.FADED),
        ),
    ),
    DemoStudy(
        "Upkeep by vessel",
        "upkeep_by_month.xlsx",
        lambda: (Blanks(classes=(Missing.BLANK,), longest=2),),
        FigureSettings(arrangement=Arrangement.STACKED),
    ),
    DemoStudy(
        "Outer Isles beside the year before",
        "sailings.csv",
        lambda: (
            Outliers(series=OUTER),
            Provisional(rule=LastFew(last=5)),
            Compared(series=OUTER, before=YearBefore(by=By.WEEKDAY), how=Taken.PERCENT),
            Average(series=OUTER, window=Window(length=28, need=20)),
            Spans(series=OUTER, when=EachYear(months=(Month.JULY, Month.AUGUST)), named="summer timetable"),
        ),
        FigureSettings(shown=OUTER),
    ),
    DemoStudy(
        "Outer Isles, year over year",
        "sailings.csv",
        lambda: (
            Outliers(series=OUTER),
            Events(events=EVENTS),
            Blanks(series=OUTER, longest=3),
            Provisional(rule=LastFew(last=5)),
            Years(series=OUTER, years=2),
        ),
        FigureSettings(shown=OUTER, opening=Opening.NEWEST_YEAR),
    ),
    DemoStudy(
        "Outer Isles, daily passengers",
        "sailings.csv",
        _sailings,
        FigureSettings(shown=OUTER, pictures=(BOARD, WHOLE, TWO_ROUTES)),
    ),
)


MONTHLY = DemoStudy(
    "Sailings, month by month",
    "sailings_to_august.csv",
    lambda: (
        Outliers(),
        Blanks(longest=3),
        Provisional(rule=LastFew(last=5)),
        HeldLine(at=AtPercentile(share=10), named="ask the port about these"),
        Projection(ahead=AheadPeriods(count=42)),
    ),
)
# what came next, and the day it came; the file after that is there, and waits
NEXT_FILE, NEXT_DAY = "sailings_to_september.csv", date(2026, 9, 30)
WAITING_FILE, WRITTEN = "sailings.csv", datetime(2026, 10, 31, 7, tzinfo=UTC)
WATCH = WatchWords(watches=(OutsideLimits(), RowsLate(days=2), RevisionLarger(percent=20)))


def seed(application: Application) -> None:
    """Keep the demo files and their studies, except those that are there."""
    engine = application.engine
    found = kept_studies(engine)
    known = {kept.study.name for kept in found.studies} | {damaged.name for damaged in found.damaged}
    said = Summaries(engine)
    if MONTHLY.name not in known:
        _month_by_month(application, said)
    for study in STUDIES:
        if study.name not in known:
            _create(engine, study, said)


def _month_by_month(application: Application, said: Summaries) -> None:
    """Begun on one file, with the next one taken in."""
    begun = _create(application.engine, MONTHLY, said, date(2026, 8, 31))
    data = demo_file(NEXT_FILE)
    received = keep_dataset(application.engine, NEXT_FILE, data, bring_in(data).how)
    before = application.runs.run_whole(begun).result
    came = incoming(application, begun, before, received, None, NEXT_DAY)
    take_in(application, begun, before, came, waved=True, base=begun.study.head)
    assert begun.study.id is not None
    watching(application, begun.study.id, WATCH)
    # who serves the demo to others has its own folders in mind, if any
    with contextlib.suppress(Refusal):
        _port_office(application, begun.study.id)
    watch_over(application, begun.study.id)


def _port_office(application: Application, study_id: int) -> None:
    """A folder that the third file lies in, looked at once: what came waits."""
    folder = application.home.folder / "port-office"
    folder.mkdir(exist_ok=True)
    file = folder / WAITING_FILE
    file.write_bytes(demo_file(WAITING_FILE))
    # written when the port office was done with October, not just now
    os.utime(file, (WRITTEN.timestamp(), WRITTEN.timestamp()))
    source = WatchedFolder(folder=str(folder), pattern="sailings*.csv")
    connected(application, study_id, FeedHow(source=source), None)
    look(application, study_id, quiet, asked=False)


def _create(engine: Engine, study: DemoStudy, said: Summaries, as_of: date = AS_OF) -> Kept:
    data = demo_file(study.file)
    brought = bring_in(data)
    kept = keep_dataset(engine, study.file, data, brought.how)
    assert kept.id is not None
    begun = first_ledger(brought.observations, brought.how, as_of)
    records = tuple(record(entry, f"{entry.kind}-{n}") for n, entry in enumerate(study.entries(), 1))
    ledger = Ledger(intake=begun.intake, entries=(*begun.entries, *records))
    settings = study.settings.model_copy(update={"title": study.name})
    created = create_study(engine, study.name, kept.id, ledger, settings, as_of)
    # what is quick is run here, so that the list of studies is there at once
    result = run(brought.observations, ledger, as_of, file_name=study.file, defer=True)
    said.keep(created, summary_of(result, settings.shown, ()))
    return created
