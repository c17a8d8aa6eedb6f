"""Dress the native chart of a slide: lines, scales and limits."""

from __future__ import annotations

import copy
from collections.abc import Sequence
from typing import Any

from zembra.core.handover.chartaxes import MOST_DATES, display_units, number_format
from zembra.core.handover.nativechart import ChartColumn, Edge, NativeChart
from zembra.core.handover.slidenames import LEFT, PLOT_HIGH, PLOT_TOP, move_name, moved_names, plot_width
from zembra.core.handover.slidexml import C, fill, rgb, sub

DASHES = {"dashed": "DASH", "dotted": "ROUND_DOT", "dash-dot": "DASH_DOT"}


def numbers_of(of: NativeChart) -> Any:
    """Return the data of a chart for python-pptx."""
    from pptx.chart.data import CategoryChartData

    data = CategoryChartData()
    data.categories = of.dates or of.labels
    columns: list[ChartColumn | Edge] = [*of.columns, *of.edges]
    for column in columns:
        data.add_series(column.title, column.value)
    return data


def dress(chart: Any, of: NativeChart, box: tuple[int, int]) -> None:
    """Dress the chart.

    box: width and height in pixels
    """
    from pptx.enum.chart import XL_TICK_LABEL_POSITION, XL_TICK_MARK
    from pptx.util import Pt

    chart.has_legend = chart.has_title = False
    chart.font.size = Pt(12)
    chart.font.color.rgb = rgb(of.inks["muted"])
    series = list(chart.plots[0].series)
    width, height = box
    wide = plot_width(of, width)
    names = moved_names(of, height, wide)
    for n, (one, column) in enumerate(zip(series, of.columns, strict=False)):
        _line(one, column, names.get(n))
    value, time = chart.value_axis, chart.category_axis
    time.has_major_gridlines = False
    time.format.line.color.rgb = rgb(of.inks["ink"])
    # below the chart, where values are negative too
    time.tick_label_position = XL_TICK_LABEL_POSITION.LOW
    time.major_tick_mark = XL_TICK_MARK.OUTSIDE if of.dates else XL_TICK_MARK.NONE
    _dates(time, of)
    _scale(value, of, 0)
    plot = chart.plots[0]._element
    elements = [drawn._element for drawn in series]
    _put_edges(plot, elements[len(of.columns) :], of)
    right = [element for element, column in zip(elements, of.columns, strict=False) if column.right]
    _place(chart, wide)
    if right:
        _second_scale(chart, plot, right, of)


def _line(series: Any, column: ChartColumn, moved: tuple[float, float] | None) -> None:
    """Dress a line.

    moved: offset of its name to the right and down, as shares of the chart
    """
    from pptx.enum.chart import XL_LABEL_POSITION, XL_MARKER_STYLE
    from pptx.enum.dml import MSO_LINE
    from pptx.util import Pt

    series.smooth = False
    series.marker.style = XL_MARKER_STYLE.NONE
    line = series.format.line
    if column.dots:
        line.fill.background()
        series.marker.style, series.marker.size = XL_MARKER_STYLE.CIRCLE, 7
        series.marker.format.fill.background()
        series.marker.format.line.color.rgb = rgb(column.colour)
        return
    line.color.rgb, line.width = rgb(column.colour), Pt(column.width)
    if column.dash:
        line.dash_style = getattr(MSO_LINE, DASHES[column.dash])
    if column.name:
        label = series.points[column.named_at].data_label
        label.position = XL_LABEL_POSITION.RIGHT
        label.text_frame.text = column.name
        for n, paragraph in enumerate(label.text_frame.paragraphs):
            paragraph.font.size, paragraph.font.bold = Pt(11 if n else 13), not n
            paragraph.font.color.rgb = rgb(column.colour)
        if moved:
            move_name(label._dLbl, moved)


