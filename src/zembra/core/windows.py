"""Arithmetic over a moving window of periods, blanks passed over."""

from __future__ import annotations

import numpy as np

from zembra.core.arrays import Floats, Ints


def window_bounds(size: int, window: int, before: int) -> tuple[Ints, Ints]:
    """First and one-past-last place of each point's window, cut at the ends of the series.

    before: how many periods of the window lie before the point (window - 1 is trailing, 0 leading).
    """
    at = np.arange(size, dtype=np.int64)
    first = np.maximum(at - before, 0)
    last = np.minimum(at - before + window, size)
    return first, last


def moving_average(values: Floats, window: int, before: int, need: int) -> tuple[Floats, Ints]:
    """(average, how many values it used) over each point's window; NaN where fewer than `need`.

    Each stretch of numbers is summed on its own running total, centred on the series' own mean, so
    that a long series loses no precision.
    """
    has = ~np.isnan(values)
    if not has.any():
        return np.full(values.size, np.nan), np.zeros(values.size, dtype=np.int64)
    centre = float(values[has].mean())
    total = np.concatenate(([0.0], np.cumsum(np.where(has, values - centre, 0.0))))
    count = np.concatenate(([0], np.cumsum(has)))
    first, last = window_bounds(values.size, window, before)
    used = count[last] - count[first]
    enough = used >= max(1, need)
    mean = (total[last] - total[first]) / np.maximum(used, 1) + centre
    return np.where(enough, mean, np.nan), np.asarray(used, dtype=np.int64)
