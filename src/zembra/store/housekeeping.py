"""Housekeeping of a running server: daily backups, purging, checkpoints, vacuum."""

from __future__ import annotations

import logging
from dataclasses import dataclass
from datetime import UTC, datetime, timedelta
from pathlib import Path

from sqlalchemy import Engine
from sqlmodel import Session, col, select

from zembra.store.backups import back_up_daily
from zembra.store.database import LARGEST_LOG, fold_log
from zembra.store.datasets import erase_dataset, removed_datasets
from zembra.store.home import Home
from zembra.store.leftovers import clear_old_exports
from zembra.store.studies import erase_study
from zembra.store.tables import Snapshot, Study

REMOVED_STAY = timedelta(days=30)
WORTH_GIVING = 16 * 1024 * 1024  # bytes


log = logging.getLogger(__name__)


class Housekeeper:
    """Runs housekeeping repeatedly.

    trouble: the last error, or empty
    """

    def __init__(self, home: Home, engine: Engine) -> None:
        self.trouble = ""
        self._home = home
        self._engine = engine

    def keep(self) -> None:
        """Run housekeeping; errors are stored and retried."""
        try:
            keep_house(self._home, self._engine)
            self.trouble = ""
        except Exception as error:
            log.exception("the home could not be kept in order")
            self.trouble = f"{type(error).__name__}: {error}" if not str(error) else str(error)


@dataclass(frozen=True, slots=True)
class Space:
    """Disk usage in bytes.

    log: of the write-ahead log
    free: unused pages
    """

    database: int
    log: int
    free: int


def keep_house(home: Home, engine: Engine, now: datetime | None = None) -> None:
    """Run everything that is due. Raises Refusal, OSError, and continues there next time."""
    now = now or datetime.now(UTC)
    back_up_daily(home, now)
    erase_long_removed(engine, now)
    clear_old_exports(home, now)
    space = space_of(home, engine)
    if space.free > max(WORTH_GIVING, space.database // 4):
        give_back(engine)
    elif space.log > LARGEST_LOG:
        fold_log(engine)


def erase_long_removed(engine: Engine, now: datetime) -> int:
    """Erase what was removed long ago, and return the number."""
    before = (now - REMOVED_STAY).astimezone(UTC)
    with Session(engine) as session:
        studies = list(session.exec(select(Study.id).where(col(Study.removed_at) < before)))
        old = list(session.exec(select(Snapshot).where(col(Snapshot.removed_at) < before)))
        for study in old:
            session.delete(study)
        session.commit()
    for identifier in studies:
        erase_study(engine, identifier or 0)
    files = [dataset for dataset in removed_datasets(engine) if dataset.removed_at and dataset.removed_at < before]
    for file in files:
        erase_dataset(engine, file.id or 0)
    return len(studies) + len(old) + len(files)


def space_of(home: Home, engine: Engine) -> Space:
    with engine.connect() as connection:
        free = connection.exec_driver_sql("PRAGMA freelist_count").scalar_one()
        size = connection.exec_driver_sql("PRAGMA page_size").scalar_one()
    log = home.database.with_name(home.database.name + "-wal")
    return Space(_size(home.database), _size(log), int(free) * int(size))


def give_back(engine: Engine) -> None:
    """Return unused space to the disk."""
    with engine.connect().execution_options(isolation_level="AUTOCOMMIT") as connection:
        connection.exec_driver_sql("VACUUM")
    fold_log(engine)


def _size(path: Path) -> int:
    return path.stat().st_size if path.exists() else 0
