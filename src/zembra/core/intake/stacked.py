"""Find tables that stand below each other."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

from zembra.core.intake.dates import forms_like
from zembra.core.intake.layout import Row, filled
from zembra.core.intake.months import names_month
from zembra.core.intake.numbercell import is_number
from zembra.core.intake.numbers import BLANK_WORDS
from zembra.core.intake.totals import is_total

_BLANK = frozenset(word.lower() for word in BLANK_WORDS)
FEWEST_ROWS = 2  # of the table above, with numbers
MOST_PARTS = 8
LONGEST_MONTH = 12  # letters: a longer cell is not looked up in every language
LOOKED_BELOW = 3  # rows under names, of which one must hold a number: units may stand between


@dataclass(frozen=True, slots=True)
class Extent:
    """The position of a table, rows counted from 1.

    header_row: 0 if it shares the header above
    """

    header_row: int
    first_row: int
    last_row: int


def find_extents(rows: Sequence[Row], header_row: int, blocks: bool = False) -> tuple[Extent, ...]:
    """Return the stacked tables from `header_row` on, none for a single one.

    blocks: whether titles among rows are headings, which do not separate tables
    """
    names = _texts(rows[header_row - 1]) if header_row else ()
    starts = [(header_row, header_row + 1)]  # (row of the names or 0, first row)
    numbered = 0  # rows with numbers in the part so far
    apart: int | None = None  # the first of the empty rows and titles that stand before this row
    empty = titled = False
    for n, row in enumerate(rows[header_row:], header_row + 1):
        count = filled(row)
        if count <= 1 and (count == 0 or _title(row)):
            apart = n if apart is None else apart
            empty, titled = empty or count == 0, titled or count == 1
            continue
        own = _texts(row)
        if numbered >= FEWEST_ROWS and count >= 2 and own != names:
            again = bool(names) and own[:1] == names[:1]
            if (apart is not None or again) and _are_names(row) and _numbers_below(rows[n : n + LOOKED_BELOW]):
                starts.append((n, n + 1))
                names, numbered = own, 0
            elif (
                empty
                and apart is not None
                and not (titled and blocks)
                and (_begins_again(rows, starts[-1][1], apart, n) or (titled and _narrower(row, rows[apart - 2])))
            ):
                starts.append((0, n))
                numbered = 0
        if numbered < FEWEST_ROWS and _has_number(row):
            numbered += 1
        apart, empty, titled = None, False, False
    if not 1 < len(starts) <= MOST_PARTS:
        return ()
    found = []
    for (header, first), following in zip(starts, [*starts[1:], None], strict=True):
        last = len(rows) if following is None else (following[0] or following[1]) - 1
        if following is not None:
            last = _without_title(rows, first, last)
        while last > first and not filled(rows[last - 1]):
            last -= 1
        found.append(Extent(header, first, last))
    return tuple(found)


def _texts(row: Row) -> tuple[str, ...]:
    return tuple(cell.strip() for cell in row if cell.strip())


def _title(row: Row) -> bool:
    """Return whether the first cell is the only filled one, and a text."""
    first = row[0].strip() if row else ""
    return bool(first) and not is_total(first) and not is_number(first) and not _dated(first)


def _without_title(rows: Sequence[Row], first: int, last: int) -> int:
    """Return the last row of a table before the next title and blank rows."""
    while last > first and not filled(rows[last - 1]):
        last -= 1
    if last > first and filled(rows[last - 1]) == 1 and _title(rows[last - 1]) and not filled(rows[last - 2]):
        last -= 1
    return last


def _has_number(row: Row) -> bool:
    return any(map(is_number, row[1:]))


def _dated(text: str) -> bool:
    """Return whether a text is a date or month name."""
    month = len(text.strip(" .")) <= LONGEST_MONTH and names_month(text)
    return month or any(not form.bare and form.value != "year-month" for form in forms_like(text.strip()))


def _are_names(row: Row) -> bool:
    """Return whether every filled cell is a text; periods may stand across."""
    words = [cell.strip() for cell in row if cell.strip()]
    names = not any(is_number(word) or word.lower() in _BLANK for word in words)
    return names and not _dated(words[0]) and not is_total(words[0])


def _numbers_below(rows: Sequence[Row]) -> bool:
    return any(_has_number(row) for row in rows)


def _narrower(row: Row, above: Row) -> bool:
    """Return whether a row is shorter than those above, and starts with a date and a number."""
    return len(row) < len(above) and _dated(row[0]) and _has_number(row)


def _begins_again(rows: Sequence[Row], first: int, apart: int, at: int) -> bool:
    """Return whether dates restart at a row: they occur above in the same column, or are formatted differently."""
    column = next((n for n, cell in enumerate(rows[at - 1]) if cell.strip() and _dated(cell)), None)
    if column is None or not _has_number(rows[at - 1]):
        return False
    known = {row[column].strip() for row in rows[first - 1 : apart - 1] if len(row) > column}
    own = rows[at - 1][column].strip()
    written = {form for text in known if _dated(text) for form in forms_like(text)}
    return bool(written) and (own in known or written.isdisjoint(forms_like(own)))
