"""Windows that are not all of one length: from a place to a place for each point.

Sums over them are put together from sums over powers of two, by additions only: nothing is ever taken away
from a running total, so that a huge value spoils no window it is not in.
"""

from __future__ import annotations

from collections.abc import Callable

import numpy as np

from zembra.core.arithmetic.arrays import Bools, Floats, Ints

Parts = tuple[Floats, ...]
Merge = Callable[[Parts, Parts], Parts]


def fixed_bounds(size: int, length: int, before: int) -> tuple[Ints, Ints]:
    """(first place, one past the last place) of a window of `length` at each point, cut at the ends."""
    first = np.arange(size, dtype=np.int64) - before
    return np.maximum(first, 0), np.minimum(first + length, size)


def cut_bounds(first: Ints, end: Ints, cuts: list[int]) -> tuple[Ints, Ints]:
    """The windows cut so that none reaches over a place at which things start afresh."""
    if not cuts:
        return first, end
    at = np.arange(first.size)
    edges = np.array(sorted({0, *cuts, first.size}), dtype=np.int64)
    own = np.searchsorted(edges, at, side="right") - 1
    return np.maximum(first, edges[own]), np.minimum(end, edges[np.minimum(own + 1, edges.size - 1)])


def counts_within(mask: Bools, first: Ints, end: Ints) -> Ints:
    """How many points of `mask` each window holds."""
    total = np.concatenate(([0], np.cumsum(mask)))
    return np.asarray(total[end] - total[first])


def merged_within(parts: Parts, merge: Merge, nothing: Parts, first: Ints, end: Ints) -> Parts:
    """What an associative `merge` makes of the elements of each window, in their order.

    parts: one array per quantity, an element a point. nothing: what merging with changes nothing.
    """
    size = parts[0].size
    length = np.maximum(end - first, 0)
    place = first.copy()
    found = tuple(np.full(size, float(empty[0])) for empty in nothing)
    table = parts
    bit = 0
    while size and (length >> bit).any():
        wanted = ((length >> bit) & 1).astype(bool)
        if wanted.any():
            at = place[wanted]
            joined = merge(tuple(one[wanted] for one in found), tuple(one[at] for one in table))
            for one, values in zip(found, joined, strict=True):
                one[wanted] = values
            place[wanted] += 1 << bit
        step = 1 << bit
        further = tuple(
            np.concatenate((one[step:], np.full(min(step, size), float(empty[0]))))[:size]
            for one, empty in zip(table, nothing, strict=True)
        )
        table = merge(table, further)
        bit += 1
    return found


def sums_within(values: Floats, first: Ints, end: Ints) -> Floats:
    """The sum of each window."""
    nothing = (np.zeros(1),)
    return merged_within((values,), lambda a, b: (a[0] + b[0],), nothing, first, end)[0]


def moments_within(values: Floats, first: Ints, end: Ints) -> tuple[Floats, Floats, Floats]:
    """(count, mean, sum of squares round the mean) of the numbers of each window, merged as Chan, Golub and
    LeVeque (1979) do."""
    has = ~np.isnan(values)
    parts = (has.astype(np.float64), np.where(has, values, 0.0), np.zeros(values.size))
    nothing = (np.zeros(1), np.zeros(1), np.zeros(1))
    count, mean, rest = merged_within(parts, _chan, nothing, first, end)
    return count, mean, rest


def _chan(a: Parts, b: Parts) -> Parts:
    count = a[0] + b[0]
    some = np.maximum(count, 1.0)
    # where one has nothing, the other one stays as it is
    gap = np.where((a[0] > 0) & (b[0] > 0), b[1] - a[1], 0.0)
    mean = np.where(a[0] == 0, b[1], a[1] + gap * b[0] / some)
    return count, mean, a[2] + b[2] + gap * gap * a[0] * b[0] / some


def rising_sums_within(values: Floats, first: Ints, end: Ints) -> Floats:
    """The sum of each window with weights 1, 2, 3 … from its first place on."""
    ones = np.ones(values.size)
    nothing = (np.zeros(1), np.zeros(1), np.zeros(1))
    found = merged_within((ones, values, values), _rising, nothing, first, end)
    return found[2]


def _rising(a: Parts, b: Parts) -> Parts:
    return a[0] + b[0], a[1] + b[1], a[2] + b[2] + a[0] * b[1]
