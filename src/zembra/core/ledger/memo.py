"""A cache of what entries made, keyed by a digest of all inputs and bounded in bytes."""

from __future__ import annotations

import sys
import threading
from collections.abc import Collection, Iterable, Mapping, Sequence
from dataclasses import dataclass
from enum import Enum
from functools import cache
from types import FunctionType, ModuleType
from typing import Any

import numpy as np
from cachetools import LRUCache

from zembra.core.errors import Refusal
from zembra.core.ledger.lineentry import LineResult
from zembra.core.ledger.state import Outcome

SAMPLED = 16  # every so many results of a kind, what is no array is weighed


@dataclass(frozen=True, slots=True)
class Whole:
    """The outcome of an entry that works on all lines at once.

    keys: digests of the lines after it, empty without a memo
    """

    outcome: Outcome
    keys: tuple[str, ...]


Kept = LineResult | Whole | Refusal


class Memo:
    """A least-recently-used cache, safe across threads.

    most_bytes: capacity. An array that was passed on unchanged counts once, where it was made.
    """

    def __init__(self, most_bytes: int = 1_000_000_000) -> None:
        self._kept: LRUCache[str, tuple[Kept, int]] = LRUCache(most_bytes, getsizeof=lambda item: item[1])
        self._lock = threading.Lock()
        self._plain: dict[type, _Plain] = {}

    def __len__(self) -> int:
        return len(self._kept)

    @property
    def weight(self) -> int:
        """Bytes of all cached results."""
        return int(self._kept.currsize)

    def get(self, key: str) -> Kept | None:
        with self._lock:
            found = self._kept.get(key)
        return found[0] if found else None

    def put(self, key: str, kept: Kept, given: Iterable[np.ndarray] = ()) -> None:
        """Cache a result, unless it exceeds the capacity.

        given: the arrays it was made from, which count elsewhere
        """
        given = list(given)
        own = _own(kept, given)
        arrays = sum(array.nbytes for array in own)
        kind = type(kept.result) if isinstance(kept, LineResult) else type(kept)
        with self._lock:
            weight = arrays + self._plain.setdefault(kind, _Plain()).bytes_of(kept, (*given, *own))
            if weight <= self._kept.maxsize:
                self._kept[key] = (kept, weight)


class _Plain:
    """The sampled size of results of one kind, without the arrays of lines and shapes. Measuring every result would
    take too long.
    """

    def __init__(self) -> None:
        self._count = 0
        self._mean = 0.0

    def bytes_of(self, kept: Kept, weighed: Sequence[np.ndarray]) -> int:
        """Return the size of a sampled result, or the mean of the sampled ones.

        weighed: arrays that count elsewhere
        """
        place, self._count = self._count, self._count + 1
        if place % SAMPLED:
            return round(self._mean)
        weight = plain_bytes(kept, weighed)
        self._mean += (weight - self._mean) / (place // SAMPLED + 1)
        return weight


def plain_bytes(held: Any, weighed: Iterable[np.ndarray] = ()) -> int:
    """Return the bytes of everything an object holds, each object once, without modules, functions and types.

    weighed: arrays that count elsewhere
    """
    seen = {id(array) for array in weighed}
    left = [held]
    total = 0
    while left:
        item = left.pop()
        if id(item) in seen or isinstance(item, (type, ModuleType, FunctionType, Enum)):
            continue
        seen.add(id(item))
        if isinstance(item, np.ndarray):
            total += item.nbytes
            continue
        total += sys.getsizeof(item)
        if isinstance(item, Mapping):
            left += [*item.keys(), *item.values()]
        elif isinstance(item, (tuple, list, set, frozenset)):
            left += item
        else:
            left += [getattr(item, name) for name in _slots(item.__class__) if hasattr(item, name)]
            left += list(getattr(item, "__dict__", {}).values())
    return total


@cache
def _slots(kind: Any) -> tuple[str, ...]:
    return tuple(name for base in kind.__mro__ for name in getattr(base, "__slots__", ()) if not name.startswith("__"))


def _own(kept: Kept, given: Iterable[np.ndarray]) -> Collection[np.ndarray]:
    """Return the new arrays, each once."""
    if isinstance(kept, Refusal):
        return ()
    arrays = kept.arrays() if isinstance(kept, LineResult) else kept.outcome.adds.arrays()
    known = {id(array) for array in given}
    return {id(array): array for array in arrays if id(array) not in known}.values()
