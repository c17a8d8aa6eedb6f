"""Compare the figures that an analyst quotes before and after a repair."""

from __future__ import annotations

import weakref
from collections.abc import Sequence

import numpy as np

from zembra.core.arithmetic.regression import first_known, steps_since, straight_fit
from zembra.core.calendar.grain import Grain
from zembra.core.calendar.lines import Line
from zembra.core.ledger.evidence import Cell, Column, ColumnKind, Row, Table, count, measure, text

MOST_SERIES = 6


def effect_table(before: Sequence[Line], after: Sequence[Line], grain: Grain) -> tuple[Table, ...]:
    """Return count, sum, mean, spread, last value and trend of each series that changed."""
    rows: list[Row] = []
    for old, new in zip(before, after, strict=False):
        if old is new or len(rows) >= 2 * MOST_SERIES:
            continue
        rows.append((f"{new.name}, before", *_figures(old)))
        rows.append((f"{new.name}, after", *_figures(new)))
    if not rows:
        return ()
    columns = (
        text("series", "Series"),
        count("count", "Count"),
        measure("sum", "Sum"),
        measure("mean", "Mean"),
        measure("spread", "Spread (n − 1)"),
        measure("last", "Last value"),
        Column("trend", f"Trend line, x in {grain.plural} from the first", ColumnKind.EQUATION),
        measure("r2", "R²"),
    )
    return (Table("What it did to the figures", columns, tuple(rows)),)


# of lines as long as anybody has them: an edit hands on most as they were
_known: dict[int, tuple[weakref.ref[Line], Row]] = {}


def _figures(line: Line) -> Row:
    at = id(line)
    known = _known.get(at)
    if known is not None and known[0]() is line:
        return known[1]
    row = _worked_out(line)
    _known[at] = (weakref.ref(line, lambda _: _known.pop(at, None)), row)
    return row


def _worked_out(line: Line) -> Row:
    values = line.counted
    known = np.flatnonzero(~np.isnan(values))
    if known.size == 0:
        return (0, None, None, None, None, None, None)
    numbers = values[known]
    spread = float(numbers.std(ddof=1)) if known.size > 1 else None
    start = first_known(line.periods, line.since_begin(values))
    fit = straight_fit(steps_since(line.periods, start), line.since_begin(values)) if start is not None else None
    trend: tuple[Cell, Cell] = (fit.equation, fit.r2) if fit else (None, None)
    return (int(known.size), float(numbers.sum()), float(numbers.mean()), spread, float(numbers[-1]), *trend)
