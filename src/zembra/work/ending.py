"""Explain why a child process ended early."""

from __future__ import annotations

import logging
import signal

from zembra.core.english import upper_first
from zembra.work.executor import EndReason, TaskEnded

# last words of allocators and of what could not begin a thread, by which an aborted process says that it had too little memory
_NO_MEMORY = (
    b"memory allocation",
    b"bad_alloc",
    b"Cannot allocate memory",
    b"MemoryError",
    b"failed to spawn thread",
    b"out of memory",  # the drawing engine
)
LAST_WORDS = 64_000  # bytes of them that are looked at
log = logging.getLogger(__name__)


def died(name: str, exit_code: int, words: bytes, most_mb: int | None) -> TaskEnded:
    """Return the error for a child that died.

    name: what it did, as a noun phrase
    exit_code: negative for a signal
    words: the end of its standard error
    most_mb: its memory limit
    """
    if any(sign in words for sign in _NO_MEMORY):
        return too_much(name, most_mb)
    ending = signal.Signals(-exit_code).name if exit_code < 0 else f"exit status {exit_code}"
    if exit_code == -signal.SIGKILL:
        return TaskEnded(
            EndReason.KILLED,
            f"{upper_first(name)} was killed ({ending}) before it was done: by somebody, or by the system, which does "
            "so where memory runs out.",
            todo="Try again.",
        )
    return fault(name, ending, words.decode(errors="replace"))


def too_much(name: str, most_mb: int | None) -> TaskEnded:
    bound = (
        f" more than {most_mb:,} MB of memory, the most Zembra gives it." if most_mb else " more memory than there is."
    )
    return TaskEnded(EndReason.MEMORY, f"{upper_first(name)} needs{bound}")


def late(name: str, seconds: float) -> TaskEnded:
    return TaskEnded(EndReason.TIME, f"{upper_first(name)} is not done within {seconds:g} seconds.")


def fault(name: str, what: str, trace: str) -> TaskEnded:
    log.error("%s ended: %s\n%s", name, what, trace)
    return TaskEnded(
        EndReason.FAULT,
        f"{upper_first(name)} ended before it was done, by a fault of Zembra or of what it uses: {what}.",
        todo="The log of the server has more.",
    )
