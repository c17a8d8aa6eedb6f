"""Open the database: check it, migrate it, use WAL mode with durable commits, and close it into one file."""

from __future__ import annotations

import contextlib
import os
import sqlite3
from collections.abc import Callable, Iterator
from contextlib import closing
from functools import lru_cache
from pathlib import Path
from typing import Any

from alembic import command
from alembic.config import Config
from alembic.script import ScriptDirectory
from sqlalchemy import URL, Engine, event, exc
from sqlmodel import Session, create_engine

from zembra.core.errors import Refusal
from zembra.store.actor import refuse_writing
from zembra.store.mark import watch
from zembra.store.tally import count_along

MIGRATIONS = Path(__file__).parent / "migrations"
LARGEST_LOG = 16 * 1024 * 1024  # bytes that the log keeps once what it holds is in the database
_MAGIC = b"SQLite format 3\0"
_OTHER_PLACE = "Nothing was changed. Put a backup back with zembra restore, or choose another home with --home."


def open_database(path: Path, before_migration: Callable[[], object] = lambda: None) -> Engine:
    """Open or create the database, and migrate it. Raises Refusal if the file is foreign, damaged, newer or read-
    only, and leaves it unchanged.

    before_migration: called before an older database is changed
    """
    if not path.exists():
        _make(path)
    _check_rights(path)
    schema = check_readable(path)
    _check_writable(path)
    if schema != newest_schema():
        before_migration()
    try:
        engine = _migrated(path)
    except exc.DatabaseError as error:
        raise Refusal(
            f"The database cannot be brought up to date: {error.orig}.", place=str(path), todo=_OTHER_PLACE
        ) from None
    try:
        watch(engine, path)
    except exc.SQLAlchemyError as error:
        engine.dispose()
        raise Refusal(
            f"The database is damaged: {getattr(error, 'orig', error)}.", place=str(path), todo=_OTHER_PLACE
        ) from None
    return engine


def _make(path: Path) -> None:
    """Create a database atomically."""
    path.parent.mkdir(parents=True, exist_ok=True)
    beside = path.with_name(f".{path.name}.{os.getpid()}.new")
    os.close(os.open(beside, os.O_CREAT | os.O_TRUNC | os.O_RDWR, 0o600))
    close_database(_migrated(beside))
    for ending in ("-wal", "-shm"):
        beside.with_name(beside.name + ending).unlink(missing_ok=True)
    with contextlib.suppress(FileExistsError):  # another one was quicker
        os.link(beside, path)
    beside.unlink()


def _migrated(path: Path) -> Engine:
    # let the library build the URL, as “?” or “%20” in a name would change it
    engine = create_engine(URL.create("sqlite", database=str(path)), connect_args={"timeout": 15})
    event.listen(engine, "connect", _set_pragmas)
    event.listen(engine, "before_cursor_execute", refuse_writing)
    config = _config()
    with engine.connect() as connection:
        raw: Any = connection.connection.dbapi_connection
        _check_same(raw, path)
        # the driver starts no transaction for DDL by itself, so a kill would leave half the tables
        usual, raw.isolation_level = raw.isolation_level, None
        # SQLite recreates a table to change it, so foreign keys must not be checked meanwhile
        connection.exec_driver_sql("PRAGMA foreign_keys=OFF")
        connection.commit()
        with connection.begin():
            connection.exec_driver_sql("BEGIN IMMEDIATE")
            config.attributes["connection"] = connection
            command.upgrade(config, "head")
        connection.exec_driver_sql("PRAGMA foreign_keys=ON")
        connection.commit()
        raw.isolation_level = usual
    # connections opened from now on count commits
    engine.dispose()
    return engine


def _check_same(connection: sqlite3.Connection, path: Path) -> None:
    """Raise Refusal if the open file is another one."""
    opened = next(file for _, name, file in connection.execute("PRAGMA database_list") if name == "main")
    if not opened or not Path(opened).samefile(path):
        raise Refusal(
            f"The database that was opened is another one: {opened}.", place=str(path), todo="Choose another home."
        )


