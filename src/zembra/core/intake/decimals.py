"""Decide the decimal mark of a table."""

from __future__ import annotations

import re
from collections import Counter
from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
import polars as pl

from zembra.core.intake.numbercell import DecimalMark
from zembra.core.intake.numbers import Writing, read_cells, read_numbers

FEWEST_COLUMNS = 3
FEWEST_SUMS = 4  # rows
NEARLY_ALL = 0.95  # of the rows
ROUNDED = 1e-6  # of a sum
MOST_COLUMNS = 40  # looked at for sums
FEWEST_WHOLE = 2  # numbers below a thousand beside others with three digits behind a mark
SURE = 2  # cells that show the mark of a table
MANY = 10  # cells that both marks read
MOST_CELLS = 4_000  # of a column, looked at
MARKS = (DecimalMark.POINT, DecimalMark.COMMA)
_WHOLE = r"^\D*[1-9]\d{0,2}\D*$"
_MARKED = r"\d[.,]\d{3}(?:\D|$)"
_ONE_DIGIT = r"^\D*\d[.,]\d{3}\D*$"
_RATE = re.compile(
    r"(?i:/ ?(?:l|kg|t|kwh|mwh|gal|h|m[²³23]?)\b|(?:^|[^a-z])(?:rate|kurs|fx|exchange)(?:$|[^a-z]))|^[A-Z]{3}/?[A-Z]{3}$"
)


@dataclass(frozen=True, slots=True)
class Doubt:
    """An ambiguous column.

    text: an example cell in row `at`
    mixed: whether both marks occur
    """

    column: int
    at: int
    text: str
    mixed: bool = False


@dataclass(frozen=True, slots=True)
class DecimalMarks:
    """The decimal marks of a table.

    decimal: of the table
    own: by column, as its cells prove; None if they do not
    doubt: an ambiguous column
    reason: what decided, or empty
    """

    decimal: DecimalMark = DecimalMark.POINT
    own: tuple[DecimalMark | None, ...] = ()
    doubt: Doubt | None = None
    reason: str = ""

    def others(self, decimal: DecimalMark) -> tuple[int, ...]:
        """The columns written with the other mark."""
        return tuple(n for n, mark in enumerate(self.own) if mark is not None and mark is not decimal)


@dataclass(frozen=True, slots=True)
class About:
    """What else is known of a table.

    names: of its columns
    day_and_dots: whether it has semicolons and dotted dates
    """

    names: Sequence[str] = ()
    day_and_dots: bool = False


def across(cells: pl.DataFrame) -> list[pl.Series]:
    """Transpose rows of numbers to columns, as a row is written alike."""
    if cells.height > MOST_COLUMNS:
        return [pl.concat([cells[name].rename("cell") for name in cells.columns])]
    return cells.transpose().get_columns()


def marks_of(columns: Sequence[pl.Series], about: About = About()) -> DecimalMarks:
    """Decide the marks of all number columns."""
    plain = _plainly_pointed(columns)
    shown = [_PLAIN if sure else _shown_by(column) for column, sure in zip(columns, plain, strict=True)]
    own = tuple(seen.mark for seen in shown)
    mixed = next((n for n, seen in enumerate(shown) if seen.mixed is not None), None)
    if mixed is not None:
        found = shown[mixed].mixed
        assert found is not None
        usual = next((mark for mark in own if mark is not None), DecimalMark.POINT)
        return DecimalMarks(usual, own, Doubt(mixed, found.at, found.text, mixed=True))
    # a single cell proves nothing for other columns
    decided = Counter(seen.mark for seen in shown if seen.mark is not None and seen.cells >= SURE)
    doubt = next((found for n, column in enumerate(columns) if own[n] is None and (found := _doubt(n, column))), None)
    if decided:
        usual = max(decided, key=lambda mark: decided[mark])
        return DecimalMarks(usual, own, doubt, f"as {_named(about, own.index(usual))} is" if doubt else "")
    if doubt is None:
        return DecimalMarks(next((mark for mark in own if mark is not None), DecimalMark.POINT), own)
    mark, reason = _by_evidence(columns, doubt, about)
    return DecimalMarks(mark or DecimalMark.POINT, own, doubt, reason)


def _named(about: About, place: int) -> str:
    return about.names[place] if place < len(about.names) else "another row"


@dataclass(frozen=True, slots=True)
class _Shown:
    """What the cells of a column prove: its mark, by how many cells; or examples of both."""

    mark: DecimalMark | None = None
    cells: int = 0
    mixed: Doubt | None = None


_PLAIN = _Shown(DecimalMark.POINT, SURE)


