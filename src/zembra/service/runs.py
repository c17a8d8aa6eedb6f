"""Run studies: fast entries at once, slow ones in the background."""

from __future__ import annotations

import time
from collections.abc import Mapping
from dataclasses import dataclass
from datetime import date
from threading import Lock

from cachetools import LRUCache
from pydantic import ValidationError
from sqlalchemy import Engine

from zembra.core.asking.ask import open_questions
from zembra.core.errors import Refusal
from zembra.core.intake.bringin import BroughtIn, Progress
from zembra.core.intake.howread import HowRead
from zembra.core.ledger.lineentry import LineEntry, LineResult, directly
from zembra.core.ledger.memo import Memo
from zembra.core.ledger.model import Ledger, first_fault
from zembra.core.ledger.run import LineTask, Pending, Result, run
from zembra.service.process_pools import ENTRIES
from zembra.service.readings import Readings
from zembra.settings import Settings
from zembra.store.datasets import dataset
from zembra.store.studies import KeptStudy
from zembra.store.tables import Dataset
from zembra.work.executor import EndReason, Report, TaskLimits, advised, run_one
from zembra.work.queue import Busy, Lane, Stage, Work, WorkQueue

SOON = 0.3  # seconds that an answer waits for heavy entries
LONG = 90.0  # seconds that a file to hand over waits for them
MEMORY = 1_000_000_000  # bytes of what entries made, at least
MOST_UNANSWERED = 200  # readings of which it is known what nobody answered


@dataclass(frozen=True, slots=True)
class StudyRun:
    """A run with its inputs.

    works: background work by entry
    """

    result: Result
    data: Dataset
    brought: BroughtIn
    works: Mapping[str, Work | None]


