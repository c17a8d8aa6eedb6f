"""Read delimited text: commas, semicolons, tabs, pipes."""

from __future__ import annotations

import csv
import io
from collections import Counter
from collections.abc import Sequence
from concurrent.futures import ThreadPoolExecutor
from dataclasses import replace
from itertools import islice

import numpy as np
import polars as pl

from zembra.core.arithmetic.arrays import Codes
from zembra.core.errors import Refusal
from zembra.core.intake.bounds import LONGEST_CELL, line_edges, too_long_a_cell
from zembra.core.intake.grid import column_names, no_rows, repeats_left_out, table_of
from zembra.core.intake.howread import Headings, LeftOut, TableHow
from zembra.core.intake.layout import LOOKED_AT
from zembra.core.intake.quotes import check_closed, with_swallowed_rows_noted
from zembra.core.intake.table import TextTable, row_numbers

DELIMITERS = (",", ";", "\t", "|")
RARE_DELIMITERS = ("^", "~")  # looked for where none of the usual ones parts anything
LAST_DELIMITERS = (":",)  # and where the text does not stand in columns either
HEAD_BYTES = 512 * 1024
SAMPLE_REPEATS = 5_000  # rows looked through for the names standing again
MOST_ROWS_CUT = 2_000_000  # a text with more rows is one table
PIECE = 256 * 1024
QUOTE = b'"'
csv.field_size_limit(LONGEST_CELL)


def sniff_delimiter(text: bytes, delimiters: Sequence[str] = DELIMITERS) -> str | None:
    """Return the delimiter that splits the first rows most evenly, or None."""
    best, best_score = None, 0.0
    for delimiter in delimiters:
        widths = Counter(len(row) for row in first_rows(text, delimiter) if row)
        width, rows = max(widths.items(), key=lambda item: (item[1] * (item[0] > 1), item[0]), default=(1, 0))
        score = rows / max(1, sum(widths.values())) * (1 + min(width, 50) / 1000)
        if width > 1 and score > best_score:
            best, best_score = delimiter, score
    return best


def first_rows(text: bytes, delimiter: str) -> list[list[str]]:
    head = text[:HEAD_BYTES].decode(errors="replace")
    return _cut(head, delimiter, LOOKED_AT)


def last_rows(text: bytes, delimiter: str) -> list[list[str]]:
    """Return the last rows; a quoted cell with line ends may be cut, which is harmless here."""
    lines = text[-8192:].rstrip().decode(errors="replace").splitlines()[-6:]
    return _cut("\n".join(lines), delimiter, 6)


def may_be_stacked(text: bytes, delimiter: str, small: int) -> bool:
    """Return whether blank rows may separate tables.

    small: size below which every text is searched
    """
    if len(text) <= small:
        return True
    width = max((len(row) for row in first_rows(text, delimiter)), default=1)
    nothing = (b"", b'""', delimiter.encode() * (width - 1))
    # lines are measured in one go; most texts have none that is short enough before their end
    longer = np.diff(line_edges(text)) - 1 > max(map(len, nothing)) + 1
    if longer.any() and longer[: int(np.flatnonzero(longer)[-1]) + 1].all():
        return False
    body = text.rstrip(b"\r\n" + delimiter.encode())
    return any(b"\n" + place + end in body for place in nothing for end in (b"\n", b"\r\n"))


def cut_rows(text: bytes, delimiter: str) -> list[list[str]]:
    """Return all rows, or none if the text cannot be cut."""
    return _cut(text.decode(errors="replace"), delimiter, MOST_ROWS_CUT)


def _cut(text: str, delimiter: str, most: int) -> list[list[str]]:
    try:
        return list(islice(csv.reader(io.StringIO(text, newline=""), delimiter=delimiter), most))
    except csv.Error:
        return []


def read_delimited(text: bytes, how: TableHow) -> TextTable:
    """Read delimited text. Raises Refusal with the place.

    text: UTF-8
    """
    plain = how.comments is None and how.units_row is LeftOut.KEPT and how.headings is Headings.ROW
    plain = plain and not how.first_row and not how.last_row
    fast = _fast(text, how) if how.header_row and how.header_rows == 1 and plain else None
    table = _row_by_row(text, how) if fast is None else fast
    return with_swallowed_rows_noted(table, text, how.delimiter.value) if QUOTE in text else table


def _row_by_row(text: bytes, how: TableHow) -> TextTable:
    delimiter = how.delimiter.value
    reader = csv.reader(io.StringIO(text.decode(), newline=""), delimiter=delimiter)
    rows: list[list[str]] = []
    try:
        rows.extend(reader)
    except csv.Error as error:
        if "field limit" in str(error):
            raise too_long_a_cell(f"row {len(rows) + 1}") from None
        raise Refusal(f"The file cannot be cut into rows: {error}.", place=f"row {len(rows) + 1}") from None
    if rows and rows[-1]:
        check_closed(text, rows[-1], delimiter, len(rows))
    return table_of(rows, how)


