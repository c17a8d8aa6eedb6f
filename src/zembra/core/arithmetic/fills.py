"""Fill missing values. Each function is pure; NaN is a missing value.

Only gaps between two numbers are ever filled: `inner_gaps` says which.
"""

from __future__ import annotations

import numpy as np

from zembra.core.arithmetic.arrays import Bools, Floats, Ints, runs


def inner_gaps(values: Floats, longest: int | None) -> Bools:
    """Return a mask of NaN between two numbers, in runs of at most `longest` periods. Leading and trailing NaN are
    no gaps.
    """
    missing = np.isnan(values)
    inside = np.zeros(values.size, dtype=bool)
    for first, end in runs(missing):
        if first > 0 and end < values.size and (longest is None or end - first <= longest):
            inside[first:end] = True
    return inside


def interpolated(values: Floats, at: Ints | None = None) -> Floats:
    """Replace NaN between two numbers by linear interpolation.

    at: positions of the points, by default their indices
    """
    places = np.arange(values.size) if at is None else at
    known = ~np.isnan(values)
    if not known.any():
        return values
    filled = np.interp(places, places[known], values[known], left=np.nan, right=np.nan)
    return np.where(np.isnan(values), filled, values)


def carried_on(values: Floats) -> Floats:
    """Replace NaN by the previous number (last observation carried forward)."""
    place = np.where(np.isnan(values), -1, np.arange(values.size))
    last = np.maximum.accumulate(place) if values.size else place
    return np.where(last >= 0, values[np.maximum(last, 0)], np.nan)


def carried_back(values: Floats) -> Floats:
    """Replace NaN by the next number (next observation carried backward)."""
    return carried_on(values[::-1])[::-1]


def neighbour_mean(values: Floats, reach: int) -> Floats:
    """Replace NaN by the mean of the numbers within `reach` periods on either side."""
    filled = values.copy()
    for at in np.flatnonzero(np.isnan(values)):
        near = values[max(0, at - reach) : at + reach + 1]
        near = near[~np.isnan(near)]
        if near.size:
            filled[at] = near.mean()
    return filled


def seasonal_usual(values: Floats, season: int, need: int = 1, reach: int = 4) -> Floats:
    """Replace NaN by the median at the same position of the season, over the nearest `reach` seasons on either
    side. It stays NaN where fewer than `need` of them are known.

    season: periods per season
    """
    filled = values.copy()
    for at in np.flatnonzero(np.isnan(values)):
        places = at + season * np.concatenate((np.arange(-reach, 0), np.arange(1, reach + 1)))
        usual = values[places[(places >= 0) & (places < values.size)]]
        usual = usual[~np.isnan(usual)]
        if usual.size >= max(1, need):
            filled[at] = np.median(usual)
    return filled
