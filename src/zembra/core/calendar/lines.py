"""Lines: values with the condition of every point, and the entry that made it so."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass, fields, replace
from enum import IntEnum

import numpy as np

from zembra.core.arithmetic.arrays import Bools, Codes, Counts, Floats, Ints


class Received(IntEnum):
    """What came in for a period."""

    MEASURED = 0
    BLANK = 1
    ABSENT = 2
    UNREADABLE = 3

    @property
    def word(self) -> str:
        return self.name.lower()


class Condition(IntEnum):
    """What a period is now."""

    MEASURED = 0
    OPEN = 1
    FILLED = 2
    SET_ASIDE = 3
    ADJUSTED = 4
    PROVISIONAL = 5

    @property
    def word(self) -> str:
        return self.name.lower().replace("_", " ")


NO_ENTRY = ""
ALSO = "+"  # parts the ids of two entries that both made a point what it is, the later one first
REASON_MARK = "#"  # parts an entry's id from why it left a point as it is


@dataclass(frozen=True, slots=True)
class Quantity:
    """What the numbers of a line are: "income". unit: "€", "%". flow: whether they are amounts of a period,
    so that the axis says "per month"."""

    name: str = ""
    unit: str = ""
    flow: bool = False

    def per(self, period: str) -> Quantity:
        """The same once it no longer adds up over what it is drawn by: an amount of each `period`."""
        return Quantity(f"{self.name} per {period}", self.unit) if self.flow and self.name else self

    def at_axis(self, period: str) -> str:
        """As it stands at an axis."""
        per = f", per {period}" if self.flow and self.name and period != "date" else ""
        return f"{self.name}{f', {self.unit}' if self.unit else ''}{per}"


@dataclass(frozen=True, slots=True, weakref_slot=True)
class Line:
    """One series on its completed calendar. All arrays have one element per expected period.

    periods: strictly increasing period numbers on the study's grain.
    value: the number now, NaN where there is none (never for a measured, filled, adjusted or
        provisional point with a number). A set-aside point keeps its number here for drawing, and
        `counted` leaves it out.
    original: the number as received, NaN where none.
    first_row / row_count: position of the first of the rows that fell into the period, and how
        many there were; -1 and 0 where there was none.
    entry: index into `entries` of the entry that made the condition; 0 is "none".
    bridged: open or set aside, but drawn across.
    afresh: periods at which averages and bands start afresh. begin: the period from which trend lines
        and projections count; None for the first.
    called: what it is, where that is no longer what its name says; empty for its name.
    """

    name: str
    periods: Ints
    value: Floats
    original: Floats
    received: Codes
    condition: Codes
    entry: Codes
    bridged: Bools
    first_row: Ints
    row_count: Counts
    entries: tuple[str, ...] = (NO_ENTRY,)
    quantity: Quantity = Quantity()
    afresh: tuple[int, ...] = ()
    begin: int | None = None
    called: str = ""

    @property
    def drawn_name(self) -> str:
        """What it is called where it is drawn."""
        return self.called or self.name

    def __len__(self) -> int:
        return int(self.periods.size)

    @property
    def counted(self) -> Floats:
        """The values readings may use: NaN where open, set aside or provisional."""
        return self.countable(provisional=False)

    def countable(self, *, provisional: bool) -> Floats:
        """`counted`, with provisional values too if asked."""
        left_out = self.condition == Condition.SET_ASIDE.value
        if not provisional:
            left_out |= self.provisional
        return np.where(left_out, np.nan, self.value) if left_out.any() else self.value

    @property
    def provisional(self) -> Bools:
        return np.asarray(self.condition == Condition.PROVISIONAL.value)

    @property
    def cuts(self) -> list[int]:
        """Places at which averages start afresh."""
        places: list[int] = np.searchsorted(self.periods, np.asarray(self.afresh, dtype=np.int64)).tolist()
        return places

    def since_begin(self, values: Floats) -> Floats:
        """`values` with NaN before the period from which trend lines and projections count."""
        return values if self.begin is None else np.where(self.periods < self.begin, np.nan, values)

    @property
    def missing(self) -> Bools:
        """Periods that have no number now and were not set aside: what a blank decision acts on."""
        return np.asarray(self.condition == Condition.OPEN)

    @property
    def nothing(self) -> Codes:
        """Which kind of nothing a missing period is; a measured value that was emptied counts as blank."""
        return np.where(self.received == Received.MEASURED, np.uint8(Received.BLANK), self.received)

    def arrays(self) -> Iterator[np.ndarray]:
        """The arrays it holds, whose bytes the memo counts."""
        yield from (self.periods, self.value, self.original, self.received, self.condition)
        yield from (self.entry, self.bridged, self.first_row, self.row_count)

    def part(self, where: slice | Ints) -> Line:
        """The points at some places, in order."""
        arrays = {
            item.name: getattr(self, item.name)[where]
            for item in fields(self)
            if isinstance(getattr(self, item.name), np.ndarray)
        }
        return replace(self, **arrays)

    def marked(
        self, where: Bools, condition: Condition, entry_id: str, values: Floats | None = None, bridged: bool = False
    ) -> Line:
        """A copy in which the points at `where` have a new condition, by the entry `by`."""
        entries = self.entries if entry_id in self.entries else (*self.entries, entry_id)
        number = entries.index(entry_id)
        return replace(
            self,
            value=self.value if values is None else np.where(where, values, self.value),
            condition=np.where(where, np.uint8(condition), self.condition),
            entry=np.where(where, np.uint8(number), self.entry),
            bridged=np.where(where, bridged, self.bridged),
            entries=entries,
        )


def provisional_too(line: Line, where: Bools, entry_id: str) -> Line:
    """The line with the points at `where` provisional; one that was filled or adjusted stays told as that too."""
    made = line
    decided = where & np.isin(line.condition, (Condition.FILLED, Condition.ADJUSTED)) & (line.entry > 0)
    for code in np.unique(line.entry[decided]).tolist():
        earlier = f"{entry_id}{ALSO}{line.entries[code]}"
        made = made.marked(decided & (line.entry == code), Condition.PROVISIONAL, earlier)
    return made.marked(where & ~decided, Condition.PROVISIONAL, entry_id)
