"""Turn a dressed figure into the editable chart of an office suite. Each line is a column of numbers. Gaps stay gaps,
estimates are dashed columns of their own, limits are stacked edges, and what such a chart cannot show is told."""

from __future__ import annotations

from collections import Counter
from collections.abc import Iterator, Mapping, Sequence
from dataclasses import dataclass, replace
from datetime import UTC, date, datetime

import numpy as np

from zembra.core.calendar.grain import Grain, Unit
from zembra.core.dress.looks import Look
from zembra.core.english import counted, listed
from zembra.core.figure.model import Arrangement, Figure, ScaleView, View
from zembra.core.figure.parts.area import AreaView
from zembra.core.figure.parts.curve import CurveView
from zembra.core.figure.parts.models import AnyView
from zembra.core.figure.parts.points import PointsView
from zembra.core.figure.parts.rule import RuleView
from zembra.core.figure.parts.series import SeriesView
from zembra.core.handover.chartaxes import AxisRange, DateSteps, date_steps, range_of
from zembra.core.ledger.shapes import TOGETHER, Rests

Cells = list[float | None]
MOST_ROWS = 20_000  # that such a chart draws in time
DASHED = "dashed"
RIGHT = "right"
BY_DATE = (Unit.DAY, Unit.WEEK, Unit.MONTH, Unit.QUARTER, Unit.YEAR)
MIDNIGHT = 86_400_000
STRONGEST = 0.32  # of the fill of limits, within all others


@dataclass(frozen=True, slots=True)
class ChartColumn:
    """A column of numbers.

    title: header
    name: text at its end, in row `named_at`, or empty
    width: points
    dash: name of a stroke, empty for solid
    dots: markers without a line
    right: whether it is on the right scale
    """

    title: str
    value: Cells
    colour: str
    width: float = 1.5
    dash: str = ""
    name: str = ""
    named_at: int = 0
    dots: bool = False
    right: bool = False


@dataclass(frozen=True, slots=True)
class Edge:
    """A stacked edge of limits.

    strength: opacity of its fill
    """

    title: str
    value: Cells
    colour: str
    strength: float


@dataclass(frozen=True, slots=True)
class _Grid:
    """The common rows of all columns.

    rows: by time in milliseconds since 1970 UTC
    """

    figure: Figure
    rows: Mapping[int, int]
    inks: Mapping[str, str]

    def placed(self, t: Sequence[int], value: Sequence[float | None]) -> Cells:
        cells: Cells = [None] * len(self.rows)
        for at, v in zip(t, value, strict=True):
            if at in self.rows:
                cells[self.rows[at]] = v
        return cells


@dataclass(frozen=True, slots=True)
class NativeChart:
    """A native chart.

    labels: of the rows
    dates: of the rows, None where a row is no day
    ranges: of the scales
    inks: colours by role (ink, muted, rule, ground)
    left_out: what it cannot show, as sentences
    size: pixels of the picture
    """

    title: str
    under: str
    foot: str
    labels: list[str]
    dates: list[date] | None
    columns: list[ChartColumn]
    edges: list[Edge]
    scales: list[ScaleView]
    ranges: list[AxisRange | None]
    inks: Mapping[str, str]
    left_out: list[str]
    size: tuple[int, int]

    @property
    def has_right_scale(self) -> bool:
        return any(column.right for column in self.columns)

    @property
    def date_steps(self) -> DateSteps | None:
        """The step of the date axis, or None if rows are no days."""
        return date_steps(self.dates[0], self.dates[-1]) if self.dates else None


def native_charts(figure: Figure, grain: Grain, inks: Mapping[str, str]) -> list[NativeChart]:
    """Return a chart of all lines and, for several series, one of each.

    inks: colours by name and role
    """
    whole = native_chart(figure, grain, inks)
    if len(figure.series) < 2:
        return [whole]
    return [whole, *(native_chart(_only(figure, series), grain, inks) for series in figure.series)]


