"""The area between two edges."""

from __future__ import annotations

from typing import Literal

import numpy as np

from zembra.core.figure.parts.base import Canvas, ShapeView, numbers
from zembra.core.ledger.shapes import Area


class AreaView(ShapeView):
    """An area.

    of: id of its curve
    level: coverage in percent
    lower, upper: null where open
    tested: number of leading points that were backtested, null if there is nothing to test
    """

    shape: Literal["area"] = "area"
    of: str
    level: float | None
    t: list[int]
    lower: list[float | None]
    upper: list[float | None]
    tested: int | None


def area_view(area: Area, canvas: Canvas) -> AreaView:
    keep = canvas.keep(area.id, area.upper, area.periods, np.isnan(area.upper))
    return AreaView.model_construct(
        **canvas.about(area),
        shape="area",
        of=area.curve_id,
        level=area.level,
        t=canvas.milliseconds(area.periods[keep]),
        lower=numbers(area.lower[keep]),
        upper=numbers(area.upper[keep]),
        tested=None if area.tested is None else int(np.count_nonzero(np.arange(area.upper.size)[keep] < area.tested)),
    )
