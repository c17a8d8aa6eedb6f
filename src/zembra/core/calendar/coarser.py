"""Moving a line to a coarser grain: which periods go together, and how much of each is covered."""

from __future__ import annotations

import numpy as np

from zembra.core.arrays import Floats, Ints
from zembra.core.calendar.complete import Combine, Expected, combined_values, new_line
from zembra.core.calendar.grain import Grain
from zembra.core.lines import Line, Received


def coarser(line: Line, expected: Expected, grain: Grain, combine: Combine) -> tuple[Line, Floats]:
    """(the line on the coarser grain, the share of each period's expected parts that have a number).

    A part counts if it has a counted value. Parts of the first and last period that lie outside the
    line are expected too, so a month that begins in its middle is partly covered.
    """
    if len(line) == 0:
        return line, np.zeros(0)
    periods = grain.periods(expected.grain.days(line.periods))
    starts = np.concatenate(([0], np.flatnonzero(np.diff(periods)) + 1))
    count = np.diff(np.append(starts, periods.size)).astype(np.int32)
    values = line.counted
    has = ~np.isnan(values)
    have = np.add.reduceat(has.astype(np.int64), starts)
    total = combined_values(values, starts, count, combine)
    if combine is Combine.COUNT:
        total = np.where(have > 0, have.astype(np.float64), np.nan)
    worst = np.minimum.reduceat(line.received, starts)
    received = np.where(have > 0, np.uint8(Received.MEASURED), np.maximum(worst, np.uint8(Received.BLANK)))
    rows = np.add.reduceat(line.row_count, starts)
    far = np.iinfo(np.int64).max
    first_row = np.minimum.reduceat(np.where(line.first_row >= 0, line.first_row, far), starts)
    out = new_line(
        line.name, periods[starts], total, received, np.where(rows > 0, first_row, -1), rows.astype(np.int32)
    )
    return out, have / _parts(periods[starts], expected, grain)


def _parts(periods: Ints, expected: Expected, grain: Grain) -> Floats:
    """How many parts each coarse period is expected to have, by the calendar alone."""
    fine = expected.grain
    low, high = grain.starts(periods[:1]), grain.starts(periods[-1:] + 1)
    # a day more at both ends: the clock on the wall may be ahead or behind
    day = np.timedelta64(1, "D")
    every = np.arange(int(fine.periods(low - day)[0]), int(fine.periods(high + day)[0]) + 1, dtype=np.int64)
    of = grain.periods(fine.days(every))
    wanted = expected.days(every)
    at = np.searchsorted(periods, of)
    inside = wanted & (at < periods.size)
    inside[inside] &= periods[at[inside]] == of[inside]
    parts = np.bincount(at[inside], minlength=periods.size)
    return np.asarray(np.maximum(parts, 1), dtype=np.float64)
