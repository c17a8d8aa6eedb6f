"""Reading files in the background, with progress and cancelling."""

from __future__ import annotations

import secrets
import threading
from collections import OrderedDict
from collections.abc import Callable
from dataclasses import dataclass, field

from zembra.core.errors import Refusal
from zembra.core.intake.bringin import Progress

MOST_KEPT = 50


class Cancelled(RuntimeError):
    """The analyst wants the file no more."""


@dataclass
class Job:
    """One file being read. result: the id of the kept dataset. failure: what went wrong."""

    id: str = field(default_factory=lambda: secrets.token_hex(8))
    stage: str = "waiting"
    share: float = 0.0
    result: int | None = None
    failure: Exception | None = None
    done: threading.Event = field(default_factory=threading.Event)
    cancelled: threading.Event = field(default_factory=threading.Event)

    def progress(self, stage: str, share: float) -> None:
        if self.cancelled.is_set():
            raise Cancelled
        self.stage, self.share = stage, share


class Jobs:
    """Jobs by id; the oldest finished ones are forgotten."""

    def __init__(self) -> None:
        self._jobs: OrderedDict[str, Job] = OrderedDict()
        self._lock = threading.Lock()

    def start(self, work: Callable[[Progress], int]) -> Job:
        job = Job()
        with self._lock:
            self._jobs[job.id] = job
            while len(self._jobs) > MOST_KEPT:
                self._jobs.popitem(last=False)
        threading.Thread(target=_carry_out, args=(job, work), daemon=True).start()
        return job

    def get(self, identifier: str) -> Job:
        """Raises Refusal for a job that is not known."""
        with self._lock:
            job = self._jobs.get(identifier)
        if job is None:
            raise Refusal("That file is no longer being read.", todo="Bring it in again.")
        return job


def _carry_out(job: Job, work: Callable[[Progress], int]) -> None:
    try:
        job.result = work(job.progress)
    except Exception as error:  # told to whoever asks for the job
        job.failure = error
    finally:
        job.done.set()
