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
    """Add a person, and return the key, which is stored as a digest only. Raises Refusal for a taken or empty name."""
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
    """Return the people besides the owner. Raises Refusal if they are unreadable, as the home must not open to all."""
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
    """Return whether an unopened database has people."""
    if not database.exists():
        return False
    with contextlib.suppress(sqlite3.Error), contextlib.closing(sqlite3.connect(database)) as connection:
        return bool(connection.execute("SELECT count(*) FROM person").fetchone()[0])
    return False


def person_with(engine: Engine, key: str) -> Person | None:
    """Return the person with a key, unless their row was altered."""
    with Session(engine, expire_on_commit=False) as session:
        found = session.exec(select(Person).where(Person.key_hash == digest(key))).first()
        return found if found is not None and is_whole(found) else None


def remove_person(engine: Engine, name: str) -> None:
    """Remove a person with key and sessions; their changes keep the name. Raises NotKept."""
    with Session(engine) as session:
        found = session.exec(select(Person).where(Person.name == name)).first()
        if found is None:
            raise NotKept(f"There is nobody named “{name}”.")
        for login in session.exec(select(Login).where(Login.key_hash == found.key_hash)):
            session.delete(login)
        session.delete(found)
        session.commit()
