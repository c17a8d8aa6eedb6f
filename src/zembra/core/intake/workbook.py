"""Workbooks to rows of text cells."""

from __future__ import annotations

import io
import re
import zipfile
from functools import partial

from zembra.core.errors import Refusal
from zembra.core.intake.bounds import MOST_CELLS
from zembra.core.intake.foreign import cell_text, guarded, open_zip

LARGE = 100_000  # cells from which on an almost empty rectangle is looked into
FAR = 1000  # rows or columns without a cell, after which what follows is no part of the table
_ROW = re.compile(rb'<row [^>]*?r="(\d+)"')
_FAR_COLUMN = re.compile(rb'<c [^>]*?r="([A-Z]{2,3})\d+"')
_CELL = re.compile(rb'<c [^>]*?r="([A-Z]+)(\d+)"[^>]*?(?:/>|>.*?</c>)', re.DOTALL)
_DIMENSION = re.compile(rb"<dimension [^>]*/>")


class Workbook:
    """A workbook whose sheets are read when they are asked for."""

    def __init__(self, data: bytes) -> None:
        from python_calamine import CalamineWorkbook

        if data.startswith(b"PK"):
            data = _without_strays(data)
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


def _without_strays(data: bytes) -> bytes:
    """The workbook without cells far from all others: the reader lays out the whole rectangle they span."""
    archive = open_zip(data)
    mended: dict[str, bytes] = {}
    for name in archive.namelist():
        if re.fullmatch(r"xl/worksheets/[^/]+\.xml", name):
            xml = guarded("workbook", partial(archive.read, name))
            if _far_apart(xml):
                mended[name] = _trimmed(xml)
    if not mended:
        return data
    out = io.BytesIO()
    with zipfile.ZipFile(out, "w") as copy:
        for name in archive.namelist():
            copy.writestr(name, mended[name] if name in mended else guarded("workbook", partial(archive.read, name)))
    return out.getvalue()


def _far_apart(xml: bytes) -> bool:
    """Whether the last row and column of a sheet span a rectangle too large, or too empty, to be laid out."""
    at = xml.rfind(b"<row ")
    last = _ROW.match(xml, at) if at >= 0 else None
    rows = int(last[1]) if last else 1
    columns = max((_column(found) for found in set(_FAR_COLUMN.findall(xml))), default=26)
    return rows * columns > MOST_CELLS or (rows * columns > LARGE and xml.count(b"<c ") * 50 < rows * columns)


def _trimmed(xml: bytes) -> bytes:
    places = {(int(row), _column(letters)) for letters, row in _CELL.findall(xml)}
    last_row = _last_near({row for row, _ in places})
    last_column = _last_near({column for row, column in places if row <= last_row})

    def kept(cell: re.Match[bytes]) -> bytes:
        return cell[0] if int(cell[2]) <= last_row and _column(cell[1]) <= last_column else b""

    return _DIMENSION.sub(b"", _CELL.sub(kept, xml))


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
