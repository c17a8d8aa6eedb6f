"""Which form a file is in, and its bytes to a TextTable, whatever the form."""

from __future__ import annotations

import io
import json
import zipfile
from collections.abc import Callable
from datetime import date, datetime, time, timedelta
from typing import Any

import polars as pl

from zembra.core.errors import Refusal
from zembra.core.intake.decode import decode, detect_encoding, refuse_non_text
from zembra.core.intake.delimited import first_rows, last_rows, read_delimited, sniff_delimiter
from zembra.core.intake.grid import LOOKED_AT, filled, find_header, frame_table, table_of, trailing_rows
from zembra.core.intake.howread import Delimiter, Encoding, FileForm, TableHow
from zembra.core.intake.table import TextTable

MOST_UNPACKED = 2 * 1024**3
_RESAVE = "Save the table again from the program it came from, or as CSV."


def file_form(data: bytes) -> FileForm:
    """The form of a file, by its content. Raises Refusal for bytes that are no table."""
    if data.startswith(b"PAR1"):
        return FileForm.PARQUET
    if data.startswith(b"\xd0\xcf\x11\xe0"):
        return FileForm.WORKBOOK
    if data.startswith(b"PK\x03\x04"):
        names = _zip(data).namelist()
        if any(name.endswith("datapackage.json") for name in names):
            return FileForm.PACKAGE
        if any(name.startswith("xl/") for name in names) or "content.xml" in names:
            return FileForm.WORKBOOK
        raise Refusal(
            "The file is a zip archive without a table Zembra knows.", place=f"it holds {', '.join(names[:5])}"
        )
    if data[:4096].lstrip(b"\xef\xbb\xbf \t\r\n")[:1] in (b"{", b"["):
        found = _json(data)
        return FileForm.PACKAGE if isinstance(found, dict) and "resources" in found else FileForm.JSON
    refuse_non_text(data)
    return FileForm.TEXT


def read_table(data: bytes, how: TableHow) -> TextTable:
    """The rows and cells of a file, read as `how` says. Raises Refusal with the place."""
    if how.form is FileForm.TEXT:
        return read_delimited(decode(data, how.encoding.value), how)
    if how.form is FileForm.WORKBOOK:
        names, rows = _workbook(data, how.sheet)
        return table_of(rows, how, names)
    if how.form is FileForm.JSON:
        return frame_table(_json_frame(_json(data)))
    if how.form is FileForm.PARQUET:
        return frame_table(_guarded("Parquet", lambda: pl.read_parquet(io.BytesIO(data))))
    return _package(data, how)


def detect_table(data: bytes, sheet: str | None = None) -> TableHow:
    """How the bytes become rows and cells: form, encoding, delimiter, sheet, header, rows left out.

    sheet: the sheet or resource to read, None for the fullest sheet or the first resource.
    """
    form = file_form(data)
    if form is FileForm.TEXT:
        encoding = detect_encoding(data)
        text = decode(data, encoding)
        delimiter = sniff_delimiter(text)
        top = first_rows(text, delimiter)
        header = find_header(top)
        skip = trailing_rows(
            [row for row in last_rows(text, delimiter) if filled(row)], len(top[header.row - 1]) if top else 1
        )
        return TableHow(
            encoding=Encoding(encoding), delimiter=Delimiter(delimiter), header_row=header.row,
            header_rows=header.rows, skip_last=skip,
        )  # fmt: skip
    if form is FileForm.WORKBOOK:
        names, _ = _workbook(data, sheet)
        sheet = sheet or max(names, key=lambda name: _sheet_weight(data, name))
        _, rows = _workbook(data, sheet)
        header = find_header(rows[:LOOKED_AT])
        full = [row for row in rows if filled(row)]
        skip = trailing_rows(full[-6:], max((len(row) for row in full), default=1))
        return TableHow(form=form, sheet=sheet, header_row=header.row, header_rows=header.rows, skip_last=skip)
    if form is FileForm.PACKAGE:
        return TableHow(form=form, sheet=sheet or _resources(_descriptor(data))[0])
    return TableHow(form=form)


def _sheet_weight(data: bytes, name: str) -> int:
    """The first sheet with the most filled cells is the likeliest table."""
    return sum(filled(row) for row in _workbook(data, name)[1][:400])


def _guarded(kind: str, work: Callable[[], Any]) -> Any:
    """Run a reader of a foreign form; whatever it raises on a broken file becomes a Refusal."""
    try:
        return work()
    except (KeyboardInterrupt, SystemExit, MemoryError, Refusal):
        raise
    except BaseException as error:  # readers written in Rust panic past Exception
        raise Refusal(f"The {kind} file cannot be read: {str(error)[:120]}.", todo=_RESAVE) from None


def _zip(data: bytes) -> zipfile.ZipFile:
    archive: zipfile.ZipFile = _guarded("zip", lambda: zipfile.ZipFile(io.BytesIO(data)))
    if sum(item.file_size for item in archive.infolist()) > MOST_UNPACKED:
        raise Refusal("The file unpacks to more than 2 GB.", todo="Cut it into smaller files.")
    return archive


def _workbook(data: bytes, sheet: str | None) -> tuple[tuple[str, ...], list[list[str]]]:
    from python_calamine import CalamineWorkbook

    if data.startswith(b"PK"):
        _zip(data)
    book = _guarded("workbook", lambda: CalamineWorkbook.from_filelike(io.BytesIO(data)))
    names = tuple(str(name) for name in book.sheet_names)
    if not names:
        raise Refusal("The workbook has no sheet.")
    if sheet is not None and sheet not in names:
        raise Refusal(f"The workbook has no sheet named “{sheet}”.", place=f"its sheets are {', '.join(names)}")
    cells = _guarded("workbook", lambda: book.get_sheet_by_name(sheet or names[0]).to_python(skip_empty_area=False))
    return names, [[cell_text(cell) for cell in row] for row in cells]


