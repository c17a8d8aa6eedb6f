"""What a repair did to the figures an analyst quotes: before and after, side by side."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np

from zembra.core.arrays import Floats
from zembra.core.ledger.state import Cell, State, Table
from zembra.core.lines import Line

MOST_SERIES = 6


def effect_table(before: Sequence[Line], after: State) -> tuple[Table, ...]:
    """Count, sum, mean, last value and trend of the counted values of each series that changed."""
    rows: list[tuple[Cell, ...]] = []
    for old, new in zip(before, after.lines, strict=True):
        if old is new or len(rows) >= 2 * MOST_SERIES:
            continue
        rows.append((f"{new.name}, before", *_figures(old.counted)))
        rows.append((f"{new.name}, after", *_figures(new.counted)))
    if not rows:
        return ()
    columns = ("Series", "Count", "Sum", "Mean", "Last value", f"Trend per {after.grain.singular}")
    return (Table("What it did to the figures", columns, tuple(rows)),)


def _figures(values: Floats) -> tuple[Cell, ...]:
    known = np.flatnonzero(~np.isnan(values))
    if known.size == 0:
        return (0, None, None, None, None)
    numbers = values[known]
    slope = float(np.polyfit(known, numbers, 1)[0]) if known.size > 1 else None
    return (int(known.size), float(numbers.sum()), float(numbers.mean()), float(numbers[-1]), slope)
