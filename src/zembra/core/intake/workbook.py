"""Workbooks to rows of text cells."""

from __future__ import annotations

import io
import re
import zipfile
from collections.abc import Iterable
from functools import partial

from zembra.core.errors import Refusal
from zembra.core.intake.foreign import cell_text, guarded, open_zip

MOST_CELLS = 30_000_000  # of the rectangle from the first to the last filled cell
_ROW = re.compile(rb'<row [^>]*?r="(\d+)"')
_FAR_COLUMN = re.compile(rb'<c [^>]*?r="([A-Z]{2,3})\d+"')


class Workbook:
    """A workbook whose sheets are read when they are asked for."""

    def __init__(self, data: bytes) -> None:
        from python_calamine import CalamineWorkbook

        self._data = data
        self._archive: zipfile.ZipFile | None = open_zip(data) if data.startswith(b"PK") else None
        self._book = guarded("workbook", lambda: CalamineWorkbook.from_filelike(io.BytesIO(data)))
        self.sheets: tuple[str, ...] = tuple(str(name) for name in self._book.sheet_names)
        if not self.sheets:
            raise Refusal("The workbook has no sheet.")
        self._wide = self._archive is not None and any(_far_apart(self._archive))
        self._read: dict[str, list[list[str]]] = {}

    def rows(self, sheet: str | None) -> list[list[str]]:
        """The cells of a sheet, from the first row and column on. Raises Refusal for an unknown one."""
        name = sheet or self.sheets[0]
        if name not in self.sheets:
            raise Refusal(
                f"The workbook has no sheet named “{name}”.", place=f"its sheets are {', '.join(self.sheets)}"
            )
        if name not in self._read:
            self._read[name] = self._sparse(name) if self._wide else self._dense(name)
        return self._read[name]

    def _dense(self, name: str) -> list[list[str]]:
        cells = guarded("workbook", lambda: self._book.get_sheet_by_name(name).to_python(skip_empty_area=False))
        return [[cell_text(cell) for cell in row] for row in cells]

    def _sparse(self, name: str) -> list[list[str]]:
        """Filled cells only: one far from the others does not ask for all between them.

        Rows and columns without a single cell in the last stretch are not made.
        """
        from openpyxl import load_workbook

        book = guarded("workbook", lambda: load_workbook(io.BytesIO(self._data), read_only=True, data_only=True))
        filled: dict[int, dict[int, str]] = {}

        def gather() -> None:
            for row in book[name].rows:
                for cell in row:
                    if cell.value is not None:
                        filled.setdefault(cell.row, {})[cell.column] = cell_text(cell.value)

        guarded("workbook", gather)
        rows = _near(filled)
        columns = _near({column for at in rows for column in filled[at]})
        width = max(columns, default=0)
        return [
            [filled.get(at, {}).get(column, "") for column in range(1, width + 1)]
            for at in range(1, max(rows, default=0) + 1)
        ]


def _near(places: Iterable[int]) -> list[int]:
    """The places up to the first stretch of a thousand with none."""
    kept: list[int] = []
    for place in sorted(places):
        if kept and place - kept[-1] > 1000:
            break
        kept.append(place)
    return kept


def _far_apart(archive: zipfile.ZipFile) -> Iterable[bool]:
    """Per sheet, whether its last row and column span a rectangle too large to be laid out."""
    for name in archive.namelist():
        if not re.fullmatch(r"xl/worksheets/[^/]+\.xml", name):
            continue
        xml = guarded("workbook", partial(archive.read, name))
        at = xml.rfind(b"<row ")
        last = _ROW.match(xml, at) if at >= 0 else None
        rows = int(last[1]) if last else 1
        columns = max((_column(found) for found in set(_FAR_COLUMN.findall(xml))), default=26)
        # most of a rectangle of this size that holds few cells would be empty
        yield rows * columns > MOST_CELLS or (rows * columns > 1_000_000 and xml.count(b"<c ") * 50 < rows * columns)


def _column(letters: bytes) -> int:
    number = 0
    for letter in letters:
        number = number * 26 + letter - 64
    return number
