"""Workbooks to hand over."""

from __future__ import annotations

import io
from collections.abc import Sequence
from datetime import date

from zembra.core.followup import Item
from zembra.core.handover.tables import FOLLOW_UP_COLUMNS

WIDTHS = (18, 12, 12, 12, 30, 40, 10, 14, 22, 40)


def followup_xlsx(items: Sequence[Item]) -> bytes:
    """The follow-up list as a workbook: true dates and numbers, and no cell that a spreadsheet would run."""
    # slow to import
    import xlsxwriter

    out = io.BytesIO()
    book = xlsxwriter.Workbook(out, {"in_memory": True, "strings_to_formulas": False, "strings_to_urls": False})
    sheet = book.add_worksheet("Follow-up")
    head = book.add_format({"bold": True, "bottom": 1})
    day = book.add_format({"num_format": "yyyy-mm-dd"})
    wrapped = book.add_format({"text_wrap": True, "valign": "top"})
    for column, (name, width) in enumerate(zip(FOLLOW_UP_COLUMNS, WIDTHS, strict=True)):
        sheet.set_column(column, column, width)
        sheet.write_string(0, column, name.replace("_", " "), head)
    for row, item in enumerate(items, 1):
        sheet.write_string(row, 0, item.series)
        try:
            sheet.write_datetime(row, 1, date.fromisoformat(item.period), day)
        except ValueError:
            sheet.write_string(row, 1, item.period)
        for column, number in ((2, item.value), (3, item.distance)):
            if number is not None:
                sheet.write_number(row, column, number)
        texts = ("; ".join(item.found_by), item.note, item.state.value, item.who, item.changed, item.gone)
        for column, told in enumerate(texts, 4):
            sheet.write_string(row, column, told, wrapped if column in (4, 5, 9) else None)
    sheet.freeze_panes(1, 0)
    sheet.autofilter(0, 0, max(1, len(items)), len(FOLLOW_UP_COLUMNS) - 1)
    book.close()
    return out.getvalue()
