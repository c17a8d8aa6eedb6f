"""Whether values go by their place in a season."""

from __future__ import annotations

import numpy as np

from zembra.core.arithmetic.arrays import Floats

SURE = 0.001  # chance below which a season is taken as there


def season_chance(values: Floats, season: int) -> float:
    """The chance that differences as unlike between places of a season come without one: an F test of season dummies on
    first differences. 1 where there are too few.

    values: at even steps, NaN where there is no number, so that a gap shifts no place. The linear trend is gone by the
    differences, and no initial state is estimated, so that noise is not taken for a season (as comparing forms of smoothing
    by AICc does, which counts no initial states).
    """
    from scipy.special import fdtrc

    every = np.diff(values)
    at = np.flatnonzero(~np.isnan(every))
    steps, place = every[at], at % season
    counts = np.bincount(place, minlength=season)
    used = int(np.count_nonzero(counts))
    freedom = steps.size - used
    if used < 2 or steps.size < 2 * season or freedom < 1:
        return 1.0
    means = np.bincount(place, steps, season) / np.maximum(counts, 1)
    rest = float(((steps - means[place]) ** 2).sum())
    between = float((counts * (means - steps.mean()) ** 2).sum())
    if between <= 0:
        return 1.0
    if rest <= 1e-12 * between:
        return 0.0
    return float(fdtrc(used - 1, freedom, between / (used - 1) / (rest / freedom)))


def has_season(values: Floats, season: int) -> bool:
    return season_chance(values, season) < SURE
