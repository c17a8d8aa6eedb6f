"""A stretch of time."""

from __future__ import annotations

from typing import Literal

import numpy as np

from zembra.core.figure.parts.base import Canvas, ShapeView
from zembra.core.ledger.shapes import Span


class SpanView(ShapeView):
    """A stretch of time.

    first, last: positions of its first and last period
    """

    shape: Literal["span"] = "span"
    first: int
    last: int


def span_view(span: Span, canvas: Canvas) -> SpanView:
    first, last = canvas.milliseconds(np.array([span.first, span.last]))
    return SpanView.model_construct(**canvas.about(span), shape="span", first=first, last=last)
