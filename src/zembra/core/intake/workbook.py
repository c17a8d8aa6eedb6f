"""Read workbooks as rows of texts."""

from __future__ import annotations

import io

from zembra.core.errors import Refusal
from zembra.core.intake.foreign import cell_text, guarded
from zembra.core.intake.sheetxml import SheetXml
from zembra.core.intake.signatures import ZIP


class Workbook:
    """A workbook whose sheets are read on demand."""

    def __init__(self, data: bytes) -> None:
        from python_calamine import CalamineWorkbook

        self._xml = SheetXml.of(data) if data.startswith(ZIP) else None
        whole = self._xml.data if self._xml else data
        self._book = guarded("workbook", lambda: CalamineWorkbook.from_filelike(io.BytesIO(whole)))
        self.sheets: tuple[str, ...] = tuple(str(name) for name in self._book.sheet_names)
        if not self.sheets:
            raise Refusal("The workbook has no sheet.")
        self._read: dict[str, list[list[str]]] = {}

    def rows(self, sheet: str | None) -> list[list[str]]:
        """Return the cells of a sheet. Raises Refusal for an unknown one."""
        name = sheet or self.sheets[0]
        if name not in self.sheets:
            raise Refusal(
                f"The workbook has no sheet named “{name}”.", place=f"its sheets are {', '.join(self.sheets)}"
            )
        if name not in self._read:
            cells = guarded("workbook", lambda: self._book.get_sheet_by_name(name).to_python(skip_empty_area=False))
            self._read[name] = [[cell_text(cell) for cell in row] for row in cells]
        return self._read[name]

    def remarks(self, sheet: str | None) -> tuple[str, ...]:
        """Return remarks on how a sheet is read."""
        return tuple(self._xml.remarks(sheet or self.sheets[0])) if self._xml else ()
