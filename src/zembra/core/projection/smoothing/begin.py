"""Initial states of exponential smoothing, from the first seasons."""

from __future__ import annotations

import numpy as np

from zembra.core.arithmetic.arrays import Floats
from zembra.core.projection.smoothing.forms import Form
from zembra.core.projection.smoothing.recursion import Begin

MOST_CYCLES = 5
FEWEST = 10  # values that the first level and trend are a line through


def begin_of(history: Floats, form: Form, season: int) -> Begin:
    """Return initial states of one column: a centred moving average over the season, the usual seasonal deviation,
    and a line through the first ten averages (Hyndman et al. 2008, section 2.6).

    season: 1 for none
    """
    factor = form.season == "M"
    pattern = np.ones((season, 1)) if factor else np.zeros((season, 1))
    rest = history
    if form.season != "N":
        rest, pattern[:, 0] = _without_season(history, season, factor=factor)
    rest = rest[:FEWEST]
    at = np.arange(1, rest.size + 1, dtype=np.float64)
    slope = float(((at - at.mean()) * (rest - rest.mean())).sum() / max(1.0, float(((at - at.mean()) ** 2).sum())))
    level = float(rest.mean()) - slope * float(at.mean())
    if form.trend == "N":
        slope = 0.0
    return Begin(np.array([level]), np.array([slope]), pattern)


def _without_season(history: Floats, season: int, *, factor: bool) -> tuple[Floats, Floats]:
    """Return the moving average over the first seasons, and the seasonal pattern."""
    half = season // 2
    enough = int(np.ceil((FEWEST + 2 * half) / season))
    cycles = min(max(min(MOST_CYCLES, history.size // season), enough), history.size // season)
    part = history[: season * cycles]
    weights = np.full(season, 1 / season) if season % 2 else np.r_[0.5, np.ones(season - 1), 0.5] / season
    trend = np.convolve(part, weights, mode="valid")
    covered = part[half : half + trend.size]
    away = np.full(season * cycles, np.nan)
    away[half : half + trend.size] = covered / trend if factor else covered - trend
    table = away.reshape(cycles, season)
    known = ~np.isnan(table)
    # with only two cycles each position is covered at least once
    pattern = np.where(known, table, 0.0).sum(axis=0) / np.maximum(known.sum(axis=0), 1)
    return trend, pattern / pattern.mean() if factor else pattern - pattern.mean()
