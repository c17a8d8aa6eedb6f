"""Make the workbooks that a study is handed over as."""

from __future__ import annotations

from collections.abc import Iterable, Sequence
from typing import Any

from zembra.core.handover.book import Book
from zembra.core.handover.chartsheet import chart_sheet
from zembra.core.handover.nativechart import NativeChart
from zembra.core.handover.tables import FOLLOW_UP_COLUMNS, LINE_COLUMNS, POINT_COLUMNS, line_cells, point_rows
from zembra.core.ledger.evidence import Cell, ColumnKind, Table
from zembra.core.ledger.run import Result
from zembra.core.study.followup import Item

MOST_ROWS = 1_000_000  # of a sheet; what is more goes on in another one
FOLLOW_UP_WIDTHS = (18, 12, 12, 12, 30, 40, 10, 14, 22, 40)
# as the screen has them: a tint and a pattern, so that colour is not all that tells them apart
STYLES = {
    "filled": {"pattern": 14, "fg_color": "#9CC4C2", "bg_color": "#FFFFFF"},
    "bridged": {"pattern": 14, "fg_color": "#DCEBEA", "bg_color": "#FFFFFF"},
    "open": {"pattern": 17, "fg_color": "#E6E1D6", "bg_color": "#FFFFFF"},
    "set aside": {"font_color": "#C8502B", "font_strikeout": True},
    "adjusted": {"bg_color": "#DCEBEA", "bold": True},
    "provisional": {"pattern": 6, "fg_color": "#E7B75F", "bg_color": "#FFFFFF"},
}


def followup_xlsx(items: Sequence[Item]) -> bytes:
    """Return the follow-up list as a workbook."""
    book = Book()
    _follow_up(book, items)
    return book.done()


def numbers_xlsx(result: Result, items: Sequence[Item], note: str, chart: NativeChart | None = None) -> bytes:
    """Return all numbers as a workbook: points, lines, evidence, follow-up list, method note, and an editable chart."""
    book = Book()
    _points(book, result)
    _lines(book, result)
    _evidence(book, result)
    _follow_up(book, items)
    if chart is not None:
        chart_sheet(book, chart)
    sheet = book.sheet("Method note", ("method note",), (110,))
    for row, text in enumerate(note.splitlines(), 1):
        book.write(sheet, row, 0, text, book.wrapped)
    return book.done()


def _points(book: Book, result: Result) -> None:
    styles = {word: book.style(**words) for word, words in STYLES.items()}
    widths = (20, 16, 14, 14, 12, 14, 60, 14)

    def write(sheet: Any, row: int, rows: tuple[str, ...]) -> None:
        series, period, raw, value, received, condition, reason, counted = rows
        style = styles.get(condition)
        book.write(sheet, row, 0, series)
        book.write_period(sheet, row, 1, period)
        book.write(sheet, row, 2, raw)
        book.write(sheet, row, 3, float(value) if value else None, style)
        book.write(sheet, row, 4, received)
        book.write(sheet, row, 5, condition, style)
        book.write(sheet, row, 6, reason)
        book.write(sheet, row, 7, float(counted) if counted else None)

    _in_sheets(book, "Points", POINT_COLUMNS, widths, point_rows(result), write)


def _lines(book: Book, result: Result) -> None:
    widths = (20, 26, 14, 16, 14, 14, 14, 8, 12, 8)

    def write(sheet: Any, row: int, rows: tuple[Cell, ...]) -> None:
        for column, cell in enumerate(rows):
            if column == 3:
                book.write_period(sheet, row, column, str(cell))
            else:
                book.write(sheet, row, column, cell)

    _in_sheets(book, "Readings and projections", LINE_COLUMNS, widths, line_cells(result), write)


def _in_sheets(
    book: Book, name: str, columns: Sequence[str], widths: Sequence[float], rows: Iterable[Any], write: Any
) -> None:
    """Write rows to as many sheets as they need."""
    sheet, count, number = book.sheet(name, columns, widths), 0, 1
    for row in rows:
        if count == MOST_ROWS:
            book.filtered(sheet, count, len(columns))
            number += 1
            sheet, count = book.sheet(f"{name[:26]} {number}", columns, widths), 0
        count += 1
        write(sheet, count, row)
    book.filtered(sheet, count, len(columns))


def _evidence(book: Book, result: Result) -> None:
    """Write all tables of evidence below each other."""
    sheet = book.sheet("Evidence", ("entry", *[""] * 11), (46, *[16] * 11))
    row = 1
    for report in result.reports:
        for table in report.outcome.evidence:
            if not isinstance(table, Table) or not table.rows:
                continue
            book.write(sheet, row, 0, f"{report.sentence} {table.title}", book.wrapped)
            for column, about in enumerate(table.columns):
                book.write(sheet, row, column + 1, about.title, book.head)
            row += 1
            for cells in table.rows:
                for column, (about, cell) in enumerate(zip(table.columns, cells, strict=True)):
                    if about.kind is ColumnKind.PERIOD and isinstance(cell, str):
                        book.write_period(sheet, row, column + 1, cell)
                    else:
                        book.write(sheet, row, column + 1, cell)
                row += 1
            row += 1


def _follow_up(book: Book, items: Sequence[Item]) -> None:
    sheet = book.sheet("Follow-up", FOLLOW_UP_COLUMNS, FOLLOW_UP_WIDTHS)
    for row, item in enumerate(items, 1):
        book.write(sheet, row, 0, item.series)
        book.write_period(sheet, row, 1, item.period)
        book.write(sheet, row, 2, item.value)
        book.write(sheet, row, 3, item.distance)
        texts = ("; ".join(item.found_by), item.note, item.state.value, item.who, item.changed, item.gone)
        for column, text in enumerate(texts, 4):
            book.write(sheet, row, column, text, book.wrapped if column in (4, 5, 9) else None)
    book.filtered(sheet, len(items), len(FOLLOW_UP_COLUMNS))
