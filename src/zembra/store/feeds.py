"""Store feeds."""

from __future__ import annotations

from collections.abc import Callable
from datetime import datetime, timedelta

from pydantic import ValidationError
from sqlalchemy import Engine
from sqlmodel import Session, col, select

from zembra.core.errors import Refusal
from zembra.core.feeds.feedwords import FeedHow
from zembra.store.again import wait_before
from zembra.store.tables import Feed, Study, now

FIRST_WAIT = timedelta(minutes=5)  # after a look that failed; twice as long after each more


def feed_of(engine: Engine, study_id: int) -> Feed | None:
    with Session(engine, expire_on_commit=False) as session:
        return session.get(Feed, study_id)


def words_of_feed(feed: Feed) -> FeedHow:
    """Return the settings of a feed. Raises Refusal."""
    try:
        return FeedHow.model_validate_json(feed.words)
    except ValidationError:
        raise Refusal("Where the study looks for new rows cannot be read.", todo="Say it anew.") from None


def connect_feed(engine: Engine, study_id: int, words: FeedHow, *, private: bool) -> Feed:
    """Connect a feed; another source starts without earlier state."""
    with Session(engine, expire_on_commit=False) as session:
        feed = session.get(Feed, study_id)
        if feed is None or words_of_feed(feed).source != words.source:
            if feed is not None:
                session.delete(feed)
                session.flush()
            feed = Feed(study_id=study_id, words="")
        feed.words, feed.private = words.model_dump_json(), private
        feed.due_at = None if words.often.apart is None else now()
        session.add(feed)
        session.commit()
        return feed


def disconnect_feed(engine: Engine, study_id: int) -> None:
    with Session(engine) as session:
        feed = session.get(Feed, study_id)
        if feed is not None:
            session.delete(feed)
            session.commit()


def change_feed(engine: Engine, study_id: int, change: Callable[[Feed], None]) -> None:
    """Change a feed, unless it is gone."""
    with Session(engine) as session:
        feed = session.get(Feed, study_id)
        if feed is not None:
            change(feed)
            session.commit()


def due_feeds(engine: Engine, at: datetime) -> list[int]:
    """Return the studies with due feeds."""
    with Session(engine) as session:
        query = select(Feed.study_id).join(Study).where(col(Study.removed_at).is_(None), col(Feed.due_at) <= at)
        return list(session.exec(query.order_by(col(Feed.due_at))))


def waiting_feeds(engine: Engine) -> dict[int, Feed]:
    """Return feeds with waiting rows or errors, by study."""
    with Session(engine, expire_on_commit=False) as session:
        query = select(Feed).where(col(Feed.received_id).is_not(None) | (col(Feed.trouble) != ""))
        return {feed.study_id: feed for feed in session.exec(query)}


def next_look(words: FeedHow, tries: int, at: datetime) -> datetime | None:
    """Return the next fetch, after failures with a growing delay.

    tries: consecutive failures
    """
    apart = words.often.apart
    if apart is None:
        return None
    if not tries:
        return at + apart
    return at + min(apart, wait_before(FIRST_WAIT, tries))
