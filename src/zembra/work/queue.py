"""A queue of work, known by keys: what is asked for twice is done once; with progress, cancelling and a bound. Results
outlive the page that asked for them."""

from __future__ import annotations

import os
import threading
from collections import OrderedDict
from collections.abc import Callable
from concurrent.futures import ThreadPoolExecutor
from dataclasses import dataclass, field
from enum import StrEnum
from typing import Any

from zembra.core.errors import Refusal
from zembra.core.intake.bringin import Progress

MOST_KEPT = 200
MOST_WAITING = 64


class Cancelled(RuntimeError):
    """The work was cancelled: by a person, by newer work in its slot, or as the queue is closed."""


class Busy(Refusal):
    """There is more to do than can wait."""


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
    """What a piece of work gives where there is something to be said of it."""

    value: Any
    notices: tuple[str, ...]


@dataclass
class Work:
    """A piece of work. result: what it gave, notices: what is to be said of that; failure: what went wrong. doing: what
    it is at now. answer: how the result is told to who asks for it; so_far: how what is known of it is, before it is
    done. release: lets go of what the work was given, however it ends."""

    key: str
    lane: Lane
    do: Callable[[Progress], Any]
    answer: Callable[[Any], Any] | None = None
    so_far: Callable[[], Any] | None = None
    release: Callable[[], object] | None = None
    doing: str = "waiting"
    share: float = 0.0
    stage: Stage = Stage.WAITING
    result: Any = None
    notices: tuple[str, ...] = ()
    failure: Exception | None = None
    finished: threading.Event = field(default_factory=threading.Event)
    cancelled: threading.Event = field(default_factory=threading.Event)

    def progress(self, doing: str, share: float) -> None:
        """Say how far it is. Raises Cancelled."""
        if self.cancelled.is_set():
            raise Cancelled
        self.doing, self.share = doing, share

    @property
    def under_way(self) -> bool:
        return self.stage in (Stage.WAITING, Stage.WORKING)


class WorkQueue:
    """Lanes of threads, each of which watches over a process at a time. Safe across threads."""

    def __init__(self, workers: int | None = None) -> None:
        count = workers or max(1, (os.cpu_count() or 2) - 1)
        self._lanes = {
            lane: ThreadPoolExecutor(max_workers=max(2, count) if lane in _SHORT else count) for lane in Lane
        }
        self._lanes[Lane.FEEDS] = ThreadPoolExecutor(max_workers=max(SLOW_SOURCES, count))
        self._works: OrderedDict[str, Work] = OrderedDict()
        self._slots: dict[str, str] = {}
        self._lock = threading.Lock()

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
        """The work under a key, begun unless it is under way, was stopped or failed. slot: what of it only the newest is
        wanted; the one before is stopped. answer, so_far, release: as of Work. Raises Busy."""
        with self._lock:
            known = self._works.get(key)
            if slot is not None:
                self._supersede(slot, key)
            if known is not None and known.stage is not Stage.DONE:
                return known
            if sum(work.stage is Stage.WAITING for work in self._works.values()) >= MOST_WAITING:
                raise Busy("Zembra has too much to do at once.", todo="Wait for what is under way, or stop some of it.")
            work = Work(key, lane, do, answer, so_far, release)
            self._keep(work)
        self._lanes[lane].submit(_carry_out, work)
        return work

    def get(self, key: str) -> Work | None:
        with self._lock:
            return self._works.get(key)

    def stop(self, key: str) -> None:
        """End it within a moment, or never begin it."""
        work = self.get(key)
        if work is None or not work.under_way:
            return
        work.cancelled.set()
        if work.stage is Stage.WAITING:
            work.stage = Stage.STOPPED
            _finish(work)

    def close(self) -> None:
        """End all of it; nothing is begun any more."""
        with self._lock:
            works = list(self._works.values())
        for work in works:
            work.cancelled.set()
        for lane in self._lanes.values():
            lane.shutdown(wait=False, cancel_futures=True)

    def forget(self, key: str) -> None:
        """Let go of what a finished piece of work gave."""
        with self._lock:
            work = self._works.get(key)
            if work is not None and not work.under_way:
                del self._works[key]

    def again(self, key: str) -> Work | None:
        """Begin once more what was stopped or failed."""
        with self._lock:
            old = self._works.get(key)
            if old is None or old.under_way:
                return old
            work = Work(key, old.lane, old.do, old.answer, old.so_far, old.release)
            self._keep(work)
        self._lanes[work.lane].submit(_carry_out, work)
        return work

    def _supersede(self, slot: str, key: str) -> None:
        before = self._works.get(self._slots.get(slot, ""))
        self._slots[slot] = key
        if before is None or before.key == key or not before.under_way:
            return
        # what another slot still waits for goes on: a preview that is let go is not the end of what was kept
        if before.key not in self._slots.values():
            before.cancelled.set()
            del self._works[before.key]

    def _keep(self, work: Work) -> None:
        self._works.pop(work.key, None)
        self._works[work.key] = work
        for key in list(self._works):
            if len(self._works) <= MOST_KEPT:
                break
            if not self._works[key].under_way:
                del self._works[key]


def _carry_out(work: Work) -> None:
    try:
        work.progress("working", 0.0)
        work.stage = Stage.WORKING
        given = work.do(work.progress)
        if isinstance(given, Noticed):
            work.result, work.notices = given.value, given.notices
        else:
            work.result = given
        work.stage = Stage.DONE
    except Cancelled:
        work.stage = Stage.STOPPED
    except Exception as error:  # told to whoever asks for the work
        # without where it came from: that would keep alive all that was worked on
        error.__cause__ = error.__context__ = None
        work.failure = error.with_traceback(None)
        work.stage = Stage.FAILED
    finally:
        _finish(work)


def _finish(work: Work) -> None:
    if work.release is not None:
        work.release()
    work.finished.set()
