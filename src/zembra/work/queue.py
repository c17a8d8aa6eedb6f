"""A queue of work by key: the same request is done once, with progress and cancellation. Results outlive the page that
asked."""

from __future__ import annotations

import logging
import os
import threading
from collections import OrderedDict
from collections.abc import Callable
from concurrent.futures import ThreadPoolExecutor
from contextvars import Context, copy_context
from dataclasses import dataclass, field
from enum import StrEnum
from typing import Any

from zembra.core.errors import Refusal
from zembra.core.intake.bringin import Progress

log = logging.getLogger(__name__)
MOST_KEPT = 200
MOST_WAITING = 64


class Cancelled(RuntimeError):
    """The work was cancelled by a person, by newer work in its slot, or by closing the queue."""


class Busy(Refusal):
    """The queue is full."""


class Lane(StrEnum):
    """Kinds of work that do not wait for each other."""

    READING = "reading"
    ENTRIES = "entries"
    JUDGING = "judging"
    HANDING = "handing over"
    KEEPING = "keeping"
    FEEDS = "feeds"
    TELLING = "telling"
    MANY = "all series"


# mostly short work, that one piece of long work must not stand in the way of
_SHORT = (Lane.READING, Lane.HANDING)
SLOW_SOURCES = 4  # that are waited for at once: they take time, and no work


class Stage(StrEnum):
    WAITING = "waiting"
    WORKING = "working"
    DONE = "done"
    STOPPED = "stopped"
    FAILED = "failed"


@dataclass(frozen=True, slots=True)
class Noticed:
    """A result with notices."""

    value: Any
    notices: tuple[str, ...]


def nobody() -> str:
    """The requester, where people are not distinguished."""
    return ""


@dataclass(eq=False)
class Work:
    """A piece of work.

    result, notices: what it returned; failure: its error
    doing: its current step
    answer: formats the result for a request; so_far: formats a partial result
    release: frees its input, once
    who: on whose behalf it runs
    """

    key: str
    lane: Lane
    do: Callable[[Progress], Any]
    answer: Callable[[Any], Any] | None = None
    so_far: Callable[[], Any] | None = None
    release: Callable[[], object] | None = None
    who: str = ""
    doing: str = "waiting"
    share: float = 0.0
    stage: Stage = Stage.WAITING
    result: Any = None
    notices: tuple[str, ...] = ()
    failure: Exception | None = None
    finished: threading.Event = field(default_factory=threading.Event)
    cancelled: threading.Event = field(default_factory=threading.Event)
    context: Context = field(default_factory=copy_context)
    was_given: bool = field(init=False, default=False)
    _turn: threading.Lock = field(default_factory=threading.Lock)

    def __post_init__(self) -> None:
        self.was_given = self.release is not None

    def progress(self, doing: str, share: float) -> None:
        """Report progress. Raises Cancelled."""
        if self.cancelled.is_set():
            raise Cancelled
        self.doing, self.share = doing, share

    @property
    def under_way(self) -> bool:
        return self.stage in (Stage.WAITING, Stage.WORKING)

    def begin(self) -> bool:
        """Return whether to start it: once, and not after it was stopped."""
        with self._turn:
            if self.stage is not Stage.WAITING:
                return False
            if not self.cancelled.is_set():
                self.stage = Stage.WORKING
                return True
        self.end(Stage.STOPPED)
        return False

    def cancel(self) -> None:
        """Stop it, at once if it has not started."""
        self.cancelled.set()
        with self._turn:
            waits = self.stage is Stage.WAITING
        if waits:
            self.end(Stage.STOPPED, only_waiting=True)

    def end(self, stage: Stage, *, only_waiting: bool = False) -> None:
        """Mark it as ended, once: free its input and wake who waits."""
        with self._turn:
            if not self.under_way or (only_waiting and self.stage is not Stage.WAITING):
                return
            self.stage = stage
            release, self.release = self.release, None
        _let_go(release)
        self.finished.set()


