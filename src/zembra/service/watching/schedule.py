"""When studies are watched over: whenever what a watch looks at is another than last time, and on every new day."""

from __future__ import annotations

import contextlib

from zembra.core.errors import Refusal
from zembra.core.intake.bringin import Progress
from zembra.service.application import Application
from zembra.service.watching.look import is_looked_at, watch_over
from zembra.service.watching.tell import tell_due
from zembra.store.errors import Altered, Damaged, NotKept
from zembra.store.watching import watching_studies
from zembra.work.queue import Busy, Lane, Stage, Work


def watch_every(application: Application) -> None:
    """Begin to look at each study that changed since it was looked at, and tell whoever is to be told."""
    for study_id in watching_studies(application.engine):
        # one that cannot be read is told where it is listed
        with contextlib.suppress(Busy, Refusal, NotKept, Damaged, Altered):
            if not is_looked_at(application, study_id):
                begin_watch(application, study_id)

    def do(progress: Progress) -> None:
        progress("telling what was found", 0.0)
        tell_due(application)

    telling = application.queue.get("telling")
    if telling is None or not telling.under_way:
        application.queue.forget("telling")
        with contextlib.suppress(Busy):
            application.queue.submit("telling", Lane.TELLING, do)


def begin_watch(application: Application, study_id: int) -> Work:
    """The look of a watch that is under way, or a new one. Raises Busy."""

    def do(progress: Progress) -> None:
        progress("looking at the study", 0.1)
        watch_over(application, study_id)

    known = application.queue.get(_key(study_id))
    if known is not None and known.under_way:
        return known
    application.queue.forget(_key(study_id))
    return application.queue.submit(_key(study_id), Lane.FEEDS, do)


def trouble_of_watch(application: Application, study_id: int) -> str:
    """Why the last look could not be; empty where it could."""
    work = application.queue.get(_key(study_id))
    return str(work.failure) if work is not None and work.stage is Stage.FAILED else ""


def _key(study_id: int) -> str:
    return f"watch {study_id}"