def _only(figure: Figure, series: SeriesView) -> Figure:
    # a single series need not be named
    own = f"{series.name}, "
    shapes = [
        shape.model_copy(update={"look": shape.look.model_copy(update={"name": shape.look.name.removeprefix(own)})})
        if shape.look
        else shape
        for shape in figure.shapes
        if shape.series in (series.name, TOGETHER)
    ]
    name = series.look.name if series.look else series.called
    title = f"{figure.page.title}: {name}" if figure.page and figure.page.title else name
    page = figure.page and figure.page.model_copy(update={"title": title})
    return figure.model_copy(update={"series": [series], "shapes": shapes, "page": page})


def native_chart(figure: Figure, grain: Grain, inks: Mapping[str, str]) -> NativeChart:
    """Convert a dressed figure.

    inks: colours by name and role
    """
    assert figure.page is not None
    times = sorted({t for view in (*figure.series, *figure.shapes) for t in _times(view, figure)})
    left_out = _left_out(figure)
    if len(times) > MOST_ROWS:
        left_out.append(f"The first {counted(len(times) - MOST_ROWS, 'period')}.")
        times = times[-MOST_ROWS:]
    if figure.thinned:
        left_out.append("Points that a chart of this width cannot show; every stretch keeps its extremes.")
    grid = _Grid(figure, {t: row for row, t in enumerate(times)}, inks)
    columns = [column for view in figure.series for column in _of_series(view, grid)]
    for shape in figure.shapes:
        columns += _of_shape(shape, grid)
    edges, beside = _edges(grid)
    moments = np.array(times, dtype="datetime64[ms]").astype("datetime64[s]")
    dated = grain.unit in BY_DATE or (grain.unit is Unit.MOMENT and all(t % MIDNIGHT == 0 for t in times))
    if not dated and grain.unit is Unit.MOMENT:
        left_out.append("How far moments lie apart: they stand evenly.")
    page = figure.page
    return NativeChart(
        title=page.title,
        under=page.under,
        foot=" · ".join(filter(None, (_dashes(figure), page.foot, page.footnote, page.warning))),
        labels=grain.labels(grain.periods(moments)),
        dates=[datetime.fromtimestamp(t / 1000, UTC).date() for t in times] if dated else None,
        columns=columns,
        edges=edges,
        scales=figure.scales,
        ranges=[range_of(scale, _on_it(bool(n), columns, edges)) for n, scale in enumerate(figure.scales)],
        inks=inks,
        left_out=[*left_out, *beside],
        size=(page.width, page.height),
    )


def _times(view: SeriesView | AnyView, figure: Figure) -> Sequence[int]:
    """Return the times of a line within the picture."""
    if not isinstance(view, SeriesView | CurveView | AreaView | PointsView):
        return ()
    return [t for t in view.t if _inside(t, figure)]


def _of_series(view: SeriesView, grid: _Grid) -> list[ChartColumn]:
    assert view.look is not None
    if grid.figure.view is View.BEFORE:
        return [_column(view.look, view.t, view.before, grid)]
    value = [None if code in "st" else v for code, v in zip(view.c, view.v, strict=True)]
    across = _across(view.t, value, [code in "bt" for code in view.c])
    known = [v if v is not None else drawn for v, drawn in zip(value, across, strict=True)]
    dashed = [v is not None and code != "m" for v, code in zip(known, view.c, strict=True)]
    return _in_two(view.look, view.t, known, dashed, "not measured", grid)


def _across(t: Sequence[int], value: Cells, bridged: Sequence[bool]) -> Cells:
    """Interpolate bridged gaps."""
    known = [n for n, v in enumerate(value) if v is not None]
    if not known or not any(bridged):
        return [None] * len(value)
    drawn = np.interp(t, [t[n] for n in known], [value[n] for n in known])  # type: ignore[arg-type]
    return [
        float(drawn[n]) if bridged[n] and value[n] is None and known[0] < n < known[-1] else None
        for n in range(len(value))
    ]