class WorkQueue:
    """Lanes of worker threads. Safe across threads.

    who: returns the requester
    """

    def __init__(self, workers: int | None = None, who: Callable[[], str] = nobody) -> None:
        count = workers or max(1, (os.cpu_count() or 2) - 1)
        self._who = who
        self._lanes = {
            lane: ThreadPoolExecutor(max_workers=max(2, count) if lane in _SHORT else count) for lane in Lane
        }
        self._lanes[Lane.FEEDS] = ThreadPoolExecutor(max_workers=max(SLOW_SOURCES, count))
        self._works: OrderedDict[str, Work] = OrderedDict()
        self._unfinished: set[Work] = set()  # those that were let go of too
        self._slots: dict[tuple[str, str], str] = {}
        self._lock = threading.Lock()
        self._closed = False

    def submit(
        self,
        key: str,
        lane: Lane,
        do: Callable[[Progress], Any],
        slot: str | None = None,
        *,
        answer: Callable[[Any], Any] | None = None,
        so_far: Callable[[], Any] | None = None,
        release: Callable[[], object] | None = None,
    ) -> Work:
        """Return the work of a key, started unless it exists. Raises Busy.

        slot: only the newest work of a requester in a slot is wanted; the previous one is stopped
        answer, so_far, release: as in Work; input of work that does not start is freed at once
        """
        new = Work(key, lane, do, answer, so_far, release, who=self._who())
        try:
            work, superseded = self._known_or_begun(new, slot)
        except Busy:
            _let_go(release)
            raise
        if work is not new:
            _let_go(release)
        if superseded is not None:
            superseded.cancel()
        return work

    def get(self, key: str) -> Work | None:
        with self._lock:
            return self._works.get(key)

    def stop(self, key: str) -> None:
        """Stop work, or prevent its start."""
        work = self.get(key)
        if work is not None and work.under_way:
            work.cancel()

    def close(self) -> None:
        """Stop all work, and accept no more."""
        with self._lock:
            self._closed = True
            works = list(self._unfinished)
        for work in works:
            work.cancel()
        for lane in self._lanes.values():
            lane.shutdown(wait=False, cancel_futures=True)

    def forget(self, key: str) -> None:
        """Drop the result of finished work."""
        with self._lock:
            work = self._works.get(key)
            if work is not None and not work.under_way:
                del self._works[key]

    def again(self, key: str) -> Work | None:
        """Restart stopped or failed work. Raises Refusal if its input is gone."""
        with self._lock:
            old = self._works.get(key)
            if old is None or old.under_way:
                return old
            if old.was_given:
                raise Refusal("What it was given is gone.", todo="Send it once more.")
            work = Work(key, old.lane, old.do, old.answer, old.so_far, who=old.who, context=old.context.copy())
            self._begin(work)
        return work

    def _known_or_begun(self, new: Work, slot: str | None) -> tuple[Work, Work | None]:
        """Return the work of a key, and the work it replaces. Raises Busy."""
        with self._lock:
            known = self._works.get(new.key)
            superseded = self._superseded((new.who, slot), new.key) if slot is not None else None
            if known is not None and known.stage is not Stage.DONE:
                return known, superseded
            if sum(work.stage is Stage.WAITING for work in self._works.values()) >= MOST_WAITING:
                raise Busy("Zembra has too much to do at once.", todo="Wait for what is under way, or stop some of it.")
            self._begin(new)
        return new, superseded

    def _superseded(self, slot: tuple[str, str], key: str) -> Work | None:
        before = self._works.get(self._slots.get(slot, ""))
        self._slots[slot] = key
        if before is None or before.key == key or not before.under_way:
            return None
        # work that another slot needs continues, so that dropping a preview does not stop a stored edit
        if before.key in self._slots.values():
            return None
        del self._works[before.key]
        return before

    def _begin(self, work: Work) -> None:
        self._works.pop(work.key, None)
        self._works[work.key] = work
        self._unfinished.add(work)
        for key in list(self._works):
            if len(self._works) <= MOST_KEPT:
                break
            if not self._works[key].under_way:
                del self._works[key]
        if not self._closed:
            self._lanes[work.lane].submit(self._carry_out, work)
        else:
            self._unfinished.discard(work)
            work.cancel()

    def _carry_out(self, work: Work) -> None:
        if work.begin():
            work.context.run(_carry_out, work)
        with self._lock:
            self._unfinished.discard(work)


def _carry_out(work: Work) -> None:
    stage = Stage.FAILED
    try:
        work.progress("working", 0.0)
        given = work.do(work.progress)
        if isinstance(given, Noticed):
            work.result, work.notices = given.value, given.notices
        else:
            work.result = given
        stage = Stage.DONE
    except Cancelled:
        stage = Stage.STOPPED
    except Exception as error:  # told to whoever asks for the work
        # without its traceback, which would keep all its data alive
        error.__cause__ = error.__context__ = None
        work.failure = error.with_traceback(None)
    finally:
        work.end(stage)


def _let_go(release: Callable[[], object] | None) -> None:
    if release is None:
        return
    try:
        release()
    except Exception:
        log.exception("what a piece of work was given could not be let go of")
