"""Read new files of a folder, the oldest first.

A file is known by its name, its size and its content, not by its day: one that was copied with an older date is new too. What cannot be
taken is told for as long as it lies there as it is, and stands in no other file's way.
"""

from __future__ import annotations

import fnmatch
import hashlib
import json
import os
import time
from dataclasses import asdict, dataclass, replace
from pathlib import Path

from zembra.core.errors import Refusal
from zembra.core.feeds.feedwords import WatchedFolder
from zembra.service.feeds.fetched import Fetched, FetchRequest, FetchResult
from zembra.work.executor import Report

SETTLED = 2.0  # seconds that a file has lain there unchanged: one that is being copied is not whole
MOST_FILES = 100_000  # of a folder, that are looked through
MOST_TOLD = 5  # files that could not be taken


@dataclass(frozen=True, slots=True)
class FileStamp:
    """What identifies a file version.

    size, written, changed: as stat reports (st_mtime_ns, st_ctime_ns)
    trouble: why it was skipped, or empty
    """

    size: int
    written: int
    changed: int
    sha256: str = ""
    trouble: str = ""

    def looks_like(self, other: FileStamp) -> bool:
        return (self.size, self.written, self.changed) == (other.size, other.written, other.changed)


def next_file(_: Report, source: WatchedFolder, wanted: FetchRequest) -> FetchResult:
    """Return the next file of a folder. Raises Refusal."""
    try:
        seen = _files_in(source)
    except OSError as error:
        raise Refusal(f"The folder cannot be read: {error.strerror or error}.", place=source.folder) from None
    known = {name: file for name, file in _known(wanted.cursor, seen).items() if name in seen}
    now = time.time()
    for name, file in sorted(seen.items(), key=lambda item: (item[1].written, item[0])):
        before = known.get(name)
        if (before is not None and before.looks_like(file)) or not _has_settled(file, now):
            continue
        if file.size > wanted.most:
            known[name] = replace(file, trouble=f"it is larger than {wanted.megabytes} MB")
            continue
        try:
            data = (Path(source.folder) / name).read_bytes()
        except OSError as error:
            known[name] = replace(file, trouble=f"it cannot be read: {error.strerror or error}")
            continue
        digest = hashlib.sha256(data).hexdigest()
        if before is not None and (before.size, before.sha256) == (file.size, digest):
            known[name] = replace(file, sha256=digest, trouble=before.trouble)
            continue
        known[name] = replace(file, sha256=digest, trouble="" if data else "it is empty")
        if data:
            cursor = _cursor(known)
            return FetchResult(Fetched(name, data, cursor), cursor)
    return FetchResult(None, _cursor(known))


def passed_over(cursor: str, name: str, trouble: str) -> str:
    """Return the cursor after a skipped file."""
    known = _known(cursor, {})
    known[name] = replace(known[name], trouble=trouble)
    return _cursor(known)


def troubles(cursor: str) -> str:
    """Describe skipped files."""
    told = [f"“{name}” was passed over: {file.trouble}." for name, file in _known(cursor, {}).items() if file.trouble]
    more = len(told) - MOST_TOLD
    return " ".join([*told[:MOST_TOLD], *([f"So were {more} more."] if more > 0 else [])]).replace("..", ".")


def _files_in(source: WatchedFolder) -> dict[str, FileStamp]:
    """List the files. Raises Refusal, OSError."""
    found: dict[str, FileStamp] = {}
    with os.scandir(source.folder) as entries:
        for number, entry in enumerate(entries):
            if number >= MOST_FILES:
                raise Refusal(f"The folder holds more than {MOST_FILES} files.", place=source.folder)
            # a link could lead anywhere
            if entry.is_file(follow_symlinks=False) and fnmatch.fnmatchcase(entry.name, source.pattern):
                about = entry.stat(follow_symlinks=False)
                found[entry.name] = FileStamp(about.st_size, about.st_mtime_ns, about.st_ctime_ns)
    return found


def _has_settled(file: FileStamp, now: float) -> bool:
    # a future day is the fault of a clock, not of the writer
    last = file.written if file.written / 1e9 <= now else file.changed
    return now - last / 1e9 > SETTLED


def _cursor(known: dict[str, FileStamp]) -> str:
    return json.dumps({name: asdict(file) for name, file in known.items()})


def _known(cursor: str, seen: dict[str, FileStamp]) -> dict[str, FileStamp]:
    kept = json.loads(cursor) if cursor else {}
    if isinstance(kept, list):  # until schema 14: how far it had come, by the day and the name of a file
        return {name: file for name, file in seen.items() if [file.written, name] <= kept}
    return {name: FileStamp(**file) for name, file in kept.items()}
