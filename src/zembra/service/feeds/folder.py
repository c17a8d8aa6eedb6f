"""Files that are put into a folder, one after the other in the order in which they were written."""

from __future__ import annotations

import fnmatch
import json
import os
import time
from pathlib import Path

from zembra.core.errors import Refusal
from zembra.core.feeds.words import WatchedFolder
from zembra.service.feeds.fetched import Fetched, Wanted

SETTLED = 2.0  # seconds that a file has lain there unchanged: one that is being copied is not whole
MOST_FILES = 100_000  # of a folder, that are looked through


def next_file(source: WatchedFolder, wanted: Wanted) -> Fetched | None:
    """The oldest file that was written after the last one that was fetched; None where there is none. Raises Refusal."""
    folder = Path(source.folder)
    try:
        after = tuple(json.loads(wanted.cursor)) if wanted.cursor else (0, "")
        waiting: list[tuple[int, str, int]] = []
        with os.scandir(folder) as entries:
            for number, entry in enumerate(entries):
                if number >= MOST_FILES:
                    raise Refusal(f"The folder holds more than {MOST_FILES} files.", place=source.folder)
                # a link could lead anywhere
                if entry.is_file(follow_symlinks=False) and fnmatch.fnmatchcase(entry.name, source.pattern):
                    about = entry.stat(follow_symlinks=False)
                    if (about.st_mtime_ns, entry.name) > after:
                        waiting.append((about.st_mtime_ns, entry.name, about.st_size))
        settled = [known for known in sorted(waiting) if time.time() - known[0] / 1e9 > SETTLED]
        if not settled:
            return None
        written, name, size = settled[0]
        if size > wanted.most:
            raise Refusal(f"The file is larger than {wanted.megabytes} MB.", place=name)
        data = (folder / name).read_bytes()
    except OSError as error:
        raise Refusal(f"The folder cannot be read: {error.strerror or error}.", place=source.folder) from None
    if not data:
        raise Refusal("The file is empty.", place=name)
    return Fetched(name, data, json.dumps([written, name]))
