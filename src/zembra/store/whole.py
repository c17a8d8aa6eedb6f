"""Write files atomically."""

from __future__ import annotations

import contextlib
import os
from collections.abc import Iterator
from pathlib import Path


@contextlib.contextmanager
def whole_file(path: Path, mode: int = 0o666) -> Iterator[Path]:
    """Yield a temporary file that replaces the target once it is complete and on disk. Raises OSError.

    mode: permissions, subject to the umask
    """
    path.parent.mkdir(parents=True, exist_ok=True)
    beside = path.with_name(f".{path.name}.part")
    beside.unlink(missing_ok=True)
    try:
        os.close(os.open(beside, os.O_CREAT | os.O_EXCL | os.O_RDWR, mode))
        yield beside
        to_disk(beside)
        os.replace(beside, path)
        to_disk(path.parent)
    finally:
        beside.unlink(missing_ok=True)


def to_disk(path: Path) -> None:
    """Flush to disk. Raises OSError."""
    handle = os.open(path, os.O_RDONLY)
    try:
        os.fsync(handle)
    finally:
        os.close(handle)
