"""Read tables and views of an SQLite file."""

from __future__ import annotations

import sqlite3
from collections.abc import Iterator
from contextlib import contextmanager

import polars as pl

from zembra.core.errors import Refusal
from zembra.core.intake.bounds import check_cells, check_columns
from zembra.core.intake.foreign import cell_text, guarded
from zembra.core.intake.grid import frame_table
from zembra.core.intake.table import TextTable

MOST_STEPS, STRIDE = 1_000_000_000, 100_000  # of SQLite's machine, some ten seconds; looked at every so many
_READING = {sqlite3.SQLITE_SELECT, sqlite3.SQLITE_READ, sqlite3.SQLITE_FUNCTION, sqlite3.SQLITE_RECURSIVE}


def tables_in(data: bytes) -> tuple[str, ...]:
    """Return tables, then views. Raises Refusal."""
    with _opened(data) as database:
        rows = guarded(
            "SQLite",
            lambda: database.execute(
                "select name from sqlite_schema where type in ('table', 'view') and name not like 'sqlite_%' order by type, rowid"
            ).fetchall(),
        )
    names = tuple(str(name) for (name,) in rows)
    if not names:
        raise Refusal("The SQLite file has no table.")
    return names


def sqlite_table(data: bytes, name: str) -> TextTable:
    """Return the rows of a table or view as texts. Raises Refusal."""
    quoted = '"' + name.replace('"', '""') + '"'
    with _opened(data) as database:
        asked = guarded("SQLite", lambda: database.execute(f"select * from {quoted} limit 0"))
        columns = [str(field[0]) for field in asked.description]
        check_columns(len(columns))
        (count,) = guarded("SQLite", lambda: database.execute(f"select count(*) from {quoted}").fetchone())
        check_cells(int(count), max(1, len(columns)))
        rows = guarded("SQLite", lambda: database.execute(f"select * from {quoted}").fetchall())
    cells = {
        column: pl.Series([None if row[n] is None else _text(row[n]) for row in rows], dtype=pl.String)
        for n, column in enumerate(columns)
    }
    return frame_table(pl.DataFrame(cells))


@contextmanager
def _opened(data: bytes) -> Iterator[sqlite3.Connection]:
    """Open in memory, so that nothing is written or reached outside the file."""
    database = sqlite3.connect(":memory:")
    try:
        guarded("SQLite", lambda: database.deserialize(data))
        database.execute("pragma trusted_schema = off")
        database.set_authorizer(lambda action, *_: sqlite3.SQLITE_OK if action in _READING else sqlite3.SQLITE_DENY)
        left = MOST_STEPS // STRIDE

        def goes_on() -> int:
            nonlocal left
            left -= 1
            return int(left <= 0)

        # a view may compute without end
        database.set_progress_handler(goes_on, STRIDE)
        yield database
    finally:
        database.close()


def _text(cell: object) -> str:
    return "" if isinstance(cell, bytes) else cell_text(cell)
