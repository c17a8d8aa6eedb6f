"""A straight line with season dummies and a fading last error."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np

from zembra.core.arithmetic.arrays import Floats, Ints
from zembra.core.projection.ahead import History, Projected, normal_halves

SEASONS, FEWEST = 6, 20  # the newest stretch it is fitted to: so many seasons, and at least so many points
MOST_FADING = 0.95


def line_and_season(history: History, ahead: int, levels: Sequence[float]) -> Projected:
    """Fit the newest stretch by least squares, with AR(1) errors."""
    season = history.season or 1
    values = history.values[-max(SEASONS * season, FEWEST) :]
    w = values.size
    first = history.size - w
    design, onward = (
        _design(np.arange(start, start + size), season, first, w) for start, size in ((first, w), (first + w, ahead))
    )
    inverse = np.linalg.pinv(design)
    coefficients = inverse @ values
    errors = values - design @ coefficients
    freedom = max(1, w - design.shape[1])
    rho = fading(errors, w)
    steps = errors[1:] - rho * errors[:-1]
    innovation = float((steps**2).sum()) / max(1, freedom - 1)
    k = np.arange(1, ahead + 1)
    mean = onward @ coefficients + errors[-1] * rho**k
    leverage = np.einsum("ij,ij->i", onward @ inverse, onward @ inverse)
    variance = innovation * np.cumsum(rho ** (2.0 * (k - 1))) + leverage * innovation / (2 * (1 - rho) ** 2)
    left = np.full(history.size, np.nan)
    left[first + 1 :] = steps
    estimates = {
        "Gain a period": float(coefficients[0]) / max(1, w - 1),
        "Fading of the last error ρ": rho,
        "Residual spread": float(np.sqrt(innovation)),
        "Points fitted": float(w),
    }
    name = "straight line and season" if season > 1 else "straight line"
    return Projected(name, mean, normal_halves(np.sqrt(variance), levels), estimates, left, seasonal=season > 1)


def _design(at: Ints, season: int, first: int, size: int) -> Floats:
    """Return columns for time from 0 to 1, and for each position in the season."""
    time = (at - first) / max(1, size - 1)
    places = (at[:, None] % season == np.arange(season)[None, :]).astype(np.float64)
    return np.column_stack((time, places))


def fading(errors: Floats, size: int) -> float:
    """Return the lag-1 autocorrelation of errors, corrected for the bias of the fit."""
    total = float((errors**2).sum())
    if total <= 0:
        return 0.0
    found = float((errors[1:] * errors[:-1]).sum()) / total
    return float(np.clip(found + (1 + 3 * found) / size, 0.0, MOST_FADING))
