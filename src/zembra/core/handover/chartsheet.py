"""Write the sheet of a native chart with its numbers."""

from __future__ import annotations

from typing import Any

from zembra.core.handover.book import Book
from zembra.core.handover.chartaxes import MOST_DATES, display_units, number_format
from zembra.core.handover.nativechart import ChartColumn, Edge, NativeChart

SHEET = "Chart"
DASHES = {"": "solid", "dashed": "dash", "dotted": "round_dot", "dash-dot": "dash_dot"}
WIDE = 1080  # pixels of the chart


def chart_sheet(book: Book, of: NativeChart) -> None:
    if not of.columns or not of.labels:
        return
    heads = ["period", *(column.title for column in of.columns), *(edge.title for edge in of.edges)]
    sheet = book.sheet(SHEET, heads, [14] * len(heads))
    last = len(of.labels)
    for row, label in enumerate(of.labels, 1):
        book.write_period(sheet, row, 0, of.dates[row - 1].isoformat() if of.dates else label)
    filled: list[ChartColumn | Edge] = [*of.columns, *of.edges]
    for at, column in enumerate(filled, 1):
        for row, value in enumerate(column.value, 1):
            book.write(sheet, row, at, value)
    lines = book.chart("line")
    for at, column in enumerate(of.columns, 1):
        lines.add_series(_series(at, column, last, of))
    whole = lines
    if of.edges:
        areas = book.chart("area", "stacked")
        for at, edge in enumerate(of.edges, 1 + len(of.columns)):
            share = round(100 * (1 - edge.strength))
            fill = {"color": edge.colour, "transparency": share} if edge.strength else {"none": True}
            areas.add_series({**_refs(at, last), "fill": fill, "border": {"none": True}})
        # a second scale has to be that of the chart that others are put upon
        if of.has_right_scale:
            lines.combine(areas)
        else:
            areas.combine(lines)
            whole = areas
    whole.set_title({"name": of.title, "name_font": {"size": 14, "bold": True}, "none": not of.title})
    steps = of.date_steps
    apart: dict[str, Any] = (
        {"date_axis": True, "major_unit": steps.step, "major_unit_type": steps.unit, "num_format": steps.form}
        if steps
        else {"interval_unit": max(1, last // MOST_DATES)}
    )
    whole.set_x_axis(
        {
            **apart,
            "major_gridlines": {"visible": False},
            "name": of.foot[:250],
            "name_font": {"bold": False, "size": 9},
        }
    )
    whole.set_y_axis(_axis(of, 0))
    if of.has_right_scale:
        whole.set_y2_axis(_axis(of, 1))
    whole.set_legend({"none": True})
    whole.show_blanks_as("gap")
    whole.set_size({"width": WIDE, "height": round(WIDE * of.size[1] / of.size[0])})
    start = len(heads) + 1
    if of.left_out:
        book.write(sheet, 0, start, f"Not in this chart: {' '.join(of.left_out)}")
    sheet.insert_chart(1, start, whole)


def _series(at: int, column: ChartColumn, last: int, of: NativeChart) -> dict[str, Any]:
    line: dict[str, Any] = {"color": column.colour, "width": column.width, "dash_type": DASHES[column.dash]}
    marker: dict[str, Any] = {"type": "none"}
    if column.dots:
        line = {"none": True}
        marker = {"type": "circle", "size": 6, "border": {"color": column.colour}, "fill": {"none": True}}
    series = {**_refs(at, last), "line": line, "marker": marker, "y2_axis": column.right}
    if column.name:
        custom: list[dict[str, Any]] = [{"delete": True}] * last
        custom[column.named_at] = {"value": column.name, "font": {"color": column.colour}}
        series["data_labels"] = {"value": True, "position": "right", "custom": custom}
    return series


def _refs(at: int, last: int) -> dict[str, Any]:
    return {"name": [SHEET, 0, at], "categories": [SHEET, 1, 0, last, 0], "values": [SHEET, 1, at, last, at]}


def _axis(of: NativeChart, place: int) -> dict[str, Any]:
    scale, ends = of.scales[place], of.ranges[place]
    axis: dict[str, Any] = {
        "name": scale.title[:250],
        "name_font": {"bold": False, "size": 9},
        "major_gridlines": {"visible": scale.grid, "line": {"color": of.inks["rule"]}},
        "line": {"color": of.inks["ink"]} if scale.line else {"none": True},
        "num_format": number_format(scale, ends),
        "min": ends.low if ends else scale.low,
        "max": ends.high if ends else scale.high,
        "major_unit": ends.step if ends else None,
        "label_position": "next_to" if scale.numbers else "none",
    }
    if scale.kind == "log":
        axis["log_base"] = 10
    if units := display_units(scale):
        axis["display_units"] = units
        axis["display_units_visible"] = False
    return axis
