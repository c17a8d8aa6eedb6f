"""The application: the home it works on, and shared services."""

from __future__ import annotations

from collections.abc import Callable
from datetime import date

from cachetools import LRUCache
from sqlalchemy import Engine

from zembra.core.judging.verdict import Verdict
from zembra.service.readings import Readings
from zembra.service.runs import Runs
from zembra.settings import Settings, settings
from zembra.store.actor import acting
from zembra.store.home import Home
from zembra.store.housekeeping import Housekeeper
from zembra.store.keyring import Keyring
from zembra.store.logins import SessionsSeen
from zembra.work.queue import WorkQueue

MOST_VERDICTS = 300  # on candidates, so that a word of a projection that is changed begins none of them again


class Application:
    """The application.

    home: folder of the database
    today: returns the current day
    key: required key, empty for none
    shared: whether others may use it
    said: cached summaries of studies
    verdicts: cached verdicts on candidates
    """

    def __init__(
        self,
        engine: Engine,
        home: Home,
        today: Callable[[], date] = date.today,
        configured: Settings | None = None,
        key: str = "",
        *,
        shared: bool = False,
    ) -> None:
        self.engine = engine
        self.home = home
        self.today = today
        self.settings = configured or settings()
        self.key = key
        self.shared = shared
        self.keyring = Keyring(home)
        self.housekeeper = Housekeeper(home, engine)
        self.queue = WorkQueue(who=acting.get)
        self.seen = SessionsSeen()
        self.readings = Readings(engine)
        self.runs = Runs(engine, self.readings, self.queue, self.settings)
        self.said: dict[int, tuple[str, str]] = {}
        self.verdicts: LRUCache[str, Verdict] = LRUCache(MOST_VERDICTS)
