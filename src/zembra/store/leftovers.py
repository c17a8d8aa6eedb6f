"""Remove what killed processes left in a home."""

from __future__ import annotations

import shutil
from collections.abc import Iterator
from datetime import datetime, timedelta
from pathlib import Path

from zembra.store.home import Home

# in the home itself; each is a name that only Zembra gives
EXPORTS = (".export-*.zip", "..export-*.zip.part")
EXPORTS_STAY = timedelta(days=1)
_OURS = (".zembra.db.*.new*", ".*.db.part", ".*.zip.part", *EXPORTS, ".rescue-*")


def clear_leftovers(home: Home) -> int:
    """Delete leftovers, and return the number. The caller must hold the lock."""
    count = 0
    for path in _leftovers(home):
        if path.is_dir() and not path.is_symlink():
            shutil.rmtree(path, ignore_errors=True)
        else:
            path.unlink(missing_ok=True)
        count += 1
    return count


def clear_old_exports(home: Home, now: datetime) -> None:
    """Delete exports after a day."""
    for pattern in EXPORTS:
        for path in list(home.folder.glob(pattern)):
            if now.timestamp() - path.stat().st_mtime > EXPORTS_STAY.total_seconds():
                path.unlink(missing_ok=True)


def _leftovers(home: Home) -> Iterator[Path]:
    for pattern in _OURS:
        yield from list(home.folder.glob(pattern))
    yield from list(home.backups.glob(".zembra-*.part"))
    if home.incoming.is_dir():
        yield from list(home.incoming.iterdir())
