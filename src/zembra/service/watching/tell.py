"""Telling who wants to know, once each, and again where it did not work."""

from __future__ import annotations

import json
import logging
import smtplib
from datetime import timedelta

from zembra.core.errors import Refusal
from zembra.service.application import Application
from zembra.service.feeds.http import post_json
from zembra.service.watching.mail import send
from zembra.service.watching.news import as_json, as_text
from zembra.store.again import wait_before
from zembra.store.tables import Telling, now
from zembra.store.watching import MAIL, POST, Due, change_tellings, due_tellings

FIRST_WAIT = timedelta(minutes=2)  # after a try that failed; twice as long after each more, for a day at most
LONGEST_WAIT = timedelta(days=1)
log = logging.getLogger(__name__)


def tell_due(application: Application) -> None:
    for due in due_tellings(application.engine, now()):
        try:
            _tell(application, due)
            trouble = ""
        except (Refusal, OSError, smtplib.SMTPException) as error:
            trouble = str(error) or type(error).__name__
            log.warning("%s could not be told: %s", due.way.partition(":")[0], type(error).__name__)
        numbers = [telling.id for telling, _ in due.tellings]
        change_tellings(application.engine, numbers, lambda telling, trouble=trouble: _marked(telling, trouble))  # type: ignore[misc]


def _tell(application: Application, due: Due) -> None:
    if due.way.startswith(MAIL):
        subject, text = as_text(due.study, due.tellings)
        about = ".".join(f"{finding.id}{'-' if telling.gone else '+'}" for telling, finding in due.tellings)
        send(application.settings, due.way.removeprefix(MAIL), subject, text, f"{due.study_id}.{about}"[:200])
    else:
        body = json.dumps(as_json(due.study, due.tellings), ensure_ascii=False).encode()
        post_json(due.way.removeprefix(POST), body, private=due.private)


def _marked(telling: Telling, trouble: str) -> None:
    telling.trouble = trouble
    if not trouble:
        telling.told_at = now()
        return
    telling.tries += 1
    telling.due_at = now() + min(LONGEST_WAIT, wait_before(FIRST_WAIT, telling.tries))
