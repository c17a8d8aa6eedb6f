"""A line over time."""

from __future__ import annotations

from typing import Literal

import numpy as np

from zembra.core.arithmetic.arrays import Bools, Ints
from zembra.core.figure.parts.base import Canvas, ShapeView, numbers
from zembra.core.ledger.shapes import Curve


class CurveView(ShapeView):
    """A curve.

    t: milliseconds since 1970 UTC
    v: values or null
    faded: indices over provisional periods; pale: over too few values
    strong: whether it stands out more than its series; beside: whether it is another series for comparison
    label: lines of text at its end
    equation, r2: of a fitted line, else empty
    part_of: id of the curve that it extends
    """

    shape: Literal["curve"] = "curve"
    t: list[int]
    v: list[float | None]
    faded: list[int]
    pale: list[int]
    strong: bool = True
    beside: bool = False
    label: list[str]
    equation: str
    r2: str
    part_of: str


def curve_view(curve: Curve, canvas: Canvas) -> CurveView:
    keep = canvas.keep(curve.id, curve.value, curve.periods, np.isnan(curve.value))
    return CurveView.model_construct(
        **canvas.about(curve),
        shape="curve",
        t=canvas.milliseconds(curve.periods[keep]),
        v=numbers(curve.value[keep]),
        faded=_places(curve.faded, keep),
        pale=_places(curve.pale, keep),
        strong=curve.strong,
        beside=curve.beside,
        label=[curve.name] if curve.label is None else list(curve.label),
        equation=curve.equation,
        r2=curve.r2,
        part_of=curve.part_of,
    )


def _places(mask: Bools | None, keep: slice | Ints) -> list[int]:
    places: list[int] = [] if mask is None else np.flatnonzero(mask[keep]).tolist()
    return places
