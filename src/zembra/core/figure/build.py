"""A run's result to the description of a figure."""

from __future__ import annotations

from dataclasses import replace

import numpy as np

from zembra.core.arrays import Bools, Floats, Ints
from zembra.core.calendar.complete import Expected
from zembra.core.figure.model import (
    Arrangement,
    Ends,
    Figure,
    FigureLimits,
    FigureLine,
    FigureMark,
    FigureSettings,
    Role,
)
from zembra.core.figure.stack import ended_together, stack_edges
from zembra.core.figure.thin import MOST_POINTS, kept_places
from zembra.core.ledger.run import Result
from zembra.core.lines import Condition, Drawn, Line, Mark, Quantity

FIRST_SHOWN = 4
MOST_NAMED = 2  # measures that are named at one axis
_CONDITION = np.array(list("mofsap"))
_RECEIVED = np.array(list("mbau"))


def build_figure(result: Result, settings: FigureSettings, window: tuple[int, int] | None = None) -> Figure:
    """Describe the shown series with their readings and projections. A pure function.

    window: the stretch of time a long line is thinned to, milliseconds since 1970 UTC; None for all.
    """
    state = result.state
    names = [line.name for line in state.lines]
    shown = [name for name in (settings.shown or names[:FIRST_SHOWN]) if name in names]
    chosen = {name: state.lines[names.index(name)] for name in shown}
    if settings.ends is Ends.TOGETHER:
        chosen = ended_together(chosen)
    stacked = settings.arrangement is Arrangement.STACKED
    edges = stack_edges(list(chosen.values()), settings.stack) if stacked else {}
    lines: list[FigureLine] = []
    thinned = False
    for name, line in chosen.items():
        colour = names.index(name)
        keep = _thinned(line.value, line.periods, line.condition != Condition.MEASURED, window, state.expected)
        thinned = thinned or keep is not None
        one = _series(line if keep is None else line.part(keep), colour, state.expected)
        if keep is not None:
            one.points, one.places = len(line), keep.tolist()
        if stacked:
            at = slice(None) if keep is None else keep
            floor, top, unsure = edges[name]
            one.floor, one.top, one.unsure = numbers(floor[at]), numbers(top[at]), unsure[at].tolist()
        lines.append(one)
        if not stacked:
            for drawn in state.drawn:
                if drawn.series == name and drawn.plotted:
                    keep = _thinned(drawn.value, drawn.periods, np.isnan(drawn.value), window, state.expected)
                    lines.append(_drawn(drawn if keep is None else _part(drawn, keep), colour, state.expected))
    marks = [_mark(mark, names, state.expected) for mark in _shown_marks(state.marks) if mark.series in chosen]
    return Figure.model_construct(
        title=settings.title,
        measure=_axis_name([line.quantity for line in chosen.values()], state.grain.singular),
        grain=state.grain.unit.value,
        period=state.grain.singular,
        periods=state.grain.plural,
        view=settings.view,
        arrangement=settings.arrangement,
        scale=settings.scale,
        as_of=state.as_of.isoformat(),
        shape=settings.shape,
        lines=lines,
        marks=marks,
        thinned=thinned,
    )


def _axis_name(quantities: list[Quantity], period: str) -> str:
    """What the value axis counts: all of what is drawn on it."""
    told = [name for name in dict.fromkeys(one.told(period) for one in quantities) if name]
    units = {one.unit for one in quantities}
    if len(told) > MOST_NAMED:
        return (
            f"{len(told)} measures"
            if len(units) > 1
            else f"{len(told)} measures{f', {u}' if (u := units.pop()) else ''}"
        )
    return "; ".join(told)


def _thinned(
    values: Floats, periods: Ints, odd: Bools, window: tuple[int, int] | None, expected: Expected
) -> Ints | None:
    """Places of the points worth drawing, None for all; one point either side of the window is kept."""
    if periods.size <= MOST_POINTS:
        return None
    first, end = 0, int(periods.size)
    if window:
        low, high = np.array(window, dtype="datetime64[ms]").astype("datetime64[s]")
        ends = expected.grain.periods(np.array([low, high]))
        first = max(0, int(np.searchsorted(periods, ends[0])) - 1)
        end = min(end, int(np.searchsorted(periods, ends[1], side="right")) + 1)
    return kept_places(values, odd, first, end)


def _part(drawn: Drawn, keep: Ints) -> Drawn:
    limits = tuple(replace(one, lower=one.lower[keep], upper=one.upper[keep]) for one in drawn.limits)
    faded = None if drawn.faded is None else drawn.faded[keep]
    return replace(drawn, periods=drawn.periods[keep], value=drawn.value[keep], limits=limits, faded=faded)


def _series(line: Line, colour: int, expected: Expected) -> FigureLine:
    across = np.where(line.condition == Condition.SET_ASIDE, "t", "b")
    codes = np.where(line.bridged, across, _CONDITION[line.condition])
    return FigureLine.model_construct(
        series=line.name,
        name=line.name,
        role="series",
        kind="series",
        entry="",
        colour=colour,
        points=len(line),
        t=milliseconds(line.periods, expected),
        v=numbers(line.value),
        c="".join(codes.tolist()),
        r="".join(_RECEIVED[line.received].tolist()),
        before=numbers(line.original),
        limits=[],
    )


def _drawn(one: Drawn, colour: int, expected: Expected) -> FigureLine:
    role: Role = "projection" if one.estimated else "reading"
    codes = np.full(one.periods.size, "j" if one.estimated else "r")
    if one.faded is not None:
        codes[one.faded] = "q"
    return FigureLine.model_construct(
        series=one.series,
        name=one.line,
        role=role,
        kind=one.kind,
        entry=one.entry,
        colour=colour,
        points=int(one.periods.size),
        t=milliseconds(one.periods, expected),
        v=numbers(one.value),
        c="".join(codes.tolist()),
        r="",
        before=[],
        limits=[
            FigureLimits.model_construct(level=band.level, lower=numbers(band.lower), upper=numbers(band.upper))
            for band in one.limits
        ],
    )


def _shown_marks(marks: tuple[Mark, ...]) -> list[Mark]:
    """One rule a shift: what was found gives way to what was marked by hand on the same period."""
    last = {(mark.series, mark.period): n for n, mark in enumerate(marks) if mark.kind == "shift"}
    return [mark for n, mark in enumerate(marks) if mark.kind != "shift" or last[mark.series, mark.period] == n]


def _mark(mark: Mark, names: list[str], expected: Expected) -> FigureMark:
    (at,) = milliseconds(np.array([mark.period]), expected)
    colour = names.index(mark.series)
    return FigureMark.model_construct(
        kind=mark.kind, series=mark.series, colour=colour, t=at, v=mark.value, text=mark.text
    )


def milliseconds(periods: Ints, expected: Expected) -> list[int]:
    """Where periods are drawn: at their first day, or at their last."""
    grain = expected.grain
    seconds = grain.starts(periods).astype(np.int64)
    if expected.at_end:
        seconds = grain.starts(periods + 1).astype(np.int64) - min(86_400, int(grain.seconds))
    milliseconds: list[int] = (seconds * 1000).tolist()
    return milliseconds


def numbers(values: Floats) -> list[float | None]:
    """A list for JSON: NaN and infinities become null."""
    boxed = values.astype(object)
    boxed[~np.isfinite(values)] = None
    listed: list[float | None] = boxed.tolist()
    return listed
