"""Periodic jobs of a running server: feeds that are due, and studies that watch themselves."""

from __future__ import annotations

import logging

from zembra.service.application import Application
from zembra.service.feeds.schedule import look_at_due
from zembra.service.watching.schedule import watch_every
from zembra.store.summaries import keep_said

log = logging.getLogger(__name__)


def _take_down(application: Application) -> None:
    """What was found out while people only looked, which writes nothing."""
    application.seen.take_down(application.engine)
    keep_said(application.engine, application.said)


def look_round(application: Application) -> None:
    """Whatever keeps one round from being made, the next is tried."""
    for do in (look_at_due, watch_every, _take_down):
        try:
            do(application)
        except Exception:
            log.exception("a round of feeds and watches could not be made")
