"""Turn a grid of cells into a table: find its header and the rows that are no data."""

from __future__ import annotations

from collections import Counter
from collections.abc import Sequence

import polars as pl

from zembra.core.english import counted
from zembra.core.errors import Refusal
from zembra.core.intake.bounds import check_columns
from zembra.core.intake.howread import Headings, LeftOut, TableHow
from zembra.core.intake.layout import Row, filled, names_year, part_of_year, years_over_months
from zembra.core.intake.months import month_numbers
from zembra.core.intake.table import NotTaken, TextTable, row_numbers

BLOCK = "block"


def table_of(rows: Sequence[Row], how: TableHow, sheets: tuple[str, ...] = ()) -> TextTable:
    """Return the table in a grid. Raises Refusal for ragged rows, a missing header, or no rows."""
    if how.header_row > len(rows):
        raise Refusal(f"There is no row {how.header_row} to take the column names from.", place=f"row {how.header_row}")
    if how.last_row:
        rows = rows[: how.last_row]
    above = max(how.header_row, how.first_row - 1)
    body = [(above + n, list(row)) for n, row in enumerate(rows[above:], 1)]
    while body and not filled(body[-1][1]):
        body.pop()
    body = body[: len(body) - how.skip_last] if how.skip_last else body
    left_out: list[NotTaken] = []
    body = _without_remarks(body, how, left_out)
    if how.units_row is LeftOut.LEFT_OUT and body:
        left_out.append(NotTaken(f"The row of units (row {body[0][0]})", "units_row"))
        body = body[1:]
    block: list[str] = []
    if how.headings is Headings.BLOCK:
        body, block = _blocks(body, rows, how)
    width = max((len(row) for _, row in body), default=0)
    names = _header(rows, how) if how.header_row else [f"column {n}" for n in range(1, width + 1)]
    names = _fitted(names, [row for _, row in body if filled(row)])
    kept_columns = list(range(len(names)))
    if how.empty_columns is LeftOut.LEFT_OUT:
        empty = [
            n for n, name in enumerate(names)
            if not name.strip() and not any(n < len(row) and row[n].strip() for _, row in body)
        ]  # fmt: skip
        kept_columns = [n for n in kept_columns if n not in empty]
        if empty:
            left_out.append(NotTaken(f"{counted(len(empty), 'empty column')} without a name", "empty_columns"))
    columns = column_names([names[n] for n in kept_columns])
    cells: list[list[str | None]] = []
    numbers: list[int] = []
    headings: list[str] = []
    repeats = 0
    short: list[int] = []
    header = [cell.strip() for cell in rows[how.header_row - 1]] if how.header_row else None
    for place, (number, row) in enumerate(body):
        if not filled(row):
            continue
        if how.repeats is LeftOut.LEFT_OUT and header is not None and [c.strip() for c in row] == header:
            repeats += 1
            continue
        if len(row) != len(names) and _ragged(row, len(names), number):
            short.append(number)
        cells.append([row[n] or None if n < len(row) else None for n in kept_columns])
        numbers.append(number)
        if block:
            headings.append(block[place])
    left_out.extend(repeats_left_out(repeats))
    if len(short) > max(1, MOST_RAGGED * len(cells)):
        at = numbers.index(short[0])
        raise _not_fitting([cell or "" for cell in cells[at]][: len(rows[short[0] - 1])], len(names), short[0])
    if not cells:
        raise no_rows(how.header_row, columns)
    frame = pl.DataFrame(cells, schema=dict.fromkeys(columns, pl.String), orient="row")
    if headings:
        name = column_names([*columns, BLOCK])[-1]
        frame = frame.insert_column(0, pl.Series(name, headings, dtype=pl.String))
    remarks = (
        (
            f"{counted(len(short), 'row')} {'have' if len(short) > 1 else 'has'} not as many cells as there are names, such as row "
            f"{short[0]}: what is missing is empty, what is over is left out.",
        )
        if short
        else ()
    )
    return TextTable(
        tuple(frame.columns), frame, pl.Series(numbers, dtype=pl.UInt32), tuple(left_out), sheets, remarks=remarks
    )


def repeats_left_out(count: int) -> tuple[NotTaken, ...]:
    if not count:
        return ()
    return (NotTaken(f"{count} row{'s' if count > 1 else ''} repeating the column names", "repeats"),)


_Body = list[tuple[int, list[str]]]


