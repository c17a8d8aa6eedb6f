"""Sum several series, and several projections."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np

from zembra.core.arithmetic.arrays import Floats, Ints, every_of, values_at
from zembra.core.calendar.lines import Condition, Line, Received
from zembra.core.projection.ahead import Projected
from zembra.core.projection.limits import HalfWidth

FEWEST_PAIRS = 10  # errors at the same periods from which their correlation is told


def sum_of(lines: Sequence[Line]) -> Line:
    """Return the sum of lines; a number only where all count one."""
    periods = every_of([line.periods for line in lines])
    total = np.zeros(periods.size)
    unfinished = np.zeros(periods.size, dtype=bool)
    for line in lines:
        at = np.searchsorted(periods, line.periods)
        values = np.full(periods.size, np.nan)
        values[at] = line.countable(provisional=True)
        total += values
        unfinished[at] |= line.provisional
    missing = np.isnan(total)
    condition = np.where(missing, np.uint8(Condition.OPEN), np.uint8(Condition.MEASURED))
    condition = np.where(unfinished & ~missing, np.uint8(Condition.PROVISIONAL), condition)
    begins = [line.begin for line in lines if line.begin is not None]
    return Line(
        name=f"the sum of {len(lines)} series",
        periods=periods,
        value=total,
        original=total,
        received=np.where(missing, np.uint8(Received.ABSENT), np.uint8(Received.MEASURED)),
        condition=condition,
        entry=np.zeros(periods.size, dtype=np.uint8),
        bridged=np.zeros(periods.size, dtype=bool),
        first_row=np.full(periods.size, -1, dtype=np.int64),
        row_count=np.zeros(periods.size, dtype=lines[0].row_count.dtype),
        quantity=lines[0].quantity,
        afresh=tuple(sorted({place for line in lines for place in line.afresh})),
        begin=max(begins, default=None),
    )


def added(said: Sequence[Projected]) -> Projected:
    """Add projections. Half-widths h add up to √(h′ R h), where R is the correlation of their one-step errors, as
    series that fail together need wider limits than independent ones.
    """
    related = _correlations([projected.left for projected in said])
    halves = []
    for n, half in enumerate(said[0].halves):
        below, above = (
            np.sqrt(np.maximum(np.einsum("ik,ij,jk->k", widths, related, widths), 0.0))
            for widths in (
                np.array([projected.halves[n].below for projected in said]),
                np.array([projected.halves[n].above for projected in said]),
            )
        )
        halves.append(HalfWidth(half.level, below, above))
    return Projected(
        "each series projected, then added", np.sum([projected.mean for projected in said], axis=0), tuple(halves)
    )


def left_together(left: Sequence[tuple[Ints, Floats]], periods: Ints) -> Floats:
    """Return the sum of one-step errors at some periods; NaN where one is missing."""
    total = np.zeros(periods.size)
    for at, values in left:
        total += values_at(at, values, periods)
    return total


def _correlations(left: Sequence[Floats]) -> Floats:
    """Return pairwise correlations of the newest errors; 0 for too few or constant ones."""
    related = np.eye(len(left))
    for i, errors in enumerate(left):
        for j in range(i):
            size = min(errors.size, left[j].size)
            a, b = errors[errors.size - size :], left[j][left[j].size - size :]
            known = ~np.isnan(a) & ~np.isnan(b)
            if known.sum() < FEWEST_PAIRS or np.ptp(a[known]) == 0 or np.ptp(b[known]) == 0:
                continue
            related[i, j] = related[j, i] = float(np.corrcoef(a[known], b[known])[0, 1])
    return related
