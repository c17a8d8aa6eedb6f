"""Methods without a fit: naive, seasonal naive, drift."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np

from zembra.core.projection.ahead import History, Projected, corrected, normal_halves


def last_value(history: History, ahead: int, levels: Sequence[float]) -> Projected:
    """Repeat the last value; the spread grows with the square root of time."""
    values = history.values
    steps = np.diff(values)
    spread = float(np.sqrt((steps**2).mean()))
    width = spread * np.sqrt(np.arange(1, ahead + 1))
    halves = corrected(normal_halves(width, levels), 1, history.points)
    estimates = {"Last value": float(values[-1]), "Residual spread": spread}
    return Projected("last value", np.full(ahead, values[-1]), halves, estimates, np.concatenate(([np.nan], steps)))


def last_season(history: History, ahead: int, levels: Sequence[float]) -> Projected:
    """Repeat the last season, or the last value without a season."""
    season = history.season
    if season is None or history.size <= season:
        return last_value(history, ahead, levels)
    values = history.values
    steps = values[season:] - values[:-season]
    spread = float(np.sqrt((steps**2).mean()))
    cycles = np.arange(ahead) // season + 1
    halves = corrected(normal_halves(spread * np.sqrt(cycles), levels), 1, max(1, history.points - season))
    left = np.concatenate((np.full(season, np.nan), steps))
    estimates = {"Season": float(season), "Residual spread": spread}
    return Projected("last season", np.resize(values[-season:], ahead), halves, estimates, left, seasonal=True)


def drift(history: History, ahead: int, levels: Sequence[float]) -> Projected:
    """Extend the line from the first to the last value (random walk with drift)."""
    values = history.values
    steps = np.diff(values)
    slope = float(steps.mean())
    spread = float(steps.std(ddof=1)) if steps.size > 1 else 0.0
    k = np.arange(1, ahead + 1)
    width = spread * np.sqrt(k * (1 + k / max(1, steps.size)))
    halves = corrected(normal_halves(width, levels), 1, history.points)
    estimates = {"Drift a period": slope, "Residual spread": spread}
    return Projected("drift", values[-1] + slope * k, halves, estimates, np.concatenate(([np.nan], steps - slope)))
