"""What is taken over a moving window, blanks passed over: means, sums, order statistics, spreads."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, field
from typing import Any

import numpy as np

from zembra.core.arithmetic.arrays import Bools, Floats, Ints
from zembra.core.arithmetic.spans import (
    counts_within,
    cut_bounds,
    fixed_bounds,
    moments_within,
    rising_sums_within,
    sums_within,
)
from zembra.core.arithmetic.windows import moving_average, moving_spread, moving_sum, stretches_between


@dataclass(frozen=True, slots=True)
class Windows:
    """A window for each point of a line.

    first, end: its first place and one past its last. whole: which are not cut at an end of the line. length,
    before: of windows that are all of one length, 0 where they are not. halved: even ones that are centred: the mean
    over them reaches one further, with half the weight at both ends. cuts: places at which things start afresh.
    """

    first: Ints
    end: Ints
    whole: Bools
    length: int = 0
    before: int = 0
    halved: bool = False
    cuts: Sequence[int] = field(default=())

    @property
    def size(self) -> int:
        return int(self.first.size)

    def counts(self, values: Floats) -> Ints:
        return counts_within(~np.isnan(values), self.first, self.end)


def fixed_windows(size: int, length: int, before: int, cuts: Sequence[int] = (), *, centred: bool = False) -> Windows:
    """Windows of `length` points, `before` of them before each point. centred: a mean over
    even ones is the two-step one."""
    first, end = fixed_bounds(size, length, before)
    first, end = cut_bounds(first, end, list(cuts))
    whole = np.asarray(end - first == length)
    return Windows(first, end, whole, length, before, centred and length % 2 == 0, tuple(cuts))


def free_windows(first: Ints, end: Ints, whole: Bools, cuts: Sequence[int] = ()) -> Windows:
    """Windows from a place to a place, as calendar time has them."""
    cut_first, cut_end = cut_bounds(first, end, list(cuts))
    return Windows(cut_first, cut_end, whole & (cut_first == first) & (cut_end == end), cuts=tuple(cuts))


def known_enough(values: Floats, found: Floats, windows: Windows, need: int) -> Floats:
    return np.where(windows.counts(values) >= max(1, need), found, np.nan)


def rolling_mean(values: Floats, windows: Windows, need: int) -> Floats:
    if windows.halved:
        weights = np.ones(windows.length + 1)
        weights[[0, -1]] = 0.5
        return weighted_mean(values, windows, need, weights)
    if windows.length:
        return moving_average(values, windows.length, windows.before, need, windows.cuts)[0]
    has = ~np.isnan(values)
    total = sums_within(np.where(has, values, 0.0), windows.first, windows.end)
    return known_enough(values, total / np.maximum(windows.counts(values), 1), windows, need)


def rolling_sum(values: Floats, windows: Windows, need: int) -> Floats:
    if windows.length:
        return moving_sum(values, windows.length, windows.before, need, windows.cuts)
    total = sums_within(np.nan_to_num(values), windows.first, windows.end)
    return known_enough(values, total, windows, need)


def rolling_count(values: Floats, windows: Windows, need: int) -> Floats:
    return known_enough(values, windows.counts(values).astype(np.float64), windows, need)


def rolling_spread(values: Floats, windows: Windows, need: int, *, population: bool = False) -> Floats:
    """Standard deviation over n − 1, or over n of a population."""
    least = 1 if population else 2
    if windows.length and not windows.halved and not population:
        return moving_spread(values, windows.length, windows.before, max(least, need), windows.cuts)
    count, _, rest = moments_within(values, windows.first, windows.end)
    variance = rest / np.maximum(count - (0 if population else 1), 1)
    return np.where(count >= max(least, need), np.sqrt(variance), np.nan)


def rising_mean(values: Floats, windows: Windows, need: int) -> Floats:
    """Mean with weights 1, 2, 3 … from the oldest place of a window to its newest; a blank takes its weight away, and
    where all windows are of one length a place beyond the ends does too."""
    if windows.length:
        return weighted_mean(values, windows, need, np.arange(1.0, windows.length + 1))
    has = ~np.isnan(values)
    above = rising_sums_within(np.where(has, values, 0.0), windows.first, windows.end)
    below = rising_sums_within(has.astype(np.float64), windows.first, windows.end)
    with np.errstate(invalid="ignore", divide="ignore"):
        return known_enough(values, above / below, windows, need)


def weighted_mean(values: Floats, windows: Windows, need: int, weights: Floats) -> Floats:
    """Mean with given weights from the oldest place of a full window to its newest; those of blanks, and of places
    beyond the ends, are taken away."""
    has = ~np.isnan(values)
    found = np.full(values.size, np.nan)
    for start, stop in stretches_between(windows.cuts, values.size):
        part = slice(start, stop)
        above = _dots(np.where(has[part], values[part], 0.0), weights, windows.before)
        below = _dots(has[part].astype(np.float64), weights, windows.before)
        with np.errstate(invalid="ignore", divide="ignore"):
            found[part] = np.where(below > 0, above / below, np.nan)
    return known_enough(values, found, windows, need)


def _dots(values: Floats, weights: Floats, before: int) -> Floats:
    """Each point's window times the weights, nothing beyond the ends."""
    padded = np.concatenate((np.zeros(before), values, np.zeros(weights.size - 1 - before)))
    return np.asarray(np.correlate(padded, weights, mode="valid"))


def rolling_order(values: Floats, windows: Windows, need: int, what: str, share: float = 0.5) -> Floats:
    """ "min", "max", "median" or the "quantile" of a share (0 to 1, linear between neighbours), by pandas."""
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
    """Mean of all so far, each step back weighing 1 − α of the one after it, the weights made to sum to one.

    decays: a blank lets the weights of what is before it fall once more; else it is passed over. A blank has no
    mean of its own. The formula is that of pandas' ewm with adjust=True.
    """
    import pandas as pd

    found = np.empty(values.size)
    for start, stop in stretches_between(cuts, values.size):
        part = pd.Series(values[start:stop], copy=False)
        mean = part.ewm(alpha=alpha, adjust=True, ignore_na=not decays, min_periods=max(1, need)).mean()
        found[start:stop] = mean.to_numpy()
    np.copyto(found, np.nan, where=np.isnan(values))
    return found
