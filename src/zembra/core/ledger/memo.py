"""What entries made is remembered, by the digest of all that it was made from, weighed in bytes."""

from __future__ import annotations

import threading
from collections.abc import Iterable
from dataclasses import dataclass

import numpy as np
from cachetools import LRUCache

from zembra.core.errors import Refusal
from zembra.core.ledger.lineentry import Made
from zembra.core.ledger.state import Outcome

SMALL = 2_000  # bytes of what is no array


@dataclass(frozen=True, slots=True)
class Whole:
    """What an entry made of all lines together. keys: digests of the lines after it, in their order; none where nothing
    is remembered."""

    outcome: Outcome
    keys: tuple[str, ...]


Kept = Made | Whole | Refusal


class Memo:
    """The least recently used is forgotten first. Safe across threads.

    most_bytes: how much everything together may take. Arrays that were handed on unchanged weigh where they
    were made, and once.
    """

    def __init__(self, most_bytes: int = 1_000_000_000) -> None:
        self._kept: LRUCache[str, tuple[Kept, int]] = LRUCache(most_bytes, getsizeof=lambda item: item[1])
        self._lock = threading.Lock()

    def __len__(self) -> int:
        return len(self._kept)

    @property
    def weight(self) -> int:
        """Bytes of all that is held."""
        return int(self._kept.currsize)

    def get(self, key: str) -> Kept | None:
        with self._lock:
            found = self._kept.get(key)
        return found[0] if found else None

    def put(self, key: str, kept: Kept, given: Iterable[np.ndarray] = ()) -> None:
        """given: the arrays that it was made from. What is too heavy to be kept is not."""
        weight = SMALL + sum(array.nbytes for array in _own(kept, given))
        with self._lock:
            if weight <= self._kept.maxsize:
                self._kept[key] = (kept, weight)


def _own(kept: Kept, given: Iterable[np.ndarray]) -> Iterable[np.ndarray]:
    """The arrays that are new, each once."""
    if isinstance(kept, Refusal):
        return ()
    arrays = kept.arrays() if isinstance(kept, Made) else kept.outcome.adds.arrays()
    known = {id(array) for array in given}
    return {id(array): array for array in arrays if id(array) not in known}.values()
