"""Seal every kept row with a digest, so that a changed byte is noticed. Seals of revisions are chained.

A seal is made of what lies in the database, column by column, and not of what Python makes of it: it can be looked at
where a row cannot be read any more.
"""

from __future__ import annotations

import hashlib
import sqlite3
from collections.abc import Iterator, Mapping, Sequence
from contextlib import closing
from dataclasses import dataclass
from datetime import UTC, date, datetime
from typing import Any

from sqlalchemy import Connection, Float, event, inspect
from sqlalchemy.orm import Mapper
from sqlmodel import SQLModel, col, select

from zembra.store.registry import KEPT, SEALED
from zembra.store.tables import Revision
from zembra.store.types import MOMENT

NOTHING: Mapping[str, object] = {}


def sealed(values: Sequence[object], before: str = "") -> str:
    """Return SHA-256 of values as SQLite stores them.

    before: seal of the previous revision in a chain
    """
    found = hashlib.sha256(before.encode())
    for value in values:
        plain = value.encode(errors="surrogatepass") if isinstance(value, str) else value
        plain_bytes = plain if isinstance(plain, bytes) else repr(plain).encode()
        kind = b"t" if isinstance(plain, bytes) else b"n" if plain is None else b"v"
        found.update(kind + str(len(plain_bytes)).encode() + b":" + plain_bytes)
    return found.hexdigest()


def seal_of(row: SQLModel, before: str = "", changed: Mapping[str, object] = NOTHING) -> str:
    """Return the correct seal of a row.

    changed: columns with new values
    """
    table = type(row)
    return sealed([_stored(table, name, changed.get(name, getattr(row, name))) for name in KEPT[table].sealed], before)


def resealed(row: SQLModel, *, was: Mapping[str, object] = NOTHING, changed: Mapping[str, object] = NOTHING) -> str:
    """Return the seal of a changed row; a broken seal stays broken.

    was: previous values
    changed: new values
    """
    seal: str = row.seal  # type: ignore[attr-defined]
    return seal_of(row, changed=changed) if seal_of(row, changed=was) == seal else seal


def _stored(table: type[SQLModel], name: str, value: object) -> object:
    """Return a value as SQLite stores it."""
    if isinstance(value, datetime):
        return (value.astimezone(UTC) if value.tzinfo else value).strftime(MOMENT)
    if isinstance(value, date):
        return value.isoformat()
    if isinstance(value, bool):
        return int(value)
    if isinstance(value, int) and isinstance(inspect(table).columns[name].type, Float):
        return float(value)
    return value


def seal_before(connection: Connection, row: Revision) -> str:
    """Return the seal of the previous revision, empty for the first."""
    earlier = select(Revision.seal).where(Revision.study_id == row.study_id, Revision.number < row.number)
    return connection.execute(earlier.order_by(col(Revision.number).desc()).limit(1)).scalar() or ""


@dataclass(frozen=True, slots=True)
class RawRow:
    """A row as stored, texts as bytes.

    whole: whether its seal matches
    """

    number: int
    values: Mapping[str, Any]
    whole: bool


def raw_rows(connection: sqlite3.Connection, table: type[SQLModel]) -> Iterator[RawRow]:
    """Yield all rows of a table, revisions in order of their chain. Raises sqlite3.Error."""
    key = KEPT[table].key
    names = tuple(column.name for column in inspect(table).columns if column.name not in ("id", "seal"))
    order = "study_id, number" if table is Revision else key
    before: dict[object, str] = {}
    query = f"SELECT {key}, seal, {', '.join(names)} FROM {table.__tablename__} ORDER BY {order}"
    with closing(connection.cursor()) as cursor:
        usual, connection.text_factory = connection.text_factory, bytes
        try:
            cursor.execute(query)
            while row := cursor.fetchone():
                number, seal, *values = row
                found = dict(zip(names, values, strict=True))
                chained = before.get(found["study_id"], "") if table is Revision else ""
                seal = seal.decode(errors="replace") if isinstance(seal, bytes) else ""
                if table is Revision:
                    before[found["study_id"]] = seal
                yield RawRow(number, found, seal == sealed([found[name] for name in KEPT[table].sealed], chained))
        finally:
            connection.text_factory = usual


def _before_insert(_mapper: Mapper[Any], connection: Connection, row: SQLModel) -> None:
    row.seal = seal_of(row, seal_before(connection, row) if isinstance(row, Revision) else "")


def _before_update(_mapper: Mapper[Any], _connection: Connection, row: SQLModel) -> None:
    histories = {name: inspect(row).attrs[name].history for name in KEPT[type(row)].sealed}
    changed = {name: history for name, history in histories.items() if history.has_changes()}
    was = {name: history.deleted[0] if history.deleted else None for name, history in changed.items()}
    if was:
        row.seal = resealed(row, was=was)


for _kept in SEALED:
    event.listen(_kept.table, "before_insert", _before_insert)
    if _kept.table is not Revision:
        event.listen(_kept.table, "before_update", _before_update)


def is_whole(row: SQLModel) -> bool:
    """Return whether a row matches its seal; revisions are checked with their chain."""
    return bool(seal_of(row) == row.seal)  # type: ignore[attr-defined]
