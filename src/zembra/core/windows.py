"""Arithmetic over a moving window of periods, blanks passed over."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np

from zembra.core.arrays import Bools, Floats, Ints


def window_bounds(size: int, window: int, before: int, cuts: Sequence[int] = ()) -> tuple[Ints, Ints]:
    """First and one-past-last place of each point's window, cut at the ends of the series and at `cuts`.

    before: how many periods of the window lie before the point (window - 1 is trailing, 0 leading).
    cuts: places at which the window starts afresh.
    """
    at = np.arange(size, dtype=np.int64)
    first = np.maximum(at - before, 0)
    last = np.minimum(at - before + window, size)
    for cut in cuts:
        first[cut:] = np.maximum(first[cut:], cut)
        last[:cut] = np.minimum(last[:cut], cut)
    return first, last


def moving_average(
    values: Floats, window: int, before: int, need: int, cuts: Sequence[int] = ()
) -> tuple[Floats, Ints]:
    """(average, how many values it used) over each point's window; NaN where fewer than `need`.

    cuts: places at which the average starts afresh.

    Each stretch of numbers is summed on its own running total, centred on the series' own mean, so
    that a long series loses no precision.
    """
    has = ~np.isnan(values)
    if not has.any():
        return np.full(values.size, np.nan), np.zeros(values.size, dtype=np.int64)
    centre = float(values[has].mean())
    total = np.concatenate(([0.0], np.cumsum(np.where(has, values - centre, 0.0))))
    count = np.concatenate(([0], np.cumsum(has)))
    first, last = window_bounds(values.size, window, before, cuts)
    used = count[last] - count[first]
    enough = used >= max(1, need)
    mean = (total[last] - total[first]) / np.maximum(used, 1) + centre
    return np.where(enough, mean, np.nan), np.asarray(used, dtype=np.int64)


def touches(mask: Bools, window: int, before: int, cuts: Sequence[int] = ()) -> Bools:
    """Whether each point's window holds any point of `mask`."""
    total = np.concatenate(([0], np.cumsum(mask)))
    first, last = window_bounds(mask.size, window, before, cuts)
    return np.asarray(total[last] > total[first])


def rolling_middle(values: Floats, window: int) -> tuple[Floats, Floats]:
    """(median, median absolute deviation from it) over a centred window, cut at the ends; NaN passed over.

    The deviation is taken from the window's own median (Hampel identifier), so it is no rolling
    median of a rolling median. Worked off in blocks, as every window is laid out side by side.
    """
    half = window // 2
    padded = np.concatenate((np.full(half, np.nan), values, np.full(window - 1 - half, np.nan)))
    windows = np.lib.stride_tricks.sliding_window_view(padded, window)
    middle = np.empty(values.size)
    spread = np.empty(values.size)
    block = max(1, 4_000_000 // window)
    for start in range(0, values.size, block):
        part = windows[start : start + block]
        centre = _row_medians(part)
        middle[start : start + block] = centre
        spread[start : start + block] = _row_medians(np.abs(part - centre[:, None]))
    return middle, spread


def _row_medians(rows: Floats) -> Floats:
    """The median of each row, NaN passed over; NaN for a row of nothing else."""
    ordered = np.sort(rows, axis=1)  # NaN goes last
    count = (~np.isnan(ordered)).sum(axis=1)
    at = np.arange(rows.shape[0])
    low = ordered[at, np.maximum(count - 1, 0) // 2]
    high = ordered[at, np.minimum(count // 2, rows.shape[1] - 1)]
    return np.where(count > 0, (low + high) / 2, np.nan)
