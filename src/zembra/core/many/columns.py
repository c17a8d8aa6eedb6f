"""Columns of series.parquet that a table shows, with their titles."""

from __future__ import annotations

from dataclasses import dataclass
from datetime import date
from typing import Literal

import polars as pl

from zembra.core.calendar.lines import Condition
from zembra.core.errors import Refusal
from zembra.core.handover.tables import BRIDGED
from zembra.core.many.seriesrow import SCHEMA


@dataclass(frozen=True, slots=True)
class Column:
    """A column of the table.

    title: header
    tip: tooltip
    usual: whether it is shown by default
    """

    title: str
    tip: str = ""
    usual: bool = False

    kind: Literal["number", "date", "text"] = "number"


COLUMNS: dict[str, Column] = {
    "newest": Column("newest", "the newest number, after repairs", usual=True),
    "newest_day": Column("newest day", "of the newest number", kind="date"),
    "expected": Column("expected", "of the newest period, by the projection held back or by the band", usual=True),
    "lower": Column("lower limit", "of the newest period"),
    "upper": Column("upper limit", "of the newest period"),
    "away": Column("away, in limits", "how many half-widths of its limits from what was expected; above 1 outside", usual=True),
    "shift_size": Column("shift", "size of the last level shift", usual=True),
    "shift_day": Column("shift day", "of the last level shift", kind="date"),
    "shifts": Column("shifts", "how many level shifts were found"),
    Condition.OPEN.word: Column("open", "periods without a number", usual=True),
    "blank": Column("blank", "periods that came in without a number"),
    "absent": Column("absent", "periods without a row"),
    "unreadable": Column("unreadable", "periods whose cell is no number"),
    "shared": Column("shared", "periods that several rows share"),
    Condition.MEASURED.word: Column("measured", "periods with the number that came in"),
    Condition.FILLED.word: Column("filled", "periods that got an estimate"),
    Condition.SET_ASIDE.word.replace(" ", "_"): Column("set aside", "outliers that are left out"),
    Condition.ADJUSTED.word: Column("adjusted", "periods whose number was changed"),
    Condition.PROVISIONAL.word: Column("provisional", "newest periods that are not finished"),
    BRIDGED: Column("drawn across", "open periods that the line goes across"),
    "error": Column("scaled error", "of the projection on held-back periods, over the usual step of a season", usual=True),
    "findings": Column("to ask about", "periods on the follow-up list"),
    "rows": Column("rows", "that came in"),
    "first": Column("first row", kind="date"),
    "last": Column("last row", kind="date"),
    "refused": Column("not carried out", "entries that could not be, and why", kind="text"),
}  # fmt: skip


@dataclass(frozen=True, slots=True)
class Where:
    """A filter.

    least, most: bounds of numbers, or of dates as ISO texts; None is open
    contains: for texts
    """

    column: str
    least: str | float | None = None
    most: str | float | None = None
    contains: str = ""

    def expr(self) -> pl.Expr:
        """Return the filter expression; null never matches. Raises Refusal."""
        if self.column not in COLUMNS:
            raise Refusal(f"There is no column “{self.column}”.", place=", ".join(COLUMNS))
        kept = pl.col(self.column).is_not_null()
        for edge, at_least in ((self.least, True), (self.most, False)):
            if edge is not None:
                bound = self._bound(edge)
                kept &= pl.col(self.column) >= bound if at_least else pl.col(self.column) <= bound
        if self.contains:
            kept &= (
                pl.col(self.column).cast(pl.String).str.to_lowercase().str.contains(self.contains.lower(), literal=True)
            )
        return kept

    def _bound(self, edge: str | float) -> pl.Expr:
        try:
            return pl.lit(date.fromisoformat(str(edge)) if SCHEMA[self.column] == pl.Date else float(edge))
        except ValueError:
            raise Refusal(f"“{edge}” is nothing that {COLUMNS[self.column].title} could be.") from None
