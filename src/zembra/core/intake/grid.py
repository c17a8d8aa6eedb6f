"""A grid of text cells to a TextTable: which rows name the columns, which rows are not data."""

from __future__ import annotations

import re
from collections import Counter
from collections.abc import Sequence
from dataclasses import dataclass

import polars as pl

from zembra.core.errors import Refusal
from zembra.core.intake.dates import DateForm, forms_like
from zembra.core.intake.howread import LeftOut, TableHow
from zembra.core.intake.numbers import detect_decimal, read_numbers
from zembra.core.intake.table import NotTaken, TextTable, row_numbers

Row = Sequence[str]
LOOKED_AT = 60
_TOTALS = re.compile(
    r"^\s*(grand |sub)?(total|totals|sum|gesamt|summe|totale|somme|suma|soma|totaal|average|mean)\b", re.IGNORECASE
)


@dataclass(frozen=True, slots=True)
class Header:
    """row: number of the last row that names the columns, 0 where none does. rows: how many do."""

    row: int
    rows: int = 1


def filled(row: Row) -> int:
    return sum(1 for cell in row if cell.strip())


def find_header(top: Sequence[Row]) -> Header:
    """Which of the first rows names the columns. top: the first rows of the file.

    The first row as wide as the table is; rows above it are titles. Where it repeats names and the
    row above groups them, as merged cells do, both rows make the names. Where it reads like the row
    under it, the table has no header.
    """
    widths = Counter(filled(row) for row in top if filled(row) > 1)
    if not widths:
        return Header(next((n for n, row in enumerate(top, 1) if filled(row)), 1))
    usual = max(widths.items(), key=lambda item: (item[1], item[0]))[0]
    # a header may leave one corner cell empty
    at = next((n for n, row in enumerate(top) if filled(row) >= max(2, usual - 1) and len(row) >= usual), 0)
    if at + 1 < len(top) and _like_data(top[at], top[at + 1]):
        return Header(at if at else 0)
    names = [cell.strip() for cell in top[at]]
    if at > 0 and filled(top[at - 1]) >= 2 and len(set(names)) < len(names):
        return Header(at + 1, 2)
    below = top[at + 1] if at + 1 < len(top) else ()
    if filled(top[at]) < usual and filled(below) >= usual and _texts(below) and at + 2 < len(top):
        return Header(at + 2, 2)
    return Header(at + 1)


def _texts(row: Row) -> bool:
    """Whether no filled cell is a number: the row names things."""
    _, received = read_numbers(
        pl.Series([cell.strip() or None for cell in row], dtype=pl.String), detect_decimal(pl.Series(list(row)))
    )
    return not bool((received == 0).any())


def _like_data(first: Row, second: Row) -> bool:
    """Whether a row that could be a header holds a date where the row under it holds one."""
    for a, b in zip(first, second, strict=False):
        if not (a.strip() and b.strip()):
            continue
        if (forms_like(a) & forms_like(b)) - {DateForm.YEAR, DateForm.SERIAL}:
            return True
    return False


def trailing_rows(bottom: Sequence[Row], width: int) -> int:
    """How many of the last rows are totals or notes. bottom: the last rows, without empty ones."""
    count = 0
    for row in reversed(bottom):
        cells = [cell.strip() for cell in row if cell.strip()]
        note = width > 1 and len(cells) == 1 and row[0].strip() == cells[0] and not forms_like(cells[0])
        total = bool(cells) and bool(_TOTALS.match(cells[0]))
        if not (note or total) or count >= 5:
            break
        count += 1
    return count


