"""Reading foreign files in a process of their own, with a limit on its memory and its time.

A workbook, Parquet, JSON, HTML or packed file can ask for any amount of memory while it is read, and a
reader written in another language can end its process. Here that is a sentence, and nothing else ends.
Plain delimited text is read where it is: what it needs is bounded by its size.
"""

from __future__ import annotations

import contextlib
import multiprocessing
import os
import resource
import time
from multiprocessing import forkserver
from multiprocessing.connection import Connection
from typing import Any

from zembra.core.errors import Refusal
from zembra.core.intake.bringin import BroughtIn, Progress, bring_in, quiet
from zembra.core.intake.formats import file_form
from zembra.core.intake.howread import FileForm, HowRead, TableHow, ValueKind

MEMORY_MB = int(os.environ.get("ZEMBRA_READER_MEMORY_MB", "2048"))
SECONDS = float(os.environ.get("ZEMBRA_READER_SECONDS", "60"))
_HARMLESS = (FileForm.TEXT, FileForm.FIXED)
_CONTEXT = multiprocessing.get_context("forkserver")
_CONTEXT.set_forkserver_preload(["zembra.core.intake.bringin", "zembra.core.intake.workbook"])


def start_reader() -> None:
    """Have the process that children are forked from ready before the first foreign file comes."""
    forkserver.ensure_running()


def read_apart(
    data: bytes,
    how: HowRead | None = None,
    *,
    table_how: TableHow | None = None,
    kind: ValueKind | None = None,
    progress: Progress = quiet,
) -> BroughtIn:
    """`bring_in`, in a child process unless the file is plain text. Raises Refusal."""
    words: dict[str, Any] = {"table_how": table_how, "kind": kind}
    if plain_text(data):
        return bring_in(data, how, progress=progress, **words)
    ours, theirs = _CONTEXT.Pipe()
    child = _CONTEXT.Process(target=_read, args=(theirs, data, how, words), daemon=True)
    child.start()
    theirs.close()
    try:
        return _answer(ours, progress)
    finally:
        child.terminate()
        child.join()
        ours.close()


def plain_text(data: bytes) -> bool:
    """Whether a file is text that no reader of a foreign form needs to look into."""
    start = data[:4096].lstrip(b"\xef\xbb\xbf \t\r\n")
    if data.startswith((b"PK", b"PAR1", b"\x1f\x8b", b"\xd0\xcf\x11\xe0")) or start[:1] in (b"{", b"[", b"<"):
        return False
    return file_form(data) in _HARMLESS


def _answer(told: Connection, progress: Progress) -> BroughtIn:
    """What the child finds. Whatever `progress` raises ends the reading."""
    end = time.monotonic() + SECONDS
    while True:
        if not told.poll(0.1):
            progress("reading the file", 0.3)
            if time.monotonic() > end:
                raise Refusal(
                    f"The file is not read within {SECONDS:g} seconds.",
                    todo="Cut it, save it as CSV, or raise ZEMBRA_READER_SECONDS and start Zembra again.",
                )
            continue
        try:
            what, found = told.recv()
        except EOFError:
            raise _too_large() from None
        if what == "progress":
            progress(*found)
        elif what == "refused":
            raise Refusal(found[0], place=found[1], todo=found[2])
        else:
            result: BroughtIn = found
            return result


def _too_large() -> Refusal:
    return Refusal(
        f"The file needs more than {MEMORY_MB:,} MB of memory to be read, the most Zembra gives one.".replace(",", " "),
        todo="Cut it, save it as CSV, or raise ZEMBRA_READER_MEMORY_MB and start Zembra again.",
    )


def _read(tell: Connection, data: bytes, how: HowRead | None, words: dict[str, Any]) -> None:
    """The child's work. It may die at any point; the parent sees the pipe end."""
    resource.setrlimit(resource.RLIMIT_AS, (MEMORY_MB * 1024 * 1024,) * 2)
    resource.setrlimit(resource.RLIMIT_CORE, (0, 0))
    with contextlib.suppress(OSError), open(os.devnull, "w") as nowhere:  # the last words of an aborted reader
        os.dup2(nowhere.fileno(), 2)
    try:
        found = bring_in(data, how, progress=lambda *step: tell.send(("progress", step)), **words)
        tell.send(("found", found))
    except Refusal as refusal:
        tell.send(("refused", (refusal.what, refusal.place, refusal.todo)))
    except MemoryError:
        os._exit(1)
