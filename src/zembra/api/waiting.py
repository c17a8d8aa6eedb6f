"""Answers that wait a little for work that is done elsewhere."""

from __future__ import annotations

from flask import Response

from zembra.api.context import context
from zembra.api.reply import reply
from zembra.api.views import work_view
from zembra.background import Stage, Work

SOON = 5.0  # seconds


def waited(work: Work) -> Response | None:
    """That it is under way, to be asked for again; None where it is done: its result is let go of. Raises what it failed
    of."""
    work.finished.wait(SOON)
    if work.failure is None and work.stage is not Stage.DONE:
        return reply(work_view(work), 202)
    context().background.forget(work.key)
    if work.failure is not None:
        raise work.failure
    return None
