"""Run tasks in child processes, bounded in number, memory and time, and stopped when nobody waits.

A file can ask for any amount of memory while it is read, and a reader written in another language can end its process. Here
that is a sentence, and nothing else ends.
"""

from __future__ import annotations

import os
import time
import traceback
from collections import deque
from collections.abc import Callable, Iterator, Sequence
from multiprocessing.connection import Connection, wait
from threading import BoundedSemaphore
from typing import Any, TypeVar

from zembra.core.errors import Refusal
from zembra.work.ending import LAST_WORDS, died, fault, late, too_much
from zembra.work.executor import Check, OnReport, TaskEnded, TaskLimits, ignore_report, no_check
from zembra.work.platform import (
    children_context,
    end_after,
    end_with_parent,
    limit_memory,
    make_ready,
    resident_mb,
)

Result = TypeVar("Result")
POLL = 0.1  # seconds between two checks
GRACE = 5.0  # seconds beyond its time, after which a child ends by itself
DONE, RAISED, MEMORY, FAULT, REPORT = "done", "raised", "memory", "fault", "report"
# a child a core: threads of the linear algebra library would only get in each other's way
for _threads in ("OPENBLAS_NUM_THREADS", "OMP_NUM_THREADS", "MKL_NUM_THREADS"):
    os.environ.setdefault(_threads, "1")
_CONTEXT = children_context()


def preload(modules: Sequence[str]) -> None:
    """Preload modules in the fork server. Call before the first child."""
    children_context(modules)


def ready() -> None:
    """Start the fork server before the first child."""
    make_ready()


class Processes:
    """Runs tasks in child processes, bounded in number over all callers."""

    def __init__(self, most: int) -> None:
        self._free = BoundedSemaphore(most)

    def map(
        self,
        function: Callable[..., Result],
        tasks: Sequence[tuple[Any, ...]],
        *,
        name: str,
        limits: TaskLimits = TaskLimits(),  # noqa: B008
        on_report: OnReport = ignore_report,
        check: Check = no_check,
        each_by_itself: bool = False,
    ) -> Iterator[tuple[int, Result]]:
        waiting = deque(enumerate(tasks))
        running: dict[Connection, _Child] = {}
        try:
            while waiting or running:
                # wait for a place if nothing runs, else take free places only
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
                    ended = child.beyond_limits()
                    if ended is None:
                        continue
                    if not each_by_itself:
                        raise ended
                    del running[pipe]
                    child.end()
                    yield child.number, ended  # type: ignore[misc]
        finally:
            for child in running.values():
                child.end()


class _Child:
    """One task in its own process.

    number: of the task
    """

    def __init__(
        self,
        number: int,
        name: str,
        function: Callable[..., Any],
        task: tuple[Any, ...],
        limits: TaskLimits,
        place: BoundedSemaphore,
    ) -> None:
        self.number = number
        self._name = name
        self._limits = limits
        self._place = place
        self.pipe, theirs = _CONTEXT.Pipe()
        self._words, words = _CONTEXT.Pipe(duplex=False)
        lifeline, self._lifeline = _CONTEXT.Pipe(duplex=False)
        self._process = _CONTEXT.Process(
            target=_carry_out, args=(theirs, words, lifeline, limits, function, task), daemon=True
        )
        self._process.start()
        for end in (theirs, words, lifeline):
            end.close()
        self._end = time.monotonic() + limits.seconds if limits.seconds else None

    def message(self) -> tuple[str, Any]:
        """Receive (kind, value): a report, a result, or an error."""
        try:
            kind, value = self.pipe.recv()
        except (EOFError, ConnectionResetError):
            return RAISED, self._died()
        if kind == MEMORY:
            return RAISED, too_much(self._name, self._limits.memory_mb)
        if kind == FAULT:
            return RAISED, fault(self._name, *value)
        return kind, value

    def beyond_limits(self) -> TaskEnded | None:
        """Return the error if it exceeds its time or memory."""
        limits = self._limits
        if self._end is not None and time.monotonic() > self._end:
            return late(self._name, limits.seconds or 0)
        if limits.resident_mb is not None and resident_mb(self._process.pid or 0) > limits.resident_mb:
            return too_much(self._name, limits.resident_mb)
        return None

    def end(self) -> None:
        """Kill it if it runs, and free its place."""
        self._process.kill()
        self._process.join()
        for end in (self.pipe, self._words, self._lifeline):
            end.close()
        self._place.release()

    def _died(self) -> TaskEnded:
        """Return why it ended silently, by exit code and last output."""
        self._process.join()
        os.set_blocking(self._words.fileno(), False)
        try:
            words = os.read(self._words.fileno(), LAST_WORDS)
        except BlockingIOError:
            words = b""
        return died(self._name, self._process.exitcode or 0, words, self._limits.memory_mb)


def _carry_out(
    pipe: Connection,
    words: Connection,
    lifeline: Connection,
    limits: TaskLimits,
    function: Callable[..., Any],
    task: tuple[Any, ...],
) -> None:
    """Run the task. The child's side: it may die at any point; the parent sees the pipe close."""
    end_with_parent(lifeline.fileno())
    if limits.seconds:
        end_after(limits.seconds + GRACE)
    # nobody reads them before it ends, so what does not fit the pipe is lost
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
    except BaseException as error:
        pipe.send((FAULT, (f"{type(error).__name__}: {error}"[:200], traceback.format_exc())))
    # exit at once, as native code may crash during an orderly shutdown
    os._exit(0)
