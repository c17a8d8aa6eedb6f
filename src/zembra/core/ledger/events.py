"""Events as a run sees them."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from zembra.core.arithmetic.arrays import Ints


@dataclass(frozen=True, slots=True, order=True)
class Happening:
    """An event on the study's grain.

    first, last: periods
    """

    first: int
    last: int
    name: str


def event_names(events: Sequence[Happening], periods: Ints) -> list[str]:
    """Return for each period the names of the events that contain it.

    periods: in ascending order
    """
    if not events:
        return [""] * periods.size
    names_at: list[list[str]] = [[] for _ in range(periods.size)]
    for event in events:
        start, stop = np.searchsorted(periods, (event.first, event.last + 1)).tolist()
        for place in range(start, stop):
            if event.name not in names_at[place]:
                names_at[place].append(event.name)
    return [", ".join(names) for names in names_at]
