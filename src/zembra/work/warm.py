"""Warm child processes: each serves one call after another, and is replaced when a call kills it.

They are begun by name (`python -m zembra.work.warmchild`), not by forking, so that any program can have them: one that has threads, and
one whose main module must not run once more. What they import stays theirs.
"""

from __future__ import annotations

import atexit
import contextlib
import os
import pickle
import struct
import subprocess
import sys
import threading
import time
from collections.abc import Callable, Sequence
from typing import IO, Any, TypeVar

from zembra.work.ending import LAST_WORDS, died, fault, late, too_much
from zembra.work.executor import Check, TaskLimits, no_check
from zembra.work.platform import FORKS, resident_mb

Result = TypeVar("Result")
POLL = 0.05  # seconds between two looks at what a child is doing
DONE, RAISED, FAULT = "done", "raised", "fault"
LENGTH = struct.Struct(">Q")  # of a message, before it
LAST_MOMENTS = 5.0  # seconds that a child may take to end, once it has fallen silent


def write_message(stream: IO[bytes], message: bytes) -> None:
    stream.write(LENGTH.pack(len(message)))
    stream.write(message)
    stream.flush()


def read_message(stream: IO[bytes]) -> bytes:
    """Read one message. Raises EOFError if it is missing or incomplete."""
    head = stream.read(LENGTH.size)
    if len(head) < LENGTH.size:
        raise EOFError
    (length,) = LENGTH.unpack(head)
    message = stream.read(length)
    if len(message) < length:
        raise EOFError
    return message


class WarmChildren:
    """A pool of warm child processes, bounded over all callers. Safe across threads; children end with this
    process.

    preload: modules that a child imports at its start, in its main thread
    """

    def __init__(self, most: int, preload: Sequence[str] = ()) -> None:
        self._free = threading.BoundedSemaphore(most)
        self._preload = tuple(preload)
        self._idle: list[_Child] = []
        self._lock = threading.Lock()
        self._process = os.getpid()
        atexit.register(self.close)

    def warm_up(self) -> None:
        """Start a child, so that the first call need not wait."""
        with self._lock:
            if not self._idle:
                self._idle.append(_Child(self._preload))

    def call(
        self,
        function: Callable[..., Result],
        *args: Any,
        name: str,
        limits: TaskLimits,
        check: Check = no_check,
    ) -> Result:
        """Call a function, found by name, in a child. Raises Refusal and OSError from the function, and TaskEnded
        if the child dies or exceeds its limits.

        name: what it does, as a noun phrase
        check: called repeatedly; what it raises kills the child
        """
        question = pickle.dumps((function, args, limits.seconds))
        while not self._free.acquire(timeout=POLL):
            check()
        child: _Child | None = None
        try:
            child = self._take()
            result: Result = child.carry_out(question, name, limits, check)
            return result
        finally:
            if child is not None:
                self._give_back(child)
            self._free.release()

    def close(self) -> None:
        """Stop idle children."""
        with self._lock:
            children, self._idle = self._idle, []
            ours = self._process == os.getpid()
        for child in children if ours else ():
            child.end()

    def _take(self) -> _Child:
        with self._lock:
            if self._process != os.getpid():  # forked since: those that are there belong to another process
                self._idle, self._process = [], os.getpid()
            while self._idle:
                child = self._idle.pop()
                if child.lives:
                    return child
                child.end()
        return _Child(self._preload)

    def _give_back(self, child: _Child) -> None:
        if not child.lives:
            child.end()
            return
        with self._lock:
            self._idle.append(child)


class _Child:
    """One process that reads requests from its standard input and answers on its standard output."""

    def __init__(self, preload: Sequence[str]) -> None:
        lifeline, self._lifeline = os.pipe()
        try:
            self._process = subprocess.Popen(
                # do not import modules from the user's current folder
                [sys.executable, "-P", "-m", "zembra.work.warmchild", str(lifeline), *preload],
                stdin=subprocess.PIPE,
                stdout=subprocess.PIPE,
                stderr=subprocess.PIPE,
                pass_fds=(lifeline,) if FORKS else (),
                env={**os.environ, "PYTHONPATH": os.pathsep.join(path for path in sys.path if path)},
            )
        finally:
            os.close(lifeline)
        self._words = bytearray()
        self._listening = threading.Thread(target=self._listen, daemon=True)
        self._listening.start()

    @property
    def lives(self) -> bool:
        return self._process.poll() is None

    def carry_out(self, question: bytes, name: str, limits: TaskLimits, check: Check) -> Any:
        answers: list[tuple[str, Any]] = []
        asking = threading.Thread(target=self._ask, args=(question, answers), daemon=True)
        asking.start()
        end = time.monotonic() + limits.seconds if limits.seconds else None
        try:
            while asking.is_alive():
                asking.join(POLL)
                check()
                if end is not None and time.monotonic() > end:
                    raise late(name, limits.seconds or 0)
                if limits.resident_mb is not None and resident_mb(self._process.pid) > limits.resident_mb:
                    raise too_much(name, limits.resident_mb)
        except BaseException:
            self._process.kill()
            self._process.wait()
            raise
        if not answers:
            raise died(name, self._ended(), bytes(self._words), limits.resident_mb)
        kind, value = answers[0]
        if kind == RAISED:
            raise value
        if kind == FAULT:
            raise fault(name, *value)
        return value

    def _ended(self) -> int:
        """Return how it ended by itself."""
        try:
            code = self._process.wait(LAST_MOMENTS)
        except subprocess.TimeoutExpired:
            self._process.kill()
            code = self._process.wait()
        self._listening.join(LAST_MOMENTS)
        return code

    def end(self) -> None:
        self._process.kill()
        self._process.wait()
        with contextlib.suppress(OSError):
            os.close(self._lifeline)
        for stream in (self._process.stdin, self._process.stdout):
            assert stream is not None
            with contextlib.suppress(OSError):
                stream.close()

    def _ask(self, question: bytes, answers: list[tuple[str, Any]]) -> None:
        assert self._process.stdin is not None
        assert self._process.stdout is not None
        # where it ends meanwhile there is no answer
        with contextlib.suppress(OSError, EOFError, ValueError, pickle.UnpicklingError):
            write_message(self._process.stdin, question)
            answers.append(pickle.loads(read_message(self._process.stdout)))

    def _listen(self) -> None:
        """Collect its standard error, which tells why it ended."""
        assert self._process.stderr is not None
        with self._process.stderr as words:
            while piece := os.read(words.fileno(), LAST_WORDS):
                self._words += piece
                del self._words[:-LAST_WORDS]
