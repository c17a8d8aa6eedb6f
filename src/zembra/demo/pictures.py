"""The dress of the demo studies' pictures."""

from __future__ import annotations

from datetime import date

from zembra.core.calendar.months import CalendarUnit
from zembra.core.dress.dresswords import Drawn, MadeFor, NamedAt, Role, Side, Taken, TextSize, Ticks, ValuesAt, Weight
from zembra.core.dress.model import (
    FreeNote,
    FromDay,
    FromZero,
    Headings,
    LastSo,
    LineDress,
    Notes,
    Page,
    Picture,
    RightScale,
    TimeAxis,
    ToLast,
    ValueScale,
    What,
)

SOURCE = "Port office counts, sailings.csv"
LEFT_OUT = (
    ("trend-6/Outer Isles/trend 0", Role.CURVE),
    ("trend-6/Outer Isles/trend 0 carried on", Role.CURVE),
    ("held-8/Outer Isles/rule", Role.RULE),
    ("shift-4/Outer Isles/shift 2025-11-28", Role.UPRIGHT),
    ("outliers-1/Outer Isles/marks", Role.POINTS),
    ("mark-9/Outer Isles/marks", Role.POINTS),
)

BOARD = Picture(
    name="board slide",
    headings=Headings(
        title="Outer Isles carries more since the new timetable",
        under="daily passengers, 28-day average and eight weeks ahead",
    ),
    page=Page(text=TextSize.LARGE),
    lines=(
        LineDress(id="Outer Isles", weight=Weight.THIN, colour="pale lagoon"),
        LineDress(id="average-5/Outer Isles/average", role=Role.CURVE, weight=Weight.THICK, colour="lagoon"),
        *(LineDress(id=line, role=role, taken=Taken.OUT) for line, role in LEFT_OUT),
    ),
    left=ValueScale(counts="passengers per day", low=FromZero()),
    time=TimeAxis(start=FromDay(day=date(2026, 1, 1)), ticks=Ticks.MONTH),
    notes=Notes(source=SOURCE),
)
WHOLE = Picture(
    name="all three years",
    headings=Headings(title="Outer Isles, September 2023 to now"),
    notes=Notes(source=SOURCE),
)
TWO_ROUTES = Picture(
    name="two routes",
    what=What(shown=("Outer Isles", "Kittiwake Bay")),
    headings=Headings(title="Outer Isles and Kittiwake Bay", under="each on a scale of its own"),
    lines=(
        LineDress(id="Outer Isles", taken=Taken.OUT),
        LineDress(id="Kittiwake Bay", taken=Taken.OUT),
        LineDress(id="average-5/Outer Isles/average", role=Role.CURVE, weight=Weight.THICK, colour="lagoon"),
        LineDress(
            id="average-5/Kittiwake Bay/average", role=Role.CURVE, weight=Weight.THICK, colour="ember", side=Side.RIGHT
        ),
        *(LineDress(id=line, role=role, taken=Taken.OUT) for line, role in LEFT_OUT),
        LineDress(id="held-7/Outer Isles/rule", role=Role.RULE, taken=Taken.OUT),
    ),
    left=ValueScale(counts="Outer Isles, passengers per day", low=FromZero()),
    right=RightScale(counts="Kittiwake Bay, passengers per day", low=FromZero()),
    time=TimeAxis(end=ToLast()),
    notes=Notes(source=SOURCE),
)
INCOME = Picture(
    name="days and their average",
    headings=Headings(title="Ticket income, day by day", under="bars are days, the line is the average of seven"),
    page=Page(made_for=MadeFor.FULL_WIDTH),
    lines=(
        LineDress(
            id="income to date", drawn=Drawn.BARS, colour="pale lagoon", named=NamedAt.KEY, called="a day",
        ),
        LineDress(
            id="average-2/income to date/average", role=Role.CURVE, weight=Weight.THICK, colour="ember",
            named=NamedAt.KEY, values=ValuesAt.LAST,
        ),
    ),
    left=ValueScale(counts="income a day", unit="€", low=FromZero()),
    time=TimeAxis(start=LastSo(count=3, unit=CalendarUnit.MONTH)),
    notes=Notes(source="Ticket office, ticket_income_to_date.csv"),
    free=(FreeNote(text="schools are back", at=1_788_220_800_000, value=8000, dx=40, dy=-20),),
)  # fmt: skip
