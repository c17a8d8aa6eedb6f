"""The folder that holds all data: its owner, its contents, and the lock for one server."""

from __future__ import annotations

import contextlib
import fcntl
import os
from collections.abc import Iterator
from dataclasses import dataclass
from pathlib import Path

from zembra.core.errors import Refusal

ONLY_OURS = 0o700
ONLY_OUR_FILES = 0o600


@dataclass(frozen=True, slots=True)
class Home:
    """A folder with database, backups and lock.

    name: of the database file
    """

    folder: Path
    name: str = "zembra.db"

    @property
    def database(self) -> Path:
        return self.folder / self.name

    @property
    def backups(self) -> Path:
        return self.folder / "backups"

    @property
    def may_write(self) -> bool:
        """Whether it is writable, if it exists."""
        there = [path for path in (self.folder, self.database) if path.exists()]
        return all(os.access(path, os.W_OK) for path in there)

    @property
    def incoming(self) -> Path:
        """The folder of uploads in progress."""
        return self.folder / "incoming"

    def make(self) -> None:
        """Create the folder, readable by its owner only. Raises OSError."""
        self.folder.mkdir(parents=True, exist_ok=True, mode=ONLY_OURS)
        if self.folder.stat().st_uid == os.getuid():
            self.folder.chmod(ONLY_OURS)

    @contextlib.contextmanager
    def locked(self, why: str) -> Iterator[None]:
        """Lock the home for this process, which releases it however it ends. Raises Refusal.

        why: message for others
        """
        self.make()
        handle = os.open(self.folder / "zembra.lock", os.O_RDWR | os.O_CREAT, ONLY_OUR_FILES)
        try:
            try:
                fcntl.flock(handle, fcntl.LOCK_EX | fcntl.LOCK_NB)
            except BlockingIOError:
                other = os.read(handle, 200).decode(errors="replace").strip() or "another process"
                raise Refusal(
                    f"{self.folder} is in use: {other}.", todo="Stop that one, or choose another home with --home."
                ) from None
            os.ftruncate(handle, 0)
            os.write(handle, f"{why}, process {os.getpid()}".encode())
            yield
            os.ftruncate(handle, 0)
        finally:
            os.close(handle)


def usual_home(name: str = "zembra") -> Home:
    """Return ZEMBRA_HOME, or the default data folder (XDG Base Directory Specification)."""
    # every command has a parser that knows the usual home, and few of them need it
    from zembra.settings import settings

    folder = settings().home
    if folder:
        return Home(folder)
    data = os.environ.get("XDG_DATA_HOME", "")
    return Home((Path(data) if data.startswith("/") else Path.home() / ".local/share") / name)
