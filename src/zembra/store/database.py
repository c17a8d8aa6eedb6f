"""Opening the database file: migrations at start, WAL mode, durable commits."""

from __future__ import annotations

from pathlib import Path
from typing import Any

from alembic import command
from alembic.config import Config
from sqlalchemy import Engine, event
from sqlmodel import create_engine

MIGRATIONS = Path(__file__).parent / "migrations"


def open_database(path: Path) -> Engine:
    """An engine on the file, created and brought to the newest schema."""
    path.parent.mkdir(parents=True, exist_ok=True)
    engine = create_engine(f"sqlite:///{path}", connect_args={"timeout": 15})
    event.listen(engine, "connect", _set_pragmas)
    config = Config()
    config.set_main_option("script_location", str(MIGRATIONS))
    with engine.connect() as connection:
        # SQLite changes a table by making it anew: what refers to it must not be checked meanwhile
        connection.exec_driver_sql("PRAGMA foreign_keys=OFF")
        connection.commit()
        with connection.begin():
            config.attributes["connection"] = connection
            command.upgrade(config, "head")
        connection.exec_driver_sql("PRAGMA foreign_keys=ON")
        connection.commit()
    return engine


def _set_pragmas(connection: Any, _record: object) -> None:
    cursor = connection.cursor()
    cursor.execute("PRAGMA journal_mode=WAL")
    # FULL: a confirmed edit is on the disk before the answer leaves
    cursor.execute("PRAGMA synchronous=FULL")
    cursor.execute("PRAGMA foreign_keys=ON")
    cursor.close()
