"""Create the demo studies in a database."""

from __future__ import annotations

import contextlib
import json
import os
from collections.abc import Callable, Iterator
from dataclasses import dataclass
from datetime import UTC, date, datetime
from pathlib import Path
from typing import TypeVar

from sqlalchemy import Engine

from zembra.core.entries.calendar.start import first_ledger
from zembra.core.errors import Refusal
from zembra.core.feeds.feedwords import FeedHow, WatchedFolder
from zembra.core.intake.bringin import bring_in, quiet
from zembra.core.ledger.model import Ledger, record
from zembra.core.ledger.run import run
from zembra.core.study.summary import summary_of
from zembra.core.watching.watchwords import OutsideLimits, RevisionLarger, RowsLate, WatchWords
from zembra.demo import AS_OF, demo_file
from zembra.demo.studies import MONTHLY, STUDIES, DemoStudy
from zembra.service.application import Application
from zembra.service.feeds.feedlook import connected, look
from zembra.service.newrows import incoming, take_in
from zembra.service.watching.watchlook import not_looked_at, watch_over, watching
from zembra.store.datasets import keep_dataset
from zembra.store.feeds import disconnect_feed, feed_of
from zembra.store.studies import KeptStudy, create_study, kept_studies
from zembra.store.summaries import Summaries
from zembra.store.watching import watch_of
from zembra.store.whole import whole_file
from zembra.work.queue import Busy

# what came next, and the day it came; the file after that is there, and waits
NEXT_FILE, NEXT_DAY = "sailings_to_september.csv", date(2026, 9, 30)
WAITING_FILE, WRITTEN = "sailings.csv", datetime(2026, 10, 31, 7, tzinfo=UTC)
Made = TypeVar("Made")
WATCH = WatchWords(watches=(OutsideLimits(), RowsLate(days=2), RevisionLarger(percent=20)))


def quietly(_: str) -> None:
    """Report nothing."""


def seed(application: Application, say: Callable[[str], object] = quietly) -> None:
    """Create the demo files and studies step by step; an interrupted seed continues. A finished step is not
    repeated, whatever became of its result.

    say: reports each step
    """
    done = _Steps(application.home.folder / "demo.json")
    for step in (*_month_by_month(application), *(_study(application, study) for study in STUDIES)):
        if step.name in done:
            continue
        if not step.is_done():
            say(step.name)
            step.do()
        done.add(step.name)


@dataclass(frozen=True, slots=True)
class _Step:
    """A step.

    name: what it creates
    is_done: whether its result exists, in homes without records of steps
    """

    name: str
    is_done: Callable[[], bool]
    do: Callable[[], object]


class _Steps:
    """The finished steps of a home."""

    def __init__(self, path: Path) -> None:
        self._path = path
        self._done: list[str] = json.loads(path.read_text()) if path.exists() else []

    def __contains__(self, name: str) -> bool:
        return name in self._done

    def add(self, name: str) -> None:
        self._done.append(name)
        with whole_file(self._path) as beside:
            beside.write_text(json.dumps(self._done))


def _study(application: Application, study: DemoStudy) -> _Step:
    return _Step(
        f"the study “{study.name}”",
        lambda: _kept_as(application, study.name) is not None or _is_damaged(application, study.name),
        lambda: _create(application, study),
    )


def _kept_as(application: Application, name: str) -> KeptStudy | None:
    return next((kept for kept in kept_studies(application.engine).studies if kept.study.name == name), None)


def _is_damaged(application: Application, name: str) -> bool:
    return any(damaged.name == name for damaged in kept_studies(application.engine).damaged)


