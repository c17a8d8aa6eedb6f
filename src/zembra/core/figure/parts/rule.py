"""A straight rule across the chart."""

from __future__ import annotations

from typing import Literal

import numpy as np

from zembra.core.figure.parts.base import Canvas, ShapeView
from zembra.core.ledger.shapes import Rule


class RuleView(ShapeView):
    """A rule: vertical at t, or horizontal at v; the other is null."""

    shape: Literal["rule"] = "rule"
    t: int | None
    v: float | None


def rule_view(rule: Rule, canvas: Canvas) -> RuleView:
    at = None if rule.period is None else canvas.milliseconds(np.array([rule.period]))[0]
    return RuleView.model_construct(**canvas.about(rule), shape="rule", t=at, v=rule.value)
