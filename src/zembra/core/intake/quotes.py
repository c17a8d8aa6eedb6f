"""Find unclosed quotes, which would swallow all rows after them."""

from __future__ import annotations

import csv
import io
import re
from dataclasses import replace

import polars as pl

from zembra.core.english import counted
from zembra.core.errors import Refusal
from zembra.core.intake.table import TextTable


def check_closed(text: bytes, last: list[str], delimiter: str, number: int) -> None:
    """Raise Refusal if the last row ends inside a quoted cell.

    number: of that row
    """
    if not any("\n" in cell.strip("\r\n") for cell in last):
        return
    breaks = sum(cell.count("\n") for cell in last)
    # an open quote would reach the end, so cut only its own lines again
    tail = b"\n".join(text.rsplit(b"\n", breaks + 1)[-breaks - 1 :]).decode()
    try:
        list(csv.reader(io.StringIO(tail, newline=""), delimiter=delimiter, strict=True))
    except csv.Error as error:
        if "unexpected end" in str(error):
            raise Refusal(
                "A quote opens a cell and never closes, so that all that follows would be one cell.",
                place=f"row {number}",
                todo="Close it, or take it out.",
            ) from None


def with_swallowed_rows_noted(table: TextTable, text: bytes, delimiter: str) -> TextTable:
    """Note cells that contain lines like rows of the table.

    text: its source
    """
    if text.count(b"\n") <= table.height + 1:
        return table
    end = re.escape(delimiter)
    row = rf"\n[^\n{end}]*(?:{end}[^\n{end}]*){{{len(table.columns) - 1}}}\n"
    texts = pl.all().str.contains(row)
    hit = table.cells.select(pl.any_horizontal(texts.fill_null(False))).to_series()
    if not hit.any():
        return table
    places = table.numbers.filter(hit)
    notice = (
        f"{counted(places.len(), 'row')} with a cell that holds lines like rows of the table, the first of them row {places[0]}: "
        "a quote may be missing there."
    )
    return replace(table, remarks=(*table.remarks, notice))
