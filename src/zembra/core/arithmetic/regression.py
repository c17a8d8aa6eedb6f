"""Simple linear regression in closed form, for the figures beside every entry. The trend line that an analyst reads is
`trends.straight`, which holds the certified digits and has standard errors."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from zembra.core.arithmetic.arrays import Floats, Ints
from zembra.core.english import number


@dataclass(frozen=True, slots=True)
class StraightFit:
    """The line y = intercept + slope x.

    spread: root of the squared residuals over n − 2, 0 for two points
    r2: explained share of variance, None for constant y
    """

    intercept: float
    slope: float
    r2: float | None
    spread: float
    points: int

    def at(self, x: Floats) -> Floats:
        return self.intercept + self.slope * x

    @property
    def equation(self) -> str:
        sign = "−" if self.slope < 0 else "+"
        return f"y = {number(_short(self.intercept))} {sign} {number(_short(abs(self.slope)))} x"


def _short(value: float) -> float:
    return float(f"{value:.5g}")


def straight_fit(x: Floats, y: Floats) -> StraightFit | None:
    """Fit a line through the points with a number; None for fewer than two distinct x."""
    known = ~np.isnan(y)
    if not known.all():
        x, y = x[known], y[known]
    if y.size < 2:
        return None
    mean_x, mean_y = float(x.mean()), float(y.mean())
    dx, dy = x - mean_x, y - mean_y
    sxx = float(dx @ dx)
    if sxx == 0:
        return None
    slope = float(dx @ dy) / sxx
    syy = float(dy @ dy)
    # from the residuals themselves: a difference of two large sums would lose a small spread
    residuals = dy - slope * dx
    rest = float(residuals @ residuals)
    spread = float(np.sqrt(rest / (y.size - 2))) if y.size > 2 else 0.0
    # a variance of rounding errors counts as zero
    rounding = 4 * np.finfo(np.float64).eps * float(np.abs(y).max())
    r2 = 1 - rest / syy if syy > rounding * rounding * y.size else None
    return StraightFit(mean_y - slope * mean_x, slope, r2, spread, int(y.size))


def steps_since(periods: Ints, first: int) -> Floats:
    """Return x of a trend line: periods since `first`."""
    return (periods - first).astype(np.float64)


def first_known(periods: Ints, values: Floats) -> int | None:
    """Return the first period with a number."""
    known = ~np.isnan(values)
    return int(periods[np.argmax(known)]) if known.any() else None
