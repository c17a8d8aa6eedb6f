"""Read from a workbook's XML what its reader leaves out: far cells, hidden rows, formulas without results."""

from __future__ import annotations

import html
import io
import re
import zipfile
from collections.abc import Iterator, Mapping
from dataclasses import dataclass
from functools import partial

from zembra.core.errors import Refusal
from zembra.core.intake.bounds import MOST_CELLS
from zembra.core.intake.foreign import guarded, open_zip

LARGE = 100_000  # cells from which on an almost empty rectangle is looked into
FAR = 1000  # rows or columns without a cell, after which what follows is no part of the table
SAID = 3  # places that are said in full
_ROW = re.compile(rb'<row [^>]*?r="(\d+)"')
_FAR_COLUMN = re.compile(rb'<c [^>]*?r="([A-Z]{2,3})\d+"')
_CELL = re.compile(rb'<c [^>]*?r="([A-Z]+)(\d+)"[^>]*?(?:/>|>.*?</c>)', re.DOTALL)
_CONTENT = re.compile(rb"<(?:v|is)[ >]")
_DIMENSION = re.compile(rb"<dimension [^>]*/>")
_SHEET = re.compile(rb"<sheet [^>]*>")
_RELATION = re.compile(rb"<Relationship [^>]*>")
_HIDDEN_ROW = re.compile(rb'<row [^>]*?hidden="(?:1|true)"')
_HIDDEN_COLUMNS = re.compile(rb'<col [^>]*?hidden="(?:1|true)"[^>]*>')
_REPEATED = re.compile(rb'number-rows-repeated="(\d{7,})"')
MOST_ROWS = 1_048_576  # of any sheet
_FORMULA = re.compile(rb'<c [^>]*?r="([A-Z]+\d+)"[^>]*>\s*<f(?:[^>]*/>|[^>]*>[^<]*</f>)\s*(<v>[^<]|<is>)?')


@dataclass(frozen=True)
class SheetXml:
    """A workbook that its reader can lay out.

    strays: by sheet file, where something stood far away
    """

    data: bytes
    strays: Mapping[str, list[str]]

    @classmethod
    def of(cls, data: bytes) -> SheetXml:
        """Remove far cells, as the reader allocates the whole rectangle."""
        archive = open_zip(data)
        mended: dict[str, bytes] = {}
        strays: dict[str, list[str]] = {}
        for name in archive.namelist():
            if name == "content.xml":
                _check_repeats(_member(archive, name))
            if re.fullmatch(r"xl/worksheets/[^/]+\.xml", name):
                xml = _member(archive, name)
                if _far_apart(xml):
                    mended[name], strays[name] = _trimmed(xml)
        if not mended:
            return cls(data, {})
        out = io.BytesIO()
        with zipfile.ZipFile(out, "w") as copy:
            for name in archive.namelist():
                copy.writestr(name, mended[name] if name in mended else _member(archive, name))
        return cls(out.getvalue(), strays)

    def remarks(self, sheet: str) -> Iterator[str]:
        """Return remarks on how a sheet is read."""
        archive = open_zip(self.data)
        file = _sheet_files(archive).get(sheet, "")
        if file not in archive.namelist():
            return
        xml = _member(archive, file)
        places = self.strays.get(file, [])
        if places:
            yield f"{_cells(places)} far from all others ({_said(places)}) left out."
        rows = len(_HIDDEN_ROW.findall(xml))
        if rows:
            yield f"{rows:,} hidden row{'s are' if rows > 1 else ' is'} read like the others."
        columns = sum(_width(span) for span in _HIDDEN_COLUMNS.findall(xml))
        if columns:
            yield f"{columns:,} hidden column{'s are' if columns > 1 else ' is'} read like the others."
        formulas = _FORMULA.findall(xml) if b"<f" in xml else []
        empty = [place.decode() for place, result in formulas if not result]
        if empty:
            yield (
                f"{_cells(empty)} with a formula and no result ({_said(empty)}) read as empty: open the workbook in a "
                "spreadsheet program and save it there, and the results are in it."
            )


def _check_repeats(xml: bytes) -> None:
    """Raise Refusal for an OpenDocument row repeated more often than a sheet has rows."""
    if any(int(count) > MOST_ROWS for count in _REPEATED.findall(xml)):
        raise Refusal(f"A row of the sheet is repeated more than {MOST_ROWS:,} times, as often as no sheet has rows.")


def _cells(places: list[str]) -> str:
    return f"{len(places):,} cells" if len(places) > 1 else "1 cell"


def _said(places: list[str]) -> str:
    return ", ".join(places[:SAID]) + (" …" if len(places) > SAID else "")


def _member(archive: zipfile.ZipFile, name: str) -> bytes:
    return bytes(guarded("workbook", partial(archive.read, name)))


def _attribute(tag: bytes, name: bytes) -> str:
    found = re.search(rb"\b" + name + rb'="([^"]*)"', tag)
    return html.unescape(found[1].decode(errors="replace")) if found else ""


def _width(tag: bytes) -> int:
    """Return the number of columns of a <col>, without those behind the last cell."""
    first, last = (int(_attribute(tag, name) or 0) for name in (b"min", b"max"))
    return last - first + 1 if last - first < FAR else 0


def _sheet_files(archive: zipfile.ZipFile) -> dict[str, str]:
    """Return sheet files by name."""
    names = archive.namelist()
    if "xl/workbook.xml" not in names or "xl/_rels/workbook.xml.rels" not in names:
        return {}
    relations = _RELATION.findall(_member(archive, "xl/_rels/workbook.xml.rels"))
    files = {
        _attribute(relation, b"Id"): "xl/" + _attribute(relation, b"Target").removeprefix("/xl/")
        for relation in relations
    }
    sheets = _SHEET.findall(_member(archive, "xl/workbook.xml"))
    return {_attribute(sheet, b"name"): files.get(_attribute(sheet, b"r:id"), "") for sheet in sheets}


def _far_apart(xml: bytes) -> bool:
    """Return whether a sheet spans too large or too empty a rectangle."""
    at = xml.rfind(b"<row ")
    last = _ROW.match(xml, at) if at >= 0 else None
    rows = int(last[1]) if last else 1
    columns = max((_column(found) for found in set(_FAR_COLUMN.findall(xml))), default=26)
    return rows * columns > MOST_CELLS or (rows * columns > LARGE and xml.count(b"<c ") * 50 < rows * columns)


def _trimmed(xml: bytes) -> tuple[bytes, list[str]]:
    """Remove far cells, and return where they stood."""
    places = {(int(row), _column(letters)) for letters, row in _CELL.findall(xml)}
    last_row = _last_near({row for row, _ in places})
    last_column = _last_near({column for row, column in places if row <= last_row})
    strays: list[str] = []

    def kept(cell: re.Match[bytes]) -> bytes:
        if int(cell[2]) <= last_row and _column(cell[1]) <= last_column:
            return cell[0]
        if _CONTENT.search(cell[0]):
            strays.append((cell[1] + cell[2]).decode())
        return b""

    return _DIMENSION.sub(b"", _CELL.sub(kept, xml)), strays


def _last_near(places: set[int]) -> int:
    """Return the last row or column before a long gap."""
    last = 0
    for place in sorted(places):
        if last and place - last > FAR:
            break
        last = place
    return last


def _column(letters: bytes) -> int:
    number = 0
    for letter in letters:
        number = number * 26 + letter - 64
    return number
