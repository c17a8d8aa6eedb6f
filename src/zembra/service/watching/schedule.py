"""Schedule watches: when their inputs change, and on every new day."""

from __future__ import annotations

import contextlib

from zembra.core.errors import Refusal
from zembra.core.intake.bringin import Progress
from zembra.service.application import Application
from zembra.service.watching.tell import tell_due
from zembra.service.watching.watchlook import not_looked_at, watch_over
from zembra.store.errors import Altered, Damaged, NotKept
from zembra.store.watching import watching_studies
from zembra.work.queue import Busy, Lane, Stage, Work


def watch_every(application: Application) -> None:
    """Start evaluating changed studies, and notify."""
    for study_id in watching_studies(application.engine):
        # one that cannot be read is told where it is listed
        with contextlib.suppress(Busy, Refusal, NotKept, Damaged, Altered):
            begin_watch(application, study_id)

    def do(progress: Progress) -> None:
        progress("telling what was found", 0.0)
        tell_due(application, lambda: progress("telling what was found", 0.0))

    telling = application.queue.get("telling")
    if telling is None or not telling.under_way:
        application.queue.forget("telling")
        with contextlib.suppress(Busy):
            application.queue.submit("telling", Lane.TELLING, do)


def begin_watch(application: Application, study_id: int) -> Work | None:
    """Start evaluating a watch on unseen changes, once; None if there are none. Raises Busy, Refusal."""
    unseen = not_looked_at(application, study_id)
    if not unseen:
        return None

    def do(progress: Progress) -> None:
        progress("looking at the study", 0.1)
        watch_over(application, study_id)

    key = _key(study_id, unseen)
    known = application.queue.get(key)
    # do not retry until an input changes
    if known is not None and (known.under_way or known.stage is Stage.FAILED):
        return known
    return application.queue.submit(key, Lane.FEEDS, do)


def watch_begun(application: Application, study_id: int) -> Work | None:
    """Return the running evaluation, if any. Raises Refusal."""
    unseen = not_looked_at(application, study_id)
    return application.queue.get(_key(study_id, unseen)) if unseen else None


def _key(study_id: int, unseen: str) -> str:
    return f"watch {study_id} {unseen}"
