"""A received table as text: every cell a string or nothing, nothing converted yet."""

from __future__ import annotations

from dataclasses import dataclass

import polars as pl


@dataclass(frozen=True, slots=True)
class TextTable:
    """cells: one Utf8 column per column of the table, named as in `columns`; null is an empty cell.

    first_row: the number, as a spreadsheet or a text editor counts it, of the first row of `cells`;
        rows follow each other without gaps.
    """

    columns: tuple[str, ...]
    cells: pl.DataFrame
    first_row: int

    @property
    def height(self) -> int:
        return self.cells.height

    def row_number(self, position: int) -> int:
        return self.first_row + position

    def head(self, rows: int) -> list[list[str | None]]:
        return [list(row) for row in self.cells.head(rows).iter_rows()]
