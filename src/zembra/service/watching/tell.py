"""Notify each recipient once, and retry failures."""

from __future__ import annotations

import json
import logging
from dataclasses import dataclass
from datetime import timedelta

from zembra.service.application import Application
from zembra.service.feeds.http import posted
from zembra.service.process_pools import TELLING
from zembra.service.watching.mail import send
from zembra.service.watching.news import as_json, as_text
from zembra.settings import Settings
from zembra.store.again import wait_before
from zembra.store.tables import Telling, now
from zembra.store.watching import MAIL, POST, Due, change_tellings, due_tellings
from zembra.work.executor import Check, Report, TaskLimits, no_check

FIRST_WAIT = timedelta(minutes=2)  # after a try that failed; twice as long after each more, for a day at most
LONGEST_WAIT = timedelta(days=1)
LIMITS = TaskLimits(memory_mb=256, seconds=30)  # of one telling
log = logging.getLogger(__name__)


@dataclass(frozen=True, slots=True)
class Mail:
    """A mail.

    about: identifies it when it is sent again
    """

    to: str
    subject: str
    text: str
    about: str


@dataclass(frozen=True, slots=True)
class Post:
    """A JSON post.

    private: whether local and private addresses are allowed
    """

    url: str
    body: bytes
    private: bool


def tell_due(application: Application, check: Check = no_check) -> None:
    """Notify everybody who is due, each in a child process, so that a slow recipient delays nobody."""
    dues = list(due_tellings(application.engine, now()))
    tasks = [(application.settings, _message(due)) for due in dues]
    for number, outcome in TELLING.map(
        _delivered, tasks, name="telling", limits=LIMITS, check=check, each_by_itself=True
    ):
        due = dues[number]
        trouble = ""
        if isinstance(outcome, Exception):
            trouble = str(outcome) or type(outcome).__name__
            log.warning("%s could not be told: %s", due.way.partition(":")[0], type(outcome).__name__)
        numbers = [telling.id for telling, _ in due.tellings]
        change_tellings(application.engine, numbers, lambda telling, trouble=trouble: _marked(telling, trouble))  # type: ignore[misc]


def _message(due: Due) -> Mail | Post:
    if due.way.startswith(MAIL):
        subject, text = as_text(due.study, due.tellings)
        about = ".".join(f"{finding.id}{'-' if telling.gone else '+'}" for telling, finding in due.tellings)
        return Mail(due.way.removeprefix(MAIL), subject, text, f"{due.study_id}.{about}"[:200])
    body = json.dumps(as_json(due.study, due.tellings), ensure_ascii=False).encode()
    return Post(due.way.removeprefix(POST), body, due.private)


def _delivered(report: Report, settings: Settings, message: Mail | Post) -> None:
    """Deliver in the child. Raises Refusal, OSError."""
    if isinstance(message, Mail):
        send(settings, message.to, message.subject, message.text, message.about)
    else:
        posted(report, message.url, message.body, message.private)


def _marked(telling: Telling, trouble: str) -> None:
    telling.trouble = trouble
    if not trouble:
        telling.told_at = now()
        return
    telling.tries += 1
    telling.due_at = now() + min(LONGEST_WAIT, wait_before(FIRST_WAIT, telling.tries))
