"""Compute window bounds for each point of a line, cut at its ends and at level shifts."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, field
from itertools import pairwise

import numpy as np

from zembra.core.arithmetic.arrays import Bools, Ints


@dataclass(frozen=True, slots=True)
class Windows:
    """A window for each point.

    first, end: start and stop indices
    whole: mask of windows not cut at an end
    length, before: of windows of one length, else 0
    halved: whether they are centred and even, so that means reach one further with half weights at both ends
    cuts: indices where things start afresh
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

    def counts(self, mask: Bools) -> Ints:
        """Return how many points of `mask` each window holds."""
        total = np.concatenate(([0], np.cumsum(mask)))
        if not self.length or self.cuts:
            return np.asarray(total[self.end] - total[self.first])
        # the same without looking every place up
        total = np.pad(total, (self.before, self.length - 1 - self.before), mode="edge")
        return np.asarray(total[self.length :] - total[: self.size])


def fixed_windows(size: int, length: int, before: int, cuts: Sequence[int] = (), *, centred: bool = False) -> Windows:
    """Return windows of `length` points, `before` of them before each point.

    centred: whether means over even windows are the two-step ones
    """
    first = np.arange(size, dtype=np.int64) - before
    first, end = _cut(np.maximum(first, 0), np.minimum(first + length, size), cuts)
    whole = np.asarray(end - first == length)
    return Windows(first, end, whole, length, before, centred and length % 2 == 0, tuple(cuts))


def free_windows(first: Ints, end: Ints, whole: Bools, cuts: Sequence[int] = ()) -> Windows:
    """Return windows with given bounds, as calendar time needs."""
    cut_first, cut_end = _cut(first, end, cuts)
    return Windows(cut_first, cut_end, whole & (cut_first == first) & (cut_end == end), cuts=tuple(cuts))


def stretches_between(cuts: Sequence[int], size: int) -> list[tuple[int, int]]:
    """Return the stretches between cuts as (start, stop) indices."""
    if not size:
        return []
    return list(pairwise([0, *(cut for cut in sorted(set(cuts)) if 0 < cut < size), size]))


def _cut(first: Ints, end: Ints, cuts: Sequence[int]) -> tuple[Ints, Ints]:
    """Cut windows at places where things start afresh."""
    if not cuts:
        return first, end
    edges = np.array(sorted({0, *cuts, first.size}), dtype=np.int64)
    own = np.searchsorted(edges, np.arange(first.size), side="right") - 1
    return np.maximum(first, edges[own]), np.minimum(end, edges[np.minimum(own + 1, edges.size - 1)])
