"""Slides: a native chart that can be edited where it is shown, or the picture as an image."""

from __future__ import annotations

import copy
import io
import math
from collections.abc import Sequence
from typing import Any

from zembra.core.errors import Refusal
from zembra.core.handover.chartsheet import display_units, number_format
from zembra.core.handover.nativechart import MOST_DATES, Column, Edge, NativeChart

EMU = 9525  # in a pixel of 1/96 inch
WIDE = 1280  # pixels of a slide
PAD = 40
LETTER = 8.2  # pixels of one in a name at a line's end
LINE, LETTERS = 21, 17  # pixels of one, and what fits into it
WRAPPED = 0.2  # share of the chart's width that suites give a name before they break it
LEFT, PLOT_TOP, PLOT_HIGH = 0.07, 0.03, 0.87  # shares of the chart's width and height
DASHES = {"dashed": "DASH", "dotted": "ROUND_DOT", "dash-dot": "DASH_DOT"}
MOST_SLIDES = 40
C = "{http://schemas.openxmlformats.org/drawingml/2006/chart}"


def slides_pptx(charts: Sequence[NativeChart], about: str) -> bytes:
    """A slide each. about: what stands in the notes of each, with what its chart leaves out. Raises Refusal."""
    deck = _Deck(charts[0].size)
    for chart in charts[:MOST_SLIDES]:
        more = [about, f"Not in this chart: {' '.join(chart.left_out)}" if chart.left_out else ""]
        if len(charts) > MOST_SLIDES and chart is charts[0]:
            more.append(f"Series after the first {MOST_SLIDES - 1} have no slide of their own.")
        if chart.columns and chart.labels:
            deck.add_chart(chart, about, "\n\n".join(filter(None, more)))
    return deck.done()


def picture_pptx(png: bytes, size: tuple[int, int], about: str) -> bytes:
    """One slide that is filled by the picture. about: its written description. Raises Refusal."""
    deck = _Deck(size)
    deck.add_image(png, about)
    return deck.done()


