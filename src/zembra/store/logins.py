"""Store browser sessions: random tokens, kept as digests."""

from __future__ import annotations

import secrets
from datetime import datetime, timedelta
from threading import Lock

from sqlalchemy import Engine
from sqlmodel import Session, col, delete, select

from zembra.core.intake.bringin import sha256
from zembra.store.errors import NotKept
from zembra.store.seals import is_whole
from zembra.store.tables import Login, Person, now

HOLDS = timedelta(days=30)
LONGEST_AGENT = 200  # letters


def begin_login(engine: Engine, key: str, agent: str) -> str:
    """Start a session, and return its cookie."""
    token = secrets.token_urlsafe(32)
    with Session(engine) as session:
        session.exec(delete(Login).where(col(Login.made_at) < now() - HOLDS))
        session.add(Login(token_hash=digest(token), key_hash=digest(key), agent=agent[:LONGEST_AGENT]))
        session.commit()
    return token


def login_of(engine: Engine, token: str, owner_key: str) -> tuple[Login, Person | None] | None:
    """Return the valid session of a cookie, and its person, None for the owner."""
    if not token:
        return None
    with Session(engine, expire_on_commit=False) as session:
        found = session.exec(select(Login).where(Login.token_hash == digest(token))).first()
        if found is None or now() - found.made_at > HOLDS or not is_whole(found):
            return None
        person = session.exec(select(Person).where(Person.key_hash == found.key_hash)).first()
        if person is not None and not is_whole(person):
            return None
        if person is None and (not owner_key or found.key_hash != digest(owner_key)):
            return None
        return found, person


class SessionsSeen:
    """When each session was last seen, stored now and then, as reading writes nothing. Safe across threads."""

    def __init__(self) -> None:
        self._at: dict[int, datetime] = {}
        self._lock = Lock()

    def note(self, number: int) -> None:
        with self._lock:
            self._at[number] = now()

    def of(self, login: Login) -> datetime:
        return max(login.seen_at, self._at.get(login.id or 0, login.seen_at))

    def take_down(self, engine: Engine) -> None:
        """Store the times. Raises sqlalchemy's OperationalError."""
        with self._lock:
            noted, self._at = self._at, {}
        if not noted:
            return
        with Session(engine) as session:
            for login in session.exec(select(Login).where(col(Login.id).in_(noted))):
                login.seen_at = noted[login.id or 0]
            session.commit()


def logins(engine: Engine, owner_key: str) -> list[tuple[Login, str]]:
    """Return valid sessions with names, newest first."""
    query = select(Login).where(col(Login.made_at) > now() - HOLDS).order_by(col(Login.id).desc())
    with Session(engine, expire_on_commit=False) as session:
        names = {row.key_hash: row.name for row in session.exec(select(Person))}
        if owner_key:
            names[digest(owner_key)] = ""
        return [(row, names[row.key_hash]) for row in session.exec(query) if row.key_hash in names]


def end_login(engine: Engine, number: int) -> None:
    """End a session. Raises NotKept."""
    with Session(engine) as session:
        found = session.get(Login, number)
        if found is None:
            raise NotKept("That session has ended already.")
        session.delete(found)
        session.commit()


def digest(secret: str) -> str:
    """Return a digest of a long random token, which needs no salt."""
    return sha256(secret.encode())
