"""Fetch from a study's feed, compare, and hold the rows for a decision or take them in."""

from __future__ import annotations

from dataclasses import dataclass
from datetime import date
from pathlib import Path

import numpy as np

from zembra.core.english import counted, listed, number
from zembra.core.errors import Refusal
from zembra.core.feeds.feedwords import AnySource, FeedHow, Then
from zembra.core.intake.bringin import Progress, sha256
from zembra.core.ledger.run import Result
from zembra.core.newrows.changes import Kind
from zembra.service.application import Application
from zembra.service.feeds.fetched import Fetched, FetchRequest, FetchResult
from zembra.service.feeds.folder import passed_over, troubles
from zembra.service.feeds.sources import kind_of
from zembra.service.newrows import Incoming, incoming, take_in
from zembra.service.process_pools import FEEDS
from zembra.service.reading import read_file
from zembra.store.datasets import erase_dataset, keep_dataset, remove_dataset
from zembra.store.errors import NotKept, Stale
from zembra.store.feeds import change_feed, connect_feed, feed_of, next_look, words_of_feed
from zembra.store.studies import KeptStudy, kept_study
from zembra.store.tables import Dataset, Feed, now
from zembra.work.executor import EndReason, TaskLimits, advised, run_one
from zembra.work.queue import Cancelled

NOTHING_NEW = "Nothing new."
MEMORY_MB = 1024  # of what fetches, decodes and puts together
_TODO = {
    EndReason.TIME: "Ask for fewer rows. ZEMBRA_FEED_SECONDS raises the limit.",
    EndReason.MEMORY: "Ask for fewer rows.",
}


@dataclass(frozen=True, slots=True)
class Came:
    """The outcome of a fetch.

    waits: whether rows wait for a decision
    """

    said: str
    waits: bool = False


def connected(application: Application, study_id: int, words: FeedHow, key: str | None) -> Feed:
    """Connect a study to a feed. Raises Refusal, NotKept.

    key: None keeps the key of the same place
    """
    kept_study(application.engine, study_id)
    words.source.check()
    place = place_of(words)
    _check_local(application, words.source)
    home = kind_of(words.source).leads_to_private(words.source)
    if key is not None:
        if not key.isprintable() or len(key) > 4000:
            raise Refusal("A key cannot have line breaks, nor more than 4 000 letters.")
        application.keyring.put(study_id, place, key)
    return connect_feed(application.engine, study_id, words, private=home)


def place_of(words: FeedHow) -> str:
    """Return the place that a key belongs to, and is sent nowhere else. Raises Refusal."""
    return kind_of(words.source).place(words.source)


def look(application: Application, study_id: int, progress: Progress, *, asked: bool) -> Came:
    """Fetch from the feed of a study. Errors are stored with the feed and raised. Raises Refusal, Cancelled.

    asked: whether a person asked, so that dismissed rows are offered again
    """
    feed = feed_of(application.engine, study_id)
    if feed is None:
        raise NotKept("The study looks nowhere for new rows.")
    words = words_of_feed(feed)
    try:
        came = _looked(application, feed, words, progress, asked=asked)
    except Cancelled:
        raise
    except Exception as error:
        said = str(error) if isinstance(error, Refusal) else f"{type(error).__name__}: {error}"
        change_feed(application.engine, study_id, lambda kept: _failed(kept, words, said))
        raise
    change_feed(application.engine, study_id, lambda kept: _done(kept, words, came))
    return came


def leave(application: Application, study_id: int) -> None:
    """Dismiss waiting rows until somebody asks again."""

    def left(feed: Feed) -> None:
        feed.received_id, feed.said = None, "What came was left."

    change_feed(application.engine, study_id, left)


def _looked(application: Application, feed: Feed, words: FeedHow, progress: Progress, *, asked: bool) -> Came:
    kept = kept_study(application.engine, feed.study_id)
    by_file = words.source.file_by_file
    if feed.received_id is not None and by_file:
        # one file after the other: the next one says what changed since this one
        return Came(feed.said, waits=True)
    progress("looking for new rows", 0.1)
    before = application.runs.run_whole(kept).result
    while True:
        came = _fetched(application, feed, words, before, progress, asked=asked)
        if came is None:
            return _as_before(feed)
        digest = sha256(came.data)
        if digest == feed.digest and not asked:
            _keep_cursor(application, feed, came.cursor, digest)
            return _as_before(feed)
        progress("comparing what came", 0.6)
        try:
            how = read_file(came.data).how
        except Refusal as refusal:
            if not by_file:
                raise Refusal(f"What came cannot be read: {refusal}", place=came.name) from None
            # it must not block other files
            _keep_cursor(application, feed, passed_over(came.cursor, came.name, str(refusal)), feed.digest)
            continue
        break
    received = keep_dataset(application.engine, came.name, came.data, how)
    assert received.id is not None
    try:
        found = incoming(application, kept, before, received)
    except Refusal as refusal:
        # Intake shows how the file differs, and can read it
        _keep_cursor(application, feed, came.cursor, digest)
        _have_wait(application, feed, received.id)
        return Came(str(refusal), waits=True)
    _keep_cursor(application, feed, came.cursor, digest)
    if found.changes is not None and not found.changes.any and not found.changes.new_series:
        _forget(application, received)
        _have_wait(application, feed, None)
        return Came(NOTHING_NEW)
    said = _said(found)
    if words.then is Then.ITSELF and _is_foreseen(kept, before, found):
        try:
            take_in(application, kept, before, found, skip_questions=False, base=kept.study.head)
        except Stale:
            # the study was changed meanwhile; its editor decides
            pass
        else:
            _have_wait(application, feed, None)
            return Came(f"{said} Taken in.")
    _have_wait(application, feed, received.id)
    return Came(said, waits=True)


