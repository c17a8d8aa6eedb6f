"""A table of texts: every cell is a string or None."""

from __future__ import annotations

from dataclasses import dataclass

import polars as pl

from zembra.core.intake.howread import TableHow


@dataclass(frozen=True, slots=True)
class NotTaken:
    """Something left out of the table.

    word: the word of TableHow that would keep it
    """

    what: str
    word: str


@dataclass(frozen=True, slots=True)
class TablePart:
    """One of several stacked tables.

    how: its settings
    first_row, last_row: from 1
    names: its columns, or those of the table above
    """

    how: TableHow
    first_row: int
    last_row: int
    names: tuple[str, ...]

    @property
    def rows(self) -> int:
        return self.last_row - self.first_row + 1


@dataclass(frozen=True, slots=True)
class TextTable:
    """A table of texts.

    cells: one Utf8 column per column; null is empty
    numbers: row numbers from 1, as an editor counts
    left_out: what is not in `cells`
    sheets: tables of the file; alike: unused ones; undated: unused ones without dates
    parts: stacked tables
    unread: columns that cannot be text
    remarks: on how it was read
    """

    columns: tuple[str, ...]
    cells: pl.DataFrame
    numbers: pl.Series
    left_out: tuple[NotTaken, ...] = ()
    sheets: tuple[str, ...] = ()
    alike: tuple[str, ...] = ()
    undated: tuple[str, ...] = ()
    parts: tuple[TablePart, ...] = ()
    unread: tuple[str, ...] = ()
    remarks: tuple[str, ...] = ()

    @property
    def height(self) -> int:
        return self.cells.height

    def row_number(self, position: int) -> int:
        return int(self.numbers[position])

    def head(self, rows: int) -> list[list[str | None]]:
        return [list(row) for row in self.cells.head(rows).iter_rows()]


def row_numbers(first: int, count: int) -> pl.Series:
    return pl.select(pl.int_range(first, first + count, dtype=pl.UInt32)).to_series()
