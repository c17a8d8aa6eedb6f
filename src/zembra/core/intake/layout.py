"""Find header rows, remarks, units and headings at the top of a grid."""

from __future__ import annotations

import re
from collections import Counter
from collections.abc import Sequence
from dataclasses import dataclass, replace

from zembra.core.intake.dateforms import DateForm
from zembra.core.intake.dates import forms_like
from zembra.core.intake.howread import Headings, LeftOut
from zembra.core.intake.months import names_month
from zembra.core.intake.numbercell import is_number
from zembra.core.intake.totals import is_total

Row = Sequence[str]
LOOKED_AT = 60
_YEAR = re.compile(r"(?:(?i:fy) ?)?(?:1[5-9]|20|21)\d{2}(?:[/\-–]\d{2,4})?")
_QUARTER = re.compile(r"(?i)(?:q|kw\.? ?|t)[1-4]|[1-4]\.? ?(?:q|kw|t)|(?:i{1,3}|iv)(?: kw)?")
_REMARKS = ("#", "//", "%%", ";;")
_PLAIN = {form for form in DateForm if form.bare}


@dataclass(frozen=True, slots=True)
class Layout:
    """The header of a table.

    row: last header row, 0 for none
    rows: number of header rows
    """

    row: int
    rows: int = 1
    units: LeftOut = LeftOut.KEPT
    comments: str | None = None
    headings: Headings = Headings.ROW


def filled(row: Row) -> int:
    return len([cell for cell in row if cell and not cell.isspace()])


def find_layout(top: Sequence[Row]) -> Layout:
    """Find the header.

    top: the first rows of the file
    """
    comments = _remarks(top)
    rows: Sequence[Row] = top
    if comments:
        last = max(n for n, row in enumerate(top) if row and row[0].lstrip().startswith(comments))
        width = Counter(len(row) for row in top[last + 1 :] if filled(row)).most_common(1)
        names_columns = bool(width) and len(top[last]) == width[0][0] > 1 and last + 1 < len(top)
        if names_columns and not _names(top[last + 1]):
            # the names themselves stand behind the mark
            return Layout(last + 1, comments=comments)
        rows = [() if row and row[0].lstrip().startswith(comments) else row for row in top]
    found = _find_names(rows)
    found = replace(found, comments=comments)
    if found.row and _units(rows[found.row - 1 :]):
        found = replace(found, units=LeftOut.LEFT_OUT)
    if _blocks(rows, found.row):
        found = replace(found, headings=Headings.BLOCK)
    return found


def _remarks(top: Sequence[Row]) -> str | None:
    firsts = [row[0].lstrip() for row in top if row and row[0].strip()]
    for mark in _REMARKS:
        if firsts and any(first.startswith(mark) for first in firsts[:1] + firsts[-1:]):
            return mark
    return None


def _find_names(top: Sequence[Row]) -> Layout:
    """Find the first row as wide as the table; rows above are titles. If it repeats names under a row of merged
    cells, both are the header. If it reads like the next row, there is none.
    """
    widths = Counter(filled(row) for row in top if filled(row) > 1)
    if not widths:
        return Layout(next((n for n, row in enumerate(top, 1) if filled(row)), 1))
    usual = max(widths.items(), key=lambda item: (item[1], item[0]))[0]
    at = next((n for n, row in enumerate(top) if _wide_enough(row, usual)), 0)
    if at + 1 < len(top) and _like_data(top[at], top[at + 1]):
        return Layout(at if at else 0)
    names = [cell.strip() for cell in top[at]]
    if at > 0 and years_over_months(top[at - 1], top[at]):
        return Layout(at + 1, 2)
    if at > 0 and filled(top[at - 1]) >= 2 and len(set(names)) < len(names):
        return Layout(at + 1, 2)
    below = top[at + 1] if at + 1 < len(top) else ()
    if filled(top[at]) < usual and filled(below) >= usual and _names(below) and at + 2 < len(top):
        return Layout(at + 2, 2)
    return Layout(at + 1)


