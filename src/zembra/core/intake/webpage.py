"""Read tables of a saved or pasted web page."""

from __future__ import annotations

import re
from itertools import accumulate
from typing import Any

from zembra.core.errors import Refusal

MOST_SPAN = 200
DEEPEST = 40  # tables in tables; reading what is nested takes longer with every level
_NOT_SHOWN = ("script", "style", "template", "noscript")
_TABLE = re.compile(r"<(/?)table\b", re.IGNORECASE)


class WebPage:
    """The tables of a page by caption or position."""

    def __init__(self, text: str) -> None:
        from bs4 import BeautifulSoup

        within = accumulate(-1 if mark[1] else 1 for mark in _TABLE.finditer(text))
        if max(within, default=0) > DEEPEST:
            raise Refusal(
                f"The web page has tables in tables, more than {DEEPEST} deep.", todo="Copy the table itself."
            )
        page = BeautifulSoup(text, "html.parser")
        # what the page does not show is no part of a cell
        for unseen in page.find_all(_hidden):
            unseen.extract()
        found = [table for table in page.find_all("table") if table.find("table") is None]
        if not found:
            raise Refusal("The web page holds no table.", todo="Copy the table itself and paste it.")
        self._tables: dict[str, Any] = {}
        for number, table in enumerate(found, 1):
            caption = " ".join(table.caption.get_text(" ").split()) if table.caption else ""
            name = caption if caption and caption not in self._tables else f"table {number}"
            self._tables[name] = table
        self.sheets = tuple(self._tables)

    def rows(self, sheet: str | None) -> list[list[str]]:
        """Return the cells of a table; a spanning cell stands in its first place. Raises Refusal."""
        name = sheet or self.sheets[0]
        if name not in self._tables:
            raise Refusal(f"The page has no table named “{name}”.", place=f"its tables are {', '.join(self.sheets)}")
        rows: list[list[str]] = []
        below: dict[int, int] = {}  # columns that a cell of a row above reaches into, and for how many rows yet
        for line in self._tables[name].find_all("tr"):
            row: list[str] = []
            for cell in line.find_all(["td", "th"]):
                _pass_over(row, below)
                wide, tall = _span(cell, "colspan"), _span(cell, "rowspan")
                if tall > 1:
                    below.update({len(row) + n: tall - 1 for n in range(wide)})
                row.extend([" ".join(cell.get_text(" ").split()), *[""] * (wide - 1)])
            _pass_over(row, below)
            rows.append(row)
        return rows


def _hidden(tag: Any) -> bool:
    style = str(tag.get("style", "")).replace(" ", "").lower()
    return tag.has_attr("hidden") or "display:none" in style or "visibility:hidden" in style or tag.name in _NOT_SHOWN


def _pass_over(row: list[str], below: dict[int, int]) -> None:
    while below.get(len(row), 0) > 0:
        below[len(row)] -= 1
        row.append("")


def _span(cell: Any, name: str) -> int:
    text = str(cell.get(name, "1"))
    return min(MOST_SPAN, max(1, int(text))) if text.isdigit() else 1
