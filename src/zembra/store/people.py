"""Store the people who share a home, each with a key and rights."""

from __future__ import annotations

import contextlib
import secrets
import sqlite3
from pathlib import Path

from sqlalchemy import Engine
from sqlalchemy.exc import DatabaseError
from sqlmodel import Session, col, select

from zembra.core.errors import Refusal
from zembra.store.errors import NotKept
from zembra.store.logins import digest
from zembra.store.seals import is_whole
from zembra.store.tables import Login, Person


def add_person(engine: Engine, name: str, *, may_change: bool) -> str:
    """Their key, which is kept as a digest and told this once. Raises Refusal where the name is taken or none."""
    name = name.strip()
    if not name or len(name) > 60 or not name.isprintable():
        raise Refusal(f"“{name[:60]}” is no name.", todo="Give up to sixty letters.")
    key = secrets.token_urlsafe(24)
    with Session(engine) as session:
        if session.exec(select(Person).where(Person.name == name)).first() is not None:
            raise Refusal(f"There is somebody named “{name}” already.", todo="Take them off first, or add a surname.")
        session.add(Person(name=name, key_hash=digest(key), may_change=may_change))
        session.commit()
    return key


def people(engine: Engine) -> list[Person]:
    """Who has a key, besides the owner. Raises Refusal where it cannot be read who there is: a home must not be open to
    all for that."""
    try:
        with Session(engine, expire_on_commit=False) as session:
            return list(session.exec(select(Person).order_by(col(Person.name))))
    except DatabaseError as error:
        raise Refusal(
            f"Who shares the home cannot be read: {error.orig}.",
            place="the table “person”",
            todo="Put a backup back with zembra restore, or take out what is whole with zembra rescue.",
        ) from None


def has_people(database: Path) -> bool:
    """Whether a database that is not open yet knows of any."""
    if not database.exists():
        return False
    with contextlib.suppress(sqlite3.Error), contextlib.closing(sqlite3.connect(database)) as connection:
        return bool(connection.execute("SELECT count(*) FROM person").fetchone()[0])
    return False


def person_with(engine: Engine, key: str) -> Person | None:
    """Whose key it is; nobody's where what is kept of them was altered."""
    with Session(engine, expire_on_commit=False) as session:
        found = session.exec(select(Person).where(Person.key_hash == digest(key))).first()
        return found if found is not None and is_whole(found) else None


def remove_person(engine: Engine, name: str) -> None:
    """Their key and sessions end; what they did stays, with their name. Raises NotKept."""
    with Session(engine) as session:
        found = session.exec(select(Person).where(Person.name == name)).first()
        if found is None:
            raise NotKept(f"There is nobody named “{name}”.")
        for login in session.exec(select(Login).where(Login.key_hash == found.key_hash)):
            session.delete(login)
        session.delete(found)
        session.commit()