def _fetched(
    application: Application, feed: Feed, words: FeedHow, before: Result, progress: Progress, *, asked: bool
) -> Fetched | None:
    now_set = application.settings
    source = words.source
    wanted = FetchRequest(
        since=_newest_day(before),
        # files are gone through one by one, whoever asks
        cursor="" if asked and not source.file_by_file else feed.cursor,
        key=application.keyring.get(feed.study_id, place_of(words)),
        most=now_set.max_upload_mb * 1_000_000,
        private=feed.private,
    )
    _check_local(application, source)
    looked = _in_child(application, source, progress, wanted)
    if looked.file is None and looked.cursor != feed.cursor:
        _keep_cursor(application, feed, looked.cursor, feed.digest)
    return looked.file


def _in_child(application: Application, source: AnySource, progress: Progress, wanted: FetchRequest) -> FetchResult:
    """Fetch in a child process with limits. Raises Refusal, Cancelled."""
    with advised(_TODO):
        found: FetchResult = run_one(
            FEEDS,
            kind_of(source).fetch,
            source,
            wanted,
            name=f"fetching from {source.label}",
            limits=TaskLimits(memory_mb=MEMORY_MB, seconds=application.settings.feed_seconds),
            check=lambda: progress("fetching", 0.3),
        )
    return found


def _check_local(application: Application, source: AnySource) -> None:
    """Raise Refusal for local files outside the folders that the owner named, for anybody but the owner."""
    path = kind_of(source).local_path(source)
    named = [Path(part) for part in application.settings.feed_folders.split(":") if part]
    if path is None or (not named and not application.shared):
        return
    if not any(Path(path).resolve().is_relative_to(folder.resolve()) for folder in named):
        raise Refusal(
            "Files there may not be read for studies.",
            place=path,
            todo="The owner of this machine names the folders, in ZEMBRA_FEED_FOLDERS.",
        )


def _newest_day(before: Result) -> date | None:
    lines = [line for line in before.base.lines if np.any(~np.isnan(line.original))]
    if not lines:
        return None
    newest = max(int(line.periods[np.flatnonzero(~np.isnan(line.original))[-1]]) for line in lines)
    day: date = before.base.grain.days(np.array([newest]))[0].astype("datetime64[D]").item()
    return day


def _keep_cursor(application: Application, feed: Feed, cursor: str, digest: str) -> None:
    feed.cursor, feed.digest = cursor, digest

    def got(known: Feed) -> None:
        known.cursor, known.digest = cursor, digest

    change_feed(application.engine, feed.study_id, got)


def _as_before(feed: Feed) -> Came:
    """Return the outcome if nothing new came; waiting rows still wait."""
    return Came(feed.said, waits=True) if feed.received_id is not None else Came(NOTHING_NEW)


def _have_wait(application: Application, feed: Feed, received_id: int | None) -> None:
    def waits(known: Feed) -> None:
        known.received_id = received_id

    change_feed(application.engine, feed.study_id, waits)


def _forget(application: Application, received: Dataset) -> None:
    """Delete rows that are unreadable or not new."""
    try:
        remove_dataset(application.engine, received.id or 0)
    except Refusal:
        return  # it came before, and a study stands on it
    erase_dataset(application.engine, received.id or 0)


def _is_foreseen(kept: KeptStudy, before: Result, found: Incoming) -> bool:
    """Return whether only new periods and revisions of provisional ones came, and the ledger still fits."""
    changes = found.changes
    if changes is None or changes.new_series or changes.lost_series or found.questions:
        return False
    refused = {report.id for report in before.problems}
    if any(report.id not in refused for report in found.result.problems):
        return False
    counts = changes.counts
    return not counts[Kind.GONE] and not counts[Kind.BLANK] and changes.foreseen == counts[Kind.REVISED]


def _said(found: Incoming) -> str:
    if found.changes is None:
        return "What came lies on another calendar than the study."
    counts = found.changes.counts
    words = [f"{number(count)} {kind.value}" for kind, count in counts.items() if count]
    if counts[Kind.REVISED]:
        words = [f"{word} ({found.changes.foreseen} foreseen)" if word.endswith("revised") else word for word in words]
    if found.changes.new_series:
        words.append(counted(len(found.changes.new_series), "new series", "new series"))
    return f"{listed(words)}."


def _done(feed: Feed, words: FeedHow, came: Came) -> None:
    feed.looked_at, feed.tries, feed.said = now(), 0, came.said
    feed.trouble = troubles(feed.cursor) if words.source.file_by_file else ""
    feed.due_at = next_look(words, 0, feed.looked_at)


def _failed(feed: Feed, words: FeedHow, trouble: str) -> None:
    feed.looked_at, feed.trouble = now(), trouble
    feed.tries += 1
    feed.due_at = next_look(words, feed.tries, feed.looked_at)
