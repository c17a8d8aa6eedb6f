"""Find columns of plain numbers, many columns at once.

A table may have hundreds of columns; what is asked of each alone costs more than reading the file.
"""

from __future__ import annotations

import numpy as np
import polars as pl

from zembra.core.intake.table import TextTable

# numbers that no way of writing dates looks like: too short for a year, too long for a serial day
NEVER_A_DATE = r"^\s*(?:-?\d{1,3}(?:\.\d{1,3}|\.\d{5,})?|-\d+(?:\.\d+)?|\d{6,8}\.\d+|\d{7})\s*$"
LOOKED_AT = 60  # rows from all over the table
STRETCHES = 6


def plain_columns(table: TextTable) -> frozenset[str]:
    """Return columns of plain numbers that cannot be dates, from sampled rows."""
    return frozenset(columns_like(some_rows(table.cells, LOOKED_AT), NEVER_A_DATE))


def some_rows(cells: pl.DataFrame, most: int) -> pl.DataFrame:
    """Sample stretches of rows, which is cheaper than single rows for many columns."""
    size = most // STRETCHES
    if cells.height <= most or not size:
        return cells
    starts = np.linspace(0, cells.height - size, STRETCHES).astype(np.int64).tolist()
    return pl.concat([cells.slice(start, size) for start in starts])


def columns_like(rows: pl.DataFrame, pattern: str) -> list[str]:
    """Return columns whose filled cells all match `pattern`, found in one pass."""
    if not rows.height:
        return []
    cells = pl.concat(rows.get_columns())
    shape = (rows.width, rows.height)
    like = cells.str.contains(pattern).fill_null(True).to_numpy().reshape(shape)
    filled = cells.is_not_null().to_numpy().reshape(shape)
    fits = np.flatnonzero(like.all(axis=1) & filled.any(axis=1))
    return [rows.columns[n] for n in fits.tolist()]
