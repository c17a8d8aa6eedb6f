"""A series with the condition of every point."""

from __future__ import annotations

import numpy as np
from pydantic import BaseModel

from zembra.core.arithmetic.arrays import Bools, Floats
from zembra.core.calendar.lines import Condition, Line
from zembra.core.dress.looks import Look
from zembra.core.figure.legend import point_codes, received_codes
from zembra.core.figure.parts.base import Canvas, numbers
from zembra.core.ledger.shapes import VALUES


class SeriesView(BaseModel):
    """A series to draw.

    name: which series it is; called: what it is, where it is named. t: where its periods are drawn, milliseconds since 1970 UTC. v: values, null where there is none. before:
    the values as received. c: one letter a point for its condition, as the legend of conditions has it. r: one for what was received.
    colour: place in the series colour order. top, floor, unsure: upper and lower edge of a stacked series,
    null where it is not drawn, and where they rest on a series without a number. points: how many it has;
    places: which of them these are, where it was thinned, else empty.
    """

    name: str
    called: str
    scale: str
    colour: int
    t: list[int]
    v: list[float | None]
    c: str
    r: str
    before: list[float | None]
    points: int
    places: list[int] = []
    top: list[float | None] = []
    floor: list[float | None] = []
    unsure: list[bool] = []
    look: Look | None = None


def series_view(line: Line, canvas: Canvas, edges: tuple[Floats, Floats, Bools] | None = None) -> SeriesView:
    """A line as the figure tells it. edges: of the series in a stack, on its own periods."""
    keep = canvas.keep(line.name, line.value, line.periods, line.condition != Condition.MEASURED)
    part = line if isinstance(keep, slice) else line.part(keep)
    floor, top, unsure = edges or (np.zeros(0), np.zeros(0), np.zeros(0, dtype=bool))
    return SeriesView.model_construct(
        name=line.name,
        called=line.drawn_name,
        scale=VALUES,
        colour=canvas.colours[line.name],
        t=canvas.milliseconds(part.periods),
        v=numbers(part.value),
        c=point_codes(part.condition, part.bridged, part.received),
        r=received_codes(part.received),
        before=numbers(part.original),
        points=len(line),
        places=[] if isinstance(keep, slice) else keep.tolist(),
        top=numbers(top[keep] if edges else top),
        floor=numbers(floor[keep] if edges else floor),
        unsure=(unsure[keep] if edges else unsure).tolist(),
    )
