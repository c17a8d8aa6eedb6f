"""Bars from zero."""

from __future__ import annotations

from typing import Literal

import numpy as np

from zembra.core.figure.parts.base import Canvas, ShapeView, numbers
from zembra.core.ledger.shapes import Bars


class BarsView(ShapeView):
    shape: Literal["bars"] = "bars"
    t: list[int]
    v: list[float | None]


def bars_view(bars: Bars, canvas: Canvas) -> BarsView:
    keep = canvas.keep(bars.id, bars.value, bars.periods, np.isnan(bars.value))
    return BarsView.model_construct(
        **canvas.about(bars), shape="bars", t=canvas.milliseconds(bars.periods[keep]), v=numbers(bars.value[keep])
    )
