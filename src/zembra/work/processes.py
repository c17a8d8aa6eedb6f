"""Tasks in child processes: so many at a time, with limits, ended at once when nobody waits for them any more.

A file can ask for any amount of memory while it is read, and a reader written in another language can end its process. Here
that is a sentence, and nothing else ends.
"""

from __future__ import annotations

import logging
import os
import signal
import time
import traceback
from collections import deque
from collections.abc import Callable, Iterator, Sequence
from multiprocessing.connection import Connection, wait
from threading import BoundedSemaphore
from typing import Any, TypeVar

from zembra.core.english import upper_first
from zembra.core.errors import Refusal
from zembra.work.executor import Check, Ended, Limits, OnReport, Reason, ignore_report, no_check
from zembra.work.platform import children_context, limit_memory, make_ready

Result = TypeVar("Result")
POLL = 0.1  # seconds between two checks
DONE, RAISED, MEMORY, FAULT, REPORT = "done", "raised", "memory", "fault", "report"
# last words of allocators and of what could not begin a thread, by which an aborted process says that it had too little memory
_NO_MEMORY = (b"memory allocation", b"bad_alloc", b"Cannot allocate memory", b"MemoryError", b"failed to spawn thread")
LAST_WORDS = 64_000  # bytes of them that are looked at
# a child a core: threads of the linear algebra library would only get in each other's way
for _threads in ("OPENBLAS_NUM_THREADS", "OMP_NUM_THREADS", "MKL_NUM_THREADS"):
    os.environ.setdefault(_threads, "1")
_CONTEXT = children_context()
log = logging.getLogger(__name__)


def preload(modules: Sequence[str]) -> None:
    """Have modules imported once, in the process that children are forked from. To be said before the first child."""
    children_context(modules)


def ready() -> None:
    """Have the process that children are forked from ready before the first of them is needed."""
    make_ready()


class Processes:
    """Carries tasks out in children, at most so many of them at a time, whoever asks."""

    def __init__(self, most: int) -> None:
        self._free = BoundedSemaphore(most)

    def map(
        self,
        function: Callable[..., Result],
        tasks: Sequence[tuple[Any, ...]],
        *,
        name: str,
        limits: Limits = Limits(),  # noqa: B008
        on_report: OnReport = ignore_report,
        check: Check = no_check,
        each_by_itself: bool = False,
    ) -> Iterator[tuple[int, Result]]:
        waiting = deque(enumerate(tasks))
        running: dict[Connection, _Child] = {}
        try:
            while waiting or running:
                # without one under way, wait for a place; with some, take what places there are
                while waiting and self._free.acquire(timeout=0 if running else POLL):
                    number, task = waiting.popleft()
                    try:
                        child = _Child(number, name, function, task, limits, self._free)
                    except BaseException:
                        self._free.release()
                        raise
                    running[child.pipe] = child
                check()
                for pipe in wait(list(running), POLL) if running else ():
                    assert isinstance(pipe, Connection)
                    child = running[pipe]
                    kind, value = child.message()
                    if kind == REPORT:
                        on_report(child.number, *value)
                        continue
                    del running[pipe]
                    child.end()
                    if kind != DONE and not each_by_itself:
                        raise value
                    yield child.number, value
                for pipe, child in list(running.items()):
                    late = child.late()
                    if late is None:
                        continue
                    if not each_by_itself:
                        raise late
                    del running[pipe]
                    child.end()
                    yield child.number, late  # type: ignore[misc]
        finally:
            for child in running.values():
                child.end()


class _Child:
    """One task in a process of its own. number: of the task."""

    def __init__(
        self,
        number: int,
        name: str,
        function: Callable[..., Any],
        task: tuple[Any, ...],
        limits: Limits,
        place: BoundedSemaphore,
    ) -> None:
        self.number = number
        self._name = name
        self._limits = limits
        self._place = place
        self.pipe, theirs = _CONTEXT.Pipe()
        self._words, words = _CONTEXT.Pipe(duplex=False)
        self._process = _CONTEXT.Process(target=_carry_out, args=(theirs, words, limits, function, task), daemon=True)
        self._process.start()
        theirs.close()
        words.close()
        self._end = time.monotonic() + limits.seconds if limits.seconds else None

    def message(self) -> tuple[str, Any]:
        """(kind, value) of what the child sent: a report, its result, or what is to be raised."""
        try:
            kind, value = self.pipe.recv()
        except (EOFError, ConnectionResetError):
            return RAISED, self._died()
        if kind == MEMORY:
            return RAISED, self._too_much()
        if kind == FAULT:
            what, trace = value
            return RAISED, self._fault(what, trace)
        return kind, value

    def late(self) -> Ended | None:
        """What is to be raised where it takes longer than it may."""
        if self._end is None or time.monotonic() <= self._end:
            return None
        return Ended(Reason.TIME, f"{upper_first(self._name)} is not done within {self._limits.seconds:g} seconds.")

    def end(self) -> None:
        """End it where it has not ended, and give its place away."""
        self._process.terminate()
        self._process.join()
        self.pipe.close()
        self._words.close()
        self._place.release()

    def _died(self) -> Ended:
        """Why it ended without a word: by how it ended, and by its last words."""
        self._process.join()
        os.set_blocking(self._words.fileno(), False)
        try:
            words = os.read(self._words.fileno(), LAST_WORDS)
        except BlockingIOError:
            words = b""
        if any(sign in words for sign in _NO_MEMORY):
            return self._too_much()
        code = self._process.exitcode or 0
        ending = signal.Signals(-code).name if code < 0 else f"exit status {code}"
        if code == -signal.SIGKILL:
            return Ended(
                Reason.KILLED,
                f"{upper_first(self._name)} was killed ({ending}) before it was done: by somebody, or by the system, which does "
                "so where memory runs out.",
                todo="Try again.",
            )
        return self._fault(ending, words.decode(errors="replace"))

    def _too_much(self) -> Ended:
        most = self._limits.memory_mb
        bound = (
            f" more than {most:,} MB of memory, the most Zembra gives it." if most else " more memory than there is."
        )
        return Ended(Reason.MEMORY, f"{upper_first(self._name)} needs{bound}")

    def _fault(self, what: str, trace: str) -> Ended:
        log.error("%s ended: %s\n%s", self._name, what, trace)
        return Ended(
            Reason.FAULT,
            f"{upper_first(self._name)} ended before it was done, by a fault of Zembra or of what it uses: {what}.",
            todo="The log of the server has more.",
        )


def _carry_out(
    pipe: Connection, words: Connection, limits: Limits, function: Callable[..., Any], task: tuple[Any, ...]
) -> None:
    """The child's side. It may die at any point; the parent sees the pipe end."""
    # nobody reads them before it has ended: what there is no room for is lost
    os.set_blocking(words.fileno(), False)
    os.dup2(words.fileno(), 2)
    if limits.niceness:
        os.nice(limits.niceness)
    if limits.memory_mb:
        limit_memory(limits.memory_mb)
    try:
        pipe.send((DONE, function(lambda kind, value: pipe.send((REPORT, (kind, value))), *task)))
    except (Refusal, OSError) as error:
        if isinstance(error, BrokenPipeError):  # nobody listens any more
            os._exit(1)
        pipe.send((RAISED, error))
    except MemoryError:
        pipe.send((MEMORY, None))
    except Exception as error:
        pipe.send((FAULT, (f"{type(error).__name__}: {error}"[:200], traceback.format_exc())))