def years_over_months(above: Row, names: Row) -> bool:
    """Return whether merged years stand above months or quarters."""
    years = [cell.strip() for cell in above[1:] if cell.strip()]
    parts = [cell.strip() for cell in names[1:] if cell.strip()]
    return (
        bool(years)
        and len(parts) >= 3
        and all(_YEAR.fullmatch(year) for year in years)
        and all(map(part_of_year, parts))
    )


def part_of_year(text: str) -> bool:
    """Return whether a text is a month or quarter."""
    return bool(_QUARTER.fullmatch(text.strip(" ."))) or names_month(text)


def names_year(text: str) -> bool:
    return bool(_YEAR.fullmatch(text.strip()))


def _year_heading(row: Row, below: Sequence[Row]) -> bool:
    """Return whether a row holds only a year, and the next one a part of it."""
    if not names_year(row[0]) or not below:
        return False
    first = below[0][0].strip() if below[0] else ""
    return filled(below[0]) > 1 and bool(first) and part_of_year(first)


def _wide_enough(row: Row, usual: int) -> bool:
    """Return whether a row is wide enough for a header, which may lack one cell; a title has only one."""
    corner = bool(row) and not row[0].strip() and filled(row) == len(row) - 1 >= 1
    short = filled(row) == len(row) == usual - 1 >= 1 and usual > 2
    return (filled(row) >= max(2, usual - 1) and len(row) >= usual) or corner or short


def _names(row: Row) -> bool:
    """Return whether no filled cell is a number."""
    return not any(is_number(cell) for cell in row)


def _all_numbers(row: Row) -> bool:
    texts = [cell for cell in row if cell.strip()]
    return len(texts) > 1 and all(map(is_number, texts))


def _like_data(first: Row, second: Row) -> bool:
    """Return whether a row has a date above a date."""
    if not _names(first) and not _names(second) and all(_all_numbers(row) for row in (first, second)):
        # a row of numbers above numbers is no header: the years continue
        starts = [forms_like(row[0].strip()) for row in (first, second)]
        if starts[0] & starts[1] and first[0].strip() != second[0].strip():
            return True
    for a, b in zip(first, second, strict=False):
        if not (a.strip() and b.strip()):
            continue
        if (forms_like(a) & forms_like(b)) - (_PLAIN - {DateForm.COMPACT}):
            return True
    return False


def _units(rows: Sequence[Row]) -> bool:
    """Return whether the row below the header holds units."""
    if len(rows) < 3 or not _names(rows[0]):
        return False
    below, data = rows[1], rows[2]
    heading = filled(below) == 1 and bool(below[0].strip())
    if heading or not filled(below) or not _names(below) or _names(data) or len(below) != len(data):
        return False
    dated = any(forms_like(cell) for cell in below if cell.strip())
    # a first row of blank words with a date is no unit row
    return not dated and any(forms_like(cell) for cell in data if cell.strip())


def _blocks(rows: Sequence[Row], header: int) -> bool:
    """Return whether single-text rows head stretches of data."""
    alone = [
        n for n, row in enumerate(rows)
        if n != header - 1 and filled(row) == 1 and row[0].strip()
        and ((not forms_like(row[0].strip()) and _names(row)) or _year_heading(row, rows[n + 1 : n + 2]))
    ]  # fmt: skip
    inside = [n for n in alone if n >= header]
    if not inside:
        return False
    heads = [n for n in inside if any(filled(row) > 1 for row in rows[n + 1 : n + 4])]
    # a title apart from the header belongs to the whole table
    first = header == 0 or header - 2 in alone or heads[:1] == [header]
    return len(heads) >= 1 and first


def trailing_rows(bottom: Sequence[Row], width: int) -> int:
    """Count totals and notes at the end.

    bottom: the last rows, without empty ones
    """
    count = 0
    for row in reversed(bottom):
        cells = [cell.strip() for cell in row if cell.strip()]
        note = width > 1 and len(cells) == 1 and row[0].strip() == cells[0] and not forms_like(cells[0])
        total = bool(cells) and is_total(cells[0])
        if not (note or total) or count >= 5:
            break
        count += 1
    return count
