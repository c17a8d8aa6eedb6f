"""A sheet of a workbook with a chart of its own, which can be edited there: the numbers beside it, gaps as gaps, dashes where nothing was
measured, limits as an area, names at the ends of lines."""

from __future__ import annotations

import math
from collections.abc import Iterator, Sequence
from dataclasses import dataclass
from typing import TYPE_CHECKING, Any

import numpy as np

from zembra.core.arithmetic.arrays import Floats, Ints, every_of, values_at
from zembra.core.calendar.lines import Condition, Line
from zembra.core.figure.parts.base import numbers
from zembra.core.ledger.run import Result
from zembra.core.ledger.shapes import Area, Curve, Rests

if TYPE_CHECKING:
    from zembra.core.handover.workbook import Book

SHEET = "Chart"
MOST_SERIES = 6  # that one chart can tell apart
MOST_ROWS = 20_000  # that a chart of a workbook draws in time
COLOURS = ("#155E63", "#C8502B", "#5B4A9E", "#B07A1E", "#3C6E3F", "#7A3B69")
READING = "#5B4A9E"


@dataclass(frozen=True, slots=True)
class _Column:
    """title: at its head, and at the end of its line. dash: of its line; None for one that is drawn through. thin: for readings and
    limits."""

    title: str
    value: Floats
    colour: str
    dash: str | None = None
    thin: bool = False
    named: bool = True


def chart_sheet(book: Book, result: Result, shown: Sequence[str], title: str, source: str) -> None:
    """shown: the series that the study shows; the first few where none is named."""
    names = [line.name for line in result.state.lines if not shown or line.name in shown][:MOST_SERIES]
    lines = [line for line in result.state.lines if line.name in names and len(line)]
    if not lines:
        return
    curves = [
        shape
        for shape in result.state.shapes
        if isinstance(shape, Curve)
        and shape.drawn
        and shape.series in names
        and not shape.name.startswith("projection as of")
    ]
    every = [*(line.periods for line in lines), *(curve.periods for curve in curves)]
    periods = every_of(every)[-MOST_ROWS:]
    area = _widest(result, curves)
    columns = [column for n, line in enumerate(lines) for column in _of_line(line, periods, COLOURS[n % len(COLOURS)])]
    columns += [_of_curve(curve, periods, several=len(lines) > 1) for curve in curves]
    edges = (
        ()
        if area is None
        else (values_at(area.periods, area.lower, periods), values_at(area.periods, area.upper, periods))
    )
    heads = [
        "period",
        *(column.title for column in columns),
        *(("lower limit", "upper limit less lower") if edges else ()),
    ]
    sheet = book.sheet(SHEET, heads, [14] * len(heads))
    for row, label in enumerate(result.state.grain.labels(periods), 1):
        book.write_period(sheet, row, 0, label)
    filled = [*(column.value for column in columns), *((edges[0], edges[1] - edges[0]) if edges else ())]
    for at, values in enumerate(filled, 1):
        for row, value in enumerate(numbers(values), 1):
            book.write(sheet, row, at, value)
    last = periods.size
    drawn = book.chart("line")
    for at, column in enumerate(columns, 1):
        drawn.add_series(_series(at, column, last))
    whole = drawn
    if edges:
        whole = book.chart("area", "stacked")
        for at, filling in ((len(columns) + 1, None), (len(columns) + 2, READING)):
            fill = {"none": True} if filling is None else {"color": filling, "transparency": 78}
            whole.add_series({**_refs(at, last), "fill": fill, "border": {"none": True}})
        whole.combine(drawn)
    whole.set_title({"name": title, "name_font": {"size": 14, "bold": True}})
    whole.set_x_axis(
        {
            "date_axis": _dated(result),
            "major_gridlines": {"visible": False},
            "name": source,
            "name_font": {"bold": False, "size": 9},
        }
    )
    whole.set_y_axis({"major_gridlines": {"visible": True, "line": {"color": "#E3DED2"}}, "line": {"none": True}})
    whole.set_legend({"none": True})
    whole.show_blanks_as("gap")
    whole.set_size({"width": 1080, "height": 560})
    sheet.insert_chart(1, len(heads) + 1, whole)


def _of_line(line: Line, periods: Ints, colour: str) -> Iterator[_Column]:
    """What was measured; and what was not, with a measured neighbour on either side, so that the dashes meet it."""
    counts = line.condition != Condition.SET_ASIDE
    measured = (line.condition == Condition.MEASURED) & counts
    value = np.where(counts, line.value, np.nan)
    yield _Column(line.drawn_name, values_at(line.periods, np.where(measured, value, np.nan), periods), colour)
    other = ~measured & ~np.isnan(value)
    if other.any():
        beside = other.copy()
        beside[1:] |= other[:-1]
        beside[:-1] |= other[1:]
        dashed = np.where(beside, value, np.nan)
        title = f"{line.drawn_name}, not measured"
        yield _Column(title, values_at(line.periods, dashed, periods), colour, "dash", named=False)


def _of_curve(curve: Curve, periods: Ints, *, several: bool) -> _Column:
    title = f"{curve.series}, {curve.name}" if several and curve.series else curve.name
    dash = "dash" if curve.rests is not Rests.MEASURED else None
    return _Column(title, values_at(curve.periods, curve.value, periods), READING, dash, thin=True)


def _widest(result: Result, curves: Sequence[Curve]) -> Area | None:
    """The widest limits of the first projection, or of the first band: areas of several would be put upon each other."""
    ids = {curve.id: n for n, curve in enumerate(curves)}
    areas = [shape for shape in result.state.shapes if isinstance(shape, Area) and shape.of in ids]
    return max(areas, key=lambda area: (area.rests is Rests.PROJECTED, -ids[area.of], area.level or 0.0), default=None)


def _series(at: int, column: _Column, last: int) -> dict[str, Any]:
    line: dict[str, Any] = {"color": column.colour, "width": 1.25 if column.thin else 2.0}
    if column.dash:
        line["dash_type"] = column.dash
    series = {**_refs(at, last), "line": line, "marker": {"type": "none"}}
    known = np.flatnonzero(~np.isnan(column.value))
    if column.named and known.size:
        end = int(known[-1])
        custom: list[dict[str, Any]] = [{"delete": True}] * end
        labels = {
            "custom": [
                *custom,
                {"value": column.title, "font": {"color": column.colour}},
                *[{"delete": True}] * (last - end - 1),
            ]
        }
        series["data_labels"] = {"value": True, "position": "right", **labels}
    return series


def _refs(at: int, last: int) -> dict[str, Any]:
    return {"name": [SHEET, 0, at], "categories": [SHEET, 1, 0, last, 0], "values": [SHEET, 1, at, last, at]}


def _dated(result: Result) -> bool:
    """Whether periods are written as dates (a quarter or a week is a text)."""
    return result.state.grain.unit.value in ("day", "month") and math.isclose(result.state.grain.step, 1)
