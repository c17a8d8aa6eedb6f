"""Write a workbook with true dates and numbers, and no cell that could run as a formula."""

from __future__ import annotations

import io
import math
import re
from collections.abc import Sequence
from datetime import date, datetime
from typing import Any

from zembra.core.ledger.evidence import Cell

LONGEST = 32_000  # letters in a cell
_DAY = re.compile(r"\d{4}-\d{2}-\d{2}")
_MONTH = re.compile(r"\d{4}-\d{2}")
_MINUTE = re.compile(r"\d{4}-\d{2}-\d{2}T\d{2}:\d{2}")


class Book:
    """A workbook in progress."""

    def __init__(self) -> None:
        # slow to import
        import xlsxwriter

        self._out = io.BytesIO()
        self._book = xlsxwriter.Workbook(
            self._out,
            {"in_memory": True, "strings_to_formulas": False, "strings_to_urls": False, "nan_inf_to_errors": False},
        )
        self.head = self.style(bold=True, bottom=1)
        self.wrapped = self.style(text_wrap=True, valign="top")
        self._days = {"day": "yyyy-mm-dd", "month": "yyyy-mm", "minute": "yyyy-mm-dd hh:mm"}
        self._dates = {name: self.style(num_format=form) for name, form in self._days.items()}

    def style(self, **words: Any) -> Any:
        return self._book.add_format(words)

    def sheet(self, name: str, columns: Sequence[str], widths: Sequence[float]) -> Any:
        """Add a sheet with a frozen header."""
        made = self._book.add_worksheet(name)
        for at, (column, width) in enumerate(zip(columns, widths, strict=True)):
            made.set_column(at, at, width)
            made.write_string(0, at, column.replace("_", " "), self.head)
        made.freeze_panes(1, 0)
        return made

    def chart(self, kind: str, subtype: str | None = None) -> Any:
        return self._book.add_chart({"type": kind, **({"subtype": subtype} if subtype else {})})

    def filtered(self, sheet: Any, rows: int, columns: int) -> None:
        sheet.autofilter(0, 0, max(1, rows), columns - 1)

    def write(self, sheet: Any, row: int, column: int, cell: Cell, style: Any = None) -> None:
        """Write a number, a text, or a blank cell."""
        if cell is None or cell == "":
            if style is not None:
                sheet.write_blank(row, column, None, style)
        elif isinstance(cell, str):
            sheet.write_string(row, column, cell[:LONGEST], style)
        elif math.isfinite(cell):
            sheet.write_number(row, column, float(cell), style)

    def write_period(self, sheet: Any, row: int, column: int, label: str) -> None:
        """Write a day, month or minute as a date, other periods as text."""
        if _DAY.fullmatch(label):
            sheet.write_datetime(row, column, date.fromisoformat(label), self._dates["day"])
        elif _MONTH.fullmatch(label):
            sheet.write_datetime(row, column, date.fromisoformat(f"{label}-01"), self._dates["month"])
        elif _MINUTE.fullmatch(label):
            sheet.write_datetime(row, column, datetime.fromisoformat(label), self._dates["minute"])
        else:
            sheet.write_string(row, column, label)

    def done(self) -> bytes:
        self._book.close()
        return self._out.getvalue()
