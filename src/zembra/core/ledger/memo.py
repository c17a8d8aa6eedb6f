"""Outcomes of ledger prefixes that are remembered, weighed by the bytes that only they hold."""

from __future__ import annotations

import threading
from collections import OrderedDict
from collections.abc import Iterator
from dataclasses import fields

import numpy as np

from zembra.core.errors import Refusal
from zembra.core.ledger.state import Outcome
from zembra.core.lines import Drawn, Line

KEPT_ANYWAY = 12


class Memo:
    """The least recently used is forgotten first. Safe across threads.

    most_bytes: how much the arrays of all outcomes together may take. An array that several outcomes share
    is counted once.
    """

    def __init__(self, most_bytes: int = 1_000_000_000) -> None:
        self._most = most_bytes
        self._bytes = 0
        self._kept: OrderedDict[str, Outcome | Refusal] = OrderedDict()
        self._holders: dict[int, int] = {}  # how many outcomes hold an array; those that do keep its id its own
        self._lock = threading.Lock()

    def __len__(self) -> int:
        return len(self._kept)

    @property
    def weight(self) -> int:
        """Bytes of all arrays held."""
        return self._bytes

    def get(self, key: str) -> Outcome | Refusal | None:
        with self._lock:
            found = self._kept.get(key)
            if found is not None:
                self._kept.move_to_end(key)
            return found

    def put(self, key: str, outcome: Outcome | Refusal) -> None:
        with self._lock:
            old = self._kept.pop(key, None)
            self._kept[key] = outcome
            self._hold(outcome)
            if old is not None:
                self._let_go(old)
            # the newest stay, however large: the next edit builds on them
            while self._bytes > self._most and len(self._kept) > KEPT_ANYWAY:
                self._let_go(self._kept.popitem(last=False)[1])

    def _hold(self, outcome: Outcome | Refusal) -> None:
        for array in _arrays(outcome):
            count = self._holders.get(id(array), 0)
            self._holders[id(array)] = count + 1
            self._bytes += 0 if count else array.nbytes

    def _let_go(self, outcome: Outcome | Refusal) -> None:
        for array in _arrays(outcome):
            count = self._holders.pop(id(array)) - 1
            if count:
                self._holders[id(array)] = count
            else:
                self._bytes -= array.nbytes


def _arrays(outcome: Outcome | Refusal) -> Iterator[np.ndarray]:
    """The arrays of an outcome's lines and of what it draws."""
    if isinstance(outcome, Refusal):
        return
    items: tuple[Line | Drawn, ...] = (*outcome.state.lines, *outcome.state.drawn)
    for item in items:
        for one in fields(item):
            value = getattr(item, one.name)
            if isinstance(value, np.ndarray):
                yield value
    for drawn in outcome.state.drawn:
        for limits in drawn.limits:
            yield from (limits.lower, limits.upper)
