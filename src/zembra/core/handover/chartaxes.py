"""Compute the axes of a native chart: range, steps, number and date formats."""

from __future__ import annotations

import math
from collections.abc import Iterable
from dataclasses import dataclass
from datetime import date

from zembra.core.figure.model import ScaleView

MOST_DATES = 11  # along the time axis
MOST_NUMBERS = 7  # along a value axis


@dataclass(frozen=True, slots=True)
class AxisRange:
    """A value axis with its step; None where the office suite chooses, for logarithmic axes."""

    low: float
    high: float
    step: float

    def share(self, value: float) -> float:
        """Return the relative height of a value, 0 to 1."""
        return (value - self.low) / (self.high - self.low)


@dataclass(frozen=True, slots=True)
class DateSteps:
    """The step of a date axis in days, months or years.

    form: date format of office suites
    """

    step: int
    unit: str
    form: str


def date_steps(first: date, last: date) -> DateSteps:
    """Choose a step at which dates do not overlap."""
    days = max(1, (last - first).days)
    if days <= 75:
        return DateSteps(max(1, -(-days // MOST_DATES)), "days", "d mmm")
    months = next((step for step in (1, 2, 3, 6) if days / 30.4 / step <= MOST_DATES), None)
    if months:
        return DateSteps(months, "months", "mmm yyyy")
    return DateSteps(max(1, -(-days // (366 * MOST_DATES))), "years", "yyyy")


def range_of(scale: ScaleView, numbers: Iterable[float]) -> AxisRange | None:
    """Return the range from zero, unless that is far away or the dress says otherwise."""
    if scale.kind == "log":
        return None
    values = list(numbers)
    low, high = (min(values), max(values)) if values else (0.0, 1.0)
    smallest = low
    if not scale.tight and scale.low is None and 0 < low < high * 0.6:
        low = 0.0
    low = scale.low if scale.low is not None else low
    high = scale.high if scale.high is not None else high
    if high <= low:
        high = low + (abs(low) or 1.0)
    rough = (high - low) / MOST_NUMBERS
    size = 10.0 ** math.floor(math.log10(rough))
    step = next(factor for factor in (1, 2, 2.5, 5, 10) if factor * size >= rough * (1 - 1e-9)) * size
    lowest = scale.low if scale.low is not None else smallest if scale.tight else math.floor(low / step + 1e-9) * step
    return AxisRange(lowest, scale.high if scale.high is not None else math.ceil(high / step - 1e-9) * step, step)


def display_units(scale: ScaleView) -> str:
    return {1e3: "thousands", 1e6: "millions"}.get(scale.form.divide if scale.form else 1.0, "")


def number_format(scale: ScaleView, ends: AxisRange | None) -> str:
    """Return the number format of a scale for office suites."""
    form = scale.form
    divide = form.divide if form else 1.0
    decimals = form.decimals if form else None
    if decimals is None:
        decimals = max(0, -math.floor(math.log10(ends.step / divide) + 1e-9)) if ends else None
    body = "General" if decimals is None else "#,##0" + ("." + "0" * decimals if decimals else "")
    if form is None:
        return body
    percent = divide == 0.01
    after = form.after.replace("\N{NO-BREAK SPACE}%", "") if percent else form.after
    before, after = (f'"{text.replace(chr(34), "")}"' if text else "" for text in (form.before, after))
    return f"{before}{body}{' %' if percent else ''}{after}"
