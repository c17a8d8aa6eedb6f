"""Sums and moments over windows, skipping missing values.

They are put together from those of powers of two places, by merging only: nothing is ever taken away from a running
total, so that a huge value spoils no window it is not in. Our own: the libraries' running sums lose digits behind
such a value, and say nothing of it.
"""

from __future__ import annotations

from collections.abc import Callable, Iterator

import numpy as np

from zembra.core.arithmetic.arrays import Floats
from zembra.core.arithmetic.windows import Windows, stretches_between

Parts = tuple[Floats, ...]
Merge = Callable[[Parts, Parts], Parts]

AT_ONCE = 12_288
LOST_BITS = 4
NEAR = 4.0  # a value may be taken away from all that are at least a fourth of it: none loses more than two bits


def sums_within(values: Floats, windows: Windows) -> Floats:
    """Return the sum over each window."""
    return _merged_within(lambda part: (_known(part),), _added, _last, values, windows)


def spreads_within(values: Floats, windows: Windows, need: int, lost: int) -> Floats:
    """Return the standard deviation over each window, with `lost` degrees of freedom taken off; NaN for fewer than
    `need` values.
    """

    def spreads_of(moments: Parts) -> Floats:
        count, _, squares = moments
        spreads = squares / np.maximum(count - lost, 1)
        np.sqrt(spreads, out=spreads)
        spreads[count < need] = np.nan
        return spreads

    if not windows.length:
        return spreads_of(_merge_free(_moments_of(values), _moments_merged, windows))
    found = np.empty(values.size)
    plain = True  # until a piece shows that its windows lie far from each other, as those of a walk do
    for at, padded, size in _chunks(values, windows):
        moments = _plain_moments(padded, windows.length, size, need) if plain else None
        if moments is None:
            plain = False
            moments = _merge_equal(_moments_of(padded), _moments_merged, windows.length, size)
        found[at : at + size] = spreads_of(moments)
    return found


def _plain_moments(values: Floats, length: int, size: int, need: int) -> Parts | None:
    """Return count, sum and squares about the mean from cumulative sums, in a third of the passes; None if a window
    would lose more than `LOST_BITS` bits.
    """
    blank = np.isnan(values)
    away = values - _near_all(values)
    if blank.any():
        away[blank] = 0.0
    count, total, squares = _merge_equal((1.0 - blank, away, away * away), _all_added, length, size)
    round_mean = total * total
    round_mean /= np.maximum(count, 1.0)
    np.subtract(squares, round_mean, out=round_mean)
    squares *= 0.5**LOST_BITS
    keeps = round_mean >= squares
    keeps |= count < need
    return (count, total, round_mean) if bool(keeps.all()) else None


def _all_added(a: Parts, b: Parts) -> Parts:
    return tuple(x + y for x, y in zip(a, b, strict=True))


def rising_sums_within(values: Floats, windows: Windows) -> Floats:
    """Return the sum over each window with weights 1, 2, 3 …; NaN counts as zero."""

    def parts_of(part: Floats) -> Parts:
        known = _known(part)
        # every place counts, so that windows of one length have one weight
        return np.broadcast_to(1.0, part.size), known, known

    return _merged_within(parts_of, _rising_merged, _last, values, windows)


def _merged_within(
    parts_of: Callable[[Floats], Parts],
    merge: Merge,
    finish: Callable[[Parts], Floats],
    values: Floats,
    windows: Windows,
) -> Floats:
    """Merge the elements of each window in order by an associative `merge`.

    parts_of: the quantities of single values, zeros for NaN; zeros are neutral
    finish: computes the result from the merged quantities
    """
    if not windows.length:
        return finish(_merge_free(parts_of(values), merge, windows))
    found = np.empty(values.size)
    for at, padded, size in _chunks(values, windows):
        found[at : at + size] = finish(_merge_equal(parts_of(padded), merge, windows.length, size))
    return found


