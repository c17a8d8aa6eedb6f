"""Project a quantile regression line."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np

from zembra.core.arithmetic.arrays import Floats
from zembra.core.arithmetic.trends import percentile_line as fitted_line
from zembra.core.errors import Refusal
from zembra.core.projection.ahead import History, Projected
from zembra.core.projection.limits import HalfWidth

ESTIMATED = 2
FEWEST = 8


def percentile_line(history: History, ahead: int, levels: Sequence[float], share: float = 50) -> Projected:
    """Project by quantile regression on time (Koenker and Bassett, 1978). Limits are percentiles of the residuals,
    widened by leverage. Raises Refusal.
    """
    if history.size < FEWEST:
        raise Refusal(f"A percentile line needs at least {FEWEST} values; there are {history.size}.")
    n = history.size
    x = np.arange(n, dtype=np.float64)
    constant, slope = (term.value for term in fitted_line(x, history.values, share / 100).terms)
    left = history.values - constant - slope * x
    onward = np.arange(n, n + ahead)
    mean: Floats = constant + slope * onward.astype(np.float64)
    u = min(0.6, ESTIMATED / max(1, history.points))
    wider = np.sqrt((1 + (1 / n + (onward - x.mean()) ** 2 / ((x - x.mean()) ** 2).sum())) * (1 + u) / (1 - u))
    halves = []
    for level in levels:
        low, high = np.percentile(left, (50 - level / 2, 50 + level / 2))
        halves.append(HalfWidth(level, max(0.0, -float(low)) * wider, max(0.0, float(high)) * wider))
    estimates = {"Share below it, %": share, "Height at the first period": constant, "Gain a period": slope}
    return Projected("percentile line", mean, tuple(halves), estimates, left)
