"""What can be put where nothing was measured. Each function is pure and fills whole gaps or nothing."""

from __future__ import annotations

import numpy as np

from zembra.core.arrays import Bools, Floats, runs


def inner_gaps(values: Floats, longest: int | None) -> Bools:
    """Where `values` is NaN between two numbers, in stretches of at most `longest` periods.

    Leading and trailing NaN are never part of a gap.
    """
    missing = np.isnan(values)
    inside = np.zeros(values.size, dtype=bool)
    for first, end in runs(missing):
        if first > 0 and end < values.size and (longest is None or end - first <= longest):
            inside[first:end] = True
    return inside


def straight_line(values: Floats) -> Floats:
    """NaN between two numbers replaced by the straight line between them, by place in the array."""
    known = np.flatnonzero(~np.isnan(values))
    if known.size == 0:
        return values
    filled = np.interp(np.arange(values.size), known, values[known], left=np.nan, right=np.nan)
    return np.where(np.isnan(values), filled, values)


def seasonal_usual(values: Floats, season: int, need: int = 1, reach: int = 4) -> Floats:
    """NaN replaced by the median of the values at the same place of the season.

    The nearest `reach` seasons on either side are looked at; a place with fewer than `need` values
    among them stays NaN. season: periods per season.
    """
    filled = values.copy()
    for at in np.flatnonzero(np.isnan(values)):
        places = at + season * np.concatenate((np.arange(-reach, 0), np.arange(1, reach + 1)))
        usual = values[places[(places >= 0) & (places < values.size)]]
        usual = usual[~np.isnan(usual)]
        if usual.size >= max(1, need):
            filled[at] = np.median(usual)
    return filled
