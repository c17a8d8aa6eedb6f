"""Read a read-only home through a temporary copy of its database."""

from __future__ import annotations

import shutil
import tempfile
from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path

from zembra.store.home import Home
from zembra.store.mark import mark_of


@contextmanager
def readable(home: Home) -> Iterator[Path]:
    """Yield the database of a home, or a copy with its log if nothing may be written. Raises OSError."""
    if home.may_write:
        yield home.database
        return
    with tempfile.TemporaryDirectory(prefix="zembra-looking-") as folder:
        copy = Path(folder) / home.name
        log = home.database.with_name(f"{home.name}-wal")
        for there in (home.database, log, mark_of(home.database)):
            if there.exists():
                to = copy.with_name(there.name)
                shutil.copyfile(there, to)
                to.chmod(0o600)
        yield copy