def _plainly_pointed(columns: Sequence[pl.Series]) -> list[bool]:
    """Find columns without commas and with two or more certain decimal points, many columns at once."""
    if not columns or len({column.len() for column in columns}) != 1:
        return [False] * len(columns)
    cells = pl.concat([column.rename("cell") for column in columns])
    shape = (len(columns), columns[0].len())
    point = cells.str.contains(r"^[-+]?\d+\.(?:\d{1,2}|\d{4,})$").fill_null(False).to_numpy().reshape(shape)
    other = cells.str.contains(r"[,·٫]|\..*\.").fill_null(False).to_numpy().reshape(shape)
    sure = ~other.any(axis=1) & (point.sum(axis=1) >= SURE)
    return [bool(column) for column in sure]


def _shown_by(column: pl.Series) -> _Shown:
    """Return the mark that the cells prove."""
    texts = column.gather_every(max(1, column.len() // MOST_CELLS)).drop_nulls()
    texts = texts.filter(texts.str.contains(r"\d.*[.,]|[.,]\d"))
    if not texts.len():
        return _Shown()
    point, comma = (read_cells(texts, Writing(mark)).value for mark in MARKS)
    only_point, only_comma = (point.is_not_null() & comma.is_null()), (comma.is_not_null() & point.is_null())
    points, commas = int(only_point.sum()), int(only_comma.sum())
    if points and commas and min(points, commas) * 10 >= max(points, commas):
        text = str(texts.filter(only_comma)[0])
        return _Shown(mixed=Doubt(0, int((column == text).arg_max() or 0), text, mixed=True))
    # one cell, which may be a slip of the hand, does not decide for many that both marks read
    doubtful = int((point != comma).fill_null(False).sum())
    if points == commas or (max(points, commas) == 1 and doubtful >= MANY):
        return _Shown()
    return _Shown(DecimalMark.POINT if points > commas else DecimalMark.COMMA, max(points, commas))


def _doubt(place: int, column: pl.Series) -> Doubt | None:
    """Return the first cell that both marks read as different numbers."""
    texts = column.str.strip_chars()
    marked = texts.str.contains(_MARKED).fill_null(False)
    if not marked.any():
        return None
    at = marked.arg_true()
    few = texts.gather(at.head(MOST_CELLS))
    point, comma = (read_numbers(few, mark)[0] for mark in MARKS)
    differ = (point != comma).fill_null(False)
    if not differ.any():
        return None
    first = int(differ.arg_max() or 0)
    return Doubt(place, int(at[first]), str(few[first]))


def _by_evidence(columns: Sequence[pl.Series], doubt: Doubt, about: About) -> tuple[DecimalMark | None, str]:
    """Return the mark that other evidence favours, and that evidence."""
    sums = adding_up(columns)
    if sums is not None:
        return sums, "as the numbers of a row add up then"
    texts = columns[doubt.column].drop_nulls().str.strip_chars()
    marked = texts.filter(texts.str.contains(_MARKED))
    stands = DecimalMark.COMMA if "," in doubt.text else DecimalMark.POINT
    groups = DecimalMark.POINT if stands is DecimalMark.COMMA else DecimalMark.COMMA
    if int(texts.str.contains(_WHOLE).sum()) >= FEWEST_WHOLE and marked.len() >= FEWEST_WHOLE:
        return groups, "as whole numbers below a thousand stand beside them"
    name = about.names[doubt.column] if doubt.column < len(about.names) else ""
    if _RATE.search(name) and bool(marked.str.contains(_ONE_DIGIT).all()):
        return stands, "as is usual for a rate"
    if about.day_and_dots:
        return DecimalMark.COMMA, "as is usual where semicolons part the cells and points the dates"
    return None, ""


def adding_up(columns: Sequence[pl.Series]) -> DecimalMark | None:
    """Return the only mark under which one column is the sum of the others, or None."""
    if not FEWEST_COLUMNS <= len(columns) <= MOST_COLUMNS:
        return None
    found = [mark for mark in MARKS if _sums(columns, mark)]
    return found[0] if len(found) == 1 else None


def _sums(columns: Sequence[pl.Series], mark: DecimalMark) -> bool:
    values = np.array([read_numbers(column, mark)[0].to_numpy() for column in columns])
    known = values[:, ~np.isnan(values).any(axis=0)]
    if known.shape[1] < FEWEST_SUMS:
        return False
    rest = known.sum(axis=0) - known
    same = np.abs(rest - known) <= ROUNDED * np.maximum(np.abs(known), 1e-9)
    return bool((same.mean(axis=1) >= NEARLY_ALL).any())
