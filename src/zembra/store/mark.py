"""A commit counter beside the database, to notice lost commits.

A database whose log was cut, or that was moved away from its log, is whole and old: nothing inside it could tell. The mark is
written after each commit, before that is confirmed; what ends the process loses neither. It is not waited for on the disk: after
a power failure it may be behind the database, never ahead.
"""

from __future__ import annotations

import contextlib
import os
from pathlib import Path
from threading import Lock
from typing import Any
from weakref import WeakKeyDictionary

from sqlalchemy import Connection, Engine, event
from sqlmodel import Session, col, select

from zembra.store.home import ONLY_OUR_FILES
from zembra.store.tables import Gap, Mark, now


class _Witness:
    """The commit counter of one database. Safe across threads."""

    def __init__(self, path: Path) -> None:
        self._path = path
        self._lock = Lock()

    def read(self) -> tuple[str, int]:
        """Return database identity and counter, or nothing if unreadable."""
        with contextlib.suppress(OSError, ValueError):
            identity, commits = self._path.read_text().split()
            return identity, int(commits)
        return "", 0

    def note(self, identity: str, commits: int) -> None:
        # other processes may commit too; the highest counter wins
        with self._lock, contextlib.suppress(OSError):
            before = self.read()
            if before[0] == identity and before[1] >= commits:
                return
            handle = os.open(self._path, os.O_RDWR | os.O_CREAT, ONLY_OUR_FILES)
            try:
                os.pwrite(handle, f"{identity} {commits:020}\n".encode(), 0)
            finally:
                os.close(handle)


_WATCHED: WeakKeyDictionary[Engine, _Witness] = WeakKeyDictionary()


def mark_of(database: Path) -> Path:
    """Return the path of the counter."""
    return database.with_name(f"{database.stem}.mark")


def watch(engine: Engine, database: Path) -> None:
    """Count commits from now on, and record lost ones as a gap."""
    witness = _Witness(mark_of(database))
    with Session(engine) as session:
        mark = session.exec(select(Mark)).one()
        identity, confirmed = witness.read()
        if identity == mark.identity and confirmed > mark.commits:
            session.add(Gap(confirmed=confirmed, found=mark.commits))
            mark.commits = confirmed
        session.commit()
        witness.note(mark.identity, mark.commits)
    _WATCHED[engine] = witness


def gaps(session: Session) -> list[Gap]:
    """Return unacknowledged gaps."""
    return list(session.exec(select(Gap).where(col(Gap.accepted_at).is_(None))))


def accept_gaps(engine: Engine) -> int:
    """Acknowledge gaps, and return their number."""
    with Session(engine) as session:
        found = gaps(session)
        for gap in found:
            gap.accepted_at = now()
        session.commit()
        return len(found)


def _changes(connection: Connection) -> int:
    raw: Any = connection.connection.dbapi_connection
    return int(raw.total_changes)


def _begun(session: Session, _transaction: object, connection: Connection) -> None:
    if connection.engine in _WATCHED:
        session.info["changes"] = _changes(connection)


def _before_commit(session: Session) -> None:
    if session.get_bind().engine not in _WATCHED:
        return
    session.flush()
    if _changes(session.connection()) == session.info.get("changes"):
        return
    said = session.connection().exec_driver_sql("UPDATE mark SET commits = commits + 1 RETURNING identity, commits")
    session.info["mark"] = tuple(said.one())


def _after_commit(session: Session) -> None:
    if mark := session.info.pop("mark", None):
        _WATCHED[session.get_bind().engine].note(*mark)


event.listen(Session, "after_begin", _begun)
event.listen(Session, "before_commit", _before_commit)
event.listen(Session, "after_commit", _after_commit)
