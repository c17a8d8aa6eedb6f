"""The demo studies: their files and their entries."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass, field
from datetime import date

from zembra.core.calendar.complete import Until
from zembra.core.calendar.months import CalendarUnit
from zembra.core.entries.projections.clauses.projected import AheadPeriods, LimitsWord
from zembra.core.entries.projections.projection import Projection
from zembra.core.entries.readings.average import Average
from zembra.core.entries.readings.clauses.edges import AgainstReading
from zembra.core.entries.readings.clauses.levels import AtPercentile, AtValue
from zembra.core.entries.readings.clauses.trends import CarriedTime
from zembra.core.entries.readings.clauses.windows import Window
from zembra.core.entries.readings.compared import By, Compared, Taken, YearBefore
from zembra.core.entries.readings.events import Event, Events
from zembra.core.entries.readings.held import HeldLine
from zembra.core.entries.readings.marks import Listed, Marks
from zembra.core.entries.readings.moves import Moves
from zembra.core.entries.readings.spans import EachYear, Spans
from zembra.core.entries.readings.trend import Trend
from zembra.core.entries.readings.windowed import Tail
from zembra.core.entries.readings.years import Years
from zembra.core.entries.repairs.blanks import Blanks, Missing
from zembra.core.entries.repairs.clauses.blanks import FilledSeasonal
from zembra.core.entries.repairs.clauses.newest import LastFew
from zembra.core.entries.repairs.clauses.outliers import Reason
from zembra.core.entries.repairs.derive import Derive
from zembra.core.entries.repairs.follow import Follow
from zembra.core.entries.repairs.found_shifts import Shifts
from zembra.core.entries.repairs.marked_shift import Shift
from zembra.core.entries.repairs.outliers import Outliers
from zembra.core.entries.repairs.provisional import Provisional
from zembra.core.entries.repairs.zeros import Zeros
from zembra.core.entries.shared.periodwords import Month, Weekday
from zembra.core.figure.model import Arrangement, FigureSettings, Opening, Shape
from zembra.core.grammar import Point
from zembra.core.ledger.entry import Entry
from zembra.demo import demo_file
from zembra.demo.landings import landings_parquet
from zembra.demo.pictures import BOARD, INCOME, TWO_ROUTES, WHOLE

OUTER = ("Outer Isles",)
LANDINGS = tuple(f"{landing}, day return" for landing in ("North Head 007", "Outer Isles 002", "Kittiwake Bay 031"))
MONDAY_TO_THURSDAY = (Weekday.MONDAY, Weekday.TUESDAY, Weekday.WEDNESDAY, Weekday.THURSDAY)


EVENTS = (
    Event(on=date(2026, 2, 16), until=date(2026, 2, 18), name="westerly storm"),
    Event(on=date(2026, 4, 3), until=date(2026, 4, 6), name="Easter timetable"),
    Event(on=date(2026, 6, 13), name="regatta"),
    Event(on=date(2026, 7, 25), until=date(2026, 8, 2), name="island week"),
)


@dataclass(frozen=True)
class DemoStudy:
    """A study of a demo file.

    entries: after source and calendar
    drawn: series, by default all
    until: where lines end
    made: generates a file that does not ship
    """

    name: str
    file: str
    entries: Callable[[], tuple[Entry, ...]]
    settings: FigureSettings = field(default_factory=FigureSettings)
    drawn: tuple[str, ...] = ()
    until: Until | None = None
    made: Callable[[], bytes] | None = None

    def data(self) -> bytes:
        return self.made() if self.made else demo_file(self.file)


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
    # the largest is the oldest: the newest ones are made ready when a server starts
    DemoStudy(
        "Every landing, every fare",
        "landings.parquet",
        lambda: (
            Shifts(shortest=14),
            Average(window=Window(length=28, need=20)),
            Projection(ahead=AheadPeriods(count=14), levels=(80, 99.5), limits=LimitsWord.LIKE),
        ),
        FigureSettings(shown=LANDINGS[:1]),
        drawn=LANDINGS,
        until=Until.AS_OF,
        made=landings_parquet,
    ),
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
