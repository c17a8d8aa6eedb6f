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
    """Return the p-value of a season in the logarithms, or in the values if some are not positive (see
    `arithmetic.season.season_chance`); 1 for short histories.
    """
    known = values[~np.isnan(values)]
    return chance_of_season(np.log(values) if np.all(known > 0) else values, season)


def has_season(values: Floats, season: int | None) -> bool:
    return season is not None and season_chance(values, season) < SURE


def taken_off(values: Floats, season: int | None, *, robust: bool = False) -> tuple[Floats, Floats, float]:
    """Return the values without season, its last cycle, and its strength, by STL (Cleveland et al., 1990). Strength
    is 1 − Var(rest) / Var(values − trend) (Wang, Smith and Hyndman, 2006). A weak season is kept in the values,
    with a cycle of zeros.
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
    """Repeat the last cycle over the horizon."""
    return np.asarray(np.resize(cycle, ahead), dtype=np.float64)
