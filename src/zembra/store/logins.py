"""Sessions of browsers that came in with the key: random, kept as digests, listed and ended."""

from __future__ import annotations

import contextlib
import secrets
from datetime import timedelta

from sqlalchemy import Engine, exc
from sqlmodel import Session, col, delete, select

from zembra.core.intake.bringin import sha256
from zembra.store.errors import NotKept
from zembra.store.tables import Login, Person, now

HOLDS = timedelta(days=30)
SEEN_EVERY = timedelta(hours=1)
LONGEST_AGENT = 200  # letters


def begin_login(engine: Engine, key: str, agent: str) -> str:
    """A new session; what its cookie is to hold."""
    token = secrets.token_urlsafe(32)
    with Session(engine) as session:
        session.exec(delete(Login).where(col(Login.made_at) < now() - HOLDS))
        session.add(Login(token_hash=digest(token), key_hash=digest(key), agent=agent[:LONGEST_AGENT]))
        session.commit()
    return token


def login_of(engine: Engine, token: str, owner_key: str) -> tuple[Login, Person | None] | None:
    """The session that a cookie belongs to and whose it is, None for the owner: not older than it may be, and of a key that
    still holds."""
    if not token:
        return None
    with Session(engine, expire_on_commit=False) as session:
        found = session.exec(select(Login).where(Login.token_hash == digest(token))).first()
        if found is None or now() - found.made_at > HOLDS:
            return None
        person = session.exec(select(Person).where(Person.key_hash == found.key_hash)).first()
        if person is None and (not owner_key or found.key_hash != digest(owner_key)):
            return None
        if now() - found.seen_at > SEEN_EVERY:
            _seen(engine, found.id)
        return found, person


def _seen(engine: Engine, number: int | None) -> None:
    # nobody is shut out where that cannot be written
    with contextlib.suppress(exc.OperationalError), Session(engine) as session:
        if (found := session.get(Login, number)) is not None:
            found.seen_at = now()
            session.commit()


def logins(engine: Engine, owner_key: str) -> list[tuple[Login, str]]:
    """Those that still hold, with the names of whose they are, the newest first."""
    query = select(Login).where(col(Login.made_at) > now() - HOLDS).order_by(col(Login.id).desc())
    with Session(engine, expire_on_commit=False) as session:
        names = {row.key_hash: row.name for row in session.exec(select(Person))}
        if owner_key:
            names[digest(owner_key)] = ""
        return [(row, names[row.key_hash]) for row in session.exec(query) if row.key_hash in names]


def end_login(engine: Engine, number: int) -> None:
    """Raises NotKept."""
    with Session(engine) as session:
        found = session.get(Login, number)
        if found is None:
            raise NotKept("That session has ended already.")
        session.delete(found)
        session.commit()


def digest(secret: str) -> str:
    """Of what is random and long: it needs no salt, and no slow digest."""
    return sha256(secret.encode())
