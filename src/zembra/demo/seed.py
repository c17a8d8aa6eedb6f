"""Putting the demo studies into a database."""

from __future__ import annotations

import contextlib
import os
from datetime import UTC, date, datetime

from sqlalchemy import Engine

from zembra.core.errors import Refusal
from zembra.core.feeds.words import FeedHow, WatchedFolder
from zembra.core.intake.bringin import bring_in, quiet
from zembra.core.ledger.model import Ledger, record
from zembra.core.ledger.run import run
from zembra.core.ledger.start import first_ledger
from zembra.core.study.summary import summary_of
from zembra.core.watching.words import OutsideLimits, RevisionLarger, RowsLate, WatchWords
from zembra.demo import AS_OF, demo_file
from zembra.demo.studies import MONTHLY, STUDIES, DemoStudy
from zembra.service.application import Application
from zembra.service.feeds.look import connected, look
from zembra.service.newrows import incoming, take_in
from zembra.service.watching.look import watch_over, watching
from zembra.store.datasets import keep_dataset
from zembra.store.studies import Kept, create_study, kept_studies
from zembra.store.summaries import Summaries

# what came next, and the day it came; the file after that is there, and waits
NEXT_FILE, NEXT_DAY = "sailings_to_september.csv", date(2026, 9, 30)
WAITING_FILE, WRITTEN = "sailings.csv", datetime(2026, 10, 31, 7, tzinfo=UTC)
WATCH = WatchWords(watches=(OutsideLimits(), RowsLate(days=2), RevisionLarger(percent=20)))


def seed(application: Application) -> None:
    """Keep the demo files and their studies, except those that are there."""
    engine = application.engine
    found = kept_studies(engine)
    known = {kept.study.name for kept in found.studies} | {damaged.name for damaged in found.damaged}
    said = Summaries(engine, application.said)
    if MONTHLY.name not in known:
        _month_by_month(application, said)
    for study in STUDIES:
        if study.name not in known:
            _create(engine, study, said)


def _month_by_month(application: Application, said: Summaries) -> None:
    """Begun on one file, with the next one taken in."""
    begun = _create(application.engine, MONTHLY, said, date(2026, 8, 31))
    data = demo_file(NEXT_FILE)
    received = keep_dataset(application.engine, NEXT_FILE, data, bring_in(data).how)
    before = application.runs.run_whole(begun).result
    came = incoming(application, begun, before, received, None, NEXT_DAY)
    take_in(application, begun, before, came, waved=True, base=begun.study.head)
    assert begun.study.id is not None
    watching(application, begun.study.id, WATCH)
    # who serves the demo to others has its own folders in mind, if any
    with contextlib.suppress(Refusal):
        _port_office(application, begun.study.id)
    watch_over(application, begun.study.id)


def _port_office(application: Application, study_id: int) -> None:
    """A folder that the third file lies in, looked at once: what came waits."""
    folder = application.home.folder / "port-office"
    folder.mkdir(exist_ok=True)
    file = folder / WAITING_FILE
    file.write_bytes(demo_file(WAITING_FILE))
    # written when the port office was done with October, not just now
    os.utime(file, (WRITTEN.timestamp(), WRITTEN.timestamp()))
    source = WatchedFolder(folder=str(folder), pattern="sailings*.csv")
    connected(application, study_id, FeedHow(source=source), None)
    look(application, study_id, quiet, asked=False)


def _begun(study: DemoStudy, ledger: Ledger) -> Ledger:
    """Source and calendar with the words of the study."""
    source, calendar = ledger.entries
    if study.drawn:
        source = source.model_copy(update={"params": {**source.params, "series": list(study.drawn)}})
    if study.until:
        calendar = calendar.model_copy(update={"params": {**calendar.params, "until": study.until.value}})
    return ledger.model_copy(update={"entries": (source, calendar)})


def _create(engine: Engine, study: DemoStudy, said: Summaries, as_of: date = AS_OF) -> Kept:
    data = study.data()
    brought = bring_in(data)
    kept = keep_dataset(engine, study.file, data, brought.how)
    assert kept.id is not None
    begun = _begun(study, first_ledger(brought.observations, brought.how, as_of))
    records = tuple(record(entry, f"{entry.kind}-{n}") for n, entry in enumerate(study.entries(), 1))
    ledger = Ledger(intake=begun.intake, entries=(*begun.entries, *records))
    settings = study.settings.model_copy(update={"title": study.name})
    created = create_study(engine, study.name, kept.id, ledger, settings, as_of)
    # what is quick is run here, so that the list of studies is there at once
    result = run(brought.observations, ledger, as_of, file_name=study.file, defer=True)
    said.keep(created, summary_of(result, settings.shown, ()))
    return created
