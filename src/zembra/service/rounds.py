"""Periodic jobs of a running server: feeds that are due, and studies that watch themselves."""

from __future__ import annotations

import logging

from zembra.service.application import Application
from zembra.service.feeds.schedule import look_at_due
from zembra.service.watching.schedule import watch_every
from zembra.store.summaries import keep_said

log = logging.getLogger(__name__)


def _take_down(application: Application) -> None:
    """Store what was computed during read-only requests."""
    application.seen.take_down(application.engine)
    keep_said(application.engine, application.said)


def look_round(application: Application) -> None:
    """Run all rounds; a failing one does not stop the others."""
    for do in (look_at_due, watch_every, _take_down):
        try:
            do(application)
        except Exception:
            log.exception("a round of feeds and watches could not be made")
