"""Rolling statistics, skipping missing values: means, sums, order statistics, spreads."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Any

import numpy as np

from zembra.core.arithmetic.arrays import Floats, Ints
from zembra.core.arithmetic.moments import rising_sums_within, spreads_within, sums_within
from zembra.core.arithmetic.windows import Windows, stretches_between

MOST_LAID_OUT = 4_000_000  # numbers of all windows that are laid out beside each other


def _known_enough(values: Floats, found: Floats, windows: Windows, need: int) -> Floats:
    """Replace results by NaN where a window holds fewer than `need` numbers."""
    found[windows.counts(~np.isnan(values)) < max(1, need)] = np.nan
    return found


def rolling_mean(values: Floats, windows: Windows, need: int) -> Floats:
    if windows.halved:
        weights = np.ones(windows.length + 1)
        weights[[0, -1]] = 0.5
        return weighted_mean(values, windows, need, weights)
    counts = windows.counts(~np.isnan(values))
    found = sums_within(values, windows)
    found /= np.maximum(counts, 1)
    found[counts < max(1, need)] = np.nan
    return found


def rolling_sum(values: Floats, windows: Windows, need: int) -> Floats:
    return _known_enough(values, sums_within(values, windows), windows, need)


def rolling_count(values: Floats, windows: Windows, need: int) -> Floats:
    return _known_enough(values, windows.counts(~np.isnan(values)).astype(np.float64), windows, need)


def rolling_spread(values: Floats, windows: Windows, need: int, *, population: bool = False) -> Floats:
    """Return the standard deviation over n − 1, or over n for a population."""
    least = 1 if population else 2
    return spreads_within(values, windows, max(least, need), least - 1)


def rising_mean(values: Floats, windows: Windows, need: int) -> Floats:
    """Return the mean with weights 1, 2, 3 … from the oldest to the newest place. NaN loses its weight, and for
    windows of one length a place beyond the ends does too.
    """
    if windows.length:
        return _rising_of_one_length(values, windows, need)
    has = ~np.isnan(values)
    above = rising_sums_within(values, windows)
    below = rising_sums_within(has.astype(np.float64), windows)
    with np.errstate(invalid="ignore", divide="ignore"):
        return _known_enough(values, above / below, windows, need)


def _rising_of_one_length(values: Floats, windows: Windows, need: int) -> Floats:
    """Return the rising mean of windows of one length. The weights are integers, so that their running totals are
    exact; the values are summed window by window.
    """
    length = windows.length
    weights = np.arange(1.0, length + 1)
    found = np.full(values.size, np.nan)
    for start, stop in stretches_between(windows.cuts, values.size):
        known = values[start:stop]
        has = ~np.isnan(known)
        above = _dots(np.where(has, known, 0.0), weights, windows.before)
        padded = np.zeros(stop - start + length, dtype=np.int64)
        padded[1 + windows.before : 1 + windows.before + stop - start] = has
        count = np.cumsum(padded)
        placed = np.cumsum(padded * np.arange(padded.size))
        many = count[length:] - count[:-length]
        # the first place of window n stands at n + 1, and has the weight 1
        below = placed[length:] - placed[:-length] - np.arange(many.size) * many
        below[many < max(1, need)] = 0
        with np.errstate(invalid="ignore", divide="ignore"):
            np.divide(above, below, out=found[start:stop], where=below > 0)
    return found


def weighted_mean(values: Floats, windows: Windows, need: int, weights: Floats) -> Floats:
    """Return the mean with given weights from the oldest to the newest place of a full window, without those of NaN
    and of places beyond the ends.
    """
    has = ~np.isnan(values)
    found = np.full(values.size, np.nan)
    for start, stop in stretches_between(windows.cuts, values.size):
        part = slice(start, stop)
        above = _dots(np.where(has[part], values[part], 0.0), weights, windows.before)
        below = _dots(has[part].astype(np.float64), weights, windows.before)
        with np.errstate(invalid="ignore", divide="ignore"):
            found[part] = np.where(below > 0, above / below, np.nan)
    return _known_enough(values, found, windows, need)


def _dots(values: Floats, weights: Floats, before: int) -> Floats:
    """Return the weighted sum over each window, with nothing beyond the ends."""
    padded = np.concatenate((np.zeros(before), values, np.zeros(weights.size - 1 - before)))
    return np.asarray(np.correlate(padded, weights, mode="valid"))


def rolling_order(values: Floats, windows: Windows, need: int, what: str, share: float = 0.5) -> Floats:
    """Return a rolling order statistic by pandas: "min", "max", "median", or the "quantile" of a share (0 to 1,
    linear between neighbours).
    """
    rolled = _rolled(values, windows, need)
    found = rolled.quantile(share) if what == "quantile" else getattr(rolled, what)()
    return np.asarray(found, dtype=np.float64)


def _rolled(values: Floats, windows: Windows, need: int) -> Any:
    # slow to import
    import pandas as pd
    from pandas.api.indexers import BaseIndexer

    class Bounds(BaseIndexer):
        def get_window_bounds(
            self, num_values: int = 0, min_periods: Any = None, center: Any = None, closed: Any = None, step: Any = None
        ) -> tuple[Ints, Ints]:
            return windows.first, windows.end

    return pd.Series(values).rolling(Bounds(window_size=1), min_periods=max(1, need))


def exponential_mean(values: Floats, alpha: float, need: int, cuts: Sequence[int], *, decays: bool) -> Floats:
    """Return the exponentially weighted mean, with weights falling by 1 − α a step and normalised. NaN has no mean.
    The formula is that of pandas' ewm with adjust=True.

    decays: whether a NaN lets earlier weights fall; otherwise it is skipped
    """
    import pandas as pd

    found = np.empty(values.size)
    for start, stop in stretches_between(cuts, values.size):
        part = pd.Series(values[start:stop], copy=False)
        mean = part.ewm(alpha=alpha, adjust=True, ignore_na=not decays, min_periods=max(1, need)).mean()
        found[start:stop] = mean.to_numpy()
    np.copyto(found, np.nan, where=np.isnan(values))
    return found


def rolling_middle(values: Floats, window: int) -> tuple[Floats, Floats]:
    """Return the rolling median, and the median absolute deviation from it, over a centred window cut at the ends,
    skipping NaN. The deviation is from the window's own median (Hampel identifier), so it is no rolling median of a
    rolling median. Computed in blocks to bound memory.
    """
    middle = np.empty(values.size)
    spread = np.empty(values.size)
    if not values.size:
        return middle, spread
    before = window // 2
    padded = np.concatenate((np.full(before, np.nan), values, np.full(window - 1 - before, np.nan)))
    windows = np.lib.stride_tricks.sliding_window_view(padded, window)
    block = max(1, MOST_LAID_OUT // window)
    for start in range(0, values.size, block):
        part = windows[start : start + block]
        centre = _row_medians(part)
        middle[start : start + block] = centre
        spread[start : start + block] = _row_medians(np.abs(part - centre[:, None]))
    return middle, spread


def _row_medians(rows: Floats) -> Floats:
    """Return the median of each row, skipping NaN; NaN for empty rows."""
    ordered = np.sort(rows, axis=1)  # NaN goes last
    count = (~np.isnan(ordered)).sum(axis=1)
    at = np.arange(rows.shape[0])
    low = ordered[at, np.maximum(count - 1, 0) // 2]
    high = ordered[at, np.minimum(count // 2, rows.shape[1] - 1)]
    return np.where(count > 0, (low + high) / 2, np.nan)
