"""Names for the array types the core passes around."""

from __future__ import annotations

import numpy as np
import numpy.typing as npt

Floats = npt.NDArray[np.float64]
Ints = npt.NDArray[np.int64]
Counts = npt.NDArray[np.int32]
Codes = npt.NDArray[np.uint8]
Bools = npt.NDArray[np.bool_]
Moments = npt.NDArray[np.datetime64]


def runs(mask: Bools) -> list[tuple[int, int]]:
    """The stretches of True in `mask`, as (first, one past the last) positions."""
    if mask.size == 0:
        return []
    edges = np.flatnonzero(np.diff(np.concatenate(([False], mask, [False])).astype(np.int8)))
    return [(int(a), int(b)) for a, b in zip(edges[::2], edges[1::2], strict=True)]