def _without_remarks(body: _Body, how: TableHow, left_out: list[NotTaken]) -> _Body:
    if not how.comments:
        return body
    kept = [(number, row) for number, row in body if not (row and row[0].lstrip().startswith(how.comments))]
    if len(kept) < len(body):
        many = len(body) - len(kept)
        left_out.append(NotTaken(f"{many} line{'s' if many > 1 else ''} of remarks", "comments"))
    return kept


def _blocks(body: _Body, rows: Sequence[Row], how: TableHow) -> tuple[_Body, list[str]]:
    """Remove headings among rows, and return each row's heading."""
    above = [
        row[0].strip()
        for row in rows[: max(0, how.header_row - how.header_rows)]
        if filled(row) == 1 and row[0].strip()
    ]
    heading = above[-1] if above else ""
    alone = [row[0].strip() for _, row in body if filled(row) == 1 and row[0].strip()]
    years = any(names_year(text) for text in alone)
    kept: _Body = []
    block: list[str] = []
    for number, row in body:
        # below years, a lone month is one without a number
        if filled(row) == 1 and row[0].strip() and not (years and part_of_year(row[0])):
            heading = row[0].strip()
            continue
        kept.append((number, row))
        block.append(heading)
    return kept, block


def _header(rows: Sequence[Row], how: TableHow) -> list[str]:
    named = rows[max(0, how.header_row - how.header_rows) : how.header_row]
    if len(named) == 2 and years_over_months(named[0], named[1]):
        named = [_counted_on(named[0], named[1]), named[1]]
    names = _joined(named)
    if how.comments and names:
        names[0] = names[0].removeprefix(how.comments).strip()
    return names


def _fitted(names: list[str], body: Sequence[Row]) -> list[str]:
    """Fit names to the columns: ignore trailing separators, and a row-name column without header."""
    widths = {len(row) for row in body}
    if len(widths) != 1:
        return names
    width = widths.pop()
    while len(names) > width and not names[-1].strip():
        names = names[:-1]
    if width == len(names) + 1 and all(row[-1].strip() or not row[0].strip() for row in body):
        return ["", *names]
    return names


def _counted_on(years: Row, months: Row) -> list[str]:
    """Write out years over months where a year is written once."""
    made: list[str] = []
    year, last = "", 0
    for n, name in enumerate(months):
        month = month_numbers([name.strip(" .")]).get(name.strip(" .").lower(), 0)
        written = years[n].strip() if n < len(years) else ""
        if not written and year.isdigit() and 0 < month < last:
            written = str(int(year) + 1)
        year, last = written or year, month
        made.append(year if name.strip() else "")
    return made


def _joined(rows: Sequence[Row]) -> list[str]:
    """Join header rows; a merged cell names all its columns."""
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


MOST_RAGGED = 0.34  # of the rows: more of them speak for another delimiter


def _ragged(row: Row, width: int, number: int) -> bool:
    """Return whether a row has too few cells or extra text cells. Raises Refusal for a lone cell, and for unnamed
    numbers, which may be parts of numbers cut by a decimal mark.
    """
    further = [cell for cell in row[width:] if cell.strip()]
    # a text that stands alone may begin another table
    alone = len(row) < width and filled(row) < 2
    if alone or any(any(letter.isdigit() for letter in cell) for cell in further):
        raise _not_fitting(row, width, number)
    return bool(further) or len(row) < width


def _not_fitting(row: Row, width: int, number: int) -> Refusal:
    shown = " | ".join(row)
    return Refusal(
        f"Row {number} has {len(row)} cells where the header has {width}.",
        place=f"row {number}: {shown if len(shown) <= 80 else shown[:77] + '…'}",
        todo="Mend the row, or choose another delimiter.",
    )


def column_names(header: Sequence[str]) -> list[str]:
    """Return unique, trimmed names: unnamed columns get their position, repeated ones a number. Raises Refusal for
    too many.
    """
    check_columns(len(header))
    names: dict[str, None] = {}
    again: Counter[str] = Counter()
    for n, cell in enumerate(header, 1):
        plain = " ".join(cell.split()) or f"column {n}"
        name = plain
        while name in names:
            again[plain] += 1
            name = f"{plain} ({again[plain] + 1})"
        names[name] = None
    return list(names)


def no_rows(header_row: int, columns: Sequence[str]) -> Refusal:
    return Refusal(
        "The file has a header and no rows under it.",
        place=f"row {header_row}: {', '.join(columns)}",
        todo="Choose a file with at least one row of data.",
    )


def frame_table(frame: pl.DataFrame, sheets: tuple[str, ...] = ()) -> TextTable:
    """Return a table that came with named columns. Raises Refusal."""
    columns = column_names(frame.columns)
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
