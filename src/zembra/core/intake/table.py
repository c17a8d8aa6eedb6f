"""A table of texts: every cell is a string or None."""

from __future__ import annotations

from dataclasses import dataclass

import polars as pl

from zembra.core.intake.howread import TableHow


@dataclass(frozen=True, slots=True)
class NotTaken:
    """Something of the file that is not in the table. word: the word of TableHow that would keep it."""

    what: str
    word: str


@dataclass(frozen=True, slots=True)
class TablePart:
    """One of several tables under each other. how: how it is read. first_row, last_row: of its rows, counted from 1. names:
    its column names; those of the table above where it has none of its own."""

    how: TableHow
    first_row: int
    last_row: int
    names: tuple[str, ...]

    @property
    def rows(self) -> int:
        return self.last_row - self.first_row + 1


@dataclass(frozen=True, slots=True)
class TextTable:
    """cells: one Utf8 column per column of the table, named as in `columns`; null is an empty cell.

    numbers: per row its number (from 1), as a spreadsheet or a text editor counts it. left_out: what
    of the file is not in `cells`. sheets: the tables the file holds, where it holds several. alike:
    those of them that are not used and hold a table too. undated: those that hold rows and no dates. parts: the tables that
    stand under each other, where several do. unread: columns of which no cell can be text. remarks: what else is to be
    known of how the file was read, in sentences.
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
