"""Answers that wait a little for work that is done elsewhere."""

from __future__ import annotations

from flask import Response

from zembra.api.application import application
from zembra.api.reply import reply
from zembra.api.views import work_view
from zembra.core.errors import Refusal
from zembra.service.runs import Ran
from zembra.work.queue import Busy, Stage, Work

SOON = 5.0  # seconds


def waited(work: Work) -> Response | None:
    """That it is under way, to be asked for again; None where it is done: its result is let go of. Raises what it failed
    of."""
    work.finished.wait(SOON)
    if work.failure is None and work.stage is not Stage.DONE:
        return reply(work_view(work), 202)
    application().queue.forget(work.key)
    if work.failure is not None:
        raise work.failure
    return None


def still_run(ran: Ran) -> Response | None:
    """That a run still needs work, to be asked for again; None where it is whole. Raises what that failed of, Refusal
    where it was stopped, and Busy."""
    for work in ran.works.values():
        if work is None:
            raise Busy("Zembra has too much to do at once.", todo="Wait for what is under way, or stop some of it.")
        if work.failure is not None:
            raise work.failure
        if work.stage is Stage.STOPPED:
            raise Refusal("What the study needs was stopped.", todo="Begin it again on the bench.")
        if work.under_way:
            return reply(work_view(work), 202)
    return None
