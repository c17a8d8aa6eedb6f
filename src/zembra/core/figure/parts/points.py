"""Labelled points."""

from __future__ import annotations

from typing import Literal

from zembra.core.figure.parts.base import Canvas, ShapeView, numbers
from zembra.core.ledger.shapes import Beside, Points


class PointsView(ShapeView):
    """Marked points.

    labels: one per point, empty for none
    beside: position of each label
    urgent: whether they ask for attention
    """

    shape: Literal["points"] = "points"
    t: list[int]
    v: list[float | None]
    labels: list[str]
    beside: list[Beside]
    urgent: bool


def points_view(points: Points, canvas: Canvas) -> PointsView:
    return PointsView.model_construct(
        **canvas.about(points),
        shape="points",
        t=canvas.milliseconds(points.periods),
        v=numbers(points.value),
        labels=list(points.labels),
        beside=list(points.beside),
        urgent=points.urgent,
    )
