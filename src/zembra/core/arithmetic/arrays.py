"""Aliases of array types."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np
import numpy.typing as npt

Floats = npt.NDArray[np.float64]
Ints = npt.NDArray[np.int64]
Counts = npt.NDArray[np.int32]
Codes = npt.NDArray[np.uint8]
Bools = npt.NDArray[np.bool_]
Moments = npt.NDArray[np.datetime64]


def found_at(own: Ints, periods: Ints) -> tuple[Ints, Bools]:
    """Return the index in `own` of each of `periods`, and a mask of those found.

    own: ascending
    """
    if not own.size:
        return np.zeros(periods.size, dtype=np.int64), np.zeros(periods.size, dtype=bool)
    if own[-1] - own[0] == own.size - 1:
        # without gaps, indices are distances
        place: Ints = np.clip(periods - own[0], 0, own.size - 1)
    else:
        place = np.minimum(np.searchsorted(own, periods), own.size - 1)
    return place, own[place] == periods


def values_at(own: Ints, values: Floats, periods: Ints) -> Floats:
    """Return the values at `periods`, NaN where they are missing.

    values: one for each of `own`, which is ascending
    """
    if not own.size:
        return np.full(periods.size, np.nan)
    place, there = found_at(own, periods)
    return np.where(there, values[place], np.nan)


def every_of(rows: Sequence[Ints]) -> Ints:
    """Return the union of periods, ascending."""
    return np.unique(np.concatenate(rows)) if rows else np.zeros(0, dtype=np.int64)


def runs(mask: Bools) -> list[tuple[int, int]]:
    """Return the runs of True in `mask` as (start, stop) indices."""
    if mask.size == 0:
        return []
    edges = np.flatnonzero(np.diff(np.concatenate(([False], mask, [False])).astype(np.int8)))
    return [(int(a), int(b)) for a, b in zip(edges[::2], edges[1::2], strict=True)]
