"""The union of all shapes."""

from __future__ import annotations

from collections.abc import Callable
from typing import Annotated, Any

from pydantic import Field

from zembra.core.figure.parts.area import AreaView, area_view
from zembra.core.figure.parts.bars import BarsView, bars_view
from zembra.core.figure.parts.base import Canvas
from zembra.core.figure.parts.curve import CurveView, curve_view
from zembra.core.figure.parts.flags import FlagsView, flags_view
from zembra.core.figure.parts.points import PointsView, points_view
from zembra.core.figure.parts.rule import RuleView, rule_view
from zembra.core.figure.parts.span import SpanView, span_view
from zembra.core.ledger.shapes import Area, Bars, Curve, Flags, Points, Rule, Shape, Span

AnyView = CurveView | AreaView | RuleView | SpanView | PointsView | BarsView | FlagsView
AnyShapeView = Annotated[AnyView, Field(discriminator="shape")]

_VIEWS: dict[type[Shape], Callable[[Any, Canvas], AnyView]] = {
    Curve: curve_view,
    Area: area_view,
    Rule: rule_view,
    Span: span_view,
    Points: points_view,
    Bars: bars_view,
    Flags: flags_view,
}


def shape_view(shape: Shape, canvas: Canvas) -> AnyView:
    return _VIEWS[type(shape)](shape, canvas)
