"""The theta method: simple exponential smoothing with half the slope of the regression line as drift.

Assimakopoulos and Nikolopoulos (2000), by the equivalence of Hyndman and Billah (2003).
"""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np

from zembra.core.arithmetic.arrays import Floats
from zembra.core.projection.ahead import History, Projected, corrected, normal_halves
from zembra.core.projection.seasonal import STRENGTH, cycled, taken_off

ALPHAS = (0.02, 0.9999)
ESTIMATED = 3  # level weight, first level, slope


def theta(history: History, ahead: int, levels: Sequence[float]) -> Projected:
    """Project the history without its season, whose last cycle is added back."""
    values, cycle, strength = taken_off(history.values, history.season)
    n = values.size
    start = float(values[: int(np.clip(n // 4, 3, 8))].mean())
    alpha = _best_weight(values, start)
    level, errors = simple_smoothing(values, alpha, start)
    slope = float(np.polyfit(np.arange(n), values, 1)[0])
    k = np.arange(1, ahead + 1)
    mean = level + slope / 2 * (k - 1 + (1 - (1 - alpha) ** n) / alpha) + cycled(cycle, ahead)
    variance = float((errors**2).sum()) / max(1, n - 3)
    spread = np.sqrt(variance * (1 + (k - 1) * alpha**2))
    estimates = {
        "Level weight α": alpha,
        "Drift a period": slope / 2,
        "Residual spread": float(np.sqrt(variance)),
        STRENGTH: strength,
    }
    halves = corrected(normal_halves(spread, levels), ESTIMATED, history.points)
    return Projected("theta", mean, halves, estimates, errors, seasonal=bool(cycle.any()))


def simple_smoothing(values: Floats, alpha: float, start: float) -> tuple[float, Floats]:
    """Return the last level, and the one-step errors, of simple exponential smoothing."""
    from scipy.signal import lfilter

    levels = lfilter([alpha], [1, -(1 - alpha)], values, zi=[(1 - alpha) * start])[0]
    before = np.concatenate(([start], levels[:-1]))
    return float(levels[-1]), np.asarray(values - before, dtype=np.float64)


def _best_weight(values: Floats, start: float) -> float:
    from scipy.optimize import minimize_scalar

    found = minimize_scalar(
        lambda alpha: float((simple_smoothing(values, float(alpha), start)[1] ** 2).sum()),
        bounds=ALPHAS,
        method="bounded",
        options={"xatol": 1e-4},
    )
    return float(found.x)
