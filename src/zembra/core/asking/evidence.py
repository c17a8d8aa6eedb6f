"""What the questions look at: the file as read, and the lines it would give."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
import polars as pl

from zembra.core.calendar.lines import Line, Received
from zembra.core.intake.bringin import BroughtIn
from zembra.core.intake.howread import HowRead, ValueKind
from zembra.core.intake.table import TextTable
from zembra.core.ledger.run import Result
from zembra.core.ledger.state import State


@dataclass(frozen=True, slots=True)
class FileEvidence:
    """The basis of questions.

    brought: the file as read
    result: run of source and calendar
    """

    brought: BroughtIn
    result: Result

    @property
    def table(self) -> TextTable:
        return self.brought.table

    @property
    def how(self) -> HowRead:
        return self.brought.how

    @property
    def state(self) -> State:
        return self.result.base

    @property
    def lines(self) -> tuple[Line, ...]:
        return self.result.base.lines

    @property
    def down(self) -> bool:
        """Whether each row has a date and numbers."""
        return self.how.values.kind is ValueKind.COLUMNS

    def count(self, kind: Received) -> int:
        return sum(int(np.count_nonzero(line.received == kind)) for line in self.lines)

    def sharing(self, most: int = 4) -> tuple[int, tuple[int, ...], str]:
        """Return the number of shared periods, example rows, and their period in words."""
        total, example = 0, ""
        rows: tuple[int, ...] = ()
        frame = self.state.frame
        for line in self.lines:
            places = np.flatnonzero(line.row_count > 1)
            total += int(places.size)
            if places.size and not rows:
                at = int(places[0])
                first = frame.row(int(line.first_row[at]), named=True)
                period = self.state.grain.periods(
                    frame.get_column("when").to_physical().to_numpy().view("datetime64[ms]")
                )
                same = (period == self.state.grain.periods(np.array([first["when"]], dtype="datetime64[ms]"))[0]) & (
                    frame["series"].to_numpy() == first["series"]
                )
                rows = tuple(int(n) for n in frame.filter(pl.Series(same))["row"].head(most))
                example = self.state.grain.spoken(int(line.periods[at]))
        return total, rows, example

    def texts(self, column: str, rows: tuple[int, ...]) -> list[str]:
        """Return the cells of a column in some rows."""
        places = self.table.numbers.is_in(list(rows)).arg_true()
        return [text or "" for text in self.table.cells[column].gather(places)]
