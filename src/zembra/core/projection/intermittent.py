"""Projection of intermittent demand."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np

from zembra.core.arithmetic.arrays import Floats
from zembra.core.errors import Refusal
from zembra.core.projection.ahead import History, Projected
from zembra.core.projection.limits import HalfWidth

ALPHA = 0.1  # weights as in Croston's article
BETA = 0.1


def croston(history: History, ahead: int, levels: Sequence[float]) -> Projected:
    """Smooth demand size and interval separately, with the correction of Syntetos and Boylan (2005)."""
    values = _usable(history)
    at = np.flatnonzero(values > 0)
    size, interval = float(values[at[0]]), float(at[0] + 1)
    rates = np.full(values.size + 1, np.nan)
    since = 0
    for n, value in enumerate(values):
        rates[n] = (1 - BETA / 2) * size / interval if n > at[0] else np.nan
        since += 1
        if value > 0:
            if n > at[0]:
                size += ALPHA * (value - size)
                interval += BETA * (since - interval)
            since = 0
    rate = (1 - BETA / 2) * size / interval
    estimates = {"Size of a demand": size, "Periods between demands": interval, "Weight α": ALPHA, "Weight β": BETA}
    return _ahead("Croston", rate, values, values - rates[:-1], ahead, levels, estimates)


def tsb(history: History, ahead: int, levels: Sequence[float]) -> Projected:
    """Smooth demand size and probability separately (Teunter, Syntetos and Babai, 2011)."""
    values = _usable(history)
    at = np.flatnonzero(values > 0)
    size, chance = float(values[at[0]]), float(1 / (at[0] + 1))
    errors = np.full(values.size, np.nan)
    for n, value in enumerate(values):
        if n > at[0]:
            errors[n] = value - chance * size
            if value > 0:
                size += ALPHA * (value - size)
                chance += BETA * (1 - chance)
            else:
                chance -= BETA * chance
    estimates = {"Size of a demand": size, "Chance of a demand": chance, "Weight α": ALPHA, "Weight β": BETA}
    return _ahead("TSB", chance * size, values, errors, ahead, levels, estimates)


def _usable(history: History) -> Floats:
    values = history.values
    if np.any(values < 0) or not np.any(values > 0):
        raise Refusal(
            "Intermittent demand is zero or above, with some above.", todo="Choose another method for this series."
        )
    return values


def _ahead(
    name: str,
    rate: float,
    values: Floats,
    errors: Floats,
    ahead: int,
    levels: Sequence[float],
    estimates: dict[str, float],
) -> Projected:
    """Set limits by percentiles of past values, as demand is not normal."""
    mean = np.full(ahead, rate)
    halves = []
    for level in levels:
        low, high = np.percentile(values, (50 - level / 2, 50 + level / 2))
        halves.append(
            HalfWidth(level, np.full(ahead, max(0.0, rate - float(low))), np.full(ahead, max(0.0, float(high) - rate)))
        )
    return Projected(name, mean, tuple(halves), estimates, errors)
