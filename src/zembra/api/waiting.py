"""Answer a request that takes time: 200 with the result, or 202 with the key of the work in progress.

Whoever got a key asks `/api/work/KEY` how far the work is, `/api/work/KEY/answer` for the answer and, where a part of
it is worth looking at, `/api/work/KEY/so-far` for that.
"""

from __future__ import annotations

from flask import Response

from zembra.api.application import application
from zembra.api.reply import reply
from zembra.api.views import work_view
from zembra.core.errors import Refusal
from zembra.service.runs import StudyRun
from zembra.work.queue import Busy, Stage, Work

PATIENCE = 5.0  # seconds that a request waits; the first child of a server takes two or three


def answer_of(work: Work, patience: float = PATIENCE) -> Response:
    """Return the result of work and free it, or its state; also a partial result of stopped work. Raises its error,
    and Refusal if it was stopped without a result.

    patience: seconds to wait
    """
    work.finished.wait(patience)
    partly = work.stage is Stage.STOPPED and work.so_far is not None
    if partly or not work.finished.is_set():
        return reply(work_view(work), 202)
    application().queue.forget(work.key)
    if work.failure is not None:
        raise work.failure
    if work.stage is Stage.STOPPED or work.answer is None:
        raise Refusal("It was stopped; nothing of it was kept.", todo="Begin it again.")
    answer: Response = work.answer(work.result)
    return answer


def answer_so_far(work: Work) -> Response:
    """Return the partial result. Raises Refusal if there is none."""
    if work.so_far is None:
        raise Refusal("Nothing of it is known before all of it is.", todo="Wait until it is done.")
    known: Response = work.so_far()
    return known


def answer_of_run(ran: StudyRun) -> Response | None:
    """Return the state of an unfinished run, or None. Raises its error, Refusal if stopped, and Busy."""
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