class _Deck:
    """Slides of the picture's shape."""

    def __init__(self, size: tuple[int, int]) -> None:
        try:
            import pptx  # slow to import, and of an extra
        except ModuleNotFoundError:
            raise Refusal(
                "Slides need the package python-pptx.", todo="Install it with: pip install 'zembra[office]'."
            ) from None
        self._deck: Any = pptx.Presentation()
        self.width, self.height = WIDE, round(WIDE * size[1] / size[0])
        self._deck.slide_width, self._deck.slide_height = (
            pptx.util.Emu(self.width * EMU),
            pptx.util.Emu(self.height * EMU),
        )

    def add_image(self, png: bytes, about: str) -> None:
        slide = self._deck.slides.add_slide(self._deck.slide_layouts[6])
        image = slide.shapes.add_picture(io.BytesIO(png), 0, 0, self._deck.slide_width, self._deck.slide_height)
        _describe(image, about)
        slide.notes_slide.notes_text_frame.text = about

    def add_chart(self, of: NativeChart, about: str, notes: str) -> None:
        slide = self._deck.slides.add_slide(self._deck.slide_layouts[5])  # a title, and nothing else
        slide.background.fill.solid()
        slide.background.fill.fore_color.rgb = _rgb(of.inks["ground"])
        top = PAD
        title = slide.shapes.title
        if of.title:
            top = self._text(title, of.title, top, 28, of.inks["ink"], bold=True)
        else:
            title._element.getparent().remove(title._element)
        if of.under:
            top = self._text(slide.shapes.add_textbox(0, 0, 0, 0), of.under, top, 15, of.inks["muted"])
        foot = self.height - PAD - (22 if of.foot else 0)
        if of.foot:
            self._text(slide.shapes.add_textbox(0, 0, 0, 0), of.foot, foot, 11, of.inks["muted"])
        box = (PAD * EMU, (top + 8) * EMU, (self.width - 2 * PAD) * EMU, max(120, foot - top - 16) * EMU)
        frame = slide.shapes.add_chart(_kind(), *box, _numbers(of))
        frame.name = "Chart"
        _describe(frame, about)
        _dress(frame.chart, of, (self.width - 2 * PAD, box[3] // EMU))
        slide.notes_slide.notes_text_frame.text = notes

    def _text(self, box: Any, text: str, top: int, points: int, ink: str, *, bold: bool = False) -> int:
        """Where what comes below may begin."""
        from pptx.enum.text import MSO_ANCHOR, PP_ALIGN
        from pptx.util import Pt

        letters = (self.width - 2 * PAD) / (points * 0.68)
        height = round(points * 1.75 * max(1, -(-len(text) // int(letters))))
        box.left, box.top, box.width, box.height = (n * EMU for n in (PAD, top, self.width - 2 * PAD, height))
        box.text_frame.word_wrap = True
        box.text_frame.vertical_anchor = MSO_ANCHOR.TOP
        box.text_frame.margin_left = box.text_frame.margin_right = 0
        box.text_frame.margin_top = box.text_frame.margin_bottom = 0
        box.text_frame.text = text
        paragraph = box.text_frame.paragraphs[0]
        paragraph.alignment = PP_ALIGN.LEFT
        paragraph.font.size, paragraph.font.bold = Pt(points), bold
        paragraph.font.color.rgb = _rgb(ink)
        return top + height

    def done(self) -> bytes:
        out = io.BytesIO()
        self._deck.save(out)
        return out.getvalue()


def _kind() -> Any:
    from pptx.enum.chart import XL_CHART_TYPE

    return XL_CHART_TYPE.LINE


def _rgb(ink: str) -> Any:
    from pptx.dml.color import RGBColor

    return RGBColor.from_string(ink.removeprefix("#").upper())


def _describe(shape: Any, about: str) -> None:
    """What a screen reader says of it."""
    for element in shape._element.iter():
        if element.tag.endswith("}cNvPr"):
            element.set("descr", about)
            return


def _numbers(of: NativeChart) -> Any:
    from pptx.chart.data import CategoryChartData

    data = CategoryChartData()
    data.categories = of.dates or of.labels
    columns: list[Column | Edge] = [*of.columns, *of.edges]
    for one in columns:
        data.add_series(one.title, one.value)
    return data


def _dress(chart: Any, of: NativeChart, box: tuple[int, int]) -> None:
    from pptx.enum.chart import XL_TICK_LABEL_POSITION, XL_TICK_MARK
    from pptx.util import Pt

    chart.has_legend = chart.has_title = False
    chart.font.size = Pt(12)
    chart.font.color.rgb = _rgb(of.inks["muted"])
    series = list(chart.plots[0].series)
    longest = max((len(text) for column in of.columns for text in column.name.split("\n")), default=0)
    room, second = min(WRAPPED, (longest * LETTER + 16) / box[0]), any(column.right for column in of.columns)
    wide = 1 - LEFT - room - (LEFT if second else 0)
    names = _spread(of, box, wide)
    for n, (one, column) in enumerate(zip(series, of.columns, strict=False)):
        _line(one, column, names.get(n))
    value, time = chart.value_axis, chart.category_axis
    time.has_major_gridlines = False
    time.format.line.color.rgb = _rgb(of.inks["ink"])
    # below the chart, where values are negative too
    time.tick_label_position = XL_TICK_LABEL_POSITION.LOW
    time.major_tick_mark = XL_TICK_MARK.OUTSIDE if of.dates else XL_TICK_MARK.NONE
    _dates(time, of)
    _scale(value, of, 0)
    plot = chart.plots[0]._element
    elements = [one._element for one in series]
    _put_edges(plot, elements[len(of.columns) :], of)
    right = [element for element, column in zip(elements, of.columns, strict=False) if column.right]
    _place(chart, wide)
    if right:
        _second_scale(chart, plot, right, of)


def _line(series: Any, column: Column, moved: tuple[float, float] | None) -> None:
    """moved: how far its name stands from where it ends, right and down, as shares of the chart."""
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
        series.marker.format.line.color.rgb = _rgb(column.colour)
        return
    line.color.rgb, line.width = _rgb(column.colour), Pt(column.width)
    if column.dash:
        line.dash_style = getattr(MSO_LINE, DASHES[column.dash])
    if column.name:
        label = series.points[column.named_at].data_label
        label.position = XL_LABEL_POSITION.RIGHT
        label.text_frame.text = column.name
        for n, paragraph in enumerate(label.text_frame.paragraphs):
            paragraph.font.size, paragraph.font.bold = Pt(11 if n else 13), not n
            paragraph.font.color.rgb = _rgb(column.colour)
        if moved:
            element = label._dLbl
            layout = element.makeelement(f"{C}layout", {})
            manual = _sub(layout, "manualLayout")
            for name, by in zip("xy", moved, strict=True):
                _sub(manual, name, val=f"{by:.4f}")
            element.find(f"{C}idx").addnext(layout)
            _without_leaders(element.getparent())


def _without_leaders(labels: Any) -> None:
    """No lines from names to where they belong: they would pass for lines of the chart."""
    known = "{CE6537A1-D6FC-4f65-9D91-7224C49458BB}"
    c15 = "http://schemas.microsoft.com/office/drawing/2012/chart"
    more = _sub(labels, "extLst")
    one = more.makeelement(f"{C}ext", {"uri": known}, nsmap={"c15": c15})
    one.append(one.makeelement(f"{{{c15}}}showLeaderLines", {"val": "0"}))
    more.append(one)


def _spread(of: NativeChart, box: tuple[int, int], wide: float) -> dict[int, tuple[float, float]]:
    """How far names are moved right, beside the plot, and down, so that none covers another: by place of their column, as shares of the
    chart. wide: of the plot."""
    _, height = box
    wanted = []
    for n, column in enumerate(of.columns):
        ends = of.ranges[1 if column.right else 0]
        value = column.value[column.named_at] if column.name else None
        if ends is None or value is None:
            continue
        lines = sum(max(1, math.ceil(len(text) / LETTERS)) for text in column.name.split("\n"))
        at = PLOT_TOP * height + (1 - ends.share(value)) * PLOT_HIGH * height
        wanted.append((at, lines * LINE, n, wide * (1 - _along(of, column.named_at))))
    wanted.sort()
    placed: list[float] = []
    for n, (at, high, *_) in enumerate(wanted):
        before = placed[-1] + (wanted[n - 1][1] + high) / 2 if placed else -math.inf
        placed.append(max(at, before))
    # back into the chart from below, where there are too many at its foot
    floor = height - LINE / 2
    for n in range(len(placed) - 1, -1, -1):
        placed[n] = min(placed[n], floor)
        floor = placed[n] - (wanted[n][1] + (wanted[n - 1][1] if n else 0)) / 2
    return {n: (right, (to - at) / height) for (at, _, n, right), to in zip(wanted, placed, strict=True)}


def _along(of: NativeChart, row: int) -> float:
    """How far along the time axis a row stands, from 0 to 1."""
    if of.dates:
        return (of.dates[row] - of.dates[0]).days / max(1, (of.dates[-1] - of.dates[0]).days)
    return (row + 0.5) / len(of.labels)


def _dates(axis: Any, of: NativeChart) -> None:
    """So many dates as can be read along the time axis."""
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
        axis.major_gridlines.format.line.color.rgb = _rgb(of.inks["rule"])
    if scale.line:
        axis.format.line.color.rgb = _rgb(of.inks["ink"])
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
        _first(element.find(f"{C}scaling"), "logBase", val="10")
    if units := display_units(scale):
        made = _sub(element, "dispUnits")
        _sub(made, "builtInUnit", val=units)


def _put_edges(lines: Any, series: Sequence[Any], of: NativeChart) -> None:
    """The edges of limits as areas upon each other, behind the lines: the library has no chart of two kinds."""
    if not series:
        return
    area = lines.makeelement(f"{C}areaChart", {})
    _sub(area, "grouping", val="stacked")
    _sub(area, "varyColors", val="0")
    for element, edge in zip(series, of.edges, strict=True):
        for name in ("marker", "smooth", "spPr"):
            for found in element.findall(f"{C}{name}"):
                element.remove(found)
        element.insert(list(element).index(element.find(f"{C}tx")) + 1, _fill(element, edge.colour, edge.strength))
        area.append(element)
    for axis in lines.findall(f"{C}axId"):
        _sub(area, "axId", val=axis.get("val"))
    lines.addprevious(area)


def _fill(near: Any, colour: str, strength: float) -> Any:
    look = near.makeelement(f"{C}spPr", {})
    a = "{http://schemas.openxmlformats.org/drawingml/2006/main}"
    if strength:
        solid = look.makeelement(f"{a}solidFill", {})
        ink = look.makeelement(f"{a}srgbClr", {"val": colour.removeprefix("#").upper()})
        ink.append(look.makeelement(f"{a}alpha", {"val": str(round(strength * 100_000))}))
        solid.append(ink)
        look.append(solid)
    else:
        look.append(look.makeelement(f"{a}noFill", {}))
    line = look.makeelement(f"{a}ln", {})
    line.append(look.makeelement(f"{a}noFill", {}))
    look.append(line)
    return look


def _place(chart: Any, wide: float) -> None:
    """The plot, so that there is room for the names beside it."""
    plot = chart._chartSpace.chart.plotArea
    for found in plot.findall(f"{C}layout"):
        plot.remove(found)
    layout = plot.makeelement(f"{C}layout", {})
    manual = _sub(layout, "manualLayout")
    for name, value in (
        ("layoutTarget", "inner"), ("xMode", "edge"), ("yMode", "edge"), ("x", LEFT), ("y", PLOT_TOP), ("w", round(wide, 4)),
        ("h", PLOT_HIGH),
    ):  # fmt: skip
        _sub(manual, name, val=str(value))
    plot.insert(0, layout)


def _second_scale(chart: Any, lines: Any, series: Sequence[Any], of: NativeChart) -> None:
    """The lines of the right scale as a chart of their own, with axes of their own of which one is not drawn."""
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
    for axis in [one for one in plot if one.find(f"{C}crossAx") is not None]:
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


def _sub(parent: Any, name: str, **attributes: str) -> Any:
    made = parent.makeelement(f"{C}{name}", attributes)
    parent.append(made)
    return made


def _first(parent: Any, name: str, **attributes: str) -> None:
    parent.insert(0, parent.makeelement(f"{C}{name}", attributes))
