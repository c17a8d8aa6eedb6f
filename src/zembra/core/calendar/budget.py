"""Refuse runs that would hold more than a budget, before any memory is used."""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import dataclass

import numpy as np

from zembra.core.calendar.lines import Line
from zembra.core.errors import Refusal

BYTES_OF_A_POINT = 40  # of a line: its period, value, rows, and what is known of it


@dataclass(frozen=True, slots=True)
class Budget:
    """What a run may hold.

    points: periods of all series
    bytes: of all lines, readings and projections
    """

    points: int = 20_000_000
    bytes: int = 3_000_000_000

    def check_points(self, points: int, place: str, todo: str) -> None:
        """Raise Refusal if there are more points."""
        if points > self.points:
            raise Refusal(
                f"That would be {points:,} points of all series together, more than {self.points:,}, the most of a run.",
                place=place,
                todo=f"{todo} ZEMBRA_MOST_POINTS raises the limit.",
            )

    def check_bytes(self, needed: int, title: str) -> None:
        """Raise Refusal if more bytes are needed.

        needed: by the run so far and the next entry
        """
        if needed > self.bytes:
            raise Refusal(
                f"With {title} the run would need more than {self.bytes // 1_000_000:,} MB, the most of a run.",
                todo="Choose fewer series, a coarser grain or a nearer end. ZEMBRA_MOST_RUN_MB raises the limit.",
            )


USUAL = Budget()


def weight_of(lines: Iterable[Line], arrays: Iterable[np.ndarray] = ()) -> int:
    """Return the bytes of lines and arrays."""
    return sum(len(line) for line in lines) * BYTES_OF_A_POINT + sum(array.nbytes for array in arrays)
