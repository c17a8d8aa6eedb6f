"""Run one read-only SELECT."""

from __future__ import annotations

import io
import re
import sqlite3
from collections.abc import Callable
from datetime import UTC, date, datetime
from pathlib import Path
from typing import Any

from sqlalchemy.engine import URL, Engine, make_url
from sqlalchemy.exc import ArgumentError

from zembra.core.errors import Refusal
from zembra.core.feeds.feedwords import DatabaseTable
from zembra.service.feeds.fetched import Fetched, FetchRequest, FetchResult
from zembra.work.executor import Report

ROWS = 10_000  # that are fetched at a time
SINCE = re.compile(r"(?<![:\w]):since\b")


def address_of(source: DatabaseTable) -> URL:
    """Return the SQLAlchemy URL. Raises Refusal if it is invalid or contains a password."""
    try:
        url = make_url(source.address)
    except (ArgumentError, ValueError):
        raise Refusal(
            "The address of the database is none.",
            place=source.address or "it is empty",
            todo="Write it as sqlite:////folder/file.db or postgresql://user@host/name.",
        ) from None
    if url.password is not None:
        raise Refusal(
            "The address holds a password, which would stand in exports and pictures.",
            place=url.host or url.drivername,
            todo="Leave it out, and give it as the key: it is kept apart.",
        )
    if url.get_backend_name() == "sqlite" and not Path(url.database or "").is_absolute():
        raise Refusal(
            "The file of the database is not told from the root.",
            place=source.address,
            todo="Write four strokes: sqlite:////folder/file.db.",
        )
    return url


def file_of(source: DatabaseTable) -> str | None:
    """Return the database file, None for a server. Raises Refusal."""
    url = address_of(source)
    return url.database if url.get_backend_name() == "sqlite" else None


def selected(_: Report, source: DatabaseTable, wanted: FetchRequest) -> FetchResult:
    """Run the SELECT, and return its rows as Parquet with the driver's types. Runs in a child, as a query may take
    any time and memory. Raises Refusal.
    """
    url = address_of(source)
    data = _rows(url.set(password=wanted.key or None), source.select, wanted.since, wanted.most)
    stem = Path(url.database or "rows").stem or "rows"
    return FetchResult(Fetched(f"{stem} {datetime.now(UTC):%Y-%m-%d %H.%M.%S}.parquet", data, ""), "")


def _rows(url: URL, select: str, since: date | None, most: int) -> bytes:
    """Fetch the rows.

    since: value of :since in the SELECT
    """
    import polars as pl
    from sqlalchemy import text
    from sqlalchemy.exc import SQLAlchemyError

    statement = select.strip().removesuffix(";")
    if ";" in statement:
        raise Refusal("More than one thing is asked of the database.", todo="Write one SELECT, without a “;”.")
    words = {"since": since.isoformat() if since else "0001-01-01"} if SINCE.search(statement) else {}
    try:
        engine = _read_only(url)
        with engine.connect() as connection:
            if connection.dialect.name in ("mysql", "mariadb"):
                connection.exec_driver_sql("SET SESSION TRANSACTION READ ONLY")
            result = connection.execute(text(statement), words) if words else connection.exec_driver_sql(statement)
            if not result.returns_rows:
                raise Refusal("What is asked of the database gives no rows.", place=statement[:60])
            names = list(result.keys())
            rows: list[tuple[Any, ...]] = []
            while part := result.fetchmany(ROWS):
                rows.extend(tuple(_plain(cell) for cell in row) for row in part)
            connection.rollback()
    except ModuleNotFoundError as error:
        raise Refusal(
            f"The driver of this database is not installed: {error.name}.", todo="Install it with pip."
        ) from None
    except SQLAlchemyError as error:
        # the driver's own words, without the address and what it holds
        said = str(getattr(error, "orig", None) or error).splitlines()[0]
        raise Refusal(f"The database refuses it: {said[:200]}.") from None
    if len(set(names)) < len(names):
        raise Refusal("Two columns have one name.", place=", ".join(names)[:200], todo="Name them with AS.")
    if not rows:
        raise Refusal("The database gives no rows.", place=statement[:60])
    frame = pl.DataFrame(rows, schema=names, orient="row", infer_schema_length=None, strict=False)
    out = io.BytesIO()
    frame.write_parquet(out, compression="zstd")
    if out.tell() > most:
        raise Refusal(f"The database gives more than {most // 1_000_000} MB.", todo="Ask for fewer rows.")
    return out.getvalue()


def _read_only(url: URL) -> Engine:
    from sqlalchemy import create_engine

    if url.get_backend_name() != "sqlite":
        options = {"postgresql_readonly": True} if url.get_backend_name() == "postgresql" else {}
        return create_engine(url, execution_options=options)
    # by path, which may contain characters that a URL would interpret
    file = f"{Path(url.database or '').as_uri()}?mode=ro"

    def connect() -> sqlite3.Connection:
        connection = sqlite3.connect(file, uri=True)
        connection.execute("PRAGMA query_only = ON")
        return connection

    creator: Callable[[], sqlite3.Connection] = connect
    return create_engine("sqlite://", creator=creator)


def _plain(cell: Any) -> Any:
    """Convert a value to text, number or date."""
    if cell is None or isinstance(cell, (bool, int, float, str, datetime, date)):
        return cell
    return cell.decode(errors="replace") if isinstance(cell, bytes) else str(cell)
