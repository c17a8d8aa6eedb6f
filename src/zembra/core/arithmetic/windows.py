"""Arithmetic over a moving window of periods, blanks passed over. Our own: the libraries' running sums lose digits behind a
huge value, and say nothing of it."""

from __future__ import annotations

from collections.abc import Sequence
from itertools import pairwise

import numpy as np

from zembra.core.arithmetic.arrays import Bools, Counts, Floats, Ints

MOST_LAID_OUT = 200_000  # numbers in all windows together
MOST_DOUBTFUL = 20_000_000  # numbers in windows that are worked out once more, one by one
SHORTEST_CHUNK = 1024
AT_ONCE = 32_768  # numbers worked on at once, so that they stay in the processor's cache
UNIT = 2.0**-53  # the relative error of one rounding
SURE = 1e-9  # relative error of a sum of squares that is taken as sure


def moving_average(
    values: Floats, window: int, before: int, need: int, cuts: Sequence[int] = ()
) -> tuple[Floats, Ints]:
    """(average, how many values it used) over each point's window; NaN where fewer than `need`.

    cuts: places at which the average starts afresh.
    """
    stretches = stretches_between(cuts, values.size)
    if len(stretches) > 1:
        parts = [moving_average(values[a:b], window, before, need) for a, b in stretches]
        return np.concatenate([mean for mean, _ in parts]), np.concatenate([used for _, used in parts])
    total, used = _sums_and_counts(values, window, before)
    total /= np.maximum(used, 1)
    total[used < max(1, need)] = np.nan
    return total, used


def moving_sum(values: Floats, window: int, before: int, need: int, cuts: Sequence[int] = ()) -> Floats:
    """The sum over each point's window; NaN where fewer than `need` of it are numbers."""
    found = np.empty(values.size)
    for a, b in stretches_between(cuts, values.size):
        total, used = _sums_and_counts(values[a:b], window, before)
        total[used < max(1, need)] = np.nan
        found[a:b] = total
    return found


def moving_spread(values: Floats, window: int, before: int, need: int, cuts: Sequence[int] = ()) -> Floats:
    """Standard deviation (over n - 1) of the numbers in each point's window; NaN where fewer than `need`,
    and never fewer than two.
    """
    stretches = stretches_between(cuts, values.size)
    if len(stretches) > 1:
        return np.concatenate([moving_spread(values[a:b], window, before, need) for a, b in stretches])
    if values.size * window <= MOST_LAID_OUT:
        return _spread_laid_out(values, window, before, need)
    found, doubtful = _spread_by_chunks(values, window, before, max(2, need))
    many = int(np.count_nonzero(doubtful))
    if many * window > MOST_DOUBTFUL:
        return _spread_by_blocks(values, window, before, need)
    if many:
        at = np.flatnonzero(doubtful)
        found[at] = _spread_of_windows(_windows_of(values, window, before)[at])
    return found


