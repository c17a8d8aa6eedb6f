"""Test whether values have a season."""

from __future__ import annotations

import numpy as np

from zembra.core.arithmetic.arrays import Floats, Ints

SURE = 0.01  # chance below which a season is taken as there
MOST_LAGS = 12
POINTS_A_LAG = 10
FURTHER_LAGS = 2  # than the corrected Akaike criterion asks for, with which a season must still be there


def season_chance(values: Floats, season: int) -> float:
    """Return the p-value of a season; 1 if there are too few values.

    values: evenly spaced, NaN for gaps
    An F test of season dummies beside a straight line and p lags of the values, fewer than the season length, so
    that autocorrelation is not taken for a season. p is chosen by AICc, and the largest p-value of p … p + 2 lags
    is returned. For simulated noise, random walks, autoregressions and moving averages it is below 0.01 in 0 to 2 %
    of cases (tests/core/test_projection.py).
    """
    if season < 2 or values.size < 2 * season + 1:
        return 1.0
    most = int(max(0, min(MOST_LAGS, values.size // POINTS_A_LAG, season - 1)))
    furthest = _lags_known(values, min(most + FURTHER_LAGS, season - 1))
    most = min(most, furthest)
    table, place = _table(values, furthest, season)
    if place.size < 2 * season:
        return 1.0
    by_place, used = _centred(table, place, season)
    full, without = (_rest_by_lags(columns) for columns in (by_place, table - table.mean(axis=0)))
    points = place.size
    parameters = used + 2 + np.arange(most + 1)
    freedom = points - parameters
    if used < 2 or freedom[0] < 1:
        return 1.0
    if without[0] <= 0:
        return 1.0
    if full[0] <= 1e-12 * without[0]:
        return 0.0
    open_ = freedom > 1
    with np.errstate(divide="ignore"):
        aicc = points * np.log(full[: most + 1] / points) + 2 * parameters * points / np.maximum(freedom - 1, 1)
    lags = int(np.argmin(np.where(open_, aicc, np.inf)))
    return max(
        _chance(full[p], without[p], used - 1, points - used - 1 - p)
        for p in range(lags, min(lags + FURTHER_LAGS, furthest) + 1)
    )


def has_season(values: Floats, season: int) -> bool:
    return season_chance(values, season) < SURE


def _lags_known(values: Floats, most: int) -> int:
    """Return the largest number of lags that at least half of the values have in full."""
    known = ~np.isnan(values)
    together = known.copy()
    for lag in range(1, most + 1):
        together[lag:] &= known[:-lag]
        if 2 * int(together[lag:].sum()) < int(known.sum()):
            return lag - 1
    return most


def _chance(full: float, without: float, places: int, freedom: int) -> float:
    from scipy.special import fdtrc

    if freedom < 1:
        return 1.0
    if full <= 1e-12 * without:
        return 0.0
    return float(fdtrc(places, freedom, max(without - full, 0.0) / places / (full / freedom)))


def _table(values: Floats, lags: int, season: int) -> tuple[Floats, Ints]:
    """Return time, lags and value where all are known, and the position of each in the season."""
    count = values.size - lags
    columns = [np.linspace(-1, 1, count), *(values[lags - lag : values.size - lag] for lag in range(1, lags + 1))]
    table = np.column_stack((*columns, values[lags:]))
    known = ~np.isnan(table).any(axis=1)
    return table[known], (np.arange(lags, values.size) % season)[known]


def _centred(table: Floats, place: Ints, season: int) -> tuple[Floats, int]:
    """Return each column minus its mean by position, and the number of positions."""
    counts = np.bincount(place, minlength=season)
    sums = np.array([np.bincount(place, column, season) for column in table.T])
    means = sums / np.maximum(counts, 1)
    return table - means[:, place].T, int(np.count_nonzero(counts))


def _rest_by_lags(table: Floats) -> Floats:
    """Return the residual sum of squares of the last column after the line and the first 0, 1, 2 … lags."""
    triangle: Floats = np.asarray(np.linalg.qr(table, mode="r"))
    below = np.cumsum(triangle[::-1, -1] ** 2)[::-1]
    return np.asarray(below[1:])
