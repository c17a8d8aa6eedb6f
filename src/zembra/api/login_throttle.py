"""Throttle wrong keys: whoever guesses waits longer each time, and nobody else does."""

from __future__ import annotations

import time
from collections.abc import Callable
from dataclasses import dataclass
from threading import Lock

from cachetools import LRUCache

FIRST_WAIT, LONGEST_WAIT = 1.0, 300.0  # seconds
FORGOTTEN = 3_600.0  # seconds without a guess
MANY = 20  # wrong keys within a minute, of all clients: each of them waits longer then
MOST_CLIENTS = 10_000


@dataclass
class _Guessed:
    count: int
    last: float


class LoginThrottle:
    """Delays per client and per key, so that many guessing clients wait too. A client without wrong guesses is
    always tried once, so that nobody is locked out. Safe across threads.
    """

    def __init__(self, clock: Callable[[], float] = time.monotonic) -> None:
        self._clock = clock
        self._lock = Lock()
        self._clients: LRUCache[str, _Guessed] = LRUCache(MOST_CLIENTS)
        self._recent: list[float] = []

    def wait(self, client: str) -> float:
        """Return the seconds until this client may try, 0 for now."""
        with self._lock:
            found = self._clients.get(client)
            now = self._clock()
            if found is None or now - found.last > FORGOTTEN:
                return 0.0
            self._recent = [moment for moment in self._recent if now - moment < 60]
            together = 1 + len(self._recent) // MANY
            needed = min(LONGEST_WAIT, FIRST_WAIT * 2 ** (found.count - 1) * together)
            return float(max(0.0, found.last + needed - now))

    def wrong(self, client: str) -> None:
        with self._lock:
            now = self._clock()
            found = self._clients.get(client)
            count = found.count if found is not None and now - found.last <= FORGOTTEN else 0
            self._clients[client] = _Guessed(min(count + 1, 30), now)
            self._recent = [*self._recent[-1_000:], now]

    def right(self, client: str) -> None:
        with self._lock:
            self._clients.pop(client, None)