def table_of(rows: Sequence[Row], how: TableHow, sheets: tuple[str, ...] = ()) -> TextTable:
    """The table a grid holds, read as `how` says.

    Raises Refusal for a ragged row, a missing header, repeated column names, or no rows.
    """
    if how.header_row > len(rows):
        raise Refusal(f"There is no row {how.header_row} to take the column names from.", place=f"row {how.header_row}")
    body = [(how.header_row + n, list(row)) for n, row in enumerate(rows[how.header_row :], 1)]
    while body and not filled(body[-1][1]):
        body.pop()
    body = body[: len(body) - how.skip_last] if how.skip_last else body
    width = max((len(row) for _, row in body), default=0)
    header = _joined(rows[max(0, how.header_row - how.header_rows) : how.header_row])
    names = header if how.header_row else [f"column {n}" for n in range(1, width + 1)]
    left_out: list[NotTaken] = []
    kept_columns = list(range(len(names)))
    if how.empty_columns is LeftOut.LEFT_OUT:
        empty = [
            n for n, name in enumerate(names)
            if not name.strip() and not any(n < len(row) and row[n].strip() for _, row in body)
        ]  # fmt: skip
        kept_columns = [n for n in kept_columns if n not in empty]
        if empty:
            left_out.append(
                NotTaken(f"{len(empty)} empty column{'s' if len(empty) > 1 else ''} without a name", "empty_columns")
            )
    columns = column_names([names[n] for n in kept_columns], how.header_row)
    cells: list[list[str | None]] = []
    numbers: list[int] = []
    repeats = 0
    for number, row in body:
        if not filled(row):
            continue
        if (
            how.repeats is LeftOut.LEFT_OUT
            and how.header_row
            and [c.strip() for c in row] == [c.strip() for c in rows[how.header_row - 1]]
        ):
            repeats += 1
            continue
        _check_width(row, len(names), number)
        cells.append([row[n] or None if n < len(row) else None for n in kept_columns])
        numbers.append(number)
    if repeats:
        left_out.append(NotTaken(f"{repeats} row{'s' if repeats > 1 else ''} repeating the column names", "repeats"))
    if not cells:
        raise no_rows(how.header_row, columns)
    return TextTable(
        tuple(columns),
        pl.DataFrame(cells, schema=dict.fromkeys(columns, pl.String), orient="row"),
        pl.Series(numbers, dtype=pl.UInt32),
        tuple(left_out),
        sheets,
    )


def _joined(rows: Sequence[Row]) -> list[str]:
    """Names from one or more header rows; a cell merged over several columns names all of them."""
    if not rows:
        return []
    width = max(len(row) for row in rows)
    names = [""] * width
    for depth, row in enumerate(rows):
        last = ""
        for n in range(width):
            cell = row[n].strip() if n < len(row) else ""
            last = cell or (last if depth < len(rows) - 1 else "")
            names[n] = f"{names[n]} {last or cell}".strip()
    return names


def _check_width(row: Row, width: int, number: int) -> None:
    over = len(row) > width and any(cell.strip() for cell in row[width:])
    under = len(row) < width
    if over or under:
        shown = " | ".join(row)
        raise Refusal(
            f"Row {number} has {len(row)} cells where the header has {width}.",
            place=f"row {number}: {shown if len(shown) <= 80 else shown[:77] + '…'}",
            todo="Mend the row, or choose another delimiter.",
        )


def column_names(header: Sequence[str], row: int) -> list[str]:
    """The names as written, trimmed; an unnamed column gets its place as a name.

    Raises Refusal where two columns have one name.
    """
    names = [" ".join(cell.split()) or f"column {n}" for n, cell in enumerate(header, 1)]
    seen: dict[str, int] = {}
    for place, name in enumerate(names, 1):
        if name in seen:
            raise Refusal(
                f"Two columns are both named “{name}”.",
                place=f"row {row}, columns {seen[name]} and {place}",
                todo="Give each column a name of its own, or take the row above into the names.",
            )
        seen[name] = place
    return names


def no_rows(header_row: int, columns: Sequence[str]) -> Refusal:
    return Refusal(
        "The file has a header and no rows under it.",
        place=f"row {header_row}: {', '.join(columns)}",
        todo="Choose a file with at least one row of data.",
    )


def frame_table(frame: pl.DataFrame, sheets: tuple[str, ...] = ()) -> TextTable:
    """A table that came with names and columns of its own, as text. Raises Refusal."""
    columns = column_names(frame.columns, 1)
    if frame.height == 0:
        raise no_rows(1, columns)
    texts = frame.select(pl.all().cast(pl.String, strict=False).replace("", None))
    return TextTable(
        tuple(columns),
        texts.rename(dict(zip(frame.columns, columns, strict=True))),
        row_numbers(1, frame.height),
        (),
        sheets,
    )
