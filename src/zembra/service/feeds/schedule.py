"""Schedule feeds, one fetch of each at a time."""

from __future__ import annotations

import contextlib
from collections.abc import Callable
from typing import Any

from zembra.core.intake.bringin import Progress
from zembra.service.application import Application
from zembra.service.feeds.feedlook import Came, look
from zembra.store.feeds import due_feeds
from zembra.store.tables import now
from zembra.work.queue import Busy, Lane, Work


def begin_look(
    application: Application, study_id: int, *, asked: bool, answer: Callable[[Any], Any] | None = None
) -> Work:
    """Return the running fetch, or start one. Raises Busy.

    asked: whether a person asked
    answer: as in Work
    """

    def do(progress: Progress) -> Came:
        return look(application, study_id, progress, asked=asked)

    under_way = look_under_way(application, study_id)
    if under_way is not None:
        return under_way
    # earlier failures are shown by the feed
    application.queue.forget(_key(study_id))
    return application.queue.submit(_key(study_id), Lane.FEEDS, do, answer=answer or (lambda came: came))


def look_under_way(application: Application, study_id: int) -> Work | None:
    work = application.queue.get(_key(study_id))
    return work if work is not None and work.under_way else None


def look_at_due(application: Application) -> None:
    """Start fetching all due feeds."""
    for study_id in due_feeds(application.engine, now()):
        with contextlib.suppress(Busy):
            begin_look(application, study_id, asked=False)


def _key(study_id: int) -> str:
    return f"feed {study_id}"
