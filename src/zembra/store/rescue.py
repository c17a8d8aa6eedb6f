"""Copy what can be read of a damaged home into a new one."""

from __future__ import annotations

import contextlib
import shutil
import sqlite3
import tempfile
from collections.abc import Iterator
from contextlib import closing
from dataclasses import dataclass
from pathlib import Path

from zembra.core.errors import Refusal
from zembra.store.database import close_database, newest_schema, open_database
from zembra.store.home import Home
from zembra.store.registry import SEALED, TableEntry
from zembra.store.tables import Revision, Study
from zembra.store.tally import miscounted
from zembra.store.transfer import TransferCounts, export_home, import_home

_OTHER_HOME = "Choose a folder that is empty, or not there yet, with --to."


@dataclass(frozen=True, slots=True)
class Rescued:
    """The outcome of a rescue.

    carried: as of an import
    unread: incomplete tables, as sentences
    """

    carried: TransferCounts
    unread: tuple[str, ...]


def rescue(damaged: Home, to: Home) -> Rescued:
    """Copy what can be read of a damaged database into a new one. Raises Refusal, OSError."""
    if not damaged.database.exists():
        raise Refusal(f"There is no database at {damaged.database}.")
    if to.database.exists():
        raise Refusal(f"There is a database at {to.database} already.", todo=_OTHER_HOME)
    to.make()
    with tempfile.TemporaryDirectory(dir=to.folder, prefix=".rescue-") as folder:
        # check a copy, as opening a damaged file would change it
        copy = Path(folder) / "damaged.db"
        for ending in ("", "-wal"):
            there = damaged.database.with_name(damaged.database.name + ending)
            if there.exists():
                shutil.copyfile(there, copy.with_name(copy.name + ending))
        readable, unread = _readable(copy, Path(folder))
        try:
            source = open_database(readable)
            try:
                export_home(source, Path(folder) / "whole.zip")
            finally:
                close_database(source)
        except Refusal as refusal:
            raise Refusal(
                f"Nothing of it can be read: {refusal.what}", place=str(damaged.database), todo="Try a backup of it."
            ) from None
        engine = open_database(to.database)
        try:
            return Rescued(import_home(engine, Path(folder) / "whole.zip"), tuple(unread))
        finally:
            close_database(engine)


def _readable(copy: Path, folder: Path) -> tuple[Path, list[str]]:
    """Yield an openable database, and tables that are incomplete."""
    with contextlib.suppress(sqlite3.Error), closing(sqlite3.connect(copy)) as connection:
        if connection.execute("PRAGMA integrity_check(1)").fetchone()[0] == "ok" and not _missing(connection):
            return copy, _went_missing(connection)
    fresh = folder / "readable.db"
    close_database(open_database(fresh))
    unread: list[str] = []
    with closing(sqlite3.connect(copy)) as source, closing(sqlite3.connect(fresh)) as target:
        target.execute("PRAGMA foreign_keys=OFF")
        source.text_factory = bytes
        # studies before what belongs to them
        for kept in sorted(SEALED, key=lambda kept: (kept.table is not Study, kept.table is not Revision)):
            unread += _copied(source, target, kept)
        target.commit()
    return fresh, unread


def _went_missing(connection: sqlite3.Connection) -> list[str]:
    with contextlib.suppress(sqlite3.OperationalError):  # an earlier schema did not count
        return [
            f"the table “{name}”: of {counted} rows {there} are there"
            for name, counted, there in miscounted(connection)
        ]
    return []


def _missing(connection: sqlite3.Connection) -> set[str]:
    there = {name for (name,) in connection.execute("SELECT name FROM sqlite_master WHERE type = 'table'")}
    # an older schema has other tables
    older = connection.execute("SELECT version_num FROM alembic_version").fetchone() != (newest_schema(),)
    return set() if older else {kept.name for kept in SEALED} - there


def _copied(source: sqlite3.Connection, target: sqlite3.Connection, kept: TableEntry) -> list[str]:
    name = kept.name
    wanted = [row[1] for row in target.execute(f"PRAGMA table_info({name})")]
    try:
        there = [row[1].decode() for row in source.execute(f"PRAGMA table_info({name})")]
    except sqlite3.Error as error:
        return [f"{name}: {error}"]
    columns = [column for column in wanted if column in there]
    if not columns:
        return [f"the table “{name}” is not there"]
    put = f"INSERT OR IGNORE INTO {name} ({', '.join(columns)}) VALUES ({', '.join('?' * len(columns))})"
    lost = ""
    # from both ends, as a damaged page in the middle stops either
    for order in ("ASC", "DESC"):
        try:
            for row in _rows(source, kept, columns, order):
                with contextlib.suppress(sqlite3.IntegrityError):
                    target.execute(put, row)
        except sqlite3.Error as error:
            lost = str(error)
    return [f"the table “{name}” could not be read whole: {lost}"] if lost else []


def _rows(source: sqlite3.Connection, kept: TableEntry, columns: list[str], order: str) -> Iterator[tuple[object, ...]]:
    # texts as stored, to check their seals
    selected = ", ".join(
        f"CASE typeof({column}) WHEN 'text' THEN CAST({column} AS BLOB) ELSE {column} END, typeof({column})"
        for column in columns
    )
    for row in source.execute(f"SELECT {selected} FROM {kept.name} ORDER BY {kept.key} {order}"):
        yield tuple(
            value.decode(errors="replace") if kind == b"text" else value
            for value, kind in zip(row[::2], row[1::2], strict=True)
        )
