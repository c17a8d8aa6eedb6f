"""What one entry does to the rest of the study: the projections' error with it and without it."""

from __future__ import annotations

from zembra.core.ledger.run import Result
from zembra.core.ledger.state import Cell, Table


def error_table(with_it: Result, without: Result) -> Table | None:
    """Mean absolute error on held-back periods of each projection, before and after; None for none."""
    before = {(one.series, one.entry): one.held_back_error for one in without.state.drawn if one.estimated}
    rows: list[tuple[Cell, ...]] = []
    for one in with_it.state.drawn:
        if not one.estimated:
            continue
        old, new = before.get((one.series, one.entry)), one.held_back_error
        change = 100 * (new - old) / old if new is not None and old else None
        rows.append((f"{one.series}, {one.line}", old, new, change))
    if not rows:
        return None
    columns = ("Projection", "Error without this entry", "Error with it", "Change, %")
    return Table("What it did to the error on held-back periods", columns, tuple(rows))
