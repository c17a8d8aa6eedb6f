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
    """The current condition of a period."""

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
    """What numbers measure.

    unit: "€", "%"
    flow: whether they are amounts of a period, so that an axis says "per month"
    """

    name: str = ""
    unit: str = ""
    flow: bool = False

    def per(self, period: str) -> Quantity:
        """Return the quantity as a rate per `period`, once it no longer adds up."""
        return Quantity(f"{self.name} per {period}", self.unit) if self.flow and self.name else self

    def at_axis(self, period: str) -> str:
        """The title of an axis."""
        per = f", per {period}" if self.flow and self.name and period != "date" else ""
        return f"{self.name}{f', {self.unit}' if self.unit else ''}{per}"


@dataclass(frozen=True, slots=True, weakref_slot=True)
class Line:
    """One series on its calendar; arrays have one element per expected period.

    periods: ascending period numbers on the study's grain
    value: current number or NaN; a set-aside point keeps its number for drawing, and `counted` leaves it out
    original: number as received or NaN
    first_row, row_count: position of the first of the period's rows, and their number; -1 and 0 for none
    entry: index into `entries` of the entry that decided the condition; 0 for none
    bridged: open or set aside, but drawn across
    afresh: periods at which averages and bands restart
    begin: period from which trend lines and projections count, or None
    called: its name if it is no longer what its name says
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
        """The name under which it is drawn."""
        return self.called or self.name

    def __len__(self) -> int:
        return int(self.periods.size)

    @property
    def counted(self) -> Floats:
        """The values that count: NaN where open, set aside or provisional."""
        return self.countable(provisional=False)

    def countable(self, *, provisional: bool) -> Floats:
        """Return `counted`, optionally with provisional values."""
        left_out = self.condition == Condition.SET_ASIDE.value
        if not provisional:
            left_out |= self.provisional
        return np.where(left_out, np.nan, self.value) if left_out.any() else self.value

    @property
    def provisional(self) -> Bools:
        return np.asarray(self.condition == Condition.PROVISIONAL.value)

    @property
    def cuts(self) -> list[int]:
        """Indices at which averages restart."""
        places: list[int] = np.searchsorted(self.periods, np.asarray(self.afresh, dtype=np.int64)).tolist()
        return places

    def since_begin(self, values: Floats) -> Floats:
        """Return `values` with NaN before the period from which trend lines count."""
        return values if self.begin is None else np.where(self.periods < self.begin, np.nan, values)

    @property
    def missing(self) -> Bools:
        """A mask of periods without a number that were not set aside."""
        return np.asarray(self.condition == Condition.OPEN)

    @property
    def nothing(self) -> Codes:
        """The kind of each missing period; an emptied measured value counts as blank."""
        return np.where(self.received == Received.MEASURED, np.uint8(Received.BLANK), self.received)

    def arrays(self) -> Iterator[np.ndarray]:
        """Return all arrays, whose bytes the memo counts."""
        yield from (self.periods, self.value, self.original, self.received, self.condition)
        yield from (self.entry, self.bridged, self.first_row, self.row_count)

    def part(self, where: slice | Ints) -> Line:
        """Return the points at ascending indices."""
        arrays = {
            item.name: getattr(self, item.name)[where]
            for item in fields(self)
            if isinstance(getattr(self, item.name), np.ndarray)
        }
        return replace(self, **arrays)

    def marked(
        self, where: Bools, condition: Condition, entry_id: str, values: Floats | None = None, bridged: bool = False
    ) -> Line:
        """Return a copy with a new condition at `where`.

        entry_id: the entry that decides it
        """
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
    """Mark points as provisional; filled and adjusted ones keep their earlier reason as well."""
    made = line
    decided = where & np.isin(line.condition, (Condition.FILLED, Condition.ADJUSTED)) & (line.entry > 0)
    for code in np.unique(line.entry[decided]).tolist():
        earlier = f"{entry_id}{ALSO}{line.entries[code]}"
        made = made.marked(decided & (line.entry == code), Condition.PROVISIONAL, earlier)
    return made.marked(where & ~decided, Condition.PROVISIONAL, entry_id)
