"""Arithmetic over a moving window of periods, blanks passed over."""

from __future__ import annotations

from collections.abc import Sequence
from itertools import pairwise
from typing import Any

import numpy as np

from zembra.core.arrays import Bools, Floats, Ints


def moving_average(
    values: Floats, window: int, before: int, need: int, cuts: Sequence[int] = ()
) -> tuple[Floats, Ints]:
    """(average, how many values it used) over each point's window; NaN where fewer than `need`.

    cuts: places at which the average starts afresh.
    """
    stretches = _stretches(values.size, cuts)
    if len(stretches) > 1:
        parts = [moving_average(values[a:b], window, before, need) for a, b in stretches]
        return np.concatenate([mean for mean, _ in parts]), np.concatenate([used for _, used in parts])
    has = ~np.isnan(values)
    if not has.any():
        return np.full(values.size, np.nan), np.zeros(values.size, dtype=np.int64)
    whole = bool(has.all())
    centre = float(values.mean() if whole else values[has].mean())
    # summed around the series' own mean, so that a long running total loses no precision
    rest = values - centre if whole else np.where(has, values - centre, 0.0)
    used = _window_sums(has.astype(np.int64), window, before)
    mean = _window_sums(rest, window, before)
    mean /= np.maximum(used, 1)
    mean += centre
    mean[used < max(1, need)] = np.nan
    return mean, used


def moving_spread(values: Floats, window: int, before: int, need: int, cuts: Sequence[int] = ()) -> Floats:
    """Standard deviation (over n - 1) of the numbers in each point's window; NaN where fewer than `need`,
    and never fewer than two.
    """
    centred = values - np.nanmean(values) if (~np.isnan(values)).any() else values
    mean, used = moving_average(centred, window, before, max(2, need), cuts)
    square, _ = moving_average(centred**2, window, before, max(2, need), cuts)
    variance = (square - mean**2) * used / np.maximum(used - 1, 1)
    return np.sqrt(np.maximum(variance, 0.0))


def _stretches(size: int, cuts: Sequence[int]) -> list[tuple[int, int]]:
    """The stretches between cuts, as (first, one past the last) places."""
    return list(pairwise([0, *(cut for cut in sorted(set(cuts)) if 0 < cut < size), size]))


def _window_sums(values: Any, window: int, before: int) -> Any:
    """The sum over each point's window, cut at the ends: differences of one running total."""
    size = values.size
    total = np.zeros(size + window, dtype=values.dtype)
    np.cumsum(values, out=total[before + 1 : before + 1 + size])
    total[before + 1 + size :] = total[before + size]
    return total[window:] - total[:size]


def touches(mask: Bools, window: int, before: int, cuts: Sequence[int] = ()) -> Bools:
    """Whether each point's window holds any point of `mask`."""
    counts = [_window_sums(mask[a:b].astype(np.int64), window, before) for a, b in _stretches(mask.size, cuts)]
    return np.asarray(np.concatenate(counts) > 0)


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