def _chunks(values: Floats, windows: Windows) -> Iterator[tuple[int, Floats, int]]:
    """Yield cache-sized chunks: the index of the first window, its values padded with NaN, the number of windows."""
    length = windows.length
    chunk = max(AT_ONCE, length)
    for start, stop in stretches_between(windows.cuts, values.size):
        padded = np.full(stop - start + length - 1, np.nan)
        padded[windows.before : windows.before + stop - start] = values[start:stop]
        for at in range(0, stop - start, chunk):
            size = min(chunk, stop - start - at)
            yield start + at, padded[at : at + size + length - 1], size


def _merge_equal(table: Parts, merge: Merge, length: int, size: int) -> Parts:
    """Merge windows of one length, the first starting at index 0."""
    found: Parts | None = None
    place = 0
    for bit in range(length.bit_length()):
        step = 1 << bit
        if length & step:
            piece = tuple(part[place : place + size] for part in table)
            found = piece if found is None else merge(found, piece)
            place += step
        if length >> (bit + 1):
            table = merge(tuple(part[:-step] for part in table), tuple(part[step:] for part in table))
    return found or table


def _merge_free(table: Parts, merge: Merge, windows: Windows) -> Parts:
    """Merge windows with arbitrary bounds."""
    size = windows.size
    found = tuple(np.zeros(size) for _ in table)
    length = np.maximum(windows.end - windows.first, 0)
    place = windows.first.copy()
    bit = 0
    while size and (length >> bit).any():
        step = 1 << bit
        wanted = (length & step).astype(bool)
        at = place[wanted]
        joined = merge(tuple(part[wanted] for part in found), tuple(part[at] for part in table))
        for target, part in zip(found, joined, strict=True):
            target[wanted] = part
        place[wanted] += step
        beyond = np.zeros(min(step, size))
        table = merge(table, tuple(np.concatenate((part[step:], beyond))[:size] for part in table))
        bit += 1
    return found


def _last(parts: Parts) -> Floats:
    return parts[-1]


def _known(values: Floats) -> Floats:
    """Return the values with zeros for NaN."""
    return np.where(np.isnan(values), 0.0, values)


def _added(a: Parts, b: Parts) -> Parts:
    return (a[0] + b[0],)


def _moments_of(values: Floats) -> Parts:
    """Return count, sum and squares of single values, centred where that is lossless."""
    blank = np.isnan(values)
    away = values - _near_all(values)
    if not blank.any():
        # one counter for all, as merging depends on their number only
        return np.broadcast_to(1.0, values.size), away, np.zeros(values.size)
    away[blank] = 0.0
    return 1.0 - blank, away, np.zeros(values.size)


def _near_all(values: Floats) -> float:
    """Return a central value that can be subtracted from all others without loss, or zero."""
    sample = values[:: max(1, values.size // 33)]
    sample = np.sort(sample[~np.isnan(sample)])
    if not sample.size:
        return 0.0
    middle = float(sample[sample.size // 2])
    return middle if abs(middle) <= NEAR * float(np.fmin.reduce(np.abs(values))) else 0.0


def _moments_merged(a: Parts, b: Parts) -> Parts:
    """Merge moments (Chan, Golub and LeVeque, 1979), with sums instead of means so that zeros are neutral."""
    if a[0].size and a[0].strides == b[0].strides == (0,):
        own, other = a[0][0], b[0][0]
        gap = other * a[1]
        gap -= own * b[1]
        gap *= gap
        gap /= own * other * (own + other)
        gap += a[2]
        gap += b[2]
        return np.broadcast_to(own + other, gap.size), a[1] + b[1], gap
    gap = b[0] * a[1]
    gap -= a[0] * b[1]
    gap *= gap
    count = a[0] + b[0]
    weight = a[0] * b[0]
    weight *= count
    gap /= np.maximum(weight, 1.0, out=weight)
    gap += a[2]
    gap += b[2]
    return count, a[1] + b[1], gap


def _rising_merged(a: Parts, b: Parts) -> Parts:
    if a[0].strides == b[0].strides == (0,) and a[0].size:
        own = a[0][0]
        weighted = own * b[1]
        weighted += a[2]
        weighted += b[2]
        return np.broadcast_to(own + b[0][0], weighted.size), a[1] + b[1], weighted
    return a[0] + b[0], a[1] + b[1], a[2] + b[2] + a[0] * b[1]