class Runs:
    """Runs ledgers, with a cache of entry results. Safe across threads."""

    def __init__(self, engine: Engine, readings: Readings, queue: WorkQueue, settings: Settings) -> None:
        # the cache must hold a whole run, or background results would be computed again and again
        self.memo = Memo(max(MEMORY, settings.run_budget.bytes))
        self._engine = engine
        self._readings = readings
        self._queue = queue
        self._settings = settings
        self._unanswered: LRUCache[tuple[str, str], tuple[str, ...]] = LRUCache(MOST_UNANSWERED)
        self._lock = Lock()

    def run(
        self,
        kept: KeptStudy,
        ledger: Ledger | None = None,
        *,
        nudged: str | None = None,
        as_of: date | None = None,
        patience: float = SOON,
    ) -> StudyRun:
        """Run a study, optionally with another ledger or day. Slow entries run in the background; after `patience`
        seconds the run is returned without them.
        """
        wanted = ledger or kept.ledger
        data, brought = self.read(kept, wanted)
        end = time.monotonic() + patience
        made: set[str] = set()  # keys of what was worked out meanwhile
        while True:
            day = as_of or kept.as_of
            result = self.carry_out(brought, wanted, day, data.name, memo=self.memo, nudged=nudged, defer=True)
            slot = f"{kept.study.id} {'kept' if ledger is None else 'previewed'}"
            works = {pending.id: self._begun(pending, f"{slot} {pending.id}") for pending in result.pending}
            for work in works.values():
                if work is not None:
                    work.finished.wait(max(0.0, end - time.monotonic()))
            done = {work.key: work for work in works.values() if work is not None and work.stage is Stage.DONE}
            for pending in result.pending:
                if pending.key in done and pending.key in made:
                    raise Refusal(
                        f"What {pending.entry.title} made is more than can be remembered.",
                        place=pending.entry.title,
                        todo="Choose fewer series. ZEMBRA_MOST_RUN_MB raises the limit.",
                    )
            made |= done.keys()
            if not done:
                return StudyRun(result, data, brought, works)

    def unanswered(self, ran: StudyRun) -> tuple[str, ...]:
        """Return questions that would be asked of a study's file but were not, as packages may come from another
        version. Cached per reading.
        """
        key = (ran.data.sha256, ran.brought.how.model_dump_json())
        with self._lock:
            known = self._unanswered.get(key)
        if known is None:
            known = tuple(question.full_text for question in open_questions(ran.brought, ran.result))
            with self._lock:
                self._unanswered[key] = known
        return known

    def run_quickly(self, kept: KeptStudy) -> StudyRun:
        """Run a study as far as it is fast or cached, without starting work."""
        data, brought = self.read(kept, kept.ledger)
        result = self.carry_out(brought, kept.ledger, kept.as_of, data.name, memo=self.memo, defer=True)
        return StudyRun(result, data, brought, {})

    def carry_out(
        self,
        brought: BroughtIn,
        ledger: Ledger,
        as_of: date,
        file_name: str,
        *,
        memo: Memo | None = None,
        nudged: str | None = None,
        defer: bool = False,
    ) -> Result:
        """Run a ledger within budget and time limit."""
        end = time.monotonic() + self._settings.run_seconds

        def check(title: str) -> None:
            if time.monotonic() > end:
                raise Refusal(
                    f"The run is not done within {self._settings.run_seconds} seconds.",
                    place=title,
                    todo="Choose fewer series or a coarser grain. ZEMBRA_RUN_SECONDS raises the limit.",
                )

        return run(
            brought.observations,
            ledger,
            as_of,
            file_name=file_name,
            memo=memo,
            nudged=nudged,
            defer=defer,
            budget=self._settings.run_budget,
            check=check,
        )

    def run_whole(self, kept: KeptStudy) -> StudyRun:
        """Run a study completely. Raises Busy if it takes too long, and the error if some of it was stopped."""
        ran = self.run(kept, patience=LONG)
        for work in ran.works.values():
            if work is not None and work.failure is not None:
                raise work.failure
        if ran.result.pending:
            title = ran.result.pending[0].entry.title
            raise Busy(f"{title} is not done yet.", todo="Wait for it on the bench.")
        return ran

    def read(self, kept: KeptStudy, ledger: Ledger) -> tuple[Dataset, BroughtIn]:
        """Return the study's dataset, and its reading."""
        data = dataset(self._engine, kept.dataset_id)
        return data, self._readings.of(data, how_read(ledger, data))

    def _begun(self, pending: Pending, slot: str) -> Work | None:
        """Start pending work; None if the queue is full."""

        def do(progress: Progress) -> None:
            count = len(pending.tasks)
            done = 0

            def on_made(n: int, made: LineResult | Refusal) -> None:
                nonlocal done
                done += 1
                self.memo.put(pending.tasks[n].key, made, pending.tasks[n].line.arrays())

            doing = "working" if count == 1 else f"working on {count} series"
            most = self._settings.entry_seconds
            todo = {
                EndReason.TIME: "Choose fewer series or a shorter history. ZEMBRA_ENTRY_SECONDS raises the limit.",
                EndReason.MEMORY: "Choose fewer series, or a shorter history.",
            }
            with advised(todo):
                run_one(
                    ENTRIES,
                    make_lines,
                    pending.entry,
                    pending.tasks,
                    name=pending.entry.title,
                    limits=TaskLimits(seconds=most),
                    on_report=lambda _, __, made: on_made(*made),
                    check=lambda: progress(doing, done / count),
                )

        try:
            return self._queue.submit(pending.key, Lane.ENTRIES, do, slot)
        except Busy:
            return None


def how_read(ledger: Ledger, data: Dataset) -> HowRead:
    """Return how a ledger reads a file: in its own way, or in that of the file."""
    try:
        return ledger.intake or HowRead.model_validate_json(data.how)
    except ValidationError as error:
        raise Refusal(
            f"How “{data.name}” is read cannot be read: {first_fault(error)}", todo="Bring the file in again."
        ) from None


def make_lines(report: Report, entry: LineEntry, tasks: tuple[LineTask, ...]) -> None:
    """Report (task number, result) for each line."""
    for number, task in enumerate(tasks):
        report("made", (number, directly(entry, task.line, task.study)))
