"""Put a line on a finer grain, each value at its own period."""

from __future__ import annotations

from dataclasses import replace
from datetime import date

import numpy as np

from zembra.core.arithmetic.arrays import Codes, Ints
from zembra.core.calendar.complete import new_line
from zembra.core.calendar.grain import Grain
from zembra.core.calendar.lines import Condition, Line, Received


def finer_reach(line: Line, coarse: Grain, grain: Grain, at_least: date | None = None) -> tuple[int, int]:
    """Return the first and last period of a line on the finer grain; first after last if it is empty.

    at_least: a moment up to which it extends
    """
    known = np.flatnonzero(~np.isnan(line.counted))
    if not known.size:
        return 0, -1
    first, last = (int(period) for period in grain.periods(coarse.starts(line.periods[known[[0, -1]]])))
    return first, last if at_least is None else max(last, grain.period(at_least))


def finer(line: Line, coarse: Grain, grain: Grain, reach: tuple[int, int]) -> Line:
    """Return the counted values of a line on the finer grain.

    reach: its first and last period there
    """
    values = line.counted
    known = np.flatnonzero(~np.isnan(values))
    if known.size == 0:
        none = line.part(known)
        empty = new_line(line.name, none.periods, none.value, none.received, none.first_row, none.row_count)
        return replace(empty, entries=line.entries)
    at = grain.periods(coarse.starts(line.periods[known]))
    first, last = reach
    size = last - first + 1
    place = at - int(at[0])  # of two dates in one period the later one stays: it holds at its end
    own = np.full(size, np.nan)
    own[place] = values[known]
    periods = np.arange(first, last + 1, dtype=np.int64)
    received = _placed(line.received[known], place, size, Received.ABSENT)
    rows = np.full(size, -1, dtype=np.int64)
    rows[place] = line.first_row[known]
    combined = np.zeros(size, dtype=np.int32)
    combined[place] = line.row_count[known]
    return replace(
        new_line(line.name, periods, own, received, rows, combined),
        condition=_placed(line.condition[known], place, size, Condition.OPEN),
        entry=_placed(line.entry[known], place, size, 0),
        entries=line.entries,
        quantity=line.quantity.per(grain.singular),
    )


def _placed(codes: Codes, place: Ints, size: int, empty: int) -> Codes:
    """Place values, with what was decided about them."""
    out = np.full(size, empty, dtype=np.uint8)
    out[place] = codes
    return out
