"""Whether a history has a season, how strong it is, and taking it off."""

from __future__ import annotations

import numpy as np

from zembra.core.arithmetic.arrays import Floats

SURE = 0.001  # chance below which a season is taken as there
STRONG_ENOUGH = 0.3
STL_WINDOW = 11
STRENGTH = "Strength of the season taken off"


def season_chance(values: Floats, season: int) -> float:
    """The chance that differences as unlike between places of a season come without one: an F test of season dummies on
    the differences of the logarithm, or of the value where that has none. 1 where the history is too short.

    values: on every period of the row, NaN where there is no number, so that a gap shifts no place. The linear trend is
    gone by the differences, and no initial state is estimated, so that noise is not taken for a
    season (as comparing forms of smoothing by AICc does, which counts no initial states).
    """
    if values.size < 2 * season + 1 or season < 2:
        return 1.0
    known = values[~np.isnan(values)]
    told = np.log(values) if np.all(known > 0) else values
    every = np.diff(told)
    here = ~np.isnan(every)
    steps, place = every[here], np.flatnonzero(here) % season
    if steps.size < 2 * season:
        return 1.0
    count = np.bincount(place, minlength=season)
    means = np.bincount(place, steps, season) / np.maximum(count, 1)
    rest = float(((steps - means[place]) ** 2).sum())
    between = float((count * (means - steps.mean()) ** 2).sum())
    freedom = steps.size - season
    if freedom < 1 or between <= 0:
        return 1.0
    if rest <= 1e-12 * between:
        return 0.0
    from scipy.special import fdtrc

    return float(fdtrc(season - 1, freedom, between / (season - 1) / (rest / freedom)))


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
