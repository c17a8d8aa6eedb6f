"""Derive one measure from others. NaN is a missing value, and arithmetic on it gives NaN."""

from __future__ import annotations

from dataclasses import dataclass, replace

import numpy as np

from zembra.core.arithmetic.arrays import Bools, Floats, Ints, runs, values_at

ROUNDING = 1e-12  # of a total, in which sums of doubles differ


def before_by(values: Floats, periods: Ints, lag: int) -> Floats:
    """Return the value `lag` calendar periods before each period; NaN if missing."""
    return values_at(periods, values, periods - lag)


def ratio(above: Floats, below: Floats) -> tuple[Floats, Bools]:
    """Return the ratio with NaN for division by zero, and a mask of those."""
    zero = below == 0
    with np.errstate(divide="ignore", invalid="ignore"):
        return np.where(zero, np.nan, above / np.where(zero, 1.0, below)), zero & ~np.isnan(above)


def running_total(values: Floats, restarts: Bools) -> Floats:
    """Return the cumulative sum since the last restart; NaN where the value is.

    restarts: mask of the first points
    """
    known = np.nan_to_num(values)
    total = np.cumsum(known)
    starts = np.flatnonzero(restarts)
    for start in starts[1:] if starts.size and starts[0] == 0 else starts:
        total[start:] -= total[start - 1]
    return np.where(np.isnan(values), np.nan, total)


@dataclass(frozen=True, slots=True)
class PeriodFigures:
    """Values per period from a running total.

    estimated: points with an even share of what came in over a gap
    resets: points where the total restarts
    corrections: points where it falls without restarting, so that the value is negative
    """

    values: Floats
    estimated: Bools
    resets: Ints
    corrections: Ints


def spread_back(made: PeriodFigures) -> PeriodFigures:
    """Spread each correction over the values since the total began, in proportion to them. The period of the
    correction gets the mean of those values, and all are scaled to the corrected total; none becomes negative. A
    correction larger than the total stays.
    """
    values, estimated = made.values.copy(), made.estimated.copy()
    for place in made.corrections.tolist():
        start = int(made.resets[made.resets <= place].max(initial=0))
        before = values[start:place]
        came_in = float(np.nansum(before))
        count = int((~np.isnan(before)).sum())
        left = came_in + values[place]
        if not count or came_in <= 0 or left < 0:
            continue
        values[place] = came_in / count
        values[start : place + 1] *= left / (came_in + came_in / count)
        estimated[start : place + 1] |= ~np.isnan(values[start : place + 1])
    return replace(made, values=values, estimated=estimated)


def per_period(total: Floats, below: float, *, spread: bool) -> PeriodFigures:
    """Undo a running total. The first value is NaN, as the total before it is unknown.

    below: a total below this share (0 to 1) of the previous one has restarted, and is itself the value
    spread: share what came in over a gap evenly; otherwise the gap and the period that closes it are NaN
    """
    values = np.full(total.size, np.nan)
    estimated = np.zeros(total.size, dtype=bool)
    known = np.flatnonzero(~np.isnan(total))
    if known.size < 2:
        return PeriodFigures(values, estimated, known[:0], known[:0])
    now, before = total[known[1:]], total[known[:-1]]
    # a total that falls by rounding alone stands still
    fell = before - now > ROUNDING * np.abs(before)
    reset = fell & (now < below * before)
    step = np.where(reset, now, np.where(fell, now - before, np.maximum(now - before, 0.0)))
    values[known[1:]] = step
    for first, end in runs(np.isnan(total)):
        if first <= known[0] or end > known[-1]:
            continue
        share = values[end] / (end - first + 1)
        values[first : end + 1] = share if spread else np.nan
        estimated[first : end + 1] = spread
    return PeriodFigures(values, estimated, known[1:][reset], known[1:][fell & ~reset])