def _month_by_month(application: Application) -> Iterator[_Step]:
    """Create a study on one file, take in the next, and leave one waiting."""
    engine = application.engine

    def with_study(do: Callable[[KeptStudy], object]) -> Callable[[], object]:
        # do not report a dataset removed since
        return lambda: do(kept) if (kept := _kept_as(application, MONTHLY.name)) is not None else None

    def is_taken_in() -> bool:
        kept = _kept_as(application, MONTHLY.name)
        return kept is None or kept.study.head > 1

    def has(find: Callable[[Engine, int], object]) -> Callable[[], bool]:
        def found() -> bool:
            kept = _kept_as(application, MONTHLY.name)
            return kept is None or find(engine, kept.study.id or 0) is not None

        return found

    def is_looked_over() -> bool:
        kept = _kept_as(application, MONTHLY.name)
        return kept is None or not not_looked_at(application, kept.study.id or 0)

    yield _Step(
        f"the study “{MONTHLY.name}”",
        lambda: _kept_as(application, MONTHLY.name) is not None or _is_damaged(application, MONTHLY.name),
        lambda: _create(application, MONTHLY, date(2026, 8, 31)),
    )
    yield _Step("its second file, taken in", is_taken_in, with_study(lambda kept: _take_next(application, kept)))
    yield _Step(
        "what it watches", has(watch_of), with_study(lambda kept: watching(application, kept.study.id or 0, WATCH))
    )
    yield _Step("its third file, which waits", has(feed_of), with_study(lambda kept: _port_office(application, kept)))
    yield _Step(
        "what its watch finds",
        is_looked_over,
        with_study(lambda kept: _patiently(lambda: watch_over(application, kept.study.id or 0))),
    )


def _take_next(application: Application, kept: KeptStudy) -> None:
    data = demo_file(NEXT_FILE)
    received = keep_dataset(application.engine, NEXT_FILE, data, bring_in(data).how)
    before = _patiently(lambda: application.runs.run_whole(kept)).result
    came = incoming(application, kept, before, received, None, NEXT_DAY)
    take_in(application, kept, before, came, skip_questions=True, base=kept.study.head)


def _port_office(application: Application, kept: KeptStudy) -> None:
    """Create a folder feed with a waiting file."""
    folder = application.home.folder / "port-office"
    folder.mkdir(exist_ok=True)
    file = folder / WAITING_FILE
    file.write_bytes(demo_file(WAITING_FILE))
    # written when the port office was done with October, not just now
    os.utime(file, (WRITTEN.timestamp(), WRITTEN.timestamp()))
    source = WatchedFolder(folder=str(folder), pattern="sailings*.csv")
    study_id = kept.study.id or 0
    _patiently(lambda: application.runs.run_whole(kept))
    try:
        connected(application, study_id, FeedHow(source=source), None)
    except Refusal:
        return  # who serves the demo to others has its own folders in mind, if any
    try:
        _patiently(lambda: look(application, study_id, quiet, asked=False))
    except BaseException:
        # the fetch failed; the next start connects and fetches again
        disconnect_feed(application.engine, study_id)
        raise


def _patiently(do: Callable[[], Made]) -> Made:
    """Run without a time limit; results are cached."""
    while True:
        with contextlib.suppress(Busy):
            return do()


def _begun(study: DemoStudy, ledger: Ledger) -> Ledger:
    """Return source and calendar of the study."""
    source, calendar = ledger.entries
    if study.drawn:
        source = source.model_copy(update={"params": {**source.params, "series": list(study.drawn)}})
    if study.until:
        calendar = calendar.model_copy(update={"params": {**calendar.params, "until": study.until.value}})
    return ledger.model_copy(update={"entries": (source, calendar)})


def _create(application: Application, study: DemoStudy, as_of: date = AS_OF) -> KeptStudy:
    engine = application.engine
    data = study.data()
    brought = bring_in(data)
    kept = keep_dataset(engine, study.file, data, brought.how)
    assert kept.id is not None
    begun = _begun(study, first_ledger(brought.observations, brought.how, as_of))
    records = tuple(record(entry, f"{entry.kind}-{n}") for n, entry in enumerate(study.entries(), 1))
    ledger = Ledger(intake=begun.intake, entries=(*begun.entries, *records))
    settings = study.settings.model_copy(update={"title": study.name})
    created = create_study(engine, study.name, kept.id, ledger, settings, as_of)
    # run fast studies here, so that the list appears at once
    result = run(brought.observations, ledger, as_of, file_name=study.file, defer=True)
    Summaries(engine, application.said).keep(created, summary_of(result, settings.shown, ()))
    return created