def _in_two(
    look: Look,
    t: Sequence[int],
    value: Cells,
    dashed: Sequence[bool],
    what: str,
    grid: _Grid,
) -> list[ChartColumn]:
    """Split a line into its solid and dashed columns; dashes include their neighbours, so that both meet."""
    solid: Cells = [None if apart else v for v, apart in zip(value, dashed, strict=True)]
    columns = [_column(look, t, solid, grid)]
    if not any(dashed):
        return columns
    near = [any(dashed[max(0, n - 1) : n + 2]) for n in range(len(value))]
    beside: Cells = [v if by else None for v, by in zip(value, near, strict=True)]
    more = _column(look, t, beside, grid, dash=DASHED, suffix=f", {what}")
    first = columns[0]
    # the name stands at whichever end comes last
    if more.name and first.name:
        over = more.named_at >= first.named_at
        columns[0] = replace(first, name="" if over else first.name)
        more = replace(more, name=first.name if over else "")
    return [*columns, more]


def _column(
    look: Look,
    t: Sequence[int],
    value: Sequence[float | None],
    grid: _Grid,
    *,
    dash: str = "",
    suffix: str = "",
    dots: bool = False,
) -> ChartColumn:
    cells = grid.placed(t, value)
    last = max((row for row, cell in enumerate(cells) if cell is not None), default=0)
    said = look.named != "not" and not dots and any(cell is not None for cell in cells)
    return ChartColumn(
        title=f"{look.name}{suffix}",
        value=cells,
        colour=grid.inks[look.colour],
        width=look.weight * 0.75,  # points of pixels
        dash=dash or ("" if look.dash == "unbroken" else look.dash),
        name="\n".join((look.name, *look.under)) if said else "",
        named_at=last,
        dots=dots,
        right=look.side == RIGHT and len(grid.figure.scales) > 1 and not grid.figure.scales[1].same,
    )


def _of_shape(shape: AnyView, grid: _Grid) -> list[ChartColumn]:
    look = shape.look
    if look is None or grid.figure.view is View.BEFORE:
        return []
    if isinstance(shape, CurveView):
        if shape.rests is Rests.PROJECTED:
            return [_column(look, shape.t, shape.v, grid, dash=DASHED)]
        faded = set(shape.faded)
        dashed = [n in faded and v is not None for n, v in enumerate(shape.v)]
        return _in_two(look, shape.t, shape.v, dashed, "resting on what is not complete", grid)
    if isinstance(shape, RuleView) and shape.v is not None:
        return [_column(look, list(grid.rows), [shape.v] * len(grid.rows), grid)]
    if isinstance(shape, PointsView):
        return [_column(look, shape.t, shape.v, grid, dots=True)]
    return []


def _edges(grid: _Grid) -> tuple[list[Edge], list[str]]:
    """Return the limits of one line as stacked edges from the lowest, and what is left out. Areas of several lines
    would stack on each other.
    """
    figure = grid.figure
    curves = {shape.id: shape for shape in figure.shapes if isinstance(shape, CurveView)}
    groups: dict[str, list[AreaView]] = {}
    for shape in figure.shapes:
        if isinstance(shape, AreaView) and shape.look is not None and shape.of in curves:
            groups.setdefault(shape.of, []).append(shape)
    if not groups or figure.view is View.BEFORE:
        return [], []
    first, *others = sorted(groups, key=lambda of: curves[of].rests is not Rests.PROJECTED)
    names = [look.name for of in others if (look := curves[of].look)]
    if len(figure.series) > 1 and len(groups) > 1:
        return [], [f"The limits of {counted(len(groups), 'line')}, each on the chart of its series."]
    areas = sorted(groups[first], key=lambda area: area.level or 0.0)
    colour = grid.inks[areas[-1].look.colour] if areas[-1].look else grid.inks["muted"]
    ends = [*((area, "lower") for area in reversed(areas)), *((area, "upper") for area in areas)]
    edges: list[Edge] = []
    below: Cells = [None] * len(grid.rows)
    for n, (area, side) in enumerate(ends):
        at = grid.placed(area.t, getattr(area, side))
        step: Cells = [None if v is None else v - (under or 0.0) for v, under in zip(at, below, strict=True)]
        level = "" if area.level is None else f", {area.level:g} %"
        # the innermost is the strongest
        strength = STRONGEST * min(n, len(ends) - n) / len(areas)
        edges.append(Edge(f"{side} limit{level}" + (", above the one before" if n else ""), step, colour, strength))
        below = at
    return _begun(edges), [f"The limits of {listed(names)}."] if names else []


