"""A run's result to the description of a figure."""

from __future__ import annotations

import numpy as np

from zembra.core.arrays import Floats, Ints
from zembra.core.calendar.grain import Grain
from zembra.core.figure.model import Figure, FigureLimits, FigureLine, FigureSettings, Role
from zembra.core.ledger.run import Result
from zembra.core.lines import Drawn, Line

FIRST_SHOWN = 4
_CONDITION = np.array(list("mofsap"))
_RECEIVED = np.array(list("mbau"))


def build_figure(result: Result, settings: FigureSettings) -> Figure:
    """Describe the shown series with their readings and projections. A pure function."""
    state = result.state
    names = [line.name for line in state.lines]
    shown = [name for name in (settings.shown or names[:FIRST_SHOWN]) if name in names]
    lines: list[FigureLine] = []
    for name in shown:
        colour = names.index(name)
        lines.append(_series(state.lines[colour], colour, state.grain))
        lines.extend(_drawn(one, colour, state.grain) for one in state.drawn if one.series == name)
    return Figure.model_construct(
        title=settings.title,
        measure=state.selection.measure if state.selection else "",
        grain=state.grain.unit.value,
        period=state.grain.singular,
        periods=state.grain.plural,
        view=settings.view,
        as_of=state.as_of.isoformat(),
        lines=lines,
    )


def _series(line: Line, colour: int, grain: Grain) -> FigureLine:
    codes = np.where(line.bridged, "b", _CONDITION[line.condition])
    return FigureLine.model_construct(
        series=line.name,
        name=line.name,
        role="series",
        kind="series",
        entry="",
        colour=colour,
        t=_milliseconds(line.periods, grain),
        v=numbers(line.value),
        c="".join(codes.tolist()),
        r="".join(_RECEIVED[line.received].tolist()),
        before=numbers(line.original),
        limits=[],
    )


def _drawn(one: Drawn, colour: int, grain: Grain) -> FigureLine:
    role: Role = "projection" if one.estimated else "reading"
    return FigureLine.model_construct(
        series=one.series,
        name=one.line,
        role=role,
        kind=one.kind,
        entry=one.entry,
        colour=colour,
        t=_milliseconds(one.periods, grain),
        v=numbers(one.value),
        c=("j" if one.estimated else "r") * int(one.periods.size),
        r="",
        before=[],
        limits=[
            FigureLimits.model_construct(level=band.level, lower=numbers(band.lower), upper=numbers(band.upper))
            for band in one.limits
        ],
    )


def _milliseconds(periods: Ints, grain: Grain) -> list[int]:
    milliseconds: list[int] = (grain.starts(periods).astype(np.int64) * 1000).tolist()
    return milliseconds


def numbers(values: Floats) -> list[float | None]:
    """A list for JSON: NaN and infinities become null."""
    boxed = values.astype(object)
    boxed[~np.isfinite(values)] = None
    listed: list[float | None] = boxed.tolist()
    return listed
