"""Compare projection errors with and without one entry."""

from __future__ import annotations

from zembra.core.ledger.evidence import Row, Table, measure, percent, table, text
from zembra.core.ledger.run import Result
from zembra.core.ledger.shapes import Curve, Rests


def error_table(with_it: Result, without: Result) -> Table | None:
    """Return the mean absolute backtest error of each projection without and with the entry, or None if there is no
    projection.
    """
    before = {projection.id: projection.held_back_error for projection in _projections(without)}
    rows: list[Row] = []
    for projection in _projections(with_it):
        old, new = before.get(projection.id), projection.held_back_error
        change = 100 * (new - old) / old if new is not None and old else None
        rows.append((f"{projection.series}, {projection.name}", old, new, change))
    if not rows:
        return None
    columns = (
        text("projection", "Projection"),
        measure("without", "Error without this entry"),
        measure("with", "Error with it"),
        percent("change", "Change, %"),
    )
    return table("What it did to the error on held-back periods", columns, rows)


def _projections(result: Result) -> list[Curve]:
    shapes = result.state.shapes
    return [shape for shape in shapes if isinstance(shape, Curve) and shape.rests is Rests.PROJECTED]
