"""Evaluate the watch of a study, and keep its findings."""

from __future__ import annotations

from zembra.core.errors import Refusal
from zembra.core.feeds.feedwords import Address
from zembra.core.ledger.digest import digest
from zembra.core.ledger.entry import Group
from zembra.core.ledger.model import Ledger, opened
from zembra.core.ledger.registry import kinds
from zembra.core.ledger.run import Result
from zembra.core.newrows.changes import Comparison, RevisedPeriods
from zembra.core.newrows.takingwords import TakingHow
from zembra.core.watching.find import Looked, Watched, is_same, watched
from zembra.core.watching.watchwords import WatchWords
from zembra.service.application import Application
from zembra.service.feeds.http import resolves_to_private
from zembra.service.newrows import Incoming, as_told, incoming
from zembra.service.runs import how_read
from zembra.service.watching.mail import check_mail
from zembra.store.datasets import dataset
from zembra.store.feeds import feed_of
from zembra.store.studies import KeptStudy, kept_study
from zembra.store.tables import WatchOf
from zembra.store.takings import issued_projections, revisions_behind, taking_of
from zembra.store.watching import keep_watch, reconcile, watch_of, words_of_watch


def watching(application: Application, study_id: int, words: WatchWords) -> WatchOf:
    """Set the watches of a study. Raises Refusal, NotKept."""
    kept_study(application.engine, study_id)
    if words.tell.mail:
        check_mail(application.settings, words.tell.mail)
    if words.tell.post:
        Address(url=words.tell.post).check()
    home = bool(words.tell.post) and resolves_to_private(words.tell.post)
    return keep_watch(application.engine, study_id, words, private=home)


def not_looked_at(application: Application, study_id: int) -> str:
    """Return the digest of unseen changes, empty if there are none."""
    watch = watch_of(application.engine, study_id)
    now = "" if watch is None else _digest(application, kept_study(application.engine, study_id), watch)
    return "" if watch is None or watch.looked == now else now


def watch_over(application: Application, study_id: int) -> None:
    """Evaluate the watches of a study with its waiting rows, and store the findings. Raises Refusal if it cannot be
    run; earlier findings then stay.
    """
    engine = application.engine
    watch = watch_of(engine, study_id)
    if watch is None:
        return
    kept = kept_study(engine, study_id)
    looked = _digest(application, kept, watch)
    before = application.runs.run_whole(kept).result
    feed = feed_of(engine, study_id)
    waiting: Incoming | None = None
    unread: tuple[str, ...] = ()
    if feed is not None and feed.received_id is not None:
        try:
            waiting = incoming(application, kept, before, dataset(engine, feed.received_id))
        except Refusal as refusal:
            unread = (f"The rows that wait were not looked at: {refusal}",)
    gave, result = would_find(application, kept, before, watch, waiting)
    reconcile(
        engine,
        study_id,
        looked,
        gave.found,
        (*gave.unsaid, *unread),
        lambda found, other: is_same(found, other, result),
    )


def would_find(
    application: Application, kept: KeptStudy, before: Result, watch: WatchOf, waiting: Incoming | None
) -> tuple[Watched, Result]:
    """Return findings and the run they are from. Raises Refusal.

    before: current run
    waiting: rows to treat as taken in
    """
    assert kept.study.id is not None
    issued_before = issued_projections(application.engine, kept.study.id, kept.study.head)
    now = as_told(kept, before)
    changes: RevisedPeriods | None
    if waiting is not None:
        ledger, file = _without_projections(waiting.ledger), waiting.received.name
        result = application.runs.carry_out(waiting.brought, ledger, waiting.as_of, file)
        changes = waiting.changes
    else:
        result, changes = before, _changes_of_last(application, kept, before)
    issued = [issue for issue in issued_before if issue.revision != now.revision]
    looked = Looked(result, (*issued, now), changes, application.today())
    return watched(words_of_watch(watch).watches, looked), result


def _changes_of_last(application: Application, kept: KeptStudy, now: Result) -> RevisedPeriods | None:
    """Return the differences of the last rows taken in, or None."""
    assert kept.study.id is not None
    taking = taking_of(application.engine, kept.study.id, kept.dataset_id)
    if taking is None:
        return None
    behind = {row.number: row for row in revisions_behind(application.engine, kept.study.id, kept.study.head)}
    taken = behind.get(taking.revision)
    earlier = behind.get(taken.parent) if taken is not None and taken.parent is not None else None
    if earlier is None:
        return None
    data = dataset(application.engine, earlier.dataset_id)
    ledger = opened(earlier.ledger)
    brought = application.readings.of(data, how_read(ledger, data))
    then = application.runs.carry_out(brought, _without_projections(ledger), earlier.as_of, data.name)
    if then.base.grain != now.base.grain:
        return None
    comparison = Comparison(then.base, now.base)
    return comparison.changes(then.state, TakingHow.model_validate_json(taking.words))


def _without_projections(ledger: Ledger) -> Ledger:
    known = kinds()
    left = [
        entry for entry in ledger.entries if entry.kind not in known or known[entry.kind].group is not Group.PROJECTIONS
    ]
    return ledger.model_copy(update={"entries": tuple(left)})


def _digest(application: Application, kept: KeptStudy, watch: WatchOf) -> str:
    """Return the digest of all that a watch looks at."""
    feed = feed_of(application.engine, kept.study.id or 0)
    waits = feed.received_id if feed else None
    at = kept.revision
    return digest(
        str(kept.study.head), str(at.dataset_id), at.ledger, str(waits), str(application.today()), watch.words
    )