def _begun(edges: list[Edge]) -> list[Edge]:
    """Close limits to zero width before their first and after their last period, as missing values would be drawn
    as zero.
    """
    columns = [list(edge.value) for edge in edges]
    known = [all(v is not None for v in row) for row in zip(*columns, strict=True)]
    for row, is_known in enumerate(known):
        beside = next((at for at in (row + 1, row - 1) if 0 <= at < len(known) and known[at]), None)
        if is_known or beside is None:
            continue
        base, *widths = [column[beside] or 0.0 for column in columns]
        columns[0][row] = base + sum(widths) / 2
        for column in columns[1:]:
            column[row] = 0.0
    return [replace(edge, value=column) for edge, column in zip(edges, columns, strict=True)]


def _on_it(right: bool, columns: Sequence[ChartColumn], edges: Sequence[Edge]) -> Iterator[float]:
    """Return all numbers on a scale."""
    yield from (v for column in columns if column.right == right for v in column.value if v is not None)
    for row in () if right else zip(*(edge.value for edge in edges), strict=True):
        known = [v for v in row if v is not None]
        yield from (known[0], sum(known)) if known else ()


def _dashes(figure: Figure) -> str:
    """Explain dashes in the words of the key, or return empty text if the picture does not."""
    if figure.page is None or not figure.page.said:
        return ""
    codes = set(_codes(figure)) - set("msonu")
    codes |= {"q"} if any(isinstance(shape, CurveView) and shape.faded for shape in figure.shapes) else set()
    codes |= {"j"} if any(shape.rests is Rests.PROJECTED for shape in figure.shapes) else set()
    words = [sign.word for sign in figure.signs if set(sign.codes) - set("st") & codes]
    return f"– – {', '.join(words)}" if words else ""


def _codes(figure: Figure) -> Counter[str]:
    """Count points by condition within the picture."""
    return Counter(code for view in figure.series for t, code in zip(view.t, view.c, strict=True) if _inside(t, figure))


def _inside(t: int, figure: Figure) -> bool:
    return figure.time is None or figure.time.start <= t <= figure.time.end


def _left_out(figure: Figure) -> list[str]:
    """Return sentences about what the chart cannot show."""
    kinds = {
        "span": ("stretch", "stretches"),
        "bars": ("line of bars", "lines of bars"),
        "flags": ("line of events", "lines of events"),
    }
    found = [
        f"{counted(count, *names)}."
        for kind, names in kinds.items()
        if (count := sum(shape.shape == kind for shape in figure.shapes))
    ]
    upright = sum(isinstance(shape, RuleView) and shape.t is not None for shape in figure.shapes)
    notes = len(figure.page.notes) if figure.page else 0
    codes = _codes(figure)
    aside = codes["s"] + codes["t"]
    found += [f"{counted(aside, 'value')} set aside."] if aside and figure.view is not View.BEFORE else []
    found += [f"{counted(upright, 'upright line')}."] if upright else []
    found += [f"{counted(notes, 'note')} on the chart."] if notes else []
    otherwise = [
        view.look.name
        for view in (*figure.series, *figure.shapes)
        if isinstance(view, SeriesView | CurveView) and view.look and view.look.drawn != "line"
    ]
    if otherwise:
        found.append(f"How {listed(otherwise)} {'is' if len(otherwise) == 1 else 'are'} drawn: here as lines.")
    if figure.arrangement is Arrangement.STACKED:
        found.append("That the lines are stacked: each stands at its own height.")
    return found