def _spread_by_chunks(values: Floats, window: int, before: int, need: int) -> tuple[Floats, Bools]:
    """(spread, where it is not sure to nine digits) of each window; NaN where fewer than `need`.

    Differences of running sums that begin anew with each chunk, round a value from its middle. A running sum of N
    squares errs by at most N units in its last place: where the window's own squares are too small a part of it, what
    comes out is not sure.
    """
    size = values.size
    length = max(SHORTEST_CHUNK, 8 * window)
    chunks = -(-size // length)
    padded = np.full(chunks * length + window, np.nan)
    # the first place of a chunk is before all its windows: running sums begin there with nothing
    padded[before + 1 : before + 1 + size] = values
    rows = np.lib.stride_tricks.sliding_window_view(padded, length + window)[::length]
    found = np.empty((chunks, length))
    doubtful = np.empty((chunks, length), dtype=bool)
    at_once = max(1, AT_ONCE // length)
    for start in range(0, chunks, at_once):
        part = slice(start, start + at_once)
        found[part], doubtful[part] = _spread_of_chunks(rows[part], window, need)
    return found.reshape(-1)[:size], doubtful.reshape(-1)[:size]


def _spread_of_chunks(rows: Floats, window: int, need: int) -> tuple[Floats, Bools]:
    has = ~np.isnan(rows)
    whole = bool(has.all())
    away = rows - _some_middle(rows)[:, None]
    if not whole:
        away[~has] = 0.0
    away[:, 0] = 0.0
    sums = np.cumsum(away, axis=1)
    np.multiply(away, away, out=away)
    squares = np.cumsum(away, axis=1)
    count: Counts | int = window
    if not whole:
        counts = np.cumsum(has, axis=1, dtype=np.int32)
        count = counts[:, window:] - counts[:, :-window]
    rest = sums[:, window:] - sums[:, :-window]
    np.multiply(rest, rest, out=rest)
    rest /= np.maximum(count, 1)
    np.subtract(squares[:, window:] - squares[:, :-window], rest, out=rest)
    doubtful = rest <= squares[:, -1:] * (rows.shape[1] * UNIT / SURE)
    np.maximum(rest, 0.0, out=rest)
    rest /= np.maximum(count - 1, 1)
    np.sqrt(rest, out=rest)
    if not whole or need > window:
        few = np.broadcast_to(np.less(count, need), rest.shape)
        rest[few] = np.nan
        doubtful[few] = False
    return rest, doubtful


def _some_middle(rows: Floats) -> Floats:
    """A value from the middle of each row, from a few of its numbers; zero where these are none."""
    samples = np.sort(rows[:, :: max(1, rows.shape[1] // 33)], axis=1)  # NaN goes last
    known = (~np.isnan(samples)).sum(axis=1)
    middle: Floats = samples[np.arange(rows.shape[0]), np.maximum(known - 1, 0) // 2]
    return np.nan_to_num(middle)


def _windows_of(values: Floats, window: int, before: int) -> Floats:
    """Every window laid out beside the others, blank beyond the ends."""
    if not values.size:
        return np.empty((0, window))
    padded = np.concatenate((np.full(before, np.nan), values, np.full(window - 1 - before, np.nan)))
    return np.lib.stride_tricks.sliding_window_view(padded, window)


def _spread_by_blocks(values: Floats, window: int, before: int, need: int) -> Floats:
    """The same by Welford's update within blocks: slower, and sure whatever the numbers are."""
    padded = _padded(values, window, before, np.nan).reshape(-1, window)
    ends = _running_moments(padded)
    count_b, mean_b, rest_b = _running_moments(padded[:, ::-1])
    begins = (count_b[:, ::-1], mean_b[:, ::-1], rest_b[:, ::-1])
    count, _, rest = _together(begins, ends, values.size, window)
    with np.errstate(invalid="ignore", divide="ignore"):
        variance = rest / (count - 1)
    return np.where(count >= max(2, need), np.sqrt(variance), np.nan)


def _spread_laid_out(values: Floats, window: int, before: int, need: int) -> Floats:
    """The same with every window laid out beside the others: quicker for lines that are not long."""
    windows = _windows_of(values, window, before)
    count = (~np.isnan(windows)).sum(axis=1)
    return np.where(count >= max(2, need), _spread_of_windows(windows), np.nan)


def _spread_of_windows(windows: Floats) -> Floats:
    """Of each row, in two passes; zero where it has fewer than two numbers."""
    has = ~np.isnan(windows)
    count = has.sum(axis=1)
    known = np.where(has, windows, 0.0)
    mean = known.sum(axis=1) / np.maximum(count, 1)
    away = np.where(has, windows - mean[:, None], 0.0)
    return np.asarray(np.sqrt(np.einsum("ij,ij->i", away, away) / np.maximum(count - 1, 1)))


_Moments = tuple[Floats, Floats, Floats]


def _running_moments(blocks: Floats) -> _Moments:
    """Per row of blocks, from its first element on: (count, mean, sum of squares around the mean).

    Welford's update, all rows at once: what has passed out of a window has never been in its sums.
    """
    count, mean, rest = (np.zeros(blocks.shape) for _ in range(3))
    n, m, s = (np.zeros(blocks.shape[0]) for _ in range(3))
    for at in range(blocks.shape[1]):
        x = blocks[:, at]
        has = ~np.isnan(x)
        n = n + has
        step = np.where(has, x - m, 0.0)
        m = m + step / np.maximum(n, 1)
        s = s + step * np.where(has, x - m, 0.0)
        count[:, at], mean[:, at], rest[:, at] = n, m, s
    return count, mean, rest


def _together(begins: _Moments, ends: _Moments, size: int, window: int) -> _Moments:
    """Moments of each window: the end of one block and the beginning of the next (Chan's update)."""
    first = [part.reshape(-1)[:size] for part in begins]
    last = [part.reshape(-1)[window - 1 : window - 1 + size] for part in ends]
    whole = np.arange(size) % window == 0  # the window is one block: its beginning is all of it
    count_b = np.where(whole, 0.0, last[0])
    count = first[0] + count_b
    gap = np.where(count_b > 0, last[1] - first[1], 0.0)
    some = np.maximum(count, 1)
    mean = np.where(first[0] > 0, first[1] + gap * count_b / some, last[1])
    rest = first[2] + np.where(whole, 0.0, last[2]) + np.where(first[0] > 0, gap**2 * first[0] * count_b / some, 0.0)
    return count, mean, rest


def _padded(values: Floats, window: int, before: int, empty: float) -> Floats:
    """The values with room before and behind, so that every window lies inside and blocks are whole."""
    size = values.size + window - 1
    out = np.full(-(-size // window) * window, empty)
    out[before : before + values.size] = values
    return out


def stretches_between(cuts: Sequence[int], size: int) -> list[tuple[int, int]]:
    """The stretches between cuts, as (first, one past the last) places."""
    if not size:
        return []
    return list(pairwise([0, *(cut for cut in sorted(set(cuts)) if 0 < cut < size), size]))


def _sums_and_counts(values: Floats, window: int, before: int) -> tuple[Floats, Ints]:
    """(the sum of the numbers in each point's window, how many they are), windows cut at the ends.

    The end of one block of `window` elements and the beginning of the next: nothing is ever taken away
    from a running total, so that a huge value spoils no window it is not in.
    """
    total, used = np.empty(values.size), np.empty(values.size, dtype=np.int64)
    padded = _padded(values, window, before, np.nan)
    step = max(1, AT_ONCE // window) * window
    for start in range(0, values.size, step):
        stop = min(start + step, values.size)
        part = padded[start : start + step + window]
        has = ~np.isnan(part)
        blocks = np.where(has, part, 0.0).reshape(-1, window)
        ends = np.cumsum(blocks, axis=1).reshape(-1)
        begins = np.empty(blocks.shape)
        np.cumsum(blocks[:, ::-1], axis=1, out=begins[:, ::-1])
        last = ends[window - 1 : window - 1 + stop - start]
        last[::window] = 0.0  # the window is one block
        np.add(begins.reshape(-1)[: stop - start], last, out=total[start:stop])
        counts = np.cumsum(has, dtype=np.int32)
        used[start] = counts[window - 1]
        np.subtract(counts[window : window - 1 + stop - start], counts[: stop - start - 1], out=used[start + 1 : stop])
    return total, used


def rolling_middle(values: Floats, window: int) -> tuple[Floats, Floats]:
    """(median, median absolute deviation from it) over a centred window, cut at the ends; NaN passed over.

    The deviation is taken from the window's own median (Hampel identifier), so it is no rolling
    median of a rolling median. Worked off in blocks, as every window is laid out side by side.
    """
    windows = _windows_of(values, window, window // 2)
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
