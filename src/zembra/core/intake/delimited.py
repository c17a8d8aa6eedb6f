"""Delimited text (commas, semicolons, tabs, pipes) to a TextTable."""

from __future__ import annotations

import csv
import io
from collections import Counter
from itertools import islice

import numpy as np
import polars as pl

from zembra.core.errors import Refusal
from zembra.core.intake.table import TextTable

DELIMITERS = {",": "comma", ";": "semicolon", "\t": "tab", "|": "pipe"}
SNIFF_ROWS = 60


def sniff_delimiter(text: bytes) -> str:
    """The delimiter that splits the first rows most evenly into two or more cells."""
    head = _records(text, None, SNIFF_ROWS)
    best, best_score = ",", 0.0
    for delimiter in DELIMITERS:
        widths = Counter(len(row) for row in csv.reader(head, delimiter=delimiter) if row)
        width, rows = max(widths.items(), key=lambda item: (item[1] * (item[0] > 1), item[0]), default=(1, 0))
        score = rows / max(1, sum(widths.values())) * (1 + min(width, 50) / 1000)
        if width > 1 and score > best_score:
            best, best_score = delimiter, score
    return best


def sniff_header(text: bytes, delimiter: str) -> int:
    """The number (from 1) of the row that names the columns.

    The first row as wide as the table is; rows above it are titles.
    """
    rows = list(islice(csv.reader(_records(text, None, SNIFF_ROWS), delimiter=delimiter), SNIFF_ROWS))
    widths = Counter(_filled(row) for row in rows if _filled(row) > 1)
    if not widths:
        return next((n for n, row in enumerate(rows, 1) if any(cell.strip() for cell in row)), 1)
    usual = max(widths.items(), key=lambda item: (item[1], item[0]))[0]
    full = max(len(row) for row in rows if _filled(row) == usual)
    for n, row in enumerate(rows, 1):
        if _filled(row) >= min(usual, full) and len(row) >= usual:
            return n
    return 1


def _filled(row: list[str]) -> int:
    return sum(1 for cell in row if cell.strip())


def _records(text: bytes, start: int | None, most: int) -> list[str]:
    """The first lines of the text, decoded; enough to hold `most` records of ordinary length."""
    head = text[start or 0 : (start or 0) + 512 * 1024].decode(errors="replace")
    return head.splitlines(keepends=True)[: most * 4]


def read_delimited(text: bytes, delimiter: str, header_row: int, skip_last: int = 0) -> TextTable:
    """text: UTF-8. header_row: number of the row with the column names; rows above it are left out.
    skip_last: how many rows at the end to leave out.

    Raises Refusal for a ragged row, a missing header, repeated or empty column names, no rows.
    """
    rows = csv.reader(io.StringIO(text.decode(), newline=""), delimiter=delimiter)
    try:
        above = list(islice(rows, header_row))
    except csv.Error as error:
        raise Refusal(f"The file cannot be cut into rows: {error}.", place=f"row {rows.line_num}") from None
    if len(above) < header_row:
        raise Refusal(f"There is no row {header_row} to take the column names from.", place=f"row {header_row}")
    columns = column_names(above[-1], header_row)
    regular = _regular_body(text, delimiter, header_row, len(columns))
    if regular is not None:
        cells = _fast(regular, delimiter, columns)
    else:
        cells = _slow(rows, columns, header_row)
    if skip_last:
        cells = cells.head(max(0, cells.height - skip_last))
    if cells.height == 0:
        raise Refusal(
            "The file has a header and no rows under it.",
            place=f"row {header_row}: {', '.join(columns)}",
            todo="Choose a file with at least one row of data.",
        )
    return TextTable(columns=tuple(columns), cells=cells, first_row=header_row + 1)


def column_names(header: list[str], row: int) -> list[str]:
    """The names as written, trimmed; an unnamed column gets its place as a name.

    Raises Refusal where two columns have one name.
    """
    names = [cell.strip() or f"column {n}" for n, cell in enumerate(header, 1)]
    seen: dict[str, int] = {}
    for place, name in enumerate(names, 1):
        if name in seen:
            raise Refusal(
                f"Two columns are both named “{name}”.",
                place=f"row {row}, columns {seen[name]} and {place}",
                todo="Give each column a name of its own and bring the file in again.",
            )
        seen[name] = place
    return names


def _regular_body(text: bytes, delimiter: str, header_row: int, width: int) -> bytes | None:
    """The bytes below the header if no quoting, blank line or ragged row makes them irregular.

    Counting separators between line ends is a few passes over the bytes; it saves cutting a large
    file row by row in Python.
    """
    if b'"' in text or b"\r" in text.replace(b"\r\n", b""):
        return None
    at = 0
    for _ in range(header_row):
        at = text.find(b"\n", at) + 1
        if at == 0:
            return None
    body = text[at:].rstrip(b"\r\n")
    if not body:
        return None
    raw = np.frombuffer(body, dtype=np.uint8)
    ends = np.append(np.flatnonzero(raw == 10), raw.size)
    if width == 1:
        return body if int(np.diff(ends, prepend=-1).min()) > 1 and b"\n\r" not in body else None
    marks = np.flatnonzero(raw == ord(delimiter))
    per_row = np.diff(np.searchsorted(marks, ends), prepend=0)
    return body if bool(np.all(per_row == width - 1)) else None


def _fast(body: bytes, delimiter: str, columns: list[str]) -> pl.DataFrame:
    return pl.read_csv(
        body,
        has_header=False,
        separator=delimiter,
        quote_char=None,
        schema=dict.fromkeys(columns, pl.String),
    )


def _slow(rows: object, columns: list[str], header_row: int) -> pl.DataFrame:
    """Row by row: blank lines at the end are dropped, blank lines inside are kept as empty rows."""
    width = len(columns)
    kept: list[list[str | None]] = []
    number = header_row
    reader = iter(rows)  # type: ignore[call-overload]
    while True:
        try:
            row = next(reader, None)
        except csv.Error as error:
            raise Refusal(f"The file cannot be cut into rows: {error}.", place=f"row {number + 1}") from None
        if row is None:
            break
        number += 1
        if len(row) > width and not any(cell.strip() for cell in row[width:]):
            row = row[:width]
        if len(row) > width or (0 < len(row) < width and any(cell.strip() for cell in row)):
            raise Refusal(
                f"Row {number} has {len(row)} cells where the header has {width}.",
                place=f"row {number}: {delimiter_safe(row)}",
                todo="Mend the row, or choose another delimiter.",
            )
        kept.append([cell or None for cell in row] + [None] * (width - len(row)))
    while kept and not any(kept[-1]):
        kept.pop()
    return pl.DataFrame(kept, schema=dict.fromkeys(columns, pl.String), orient="row")


def delimiter_safe(row: list[str]) -> str:
    text = " | ".join(row)
    return text if len(text) <= 80 else f"{text[:77]}…"
