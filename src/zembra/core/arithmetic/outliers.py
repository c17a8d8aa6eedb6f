"""Seven outlier rules. Each is a pure function of values, with NaN for missing ones.

A rule judges the values as they stand; setting one aside never changes what is thought of another.
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from zembra.core.arithmetic.arrays import Bools, Floats, Ints
from zembra.core.arithmetic.fills import carried_back, carried_on, interpolated, seasonal_usual
from zembra.core.arithmetic.regression import straight_fit
from zembra.core.arithmetic.robust import MAD_TO_SD
from zembra.core.arithmetic.rolling import rolling_middle
from zembra.core.arithmetic.season import has_season
from zembra.core.errors import Refusal

MOST_ROUNDS = 6  # decompositions, each without what stood out most in those before
NORMAL_80 = 1.2816  # Φ⁻¹(0.9): 80 % of a normal spread of one lie within it


@dataclass(frozen=True, slots=True)
class OutlierScores:
    """The verdict of an outlier rule.

    out: mask of outliers
    expected: expected value of each point
    nearest: nearest value that would pass. NaN where the rule is undefined.
    """

    out: Bools
    expected: Floats
    nearest: Floats


def _outside(values: Floats, expected: Floats, low: Floats, high: Floats, up: bool, down: bool) -> OutlierScores:
    over = (values > high) & up
    under = (values < low) & down
    nearest = np.where(over, high, np.where(under, low, values))
    return OutlierScores(over | under, expected, nearest)


def usual_move(values: Floats) -> float:
    """Return the median absolute difference of neighbours; NaN for fewer than two numbers."""
    known = values[~np.isnan(values)]
    return float(np.median(np.abs(np.diff(known)))) if known.size > 1 else float("nan")


def away_from_neighbours(
    values: Floats, far: float, *, percent: bool, up: bool = True, down: bool = True, ends: bool = False
) -> OutlierScores:
    """Flag values more than `far` from both the previous and the next number, skipping NaN.

    percent: whether `far` is a share of each neighbour
    up, down: flag values above, or below, both neighbours; with both, also between them
    ends: compare the first and last number with their only neighbour
    """
    # the neighbours of a number: carried forward to the place before it, and the place after
    before = np.concatenate(([np.nan], carried_on(values)[:-1]))
    after = np.concatenate((carried_back(values)[1:], [np.nan]))
    if ends:
        before, after = np.where(np.isnan(before), after, before), np.where(np.isnan(after), before, after)
    far_before = np.abs(before) * far / 100 if percent else np.full(values.size, far)
    far_after = np.abs(after) * far / 100 if percent else np.full(values.size, far)
    if up and down:
        out = (np.abs(values - before) > far_before) & (np.abs(values - after) > far_after)
    elif up:
        out = (values > before + far_before) & (values > after + far_after)
    else:
        out = (values < before - far_before) & (values < after - far_after) & down
    at = np.flatnonzero(out)
    by_before = before[at] + np.sign(values[at] - before[at]) * far_before[at]
    by_after = after[at] + np.sign(values[at] - after[at]) * far_after[at]
    closer = np.abs(values[at] - by_before) <= np.abs(values[at] - by_after)
    nearest = values.copy()
    nearest[at] = np.where(closer, by_before, by_after)
    return OutlierScores(out, (before + after) / 2, nearest)


def away_from_trend(values: Floats, x: Floats, far: float, *, percent: bool, up: bool, down: bool) -> OutlierScores:
    """Flag values away from the straight trend line, by a percentage of it or by multiples of the residual spread."""
    fit = straight_fit(x, values)
    if fit is None:
        raise Refusal("There are too few numbers for a trend line.", todo="Choose another rule.")
    expected = fit.at(x)
    reach = np.abs(expected) * far / 100 if percent else np.full(values.size, far * fit.spread)
    return _outside(values, expected, expected - reach, expected + reach, up, down)


def away_from_middle(values: Floats, window: int, far: float, *, up: bool, down: bool) -> OutlierScores:
    """Hampel identifier: flag values away from the rolling median by multiples of the scaled median absolute
    deviation. If more than half of a window is one value, the deviation is zero and any other value is flagged.

    Source: Hampel, The influence curve and its role in robust estimation, JASA 69 (1974).
    """
    middle, deviation = rolling_middle(values, window)
    reach = far * MAD_TO_SD * deviation
    return _outside(values, middle, middle - reach, middle + reach, up, down)


def beyond_fence(values: Floats, far: float, *, up: bool, down: bool) -> OutlierScores:
    """Flag values beyond the quartiles by multiples of the interquartile range (Tukey's fence, usually 1.5)."""
    known = values[~np.isnan(values)]
    if known.size < 4:
        raise Refusal("There are too few numbers for quartiles.", todo="Choose another rule.")
    lower, middle, upper = np.quantile(known, (0.25, 0.5, 0.75))
    reach = far * (upper - lower)
    full = np.ones(values.size)
    return _outside(values, full * middle, full * (lower - reach), full * (upper + reach), up, down)


def local_spread(rest: Floats, reach: int) -> Floats:
    """Return the 80 % quantile of absolute values within `reach` points on either side, scaled to a standard
    deviation.
    """
    if not rest.size:
        return rest
    sizes = np.concatenate((np.full(reach, np.nan), np.abs(rest), np.full(reach, np.nan)))
    windows = np.lib.stride_tricks.sliding_window_view(sizes, 2 * reach + 1)
    block = max(1, 4_000_000 // (2 * reach + 1))
    parts = [np.nanquantile(windows[at : at + block], 0.8, axis=1) for at in range(0, rest.size, block)]
    return np.concatenate(parts) / NORMAL_80


def away_from_season(values: Floats, season: int, far: float, *, up: bool, down: bool) -> OutlierScores:
    """Flag residuals of a seasonal-trend decomposition beyond multiples of their local spread. A season must exist
    (see `has_season`). Gaps are closed for the decomposition only; the largest outlier is left out of the next of a
    few rounds.

    values: evenly spaced
    Source: Cleveland et al., STL: A seasonal-trend decomposition procedure based on loess, J. Official Statistics 6
    (1990), with a seasonal window of 15.
    """
    known = np.flatnonzero(~np.isnan(values))
    if known.size < 2 * season + 1:
        raise Refusal(
            f"A season of {season} needs more than {2 * season} numbers; there are {known.size}.",
            todo="Shorten the season, or choose another rule.",
        )
    from scipy.ndimage import maximum_filter1d

    if not has_season(values, season):
        raise Refusal(
            f"There is no season of {season}: its changes do not go by their place in it.",
            todo="Choose another length, or another rule.",
        )
    part = slice(int(known[0]), int(known[-1]) + 1)
    window = max(2 * season, 20)
    whole = interpolated(seasonal_usual(values[part], season))
    expected, reach = (np.full(values.size, np.nan) for _ in range(2))
    left_out = np.zeros(values.size, dtype=bool)
    for _ in range(MOST_ROUNDS):
        trend, wave = _pattern(whole, season)
        expected[part] = trend + wave
        rest = values - expected
        reach[part] = far * local_spread(rest[part], window)
        size = np.where((np.abs(rest) > reach) & ~left_out, np.abs(rest), 0.0)
        worst = (size > 0) & (size == maximum_filter1d(size, 2 * window + 1, mode="constant"))
        left_out |= worst
        if not left_out.any():
            break
        # repeat without it, as a large outlier distorts the pattern of its neighbours
        flat = np.where(left_out, np.nan, values)[part] - trend
        whole = trend + interpolated(seasonal_usual(flat, season), None)
        whole = np.where(np.isnan(whole), trend + wave, whole)
    return _outside(values, expected, expected - reach, expected + reach, up, down)


def _pattern(whole: Floats, season: int) -> tuple[Floats, Floats]:
    """Return trend and season of a decomposition.

    whole: without NaN
    """
    from statsmodels.tsa.seasonal import STL

    parts = STL(whole, period=season, seasonal=15).fit()
    return np.asarray(parts.trend, dtype=np.float64), np.asarray(parts.seasonal, dtype=np.float64)


def outside_limits(values: Floats, low: float | None, high: float | None) -> OutlierScores:
    """Flag values below `low` or above `high`; None is no limit."""
    full = np.ones(values.size)
    lows = full * (-np.inf if low is None else low)
    highs = full * (np.inf if high is None else high)
    nearest = np.clip(values, lows, highs)
    return _outside(values, nearest, lows, highs, True, True)


def picked(values: Floats, periods: Ints, chosen: frozenset[int], *, irregular: bool = False) -> OutlierScores:
    """Flag periods picked by hand; expected values are interpolated, by date where irregular."""
    out = np.isin(periods, list(chosen)) & ~np.isnan(values)
    expected = interpolated(np.where(out, np.nan, values), periods if irregular else None)
    return OutlierScores(out, expected, expected)
