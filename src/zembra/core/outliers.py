"""Which values stand out, by seven rules. Each is a pure function of values with NaN for none.

A rule judges the values as they stand; setting one aside never changes what is thought of another.
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from zembra.core.arrays import Bools, Floats, Ints
from zembra.core.errors import Refusal
from zembra.core.fills import carried_back, carried_on, straight_line
from zembra.core.regression import straight_fit
from zembra.core.windows import rolling_middle

MAD_TO_SD = 1.482602218505602  # 1 / Φ⁻¹(3/4): the median absolute deviation of a normal spread of one


@dataclass(frozen=True, slots=True)
class Judged:
    """out: the values that stand out. expected: what was expected of each point. nearest: the nearest
    value that would not have stood out. All NaN where the rule says nothing.
    """

    out: Bools
    expected: Floats
    nearest: Floats


def _outside(values: Floats, expected: Floats, low: Floats, high: Floats, up: bool, down: bool) -> Judged:
    over = (values > high) & up
    under = (values < low) & down
    nearest = np.where(over, high, np.where(under, low, values))
    return Judged(over | under, expected, nearest)


def usual_move(values: Floats) -> float:
    """The median size of a move from one number to the next; NaN where there are fewer than two."""
    known = values[~np.isnan(values)]
    return float(np.median(np.abs(np.diff(known)))) if known.size > 1 else float("nan")


def away_from_neighbours(
    values: Floats, far: float, *, percent: bool, up: bool = True, down: bool = True, ends: bool = False
) -> Judged:
    """More than `far` from the previous and the next number, blanks between them passed over.

    percent: far is a share of each neighbour's size. up, down: both neighbours lie below, or above;
    with both, they may lie on different sides. ends: the first and the last number are judged by
    their only neighbour, else not at all.
    """
    # a number's own neighbours: what was carried as far as the place before it, and the place after
    before = np.concatenate(([np.nan], carried_on(values)[:-1]))
    after = np.concatenate((carried_back(values)[1:], [np.nan]))
    if ends:
        before, after = np.where(np.isnan(before), after, before), np.where(np.isnan(after), before, after)
    far_before = np.abs(before) * far / 100 if percent else np.full(values.size, far)
    far_after = np.abs(after) * far / 100 if percent else np.full(values.size, far)
    over = (values > before + far_before) & (values > after + far_after)
    under = (values < before - far_before) & (values < after - far_after)
    if up and down:
        out = (np.abs(values - before) > far_before) & (np.abs(values - after) > far_after)
    else:
        out = (over & up) | (under & down)
    by_before = before + np.sign(values - before) * far_before
    by_after = after + np.sign(values - after) * far_after
    closer = np.abs(values - by_before) <= np.abs(values - by_after)
    return Judged(out, (before + after) / 2, np.where(out, np.where(closer, by_before, by_after), values))


def away_from_trend(values: Floats, x: Floats, far: float, *, percent: bool, up: bool, down: bool) -> Judged:
    """Away from the straight trend line, by a percentage of it or by multiples of its residual spread."""
    fit = straight_fit(x, values)
    if fit is None:
        raise Refusal("There are too few numbers for a trend line.", todo="Choose another rule.")
    expected = fit.at(x)
    reach = np.abs(expected) * far / 100 if percent else np.full(values.size, far * fit.spread)
    return _outside(values, expected, expected - reach, expected + reach, up, down)


def away_from_middle(values: Floats, window: int, far: float, *, up: bool, down: bool) -> Judged:
    """Hampel identifier: away from the rolling median by multiples of the scaled median absolute deviation.

    Where more than half of a window is one value its deviation is zero, and any other value stands out.
    Source: Hampel, The influence curve and its role in robust estimation, JASA 69 (1974).
    """
    middle, deviation = rolling_middle(values, window)
    reach = far * MAD_TO_SD * deviation
    return _outside(values, middle, middle - reach, middle + reach, up, down)


def beyond_fence(values: Floats, far: float, *, up: bool, down: bool) -> Judged:
    """Beyond the quartiles by multiples of their distance (Tukey's fence, 1.5 by custom)."""
    known = values[~np.isnan(values)]
    if known.size < 4:
        raise Refusal("There are too few numbers for quartiles.", todo="Choose another rule.")
    lower, middle, upper = np.quantile(known, (0.25, 0.5, 0.75))
    reach = far * (upper - lower)
    full = np.ones(values.size)
    return _outside(values, full * middle, full * (lower - reach), full * (upper + reach), up, down)


def away_from_season(values: Floats, season: int, far: float, *, up: bool, down: bool) -> Judged:
    """Residuals of a robust seasonal-trend decomposition beyond multiples of their scaled deviation.

    Gaps are closed on a straight line for the decomposition only. Source: Cleveland et al., STL: A
    seasonal-trend decomposition procedure based on loess, J. Official Statistics 6 (1990).
    """
    known = np.flatnonzero(~np.isnan(values))
    if known.size < 2 * season + 1:
        raise Refusal(
            f"A season of {season} needs more than {2 * season} numbers; there are {known.size}.",
            todo="Shorten the season, or choose another rule.",
        )
    from statsmodels.tsa.seasonal import STL

    first, last = int(known[0]), int(known[-1]) + 1
    parts = STL(straight_line(values[first:last]), period=season, robust=True).fit()
    expected = np.full(values.size, np.nan)
    expected[first:last] = np.asarray(parts.trend) + np.asarray(parts.seasonal)
    left = (values - expected)[known]
    reach = far * MAD_TO_SD * float(np.median(np.abs(left - np.median(left))))
    return _outside(values, expected, expected - reach, expected + reach, up, down)


def outside_limits(values: Floats, low: float | None, high: float | None) -> Judged:
    """Below `low` or above `high`; None is no limit."""
    full = np.ones(values.size)
    lows = full * (-np.inf if low is None else low)
    highs = full * (np.inf if high is None else high)
    nearest = np.clip(values, lows, highs)
    return _outside(values, nearest, lows, highs, True, True)


def picked(values: Floats, periods: Ints, chosen: frozenset[int]) -> Judged:
    """The periods picked by hand; each is expected between its neighbours."""
    out = np.isin(periods, list(chosen)) & ~np.isnan(values)
    expected = straight_line(np.where(out, np.nan, values))
    return Judged(out, expected, expected)