def _fast(text: bytes, how: TableHow) -> TextTable | None:
    """Return the table if it is regular, else None; this avoids cutting large files in Python. The reader refuses
    long rows; short ones are found by counting delimiters.
    """
    delimiter = how.delimiter.value
    if b"\r" in text and text.count(b"\r") != text.count(b"\r\n"):
        return None
    quoted = QUOTE in text
    at = 0
    for _ in range(how.header_row):
        start, at = at, text.find(b"\n", at) + 1
        if at == 0:
            return None
    if quoted and text.count(QUOTE, 0, at) % 2:
        return None
    named = text[start : at - 1].decode().rstrip("\r")
    header = next(csv.reader([named], delimiter=delimiter)) if quoted else named.split(delimiter)
    if any(not name.strip() for name in header) or len(header) < 2:
        return None
    columns = column_names(header)
    body = text
    if how.skip_last or text.endswith((b"\n\n", b"\n\r\n")):
        body = text[at:].rstrip(b"\r\n")
        lines = body.rsplit(b"\n", how.skip_last)
        if any(QUOTE in line for line in lines[1:]):
            return None
        body, at = (lines[0].rstrip(b"\r\n") if len(lines) > how.skip_last else b""), 0
    if len(body) <= at:
        raise no_rows(how.header_row, columns)
    raw = np.frombuffer(body, dtype=np.uint8)
    between = b"\n" + delimiter.encode()
    # whether quotes stand as they must is seen beside the reading
    beside = ThreadPoolExecutor(1)
    seen = beside.submit(_quotes_whole, raw, at, between) if quoted else None
    beside.shutdown(wait=False)
    try:
        cells = pl.read_csv(
            body,
            has_header=False,
            skip_lines=how.header_row if at else 0,
            separator=delimiter,
            quote_char='"' if quoted else None,
            schema=dict.fromkeys(columns, pl.String),
        )
    except pl.exceptions.PolarsError:
        return None
    whole, doubled = seen.result() if seen else (True, False)
    if not whole:
        return None
    # a row that is too short has nothing in its last cell
    if cells[columns[-1]].null_count():
        line_ends, parts = _counts(raw, between, at)
        height = line_ends + (not body.endswith(b"\n"))
        if cells.height != height or parts != height * (len(header) - 1):
            return None
    if doubled:
        # quoted cells may be empty
        cells = cells.with_columns(pl.all().replace("", None))
    numbers = row_numbers(how.header_row + 1, cells.height)
    if cells[columns[0]].null_count() and cells[columns[-1]].null_count():
        some = cells.select(pl.any_horizontal(pl.all().is_not_null())).to_series()
        if not some.all():
            cells, numbers = cells.filter(some), numbers.filter(some)
        if not cells.height:
            raise no_rows(how.header_row, columns)
    if how.repeats is LeftOut.KEPT or columns[0] not in cells[columns[0]].head(SAMPLE_REPEATS).to_list():
        return TextTable(tuple(columns), cells, numbers)
    repeated = cells.select(pl.all_horizontal(pl.col(name) == name for name in columns)).to_series().fill_null(False)
    return replace(
        TextTable(tuple(columns), cells.filter(~repeated), numbers.filter(~repeated)),
        left_out=repeats_left_out(int(repeated.sum())),
    )


def _quotes_whole(raw: Codes, start: int, ends: bytes) -> tuple[bool, bool]:
    """Return whether quotes from `start` on enclose whole cells and are all closed, and whether any are doubled.
    Reads in cache-sized pieces.
    """
    beside = np.zeros(256, dtype=bool)
    beside[np.frombuffer(ends + b'\r"', dtype=np.uint8)] = True
    opened, doubled = 0, False
    for at in range(start, raw.size, PIECE):
        places = np.flatnonzero(raw[at : at + PIECE] == QUOTE[0]) + at
        opens, closes = places[opened::2], places[1 - opened :: 2]
        before, after = raw[opens[opens > start] - 1], raw[closes[closes + 1 < raw.size] + 1]
        if not (beside[before].all() and beside[after].all()):
            return False, doubled
        doubled = doubled or bool((raw[opens[opens + 1 < raw.size] + 1] == QUOTE[0]).any())
        opened = (opened + places.size) % 2
    return not opened, doubled


def _counts(raw: Codes, wanted: bytes, start: int) -> list[int]:
    """Count bytes of `wanted` from `start` on, outside quotes, in cache-sized pieces."""
    found = [0] * len(wanted)
    within = False
    for at in range(start, raw.size, PIECE):
        piece = raw[at : at + PIECE]
        inside = np.logical_xor.accumulate(piece == QUOTE[0]) ^ within
        within = bool(inside[-1])
        for n, byte in enumerate(wanted):
            found[n] += int(np.count_nonzero((piece == byte) & ~inside))
    return found
