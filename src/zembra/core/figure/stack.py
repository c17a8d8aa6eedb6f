"""Stack lines, and align where they end."""

from __future__ import annotations

from collections.abc import Mapping, Sequence

import numpy as np

from zembra.core.arithmetic.arrays import Bools, Floats, every_of
from zembra.core.arithmetic.fills import interpolated
from zembra.core.calendar.lines import Condition, Line
from zembra.core.figure.model import Stack


def stack_edges(lines: Sequence[Line], how: Stack) -> dict[str, tuple[Floats, Floats, Bools]]:
    """Return lower edge, upper edge, and a mask of points over a line without a number, for each line on the lines
    before it.

    STOP: a hole in one line opens the whole stack, as it would show a sum that nobody measured. THERE: lines with a
    number are stacked. BRIDGE: a hole is interpolated.
    """
    if not lines:
        return {}
    every = every_of([line.periods for line in lines])
    total = np.zeros(every.size)
    short = np.zeros(every.size, dtype=bool)
    on_all: dict[str, Floats] = {}
    for line in lines:
        spread = np.full(every.size, np.nan)
        drawn = np.where(line.condition == Condition.SET_ASIDE, np.nan, line.value)
        spread[np.searchsorted(every, line.periods)] = drawn
        short |= np.isnan(spread)
        on_all[line.name] = interpolated(spread, every) if how is Stack.BRIDGE else spread
    hidden = short if how is Stack.STOP else np.zeros(every.size, dtype=bool)
    edges = {}
    for line in lines:
        own = on_all[line.name]
        upper = total + np.nan_to_num(own)
        at = np.searchsorted(every, line.periods)
        open_here = (hidden | np.isnan(own))[at]
        floor, top = (np.where(open_here, np.nan, edge[at]) for edge in (total, upper))
        edges[line.name] = (floor, top, short[at] & ~open_here)
        total = upper
    return edges


def ended_together(lines: Mapping[str, Line]) -> dict[str, Line]:
    """Cut the lines at the last period for which all have a number."""
    ends = [int(line.periods[~np.isnan(line.value)][-1]) for line in lines.values() if (~np.isnan(line.value)).any()]
    if not ends:
        return dict(lines)
    last = min(ends)
    return {
        name: line.part(slice(0, int(np.searchsorted(line.periods, last, side="right"))))
        for name, line in lines.items()
    }
