"""Back up the database while it is in use, check backups, and restore them."""

from __future__ import annotations

import contextlib
import re
import shutil
import sqlite3
from contextlib import closing
from dataclasses import dataclass
from datetime import UTC, datetime, timedelta
from enum import StrEnum
from pathlib import Path

from zembra.core.errors import Refusal
from zembra.store.checking import check_file
from zembra.store.database import check_readable
from zembra.store.home import ONLY_OUR_FILES, Home
from zembra.store.mark import mark_of
from zembra.store.whole import to_disk, whole_file

KEPT = 7  # of each kind
EVERY = timedelta(days=1)
PAGES = 2_000  # copied at once, before those who wait get their turn
_STAMP = "%Y-%m-%dT%H%M%S"
# the number, the moment, why; of the version before without a number, and with one behind where a second had two
_NAME = re.compile(r"zembra-(?:(\d{6,})-)?(\d{4}-\d\d-\d\dT\d{6})-([a-z-]+?)(?:-\d+)?\.db")


class Why(StrEnum):
    DAILY = "daily"
    MIGRATION = "before-migration"
    RESTORE = "before-restore"
    BY_HAND = "by-hand"


@dataclass(frozen=True, slots=True)
class Backup:
    """A backup in a home.

    number: ascending, unlike clocks
    made_at: UTC
    size: bytes
    """

    path: Path
    number: int
    why: Why
    made_at: datetime
    size: int


def back_up(database: Path, to: Path) -> None:
    """Copy the database at one moment into one file that is complete and checked, or absent, by SQLite's online
    backup. Raises Refusal, OSError.
    """
    check_readable(database)
    try:
        with (
            whole_file(to, ONLY_OUR_FILES) as beside,
            closing(sqlite3.connect(database, timeout=15)) as source,
            closing(sqlite3.connect(beside)) as copy,
        ):
            # one moment of the source: what is written meanwhile does not begin the copy anew
            source.execute("BEGIN")
            source.execute("SELECT 1 FROM sqlite_master").fetchone()
            source.backup(copy, pages=PAGES, sleep=0.001)
            # a copy that is one file, whatever the source is
            copy.execute("PRAGMA journal_mode=DELETE")
            if (wrong := _damage(copy)) is not None:
                raise Refusal(
                    f"The database is damaged: {wrong}.",
                    todo="Put an older backup back with zembra restore; keep this file.",
                )
    except sqlite3.Error as error:
        raise Refusal(f"The backup was not made: {error}.", place=str(to)) from None


def keep_backup(home: Home, why: Why, now: datetime | None = None) -> Backup:
    """Make a backup in the home, and keep the last few of its kind; all stay if the new one is damaged. Raises
    Refusal, OSError.
    """
    made_at = (now or datetime.now(UTC)).astimezone(UTC).replace(microsecond=0)
    home.make()
    home.backups.mkdir(exist_ok=True, mode=0o700)
    number = 1 + max((backup.number for backup in backups(home)), default=0)
    path = home.backups / f"zembra-{number:06}-{made_at.strftime(_STAMP)}-{why}.db"
    back_up(home.database, path)
    of_kind = [backup for backup in backups(home) if backup.why is why]
    too_many = of_kind[KEPT:]
    # search row by row only if there is a reason
    if too_many and check_file(path).whole:
        for old in too_many:
            old.path.unlink(missing_ok=True)
    return next(older for older in of_kind if older.path == path)


def backups(home: Home) -> list[Backup]:
    """Return the backups of a home, newest first."""
    found: list[Backup] = []
    for path in home.backups.glob("zembra-*.db") if home.backups.is_dir() else ():
        named = _NAME.fullmatch(path.name)
        if named and named[3] in set(Why):
            made_at = datetime.strptime(named[2], _STAMP).replace(tzinfo=UTC)
            found.append(Backup(path, int(named[1] or 0), Why(named[3]), made_at, path.stat().st_size))
    return sorted(found, key=lambda backup: (backup.number, backup.made_at, backup.path.name), reverse=True)


def back_up_daily(home: Home, now: datetime | None = None) -> Backup | None:
    """Make a backup if the newest is a day old, or dated in the future. Raises Refusal, OSError."""
    now = now or datetime.now(UTC)
    newest = next(iter(backups(home)), None)
    if newest is not None and timedelta() <= now - newest.made_at < EVERY:
        return None
    return keep_backup(home, Why.DAILY, now)


def restore(home: Home, backup: Path) -> Path | None:
    """Replace the database by a backup, and return the path of the old one's backup. The caller must hold the lock.
    Raises Refusal, OSError.
    """
    check_readable(backup)
    with (
        closing(sqlite3.connect(f"{backup.resolve().as_uri()}?mode=ro", uri=True)) as source,
        whole_file(home.database, ONLY_OUR_FILES) as beside,
    ):
        try:
            wrong = _damage(source)
            # what lies in a log beside the file, as beside a copied database, comes along
            with closing(sqlite3.connect(beside)) as copy:
                source.backup(copy)
        except sqlite3.Error as error:
            wrong = str(error)
        if wrong is not None:
            raise Refusal(
                f"The backup is damaged: {wrong}.", place=str(backup), todo="Nothing was changed. Try another one."
            )
        home.make()
        aside = _set_aside(home) if home.database.exists() else None
        to_disk(beside)
        # the old log must not be applied to the restored database
        # and later commits must not count as missing
        for old in (*_logs_of(home.database), mark_of(home.database)):
            old.unlink(missing_ok=True)
    return aside


def _logs_of(database: Path) -> list[Path]:
    return [database.with_name(database.name + ending) for ending in ("-wal", "-shm")]


def _damage(connection: sqlite3.Connection) -> str | None:
    """Return what is wrong with a database, or None. Raises sqlite3.Error."""
    verdict = str(connection.execute("PRAGMA integrity_check(1)").fetchone()[0])
    return None if verdict == "ok" else verdict


def _set_aside(home: Home) -> Path:
    """Back up the current database, byte for byte if it is unreadable."""
    with contextlib.suppress(Refusal):
        return keep_backup(home, Why.RESTORE).path
    stamp = datetime.now(UTC).strftime(_STAMP)
    aside = home.folder / f"zembra-{stamp}-could-not-be-read.db"
    for ending in ("", "-wal"):
        there = home.database.with_name(home.database.name + ending)
        if there.exists():
            shutil.copyfile(there, aside.with_name(aside.name + ending))
    return aside