def cell_text(cell: object) -> str:
    """A typed cell as the text a person would have written."""
    if cell is None:
        return ""
    if isinstance(cell, bool):
        return "TRUE" if cell else "FALSE"
    if isinstance(cell, float) and cell.is_integer() and abs(cell) < 1e15:
        return str(int(cell))
    if isinstance(cell, datetime):
        return cell.date().isoformat() if cell.time() == time() else cell.isoformat(timespec="seconds")
    if isinstance(cell, date | time):
        return cell.isoformat()
    if isinstance(cell, timedelta):
        return str(cell)
    return str(cell)


def _json(data: bytes) -> Any:
    try:
        return json.loads(decode(data, detect_encoding(data)))
    except json.JSONDecodeError as error:
        raise Refusal(
            f"The JSON is broken: {error.msg}.", place=f"line {error.lineno}, character {error.colno}"
        ) from None
    except RecursionError:
        raise Refusal("The JSON is nested too deeply to be a table.") from None


def _json_frame(found: Any) -> pl.DataFrame:
    """Records, columns, or either of them one level down."""
    if isinstance(found, dict):
        lists = {name: value for name, value in found.items() if isinstance(value, list)}
        if isinstance(found.get("columns"), list) and isinstance(found.get("data"), list):
            names = [str(name) for name in found["columns"]]
            return _text_frame([dict(zip(names, row, strict=False)) for row in found["data"] if isinstance(row, list)])
        nested = next((value for value in lists.values() if value and isinstance(value[0], dict)), None)
        if nested is not None:
            return _json_frame(nested)
        if lists:
            lengths = {name: len(value) for name, value in lists.items()}
            if len(set(lengths.values())) > 1:
                told = ", ".join(f"{name} has {length}" for name, length in lengths.items())
                raise Refusal("The columns of the JSON are not of one length.", place=told)
            size = next(iter(lengths.values()))
            return _text_frame([{name: value[n] for name, value in lists.items()} for n in range(size)])
    if isinstance(found, list):
        for number, row in enumerate(found, 1):
            if not isinstance(row, dict):
                raise Refusal("The JSON is a list, but not of records.", place=f"item {number}: {str(row)[:60]}")
        return _text_frame(found)
    raise Refusal("The JSON holds no table.", todo="A list of records, or columns of one length, is needed.")


def _text_frame(records: list[dict[str, Any]]) -> pl.DataFrame:
    names = list(dict.fromkeys(str(name) for record in records for name in record))
    for number, record in enumerate(records, 1):
        for name, value in record.items():
            if isinstance(value, dict | list):
                raise Refusal("A cell of the JSON holds a table of its own.", place=f"item {number}, {name}")
    columns = {name: [cell_text(record.get(name)) or None for record in records] for name in names}
    return pl.DataFrame(columns, schema=dict.fromkeys(names, pl.String))


def _descriptor(data: bytes) -> dict[str, Any]:
    if data.startswith(b"PK"):
        archive = _zip(data)
        name = min((n for n in archive.namelist() if n.endswith("datapackage.json")), key=len)
        found = _json(_guarded("zip", lambda: archive.read(name)))
    else:
        found = _json(data)
    if not isinstance(found, dict) or not _resources(found):
        raise Refusal("The data package names no resource.", place="datapackage.json")
    return found


def _resources(descriptor: dict[str, Any]) -> tuple[str, ...]:
    listed = descriptor.get("resources")
    items = [item for item in listed if isinstance(item, dict)] if isinstance(listed, list) else []
    return tuple(str(item.get("name", f"resource {n}")) for n, item in enumerate(items, 1))


def _package(data: bytes, how: TableHow) -> TextTable:
    """One resource of a Tabular Data Package: inline data, or a delimited file in the same archive."""
    descriptor = _descriptor(data)
    names = _resources(descriptor)
    sheet = how.sheet or names[0]
    if sheet not in names:
        raise Refusal(f"The data package has no resource named “{sheet}”.", place=f"it has {', '.join(names)}")
    resource = [item for item in descriptor["resources"] if isinstance(item, dict)][names.index(sheet)]
    inline = resource.get("data")
    if isinstance(inline, list) and inline and isinstance(inline[0], list):
        return table_of([[cell_text(cell) for cell in row] for row in inline if isinstance(row, list)], how, names)
    if inline is not None:
        return frame_table(_json_frame(inline), names)
    path = resource.get("path")
    path = path[0] if isinstance(path, list) and path else path
    if not isinstance(path, str) or not data.startswith(b"PK"):
        raise Refusal(
            "The resource's data is not inside the file.", place=f"resource {sheet}", todo="Pack it as a zip."
        )
    archive = _zip(data)
    inside = next((name for name in archive.namelist() if name == path or name.endswith(f"/{path}")), None)
    if inside is None:
        raise Refusal(f"The archive does not hold “{path}”.", place=f"resource {sheet}")
    content = _guarded("zip", lambda: archive.read(inside))
    found = detect_table(content)
    if found.form is FileForm.PACKAGE:
        raise Refusal("A data package inside a data package is not read.", place=path)
    table = read_table(content, found)
    return TextTable(table.columns, table.cells, table.numbers, table.left_out, names)