@contextlib.contextmanager
def one_moment(engine: Engine) -> Iterator[Session]:
    """Return a session that reads one snapshot of the database."""
    with engine.connect() as connection, Session(connection) as session:
        raw: Any = connection.connection.dbapi_connection
        usual, raw.isolation_level = raw.isolation_level, None
        try:
            # the snapshot is taken at the first read, not at BEGIN
            connection.exec_driver_sql("BEGIN")
            connection.exec_driver_sql("SELECT 1 FROM sqlite_master").first()
            yield session
        finally:
            session.close()
            raw.rollback()
            raw.isolation_level = usual


def check_readable(path: Path) -> str:
    """Return the schema of a database. Raises Refusal, OSError."""
    with path.open("rb") as file:
        start = file.read(len(_MAGIC))
    if not start:
        raise Refusal("The database is empty: 0 bytes.", place=str(path), todo=_OTHER_PLACE)
    if start != _MAGIC:
        raise Refusal("This is no database of Zembra's.", place=str(path), todo=_OTHER_PLACE)
    try:
        schema = _schema_of(path)
    except sqlite3.OperationalError as error:
        raise Refusal(f"The database cannot be opened: {error}.", place=str(path), todo=_OTHER_PLACE) from None
    except sqlite3.DatabaseError as error:
        raise Refusal(f"The database is damaged: {error}.", place=str(path), todo=_OTHER_PLACE) from None
    if schema is None:
        raise Refusal("This is no database of Zembra's.", place=str(path), todo=_OTHER_PLACE)
    if schema not in {revision.revision for revision in _scripts().walk_revisions()}:
        raise Refusal(
            f"The database was written by a newer Zembra (schema {schema}; this one knows {newest_schema()}).",
            place=str(path),
            todo="Nothing was changed. Start the newer Zembra, or choose another home with --home.",
        )
    return schema


def _check_rights(path: Path) -> None:
    if not (os.access(path, os.W_OK) and os.access(path.parent, os.W_OK)):
        raise Refusal(
            "The database cannot be written: it, or the folder it lies in, may only be read.",
            place=str(path),
            todo="Nothing was changed. Give yourself the right to write there, or choose another home with --home.",
        )


def _check_writable(path: Path) -> None:
    try:
        with closing(sqlite3.connect(path, timeout=15)) as connection:
            connection.execute("BEGIN IMMEDIATE")
            connection.rollback()
    except sqlite3.OperationalError as error:
        raise Refusal(f"The database cannot be written: {error}.", place=str(path), todo=_OTHER_PLACE) from None


def _schema_of(path: Path) -> str | None:
    """Return the schema of a database, or None if it is foreign. Raises sqlite3.DatabaseError."""
    # read the log of a killed process too, which a read-only connection could not
    with closing(sqlite3.connect(path, timeout=15)) as connection:
        tables = connection.execute("SELECT name FROM sqlite_master WHERE type = 'table'").fetchall()
        if ("alembic_version",) not in tables:
            return None
        found = connection.execute("SELECT version_num FROM alembic_version").fetchone()
        return str(found[0]) if found else None


def newest_schema() -> str:
    head = _scripts().get_current_head()
    assert head is not None
    return head


def fold_log(engine: Engine) -> None:
    """Checkpoint and truncate the log, unless somebody is reading."""
    with contextlib.suppress(sqlite3.OperationalError), closing(engine.raw_connection()) as connection:
        connection.cursor().execute("PRAGMA wal_checkpoint(TRUNCATE)")


def close_database(engine: Engine) -> None:
    """Close the database into one file."""
    fold_log(engine)
    engine.dispose()


@lru_cache(maxsize=1)
def _scripts() -> ScriptDirectory:
    """Load the migrations, once."""
    return ScriptDirectory.from_config(_config())


def _config() -> Config:
    config = Config()
    # a sign of percent is one of Alembic's own
    config.set_main_option("script_location", str(MIGRATIONS).replace("%", "%%"))
    return config


def _set_pragmas(connection: Any, _record: object) -> None:
    # invalid text is found by its seal, and must not stop other rows
    connection.text_factory = lambda data: data.decode(errors="replace")
    cursor = connection.cursor()
    cursor.execute("PRAGMA journal_mode=WAL")
    # FULL: a confirmed edit is on the disk before the answer leaves
    cursor.execute("PRAGMA synchronous=FULL")
    cursor.execute("PRAGMA foreign_keys=ON")
    cursor.execute(f"PRAGMA journal_size_limit={LARGEST_LOG}")
    cursor.close()
    count_along(connection)
