"""What the resources share: the engine, the caches, the clock and the settings."""

from __future__ import annotations

import time
from collections import OrderedDict
from collections.abc import Callable, Mapping
from dataclasses import dataclass, field, replace
from datetime import date
from threading import Lock
from typing import cast

from cachetools import LRUCache
from flask import current_app
from pydantic import ValidationError
from sqlalchemy import Engine

from zembra.apart import made_apart, read_apart
from zembra.background import Background, Busy, Lane, Stage, Work
from zembra.core.asking.ask import open_questions
from zembra.core.errors import Refusal
from zembra.core.intake.bringin import BroughtIn, Progress
from zembra.core.intake.howread import HowRead
from zembra.core.judging.verdict import Verdict
from zembra.core.ledger.lineentry import Made
from zembra.core.ledger.memo import Memo
from zembra.core.ledger.model import Ledger, first_fault
from zembra.core.ledger.run import Pending, Result, run
from zembra.settings import Settings, settings
from zembra.store.datasets import dataset, dataset_bytes
from zembra.store.home import Home
from zembra.store.studies import Kept
from zembra.store.tables import Dataset

KEPT_TABLES = 8
KEPT_VERDICTS = 300  # on candidates, so that a word of a projection that is changed begins none of them again
KEPT_DOUBTS = 200  # readings of which it is known what nobody answered
SOON = 0.3  # seconds that an answer waits for heavy entries
LONG = 90.0  # seconds that a file to hand over waits for them
MOST_KEPT_BYTES = 200_000_000  # of the files behind the kept readings


@dataclass(frozen=True, slots=True)
class Ran:
    """A run with what it was made from. works: per entry that is not done, what is under way for it."""

    result: Result
    data: Dataset
    brought: BroughtIn
    works: Mapping[str, Work | None]


def _reading_key(kept: Dataset, how: HowRead | None) -> tuple[str, str]:
    return kept.sha256, how.model_dump_json(exclude={"settled"}) if how else ""


