"""Close gaps in a history, for methods that need every value."""

from __future__ import annotations

import numpy as np

from zembra.core.arithmetic.arrays import Floats
from zembra.core.arithmetic.fills import interpolated, seasonal_usual

FEWEST_POINTS = 5


def whole_history(values: Floats, season: int | None) -> tuple[Floats, int]:
    """Return the history from the first to the last number without gaps, and how many were closed: by seasonal
    medians, else by interpolation.
    """
    known = np.flatnonzero(~np.isnan(values))
    if known.size == 0:
        return values[:0], 0
    history = values[known[0] : known[-1] + 1]
    gaps = int(np.isnan(history).sum())
    if gaps and season:
        history = seasonal_usual(history, season)
    return interpolated(history), gaps
