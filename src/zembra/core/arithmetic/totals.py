"""Derive one measure from others. NaN is a missing value, and arithmetic on it gives NaN."""

from __future__ import annotations

from dataclasses import dataclass, replace

import numpy as np

from zembra.core.arithmetic.arrays import Bools, Floats, Ints, runs, values_at


def before_by(values: Floats, periods: Ints, lag: int) -> Floats:
    """The value `lag` calendar periods before each period; NaN where there is none."""
    return values_at(periods, values, periods - lag)


def ratio(above: Floats, below: Floats) -> tuple[Floats, Bools]:
    """(above over below, where below is zero); a division by zero is NaN."""
    zero = below == 0
    with np.errstate(divide="ignore", invalid="ignore"):
        return np.where(zero, np.nan, above / np.where(zero, 1.0, below)), zero & ~np.isnan(above)


def running_total(values: Floats, restarts: Bools) -> Floats:
    """The sum of the numbers since the last restart; NaN where the value is. restarts: first points."""
    known = np.nan_to_num(values)
    total = np.cumsum(known)
    starts = np.flatnonzero(restarts)
    for start in starts[1:] if starts.size and starts[0] == 0 else starts:
        total[start:] -= total[start - 1]
    return np.where(np.isnan(values), np.nan, total)


@dataclass(frozen=True, slots=True)
class PeriodFigures:
    """A running total turned into figures per period.

    estimated: points that got an even share of what came in over a gap. resets: where the total
    starts again. corrections: where it falls without starting again; the figure is below zero.
    """

    values: Floats
    estimated: Bools
    resets: Ints
    corrections: Ints


def spread_back(made: PeriodFigures) -> PeriodFigures:
    """Each correction shared out over the figures since the total began, in proportion to them.

    The period of the correction gets the mean of the figures before it, and all are scaled so that their
    sum is the corrected total; none falls below zero. A correction of more than all that came in since
    stays as it is.
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
    """Undo a running total.

    below: a total smaller than this share (0 to 1) of the one before has started again; its first
    figure is the total itself. spread: what came in over a gap is shared evenly by the gap and the
    period that closes it; else all of these stay NaN, as nobody knows when it came in. The first
    figure is NaN: what it was before is not known.
    """
    values = np.full(total.size, np.nan)
    estimated = np.zeros(total.size, dtype=bool)
    known = np.flatnonzero(~np.isnan(total))
    if known.size < 2:
        return PeriodFigures(values, estimated, known[:0], known[:0])
    now, before = total[known[1:]], total[known[:-1]]
    fell = now < before
    reset = fell & (now < below * before)
    step = np.where(reset, now, now - before)
    values[known[1:]] = step
    for first, end in runs(np.isnan(total)):
        if first <= known[0] or end > known[-1]:
            continue
        share = values[end] / (end - first + 1)
        values[first : end + 1] = share if spread else np.nan
        estimated[first : end + 1] = spread
    return PeriodFigures(values, estimated, known[1:][reset], known[1:][fell & ~reset])
