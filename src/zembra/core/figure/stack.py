"""Lines drawn on each other, and lines made to end together."""

from __future__ import annotations

from collections.abc import Mapping, Sequence

import numpy as np

from zembra.core.arrays import Floats, Ints
from zembra.core.lines import Condition, Line


def stack_edges(lines: Sequence[Line]) -> dict[str, tuple[Floats, Floats]]:
    """(lower, upper) edge of each line on the lines before it, on the line's own periods.

    Where any line of the stack has no number the whole stack is open there, lines under it included:
    a stack with a hole in it would show a sum that nobody measured.
    """
    if not lines:
        return {}
    every: Ints = np.unique(np.concatenate([line.periods for line in lines]))
    total = np.zeros(every.size)
    whole = np.ones(every.size, dtype=bool)
    on_all: dict[str, Floats] = {}
    for line in lines:
        spread = np.full(every.size, np.nan)
        drawn = np.where(line.condition == Condition.SET_ASIDE, np.nan, line.value)
        spread[np.searchsorted(every, line.periods)] = drawn
        on_all[line.name] = spread
        whole &= ~np.isnan(spread)
    edges = {}
    for line in lines:
        upper = total + np.nan_to_num(on_all[line.name])
        at = np.searchsorted(every, line.periods)
        open_here = ~whole[at]
        edges[line.name] = (np.where(open_here, np.nan, total[at]), np.where(open_here, np.nan, upper[at]))
        total = upper
    return edges


def ended_together(lines: Mapping[str, Line]) -> dict[str, Line]:
    """The lines cut at the last period for which every one of them has a number."""
    ends = [int(line.periods[~np.isnan(line.value)][-1]) for line in lines.values() if (~np.isnan(line.value)).any()]
    if not ends:
        return dict(lines)
    last = min(ends)
    return {
        name: line.part(slice(0, int(np.searchsorted(line.periods, last, side="right"))))
        for name, line in lines.items()
    }
