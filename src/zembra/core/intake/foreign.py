"""Shared helpers of readers: errors as refusals, archives, cells as text."""

from __future__ import annotations

import gzip
import io
import zipfile
import zlib
from collections.abc import Callable
from datetime import date, datetime, time, timedelta
from typing import Any

from zembra.core.errors import Refusal
from zembra.core.intake.bounds import MOST_UNPACKED, too_large_unpacked
from zembra.core.intake.signatures import GZIP, ZIP

_RESAVE = "Save the table again from the program it came from, or as CSV."
_BESIDE = ("__MACOSX/", ".DS_Store", "Thumbs.db")


def guarded(kind: str, work: Callable[[], Any]) -> Any:
    """Run a reader, and turn whatever a broken file raises into a Refusal."""
    try:
        return work()
    except (KeyboardInterrupt, SystemExit, MemoryError, Refusal):
        raise
    except RecursionError:
        raise Refusal(f"The {kind} file is nested too deeply to be a table.") from None
    except BaseException as error:  # readers written in Rust panic past Exception
        raise Refusal(f"The {kind} file cannot be read: {str(error)[:120]}.", todo=_RESAVE) from None


def open_zip(data: bytes) -> zipfile.ZipFile:
    archive: zipfile.ZipFile = guarded("zip", lambda: zipfile.ZipFile(io.BytesIO(data)))
    if sum(item.file_size for item in archive.infolist()) > MOST_UNPACKED:
        raise too_large_unpacked()
    return archive


def files_in(archive: zipfile.ZipFile) -> list[str]:
    """Return file names, without those of operating systems."""
    return [name for name in archive.namelist() if not name.endswith("/") and not name.startswith(_BESIDE)]


def unpacked(data: bytes) -> bytes:
    """Return the single file of a gzip or zip archive; other bytes unchanged. Raises Refusal for several or too
    large ones.
    """
    if data.startswith(GZIP):
        return _gunzipped(data)
    if not data.startswith(ZIP):
        return data
    archive = open_zip(data)
    names = files_in(archive)
    known = any(name.startswith("xl/") or name.endswith("datapackage.json") or name == "content.xml" for name in names)
    if known or len(names) != 1:
        return data
    return bytes(guarded("zip", lambda: archive.read(names[0])))


def _gunzipped(data: bytes) -> bytes:
    try:
        with gzip.open(io.BytesIO(data)) as stream:
            found = stream.read(MOST_UNPACKED + 1)
    except (OSError, EOFError, zlib.error) as error:
        raise Refusal(f"The gzip file cannot be unpacked: {str(error)[:80]}.", todo=_RESAVE) from None
    if len(found) > MOST_UNPACKED:
        raise too_large_unpacked()
    return found


def cell_text(cell: object) -> str:
    """Convert a typed cell to text."""
    if cell is None:
        return ""
    if isinstance(cell, bool):
        return "TRUE" if cell else "FALSE"
    if isinstance(cell, float) and cell.is_integer() and abs(cell) < 1e15:
        return str(int(cell))
    if isinstance(cell, datetime):
        return cell.date().isoformat() if cell.time() == time() else cell.isoformat(timespec="seconds")
    if isinstance(cell, date | time):
        return cell.isoformat()
    if isinstance(cell, timedelta):
        return str(cell)
    return str(cell)
