"""Workbooks to rows of text cells."""

from __future__ import annotations

import html
import io
import re
import zipfile
from functools import partial

from zembra.core.errors import Refusal
from zembra.core.intake.bounds import MOST_CELLS
from zembra.core.intake.foreign import cell_text, guarded, open_zip
from zembra.core.intake.table import NotTaken

LARGE = 100_000  # cells from which on an almost empty rectangle is looked into
FAR = 1000  # rows or columns without a cell, after which what follows is no part of the table
_ROW = re.compile(rb'<row [^>]*?r="(\d+)"')
_FAR_COLUMN = re.compile(rb'<c [^>]*?r="([A-Z]{2,3})\d+"')
_CELL = re.compile(rb'<c [^>]*?r="([A-Z]+)(\d+)"[^>]*?(?:/>|>.*?</c>)', re.DOTALL)
_CONTENT = re.compile(rb"<(?:v|is)[ >]")
_DIMENSION = re.compile(rb"<dimension [^>]*/>")
_SHEET = re.compile(rb"<sheet [^>]*>")
_RELATION = re.compile(rb"<Relationship [^>]*>")
SAID = 3  # places that are said in full


class Workbook:
    """A workbook whose sheets are read when they are asked for."""

    def __init__(self, data: bytes) -> None:
        from python_calamine import CalamineWorkbook

        self._strays: dict[str, list[str]] = {}
        if data.startswith(b"PK"):
            data, self._strays = _without_strays(data)
        self._book = guarded("workbook", lambda: CalamineWorkbook.from_filelike(io.BytesIO(data)))
        self.sheets: tuple[str, ...] = tuple(str(name) for name in self._book.sheet_names)
        if not self.sheets:
            raise Refusal("The workbook has no sheet.")
        self._read: dict[str, list[list[str]]] = {}

    def rows(self, sheet: str | None) -> list[list[str]]:
        """The cells of a sheet, from the first row and column on. Raises Refusal for an unknown one."""
        name = sheet or self.sheets[0]
        if name not in self.sheets:
            raise Refusal(
                f"The workbook has no sheet named “{name}”.", place=f"its sheets are {', '.join(self.sheets)}"
            )
        if name not in self._read:
            cells = guarded("workbook", lambda: self._book.get_sheet_by_name(name).to_python(skip_empty_area=False))
            self._read[name] = [[cell_text(cell) for cell in row] for row in cells]
        return self._read[name]

    def left_out(self, sheet: str | None) -> tuple[NotTaken, ...]:
        """The cells of a sheet that stand too far from all others to be of its table."""
        places = self._strays.get(sheet or self.sheets[0], [])
        if not places:
            return ()
        said = ", ".join(places[:SAID]) + (" …" if len(places) > SAID else "")
        many = f"{len(places):,} cells" if len(places) > 1 else "1 cell"
        return (NotTaken(f"{many} far from all others ({said})"),)


def _without_strays(data: bytes) -> tuple[bytes, dict[str, list[str]]]:
    """The workbook without cells far from all others, and where something stood in such, by sheet: the reader lays out
    the whole rectangle they span."""
    archive = open_zip(data)
    mended: dict[str, bytes] = {}
    strays: dict[str, list[str]] = {}
    for name in archive.namelist():
        if re.fullmatch(r"xl/worksheets/[^/]+\.xml", name):
            xml = guarded("workbook", partial(archive.read, name))
            if _far_apart(xml):
                mended[name], strays[name] = _trimmed(xml)
    if not mended:
        return data, {}
    out = io.BytesIO()
    with zipfile.ZipFile(out, "w") as copy:
        for name in archive.namelist():
            copy.writestr(name, mended[name] if name in mended else guarded("workbook", partial(archive.read, name)))
    names = _sheet_names(archive)
    return out.getvalue(), {names.get(file, file): places for file, places in strays.items()}


def _sheet_names(archive: zipfile.ZipFile) -> dict[str, str]:
    """The names of the sheets by the files that hold them."""

    def attribute(tag: bytes, name: bytes) -> str:
        found = re.search(rb"\b" + name + rb'="([^"]*)"', tag)
        return html.unescape(found[1].decode()) if found else ""

    def read(name: str) -> bytes:
        return bytes(guarded("workbook", partial(archive.read, name)))

    relations = _RELATION.findall(read("xl/_rels/workbook.xml.rels"))
    files = {attribute(one, b"Id"): "xl/" + attribute(one, b"Target").removeprefix("/xl/") for one in relations}
    return {
        files.get(attribute(one, b"r:id"), ""): attribute(one, b"name")
        for one in _SHEET.findall(read("xl/workbook.xml"))
    }


def _far_apart(xml: bytes) -> bool:
    """Whether the last row and column of a sheet span a rectangle too large, or too empty, to be laid out."""
    at = xml.rfind(b"<row ")
    last = _ROW.match(xml, at) if at >= 0 else None
    rows = int(last[1]) if last else 1
    columns = max((_column(found) for found in set(_FAR_COLUMN.findall(xml))), default=26)
    return rows * columns > MOST_CELLS or (rows * columns > LARGE and xml.count(b"<c ") * 50 < rows * columns)


def _trimmed(xml: bytes) -> tuple[bytes, list[str]]:
    """A sheet without its strays, and the places of those in which something stood."""
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
    """The last of some rows or columns before a long stretch with none."""
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