def _dates(axis: Any, of: NativeChart) -> None:
    """Set a date axis with readable dates."""
    element, steps = axis._element, of.date_steps
    if steps is None:
        after = element.find(f"{C}lblOffset")
        skip = element.makeelement(f"{C}tickLblSkip", {"val": str(max(1, len(of.labels) // MOST_DATES))})
        after.addnext(skip)
        return
    axis.tick_labels.number_format, axis.tick_labels.number_format_is_linked = steps.form, False
    for name in ("baseTimeUnit", "majorUnit", "majorTimeUnit"):
        for found in element.findall(f"{C}{name}"):
            element.remove(found)
    at = element.find(f"{C}lblOffset")
    for name, value in (("majorTimeUnit", steps.unit), ("majorUnit", str(steps.step)), ("baseTimeUnit", "days")):
        at.addnext(element.makeelement(f"{C}{name}", {"val": value}))


def _scale(axis: Any, of: NativeChart, place: int) -> None:
    from pptx.enum.chart import XL_TICK_LABEL_POSITION
    from pptx.util import Pt

    scale, ends = of.scales[place], of.ranges[place]

    axis.has_major_gridlines = scale.grid
    if scale.grid:
        axis.major_gridlines.format.line.color.rgb = rgb(of.inks["rule"])
    if scale.line:
        axis.format.line.color.rgb = rgb(of.inks["ink"])
    else:
        axis.format.line.fill.background()
    if not scale.numbers:
        axis.tick_label_position = XL_TICK_LABEL_POSITION.NONE
    axis.minimum_scale, axis.maximum_scale = (ends.low, ends.high) if ends else (scale.low, scale.high)
    axis.major_unit = ends.step if ends else None
    axis.tick_labels.number_format, axis.tick_labels.number_format_is_linked = number_format(scale, ends), False
    axis.has_title = bool(scale.title)
    if scale.title:
        axis.axis_title.text_frame.text = scale.title
        font = axis.axis_title.text_frame.paragraphs[0].font
        font.size, font.bold = Pt(11), False
    element = axis._element
    if scale.kind == "log":
        scaling = element.find(f"{C}scaling")
        scaling.insert(0, scaling.makeelement(f"{C}logBase", {"val": "10"}))
    if units := display_units(scale):
        made = sub(element, "dispUnits")
        sub(made, "builtInUnit", val=units)


def _put_edges(lines: Any, series: Sequence[Any], of: NativeChart) -> None:
    """Add limits as stacked areas behind the lines, as python-pptx cannot combine chart types."""
    if not series:
        return
    area = lines.makeelement(f"{C}areaChart", {})
    sub(area, "grouping", val="stacked")
    sub(area, "varyColors", val="0")
    for element, edge in zip(series, of.edges, strict=True):
        for name in ("marker", "smooth", "spPr"):
            for found in element.findall(f"{C}{name}"):
                element.remove(found)
        element.insert(list(element).index(element.find(f"{C}tx")) + 1, fill(element, edge.colour, edge.strength))
        area.append(element)
    for axis in lines.findall(f"{C}axId"):
        sub(area, "axId", val=axis.get("val"))
    lines.addprevious(area)


def _place(chart: Any, wide: float) -> None:
    """Place the plot so that names fit beside it."""
    plot = chart._chartSpace.chart.plotArea
    for found in plot.findall(f"{C}layout"):
        plot.remove(found)
    layout = plot.makeelement(f"{C}layout", {})
    manual = sub(layout, "manualLayout")
    for name, value in (
        ("layoutTarget", "inner"), ("xMode", "edge"), ("yMode", "edge"), ("x", LEFT), ("y", PLOT_TOP), ("w", round(wide, 4)),
        ("h", PLOT_HIGH),
    ):  # fmt: skip
        sub(manual, name, val=str(value))
    plot.insert(0, layout)


def _second_scale(chart: Any, lines: Any, series: Sequence[Any], of: NativeChart) -> None:
    """Move lines of the right scale to a second chart with its own axes."""
    from pptx.chart.axis import ValueAxis

    plot = chart._chartSpace.chart.plotArea
    other = copy.deepcopy(lines)
    for found in other.findall(f"{C}ser"):
        other.remove(found)
    at = other.index(other.find(f"{C}varyColors")) + 1
    for n, element in enumerate(series):
        other.insert(at + n, element)
    lines.addnext(other)
    known = [axis.get("val") for axis in lines.findall(f"{C}axId")]
    new = {known[0]: "50001", known[1]: "50002"}
    for axis in other.findall(f"{C}axId"):
        axis.set("val", new[axis.get("val")])
    twins = []
    for axis in [part for part in plot if part.find(f"{C}crossAx") is not None]:
        twin = copy.deepcopy(axis)
        for name in ("axId", "crossAx"):
            twin.find(f"{C}{name}").set("val", new[twin.find(f"{C}{name}").get("val")])
        twins.append(twin)
    for twin in twins:
        plot.findall(f"{C}valAx")[-1].addnext(twin)
        value = twin.tag == f"{C}valAx"
        twin.find(f"{C}delete").set("val", "0" if value else "1")
        if value:
            twin.find(f"{C}axPos").set("val", "r")
            twin.find(f"{C}crosses").set("val", "max")
            for found in (*twin.findall(f"{C}dispUnits"), *twin.find(f"{C}scaling").findall(f"{C}logBase")):
                found.getparent().remove(found)
            _scale(ValueAxis(twin), of, 1)
