"""Detect the format of a file, and read it as a table."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import replace
from functools import partial

import polars as pl

from zembra.core.errors import Refusal
from zembra.core.intake.archive import members_of, reader_of
from zembra.core.intake.bounds import check_lengths, check_lines
from zembra.core.intake.columnar import arrow_table, parquet_table
from zembra.core.intake.dateforms import DateForm
from zembra.core.intake.dates import forms_like
from zembra.core.intake.decode import decode, detect_encoding, refuse_non_text
from zembra.core.intake.delimited import (
    LAST_DELIMITERS,
    RARE_DELIMITERS,
    cut_rows,
    first_rows,
    last_rows,
    may_be_stacked,
    read_delimited,
    sniff_delimiter,
)
from zembra.core.intake.fixed import fixed_rows, in_columns
from zembra.core.intake.foreign import open_zip, unpacked
from zembra.core.intake.grid import frame_table, table_of
from zembra.core.intake.howread import Delimiter, Encoding, FileForm, Headings, TableHow
from zembra.core.intake.jsontable import json_frame, parse_json
from zembra.core.intake.layout import LOOKED_AT, Row, filled, find_layout, trailing_rows
from zembra.core.intake.package import descriptor_of, likely_resource, package_table, resources_of
from zembra.core.intake.several import ReadTable, first_dated, one_of
from zembra.core.intake.signatures import (
    ARROW_FILE,
    ARROW_STREAM,
    FEATHER_BEFORE,
    OLD_WORKBOOK,
    PARQUET,
    SQLITE,
    ZIP,
    first_letter,
)
from zembra.core.intake.sqlitefile import sqlite_table, tables_in
from zembra.core.intake.stacked import find_extents
from zembra.core.intake.table import TablePart, TextTable
from zembra.core.intake.webpage import WebPage
from zembra.core.intake.workbook import Workbook

FEWEST_ALIKE = 3  # rows a sheet needs to hold a table worth asking about
SEEN_FOR_DATES = 60  # rows
SMALL_TEXT = 4 * 1024**2  # bytes of a text that is looked through for further tables under the first
# a plain number looks like these by chance
_NUMBERS_TOO = {DateForm.SERIAL, DateForm.EPOCH, DateForm.DECIMAL_YEAR}


def file_form(data: bytes) -> FileForm:
    """Detect the format by content. Raises Refusal for bytes that are no table."""
    if data.startswith(PARQUET):
        return FileForm.PARQUET
    if data.startswith((ARROW_FILE, ARROW_STREAM)):
        return FileForm.ARROW
    if data.startswith(FEATHER_BEFORE):
        raise Refusal(
            "The file is Feather of the first version, which is read no more.", todo="Save it as Arrow or Parquet."
        )
    if data.startswith(SQLITE):
        return FileForm.SQLITE
    if data.startswith(OLD_WORKBOOK):
        return FileForm.WORKBOOK
    if data.startswith(ZIP):
        names = open_zip(data).namelist()
        if any(name.endswith("datapackage.json") for name in names):
            return FileForm.PACKAGE
        if any(name.startswith("xl/") for name in names) or "content.xml" in names:
            return FileForm.WORKBOOK
        return FileForm.ARCHIVE
    first = first_letter(data)
    if first in (b"{", b"["):
        found = parse_json(data)
        return FileForm.PACKAGE if isinstance(found, dict) and "resources" in found else FileForm.JSON
    refuse_non_text(data)
    if first == b"<" and b"<table" in data[:2_000_000].lower():
        return FileForm.HTML
    return FileForm.TEXT


def parts_cells(data: bytes, how: TableHow) -> bool:
    """Return whether the given delimiter splits the first rows, or no other does better."""
    text = decode(data, how.encoding.value)
    if any(len(row) > 1 for row in first_rows(text, how.delimiter.value)):
        return True
    return sniff_delimiter(text) is None


def read_table(data: bytes, how: TableHow) -> TextTable:
    """Read a file as `how` says. Raises Refusal with the place."""
    table = _read(unpacked(data), how)
    longest = table.cells.select(pl.all().str.len_bytes().max()).row(0)
    check_lengths(table.columns, longest)
    return table


def _read(data: bytes, how: TableHow) -> TextTable:
    if how.form is FileForm.TEXT:
        text = _lines(data, how)
        table = read_delimited(text, how)
        return replace(table, parts=_parts(how, cut_rows(text, how.delimiter.value))) if how.last_row else table
    if how.form is FileForm.FIXED:
        return _with_parts(fixed_rows(_lines(data, how).decode()), how)
    if how.form is FileForm.HTML:
        page = WebPage(decode(data, how.encoding.value).decode())
        return _one_of(page, how)
    if how.form is FileForm.WORKBOOK:
        book = Workbook(data)
        return replace(_one_of(book, how), remarks=book.remarks(how.sheet))
    if how.form is FileForm.JSON:
        return frame_table(json_frame(parse_json(data)))
    if how.form is FileForm.PARQUET:
        return parquet_table(data)
    if how.form is FileForm.ARROW:
        return arrow_table(data)
    if how.form in _SEVERAL:
        names, read = _SEVERAL[how.form](data)
        return one_of(names, how.sheet, read, f"{how.form.label[:1].upper()}{how.form.label[1:]}")
    return package_table(data, how, _resource)


def _lines(data: bytes, how: TableHow) -> bytes:
    text = decode(data, how.encoding.value)
    check_lines(text)
    return text


def _one_of(book: Workbook | WebPage, how: TableHow) -> TextTable:
    table = _with_parts(book.rows(how.sheet), how, book.sheets)
    chosen = how.sheet or book.sheets[0]
    tables = [name for name in book.sheets if name != chosen and _holds_table(book.rows(name))]
    dated = [name for name in tables if _holds_dates(book.rows(name))]
    return replace(table, alike=tuple(dated), undated=tuple(name for name in tables if name not in dated))


def _with_parts(rows: Sequence[Row], how: TableHow, sheets: tuple[str, ...] = ()) -> TextTable:
    table = table_of(rows, how, sheets)
    return replace(table, parts=_parts(how, rows)) if how.last_row else table


def _parts(how: TableHow, rows: Sequence[Row]) -> tuple[TablePart, ...]:
    """Return the stacked tables of a sheet or text with their settings, none for a single one."""
    layout = find_layout(rows[:LOOKED_AT])
    parts: list[TablePart] = []
    for extent in find_extents(rows, layout.row, layout.headings is Headings.BLOCK):
        start = extent.header_row if parts else 1
        if start:
            own = rows[start - 1 : extent.last_row]
            named = _named(how, own[:LOOKED_AT], own[-LOOKED_AT:])
            first, header_row = 0, named.header_row + start - 1
        else:
            named, first, header_row = parts[-1].how, extent.first_row, parts[-1].how.header_row
        words = {"header_row": header_row, "first_row": first, "last_row": extent.last_row}
        names = tuple(cell.strip() for cell in rows[header_row - 1] if cell.strip()) if header_row else ()
        parts.append(TablePart(named.model_copy(update=words), extent.first_row, extent.last_row, names))
    return tuple(parts)


def _worth(rows: list[list[str]]) -> tuple[bool, int]:
    """The sort key of sheets: dated rows, then filled cells."""
    return _holds_table(rows) and _holds_dates(rows), sum(filled(row) for row in rows[:400])


def _holds_table(rows: list[list[str]]) -> bool:
    return sum(filled(row) >= 2 for row in rows[:400]) > FEWEST_ALIKE


def _holds_dates(rows: list[list[str]]) -> bool:
    """Return whether most rows, or columns, of a sheet are dated."""
    full = [row for row in rows[:SEEN_FOR_DATES] if filled(row) >= 2]
    down = sum(any(_dated(cell) for cell in row) for row in full)
    across = max((sum(_dated(cell) for cell in row) for row in full), default=0)
    return down * 2 > len(full) or across >= FEWEST_ALIKE


def _dated(cell: str) -> bool:
    return bool(forms_like(cell.strip()) - _NUMBERS_TOO) if cell.strip() else False


def _resource(content: bytes) -> TextTable:
    found = detect_table(content)
    if found.form in (FileForm.PACKAGE, FileForm.ARCHIVE):
        raise Refusal(
            f"{found.form.label.capitalize()} inside another file is not read.", todo="Bring it in by itself."
        )
    return read_table(content, found)


def _in_sqlite(data: bytes) -> tuple[tuple[str, ...], ReadTable]:
    return tables_in(data), partial(sqlite_table, data)


def _in_archive(data: bytes) -> tuple[tuple[str, ...], ReadTable]:
    return members_of(data), reader_of(data, _resource)


# files that hold several tables by name: the names, and what reads one of them
_SEVERAL = {FileForm.SQLITE: _in_sqlite, FileForm.ARCHIVE: _in_archive}


def detect_table(data: bytes, sheet: str | None = None) -> TableHow:
    """Detect format, encoding, delimiter, sheet, header and skipped rows.

    sheet: to read; by default the fullest sheet or the first dated resource
    """
    data = unpacked(data)
    form = file_form(data)
    if form is FileForm.TEXT:
        return _detect_text(data)
    if form in (FileForm.WORKBOOK, FileForm.HTML):
        encoding = Encoding(detect_encoding(data)) if form is FileForm.HTML else Encoding.UTF8
        book = Workbook(data) if form is FileForm.WORKBOOK else WebPage(decode(data, encoding.value).decode())
        sheet = sheet or max(book.sheets, key=lambda name: _worth(book.rows(name)))
        return _laid_out(TableHow(form=form, encoding=encoding, sheet=sheet), book.rows(sheet))
    if form is FileForm.PACKAGE:
        described = descriptor_of(data)
        return TableHow(
            form=form, sheet=sheet or likely_resource(data, described, _resource) or resources_of(described)[0]
        )
    if form in _SEVERAL:
        names, read = _SEVERAL[form](data)
        return TableHow(form=form, sheet=sheet or first_dated(names, read) or names[0])
    return TableHow(form=form)


def _detect_text(data: bytes) -> TableHow:
    encoding = Encoding(detect_encoding(data))
    text = decode(data, encoding.value)
    delimiter = sniff_delimiter(text) or sniff_delimiter(text, RARE_DELIMITERS)
    if delimiter is None:
        if in_columns(text[:65536].decode(errors="replace")):
            return _laid_out(TableHow(form=FileForm.FIXED, encoding=encoding), fixed_rows(text.decode()))
        delimiter = sniff_delimiter(text, LAST_DELIMITERS) or ","
    how = TableHow(encoding=encoding, delimiter=Delimiter(delimiter))
    if may_be_stacked(text, delimiter, SMALL_TEXT) and (rows := cut_rows(text, delimiter)):
        return _laid_out(how, rows)
    bottom = last_rows(text, delimiter)
    return _named(how, first_rows(text, delimiter), bottom)


def _laid_out(how: TableHow, rows: Sequence[Row]) -> TableHow:
    """Detect the layout; of stacked tables the one with the most rows is read.

    rows: all of them
    """
    parts = _parts(how, rows)
    return max(parts, key=lambda part: part.rows).how if parts else _named(how, rows[:LOOKED_AT], rows[-LOOKED_AT:])


def _named(how: TableHow, top: Sequence[Row], bottom: Sequence[Row]) -> TableHow:
    """Detect header rows at the top, and rows to skip at the end."""
    layout = find_layout(top)
    skip = trailing_rows([row for row in bottom if filled(row)][-6:], len(top[layout.row - 1]) if top else 1)
    return how.model_copy(
        update={
            "header_row": layout.row,
            "header_rows": layout.rows,
            "units_row": layout.units,
            "comments": layout.comments,
            "headings": layout.headings,
            "skip_last": skip,
        }
    )