@dataclass
class Context:
    """home: the folder of the database. today: the day that studies begin on. key: what is asked for; empty for nothing. verdicts: on candidates of projections, by
    what they were judged on."""

    engine: Engine
    home: Home
    today: Callable[[], date] = date.today
    settings: Settings = field(default_factory=settings)
    key: str = ""
    memo: Memo = field(default_factory=Memo)
    background: Background = field(default_factory=Background)
    _tables: OrderedDict[tuple[str, str], tuple[BroughtIn, int]] = field(default_factory=OrderedDict)
    verdicts: LRUCache[str, Verdict] = field(default_factory=lambda: LRUCache(KEPT_VERDICTS))
    _unanswered: LRUCache[tuple[str, str], tuple[str, ...]] = field(default_factory=lambda: LRUCache(KEPT_DOUBTS))
    _lock: Lock = field(default_factory=Lock)

    def brought_in(self, kept: Dataset, how: HowRead | None = None) -> BroughtIn:
        """A kept dataset as read; the last few readings are remembered. Raises Refusal."""
        key = _reading_key(kept, how)
        with self._lock:
            found = self._tables.get(key)
            if found:
                self._tables.move_to_end(key)
                # which questions are settled changes no reading
                return found[0] if how is None else replace(found[0], how=how)
        assert kept.id is not None
        brought = read_apart(dataset_bytes(self.engine, kept.id), how)
        self.remember(kept, brought, understood=how is None)
        return brought

    def remember(self, kept: Dataset, brought: BroughtIn, *, understood: bool) -> None:
        """Keep a reading at hand, so that nobody reads the file again. understood: whether it is how Zembra reads it by
        itself."""
        with self._lock:
            for key in {_reading_key(kept, brought.how), *({_reading_key(kept, None)} if understood else set())}:
                self._tables[key] = (brought, kept.size)
            while len(self._tables) > 2 and self._too_many():
                self._tables.popitem(last=False)

    def _too_many(self) -> bool:
        sizes = {id(brought.table): size for brought, size in self._tables.values()}
        return len(sizes) > KEPT_TABLES or sum(sizes.values()) > MOST_KEPT_BYTES

    def run(
        self,
        kept: Kept,
        ledger: Ledger | None = None,
        *,
        nudged: str | None = None,
        as_of: date | None = None,
        patience: float = SOON,
    ) -> Ran:
        """The study's run, of another ledger or on another day if one is given.

        Heavy entries are carried out elsewhere; after `patience` seconds the run is told without what is not done.
        """
        wanted = ledger or kept.ledger
        data, brought = self.read(kept, wanted)
        end = time.monotonic() + patience
        while True:
            day = as_of or kept.as_of
            result = self.carry_out(brought, wanted, day, data.name, memo=self.memo, nudged=nudged, defer=True)
            slot = f"{kept.study.id} {'kept' if ledger is None else 'previewed'}"
            works = {one.id: self._begun(one, f"{slot} {one.id}") for one in result.pending}
            for work in works.values():
                if work is not None:
                    work.finished.wait(max(0.0, end - time.monotonic()))
            again = any(work is not None and work.stage is Stage.DONE for work in works.values())
            if not again:
                return Ran(result, data, brought, works)

    def unanswered(self, ran: Ran) -> tuple[str, ...]:
        """What would be asked of a study's file and was not: a package can bring a study along that another Zembra began,
        and this one may ask more than the one before it. Looked for once a reading."""
        key = (ran.data.sha256, ran.brought.how.model_dump_json())
        with self._lock:
            known = self._unanswered.get(key)
        if known is None:
            known = tuple(one.told for one in open_questions(ran.brought, ran.result))
            with self._lock:
                self._unanswered[key] = known
        return known

    def lightly(self, kept: Kept) -> Ran:
        """The study's run as far as it is quick or remembered; nothing is begun for the rest."""
        data, brought = self.read(kept, kept.ledger)
        result = self.carry_out(brought, kept.ledger, kept.as_of, data.name, memo=self.memo, defer=True)
        return Ran(result, data, brought, {})

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
        """`run`, within the budget and the seconds that are set."""
        end = time.monotonic() + self.settings.run_seconds

        def still(title: str) -> None:
            if time.monotonic() > end:
                raise Refusal(
                    f"The run is not done within {self.settings.run_seconds} seconds.",
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
            budget=self.settings.run,
            still=still,
        )

    def whole(self, kept: Kept) -> Ran:
        """The study's run with everything carried out. Raises Busy where that takes too long, and what is wrong
        where some of it was stopped."""
        ran = self.run(kept, patience=LONG)
        for work in ran.works.values():
            if work is not None and work.failure is not None:
                raise work.failure
        if ran.result.pending:
            title = ran.result.pending[0].entry.title
            raise Busy(f"{title} is not done yet.", todo="Wait for it on the bench.")
        return ran

    def read(self, kept: Kept, ledger: Ledger) -> tuple[Dataset, BroughtIn]:
        """The study's dataset, and that as the ledger has it read."""
        data = dataset(self.engine, kept.dataset_id)
        return data, self.brought_in(data, how_read(ledger, data))

    def _begun(self, pending: Pending, slot: str) -> Work | None:
        """The work on what is pending; None where there is too much to do already."""

        def do(progress: Progress) -> None:
            count = len(pending.tasks)
            done = 0

            def on_made(n: int, made: Made | Refusal) -> None:
                nonlocal done
                done += 1
                self.memo.put(pending.tasks[n].key, made, pending.tasks[n].line.arrays())

            told = "working" if count == 1 else f"working on {count} series"
            most = self.settings.entry_seconds
            end = time.monotonic() + most

            def still() -> None:
                progress(told, done / count)
                if time.monotonic() > end:
                    raise Refusal(
                        f"{pending.entry.title} is not done within {most} seconds.",
                        todo="Choose fewer series or a shorter history. ZEMBRA_ENTRY_SECONDS raises the limit.",
                    )

            made_apart(pending.entry, pending.tasks, on_made, still)

        try:
            return self.background.submit(pending.key, Lane.ENTRIES, do, slot)
        except Busy:
            return None


def how_read(ledger: Ledger, data: Dataset) -> HowRead:
    """How a ledger has a file read: in its own way, or in that of the file."""
    try:
        return ledger.intake or HowRead.model_validate_json(data.how)
    except ValidationError as error:
        raise Refusal(
            f"How “{data.name}” is read cannot be read: {first_fault(error)}", todo="Bring the file in again."
        ) from None


def context() -> Context:
    return cast(Context, current_app.extensions["zembra"])
