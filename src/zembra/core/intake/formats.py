"""Which form a file is in, and its bytes to a TextTable, whatever the form."""

from __future__ import annotations

from dataclasses import replace

import polars as pl

from zembra.core.errors import Refusal
from zembra.core.intake.bounds import check_lengths, check_lines
from zembra.core.intake.columnar import parquet_table
from zembra.core.intake.decode import decode, detect_encoding, refuse_non_text
from zembra.core.intake.delimited import first_rows, last_rows, read_delimited, sniff_delimiter
from zembra.core.intake.fixed import fixed_rows, in_columns
from zembra.core.intake.foreign import open_zip, unpacked
from zembra.core.intake.grid import frame_table, table_of
from zembra.core.intake.howread import Delimiter, Encoding, FileForm, TableHow
from zembra.core.intake.jsontable import json_frame, parse_json
from zembra.core.intake.layout import LOOKED_AT, Layout, filled, find_layout, trailing_rows
from zembra.core.intake.package import descriptor_of, likely_resource, package_table, resources_of
from zembra.core.intake.table import TextTable
from zembra.core.intake.webpage import WebPage
from zembra.core.intake.workbook import Workbook

FEWEST_ALIKE = 3  # rows a sheet needs to hold a table worth asking about


def file_form(data: bytes) -> FileForm:
    """The form of a file (not packed), by its content. Raises Refusal for bytes that are no table."""
    if data.startswith(b"PAR1"):
        return FileForm.PARQUET
    if data.startswith(b"\xd0\xcf\x11\xe0"):
        return FileForm.WORKBOOK
    if data.startswith(b"PK\x03\x04"):
        names = open_zip(data).namelist()
        if any(name.endswith("datapackage.json") for name in names):
            return FileForm.PACKAGE
        if any(name.startswith("xl/") for name in names) or "content.xml" in names:
            return FileForm.WORKBOOK
        raise Refusal(
            "The file is a zip archive of several files.",
            place=f"it holds {', '.join(names[:5])}",
            todo="Unpack it and bring in one of them.",
        )
    start = data[:4096].lstrip(b"\xef\xbb\xbf \t\r\n")
    if start[:1] in (b"{", b"["):
        found = parse_json(data)
        return FileForm.PACKAGE if isinstance(found, dict) and "resources" in found else FileForm.JSON
    refuse_non_text(data)
    if start[:1] == b"<" and b"<table" in data[:2_000_000].lower():
        return FileForm.HTML
    return FileForm.TEXT


def read_table(data: bytes, how: TableHow) -> TextTable:
    """The rows and cells of a file, read as `how` says. Raises Refusal with the place."""
    table = _read(unpacked(data), how)
    longest = table.cells.select(pl.all().str.len_bytes().max()).row(0)
    check_lengths(table.columns, longest)
    return table


def _read(data: bytes, how: TableHow) -> TextTable:
    if how.form is FileForm.TEXT:
        return read_delimited(_lines(data, how), how)
    if how.form is FileForm.FIXED:
        return table_of(fixed_rows(_lines(data, how).decode()), how)
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
    return package_table(data, how, _resource)


def _lines(data: bytes, how: TableHow) -> bytes:
    text = decode(data, how.encoding.value)
    check_lines(text)
    return text


def _one_of(book: Workbook | WebPage, how: TableHow) -> TextTable:
    table = table_of(book.rows(how.sheet), how, book.sheets)
    chosen = how.sheet or book.sheets[0]
    return replace(table, alike=tuple(name for name in book.sheets if name != chosen and _holds_table(book.rows(name))))


def _holds_table(rows: list[list[str]]) -> bool:
    return sum(filled(row) >= 2 for row in rows[:400]) > FEWEST_ALIKE


def _resource(content: bytes) -> TextTable:
    found = detect_table(content)
    if found.form is FileForm.PACKAGE:
        raise Refusal("A data package inside a data package is not read.")
    return read_table(content, found)


def detect_table(data: bytes, sheet: str | None = None) -> TableHow:
    """How the bytes become rows and cells: form, encoding, delimiter, sheet, header, rows left out.

    sheet: the sheet or resource to read, None for the fullest sheet or the first resource with dates.
    """
    data = unpacked(data)
    form = file_form(data)
    if form is FileForm.TEXT:
        return _detect_text(data)
    if form in (FileForm.WORKBOOK, FileForm.HTML):
        encoding = Encoding(detect_encoding(data)) if form is FileForm.HTML else Encoding.UTF8
        book = Workbook(data) if form is FileForm.WORKBOOK else WebPage(decode(data, encoding.value).decode())
        sheet = sheet or max(book.sheets, key=lambda name: sum(filled(row) for row in book.rows(name)[:400]))
        rows = book.rows(sheet)
        full = [row for row in rows if filled(row)]
        skip = trailing_rows(full[-6:], max((len(row) for row in full), default=1))
        return _laid_out(
            TableHow(form=form, encoding=encoding, sheet=sheet, skip_last=skip), find_layout(rows[:LOOKED_AT])
        )
    if form is FileForm.PACKAGE:
        described = descriptor_of(data)
        return TableHow(
            form=form, sheet=sheet or likely_resource(data, described, _resource) or resources_of(described)[0]
        )
    return TableHow(form=form)


def _detect_text(data: bytes) -> TableHow:
    encoding = Encoding(detect_encoding(data))
    text = decode(data, encoding.value)
    delimiter = sniff_delimiter(text)
    if delimiter is None:
        if in_columns(text[:65536].decode(errors="replace")):
            rows = fixed_rows(text.decode())
            skip = trailing_rows([row for row in rows[-6:] if filled(row)], len(rows[0]))
            return _laid_out(
                TableHow(form=FileForm.FIXED, encoding=encoding, skip_last=skip), find_layout(rows[:LOOKED_AT])
            )
        delimiter = ","
    top = first_rows(text, delimiter)
    layout = find_layout(top)
    bottom = [row for row in last_rows(text, delimiter) if filled(row)]
    skip = trailing_rows(bottom, len(top[layout.row - 1]) if top else 1)
    return _laid_out(TableHow(encoding=encoding, delimiter=Delimiter(delimiter), skip_last=skip), layout)


def _laid_out(how: TableHow, layout: Layout) -> TableHow:
    return how.model_copy(
        update={
            "header_row": layout.row,
            "header_rows": layout.rows,
            "units_row": layout.units,
            "comments": layout.comments,
            "headings": layout.headings,
        }
    )
