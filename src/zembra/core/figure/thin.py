"""Thin out points for a chart, keeping the extremes of every stretch."""

from __future__ import annotations

import numpy as np

from zembra.core.arithmetic.arrays import Bools, Floats, Ints

MOST_POINTS = 8_000  # a line up to this long is drawn whole
STRETCHES = 1_000  # about one a pixel
MOST_EDGES = 4_000


def kept_places(values: Floats, odd: Bools, first: int, end: int) -> Ints | None:
    """Return indices of the points to draw from `first` to `end`, or None for all. Each stretch keeps its first,
    last, smallest and largest, and each run of `odd` points (not plainly measured) both ends, so that no gap closes
    by thinning.
    """
    size = end - first
    if size <= MOST_POINTS:
        return None if size == values.size else np.arange(first, end)
    width = -(-size // STRETCHES)
    whole = size - size % width
    part = values[first:end]
    rows = part[:whole].reshape(-1, width)
    starts = np.arange(0, whole, width)
    none = np.isnan(rows)
    gappy = bool(none.any())
    low = starts + (np.where(none, np.inf, rows) if gappy else rows).argmin(axis=1)
    high = starts + (np.where(none, -np.inf, rows) if gappy else rows).argmax(axis=1)
    odd_part = odd[first:end]
    edges = np.flatnonzero(odd_part[1:] != odd_part[:-1])
    if edges.size > MOST_EDGES:
        # of each stretch the first and last run, so that every gap is visible
        stretch = edges // width
        begins = np.concatenate(([True], stretch[1:] != stretch[:-1]))
        ends = np.concatenate((begins[1:], [True]))
        edges = edges[begins | np.roll(begins, 1) | ends]
    rest = np.arange(whole, size)
    every = np.concatenate((starts, starts + width - 1, low, high, edges, edges + 1, rest, [0, size - 1]))
    return np.unique(every) + first
