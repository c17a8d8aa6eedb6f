"""Limits on what a file from elsewhere may take, checked beforehand."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np

from zembra.core.arithmetic.arrays import Ints
from zembra.core.errors import Refusal

MOST_COLUMNS = 5_000
MOST_CELLS = 30_000_000  # rows times columns
LONGEST_CELL = 1_000_000  # letters
LONGEST_LINE = 8_000_000  # letters
MOST_UNPACKED = 512 * 1024**2  # bytes
_DELIMITERS = b",;\t|"


def check_columns(count: int) -> None:
    """Raise Refusal for too many columns."""
    if count > MOST_COLUMNS:
        raise Refusal(
            f"The table has {_said(count)} columns, more than {_said(MOST_COLUMNS)}, the most Zembra reads.",
            todo="Leave out columns, or put one date and one value in a row.",
        )


def check_cells(rows: int, columns: int) -> None:
    """Raise Refusal for too many cells."""
    if rows * columns > MOST_CELLS:
        raise Refusal(
            f"The table has {_said(rows)} rows and {_said(columns)} columns: more than {_said(MOST_CELLS)} cells, the "
            "most Zembra reads.",
            todo="Cut it into smaller files, or leave out columns.",
        )


def line_edges(text: bytes) -> Ints:
    """Return the positions of line ends, from −1 to the length of the text."""
    ends = np.flatnonzero(np.frombuffer(text, dtype=np.uint8) == ord("\n"))
    return np.concatenate(([-1], ends, [len(text)]))


def check_lines(text: bytes) -> None:
    """Raise Refusal if a line is too long or has too many cells."""
    longest = MOST_COLUMNS  # a line that is shorter cannot have too many cells
    start = 0
    while start < len(text):
        # from one line end to the last one within reach: most lines are passed over unseen
        end = text.rfind(b"\n", start, start + longest + 1)
        if end < 0:
            found = text.find(b"\n", start + longest)
            end = len(text) if found < 0 else found
            longest = max(longest, end - start)
            _check_line(text[start:end], text.count(b"\n", 0, start) + 1)
        start = end + 1


def _check_line(line: bytes, number: int) -> None:
    if len(line) > LONGEST_LINE:
        raise Refusal(
            f"A line of the file is {_said(len(line))} bytes long, more than {_said(LONGEST_LINE)}, the most "
            "Zembra reads.",
            place=f"line {number}",
            todo="Give the table one line for each row.",
        )
    check_columns(max(line.count(bytes([delimiter])) for delimiter in _DELIMITERS) + 1)


def check_lengths(columns: Sequence[str], longest: Sequence[int | None]) -> None:
    """Raise Refusal for too long cells.

    longest: bytes of the longest cell of each column
    """
    for name, length in zip(columns, longest, strict=True):
        if length is not None and length > LONGEST_CELL:
            raise too_long_a_cell(f"column “{name}”")


def too_long_a_cell(place: str) -> Refusal:
    return Refusal(
        f"A cell of the file is longer than {_said(LONGEST_CELL)} bytes, the most Zembra reads.",
        place=place,
        todo="Look whether a quotation mark is missing, or leave that column out.",
    )


def too_large_unpacked() -> Refusal:
    return Refusal(
        f"The file unpacks to more than {MOST_UNPACKED // 1024**2} MB, the most Zembra reads.",
        todo="Cut it into smaller files.",
    )


def _said(count: int) -> str:
    return f"{count:,}"
