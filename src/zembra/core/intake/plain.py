"""Many columns looked at in one go: which hold nothing but plain numbers.

A table may have hundreds of columns; what is asked of each alone costs more than reading the file.
"""

from __future__ import annotations

import polars as pl

from zembra.core.intake.table import TextTable

# numbers that no way of writing dates looks like: too short for a year, too long for a serial day
NEVER_A_DATE = r"^\s*(?:-?\d{1,3}(?:\.\d{1,3}|\.\d{5,})?|-\d+(?:\.\d+)?|\d{6,8}\.\d+|\d{7})\s*$"
LOOKED_AT = 60  # rows from all over the table


def plain_columns(table: TextTable) -> frozenset[str]:
    """Columns of plain numbers that can be no dates, by rows from all over the table."""
    rows = table.cells.gather_every(max(1, table.height // LOOKED_AT))
    filled = rows.select(pl.all().is_not_null().any()).row(0)
    plain = rows.select(pl.all().str.contains(NEVER_A_DATE).all()).row(0)
    return frozenset(name for name, some, every in zip(table.columns, filled, plain, strict=True) if some and every)
