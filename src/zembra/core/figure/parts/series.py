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
    """A series.

    name: its key; called: its displayed name
    t: positions in milliseconds since 1970 UTC
    v: values or null; before: as received
    c: a letter per point for its condition; r: for what was received
    colour: index of the series colour
    top, floor, unsure: edges in a stack, null where not drawn, and where they include a series without a number
    points: number of points; places: their indices if thinned, else empty
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
    """Convert a line.

    edges: of the series in a stack
    """
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
