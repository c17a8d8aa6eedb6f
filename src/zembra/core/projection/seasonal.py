"""Test for a season, measure its strength, and remove it."""

from __future__ import annotations

import numpy as np

from zembra.core.arithmetic.arrays import Floats
from zembra.core.arithmetic.season import SURE
from zembra.core.arithmetic.season import season_chance as chance_of_season

STRONG_ENOUGH = 0.3
STL_WINDOW = 11
STRENGTH = "Strength of the season taken off"


def season_chance(values: Floats, season: int) -> float:
    """The chance of a season in the logarithm of the values, or in the values where one of them has none, as
    `arithmetic.season.season_chance` has it; 1 where the history is too short."""
    known = values[~np.isnan(values)]
    return chance_of_season(np.log(values) if np.all(known > 0) else values, season)


def has_season(values: Floats, season: int | None) -> bool:
    return season is not None and season_chance(values, season) < SURE


def taken_off(values: Floats, season: int | None, *, robust: bool = False) -> tuple[Floats, Floats, float]:
    """(the values without their season, its last cycle, how strong it is) by STL (Cleveland and others, 1990).

    Strength is 1 − Var(rest) / Var(values − trend), after Wang, Smith and Hyndman (2006). A weak season is left in:
    then the cycle is all zeros.
    """
    if season is None or values.size < 2 * season or season < 2:
        return values, np.zeros(season or 1), 0.0
    from statsmodels.tsa.seasonal import STL

    found = STL(values, period=season, seasonal=STL_WINDOW, robust=robust).fit()
    detrended = float(np.var(values - found.trend))
    strength = max(0.0, 1 - float(np.var(found.resid)) / detrended) if detrended > 0 else 0.0
    if strength < STRONG_ENOUGH:
        return values, np.zeros(season), strength
    cycle = np.asarray(found.seasonal[-season:], dtype=np.float64)
    return np.asarray(values - found.seasonal, dtype=np.float64), cycle, strength


def cycled(cycle: Floats, ahead: int) -> Floats:
    """The last cycle repeated, for each period ahead."""
    return np.asarray(np.resize(cycle, ahead), dtype=np.float64)
