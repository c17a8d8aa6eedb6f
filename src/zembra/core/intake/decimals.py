"""Which decimal mark the numbers of a table are written with: for each column the only one that reads it, or what decides."""

from __future__ import annotations

import re
from collections import Counter
from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
import polars as pl

from zembra.core.intake.numbers import DecimalMark, Writing, read_cells, read_numbers

FEWEST_COLUMNS = 3
FEWEST_SUMS = 4  # rows
NEARLY_ALL = 0.95  # of the rows
ROUNDED = 1e-6  # of a sum
MOST_COLUMNS = 40  # looked at for sums
FEWEST_WHOLE = 2  # numbers below a thousand beside others with three digits behind a mark
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
    """A column whose numbers can be read in two ways. text: a cell that shows it, at row place `at` of the column. mixed:
    whether some of its cells have the one mark and some the other."""

    column: int
    at: int
    text: str
    mixed: bool = False


@dataclass(frozen=True, slots=True)
class Marks:
    """decimal: the mark of the table. others: the columns that are written with the other one. doubt: what nothing decides.
    reason: what decided where the cells of a column alone did not."""

    decimal: DecimalMark = DecimalMark.POINT
    others: tuple[int, ...] = ()
    doubt: Doubt | None = None
    reason: str = ""


@dataclass(frozen=True, slots=True)
class About:
    """What is known of a table beside its numbers. names: of its columns. day_and_dots: whether its cells are parted by
    semicolons and its dates are days and months with points between."""

    names: Sequence[str] = ()
    day_and_dots: bool = False


def across(cells: pl.DataFrame) -> list[pl.Series]:
    """Rows of numbers as columns: what stands in a row is written alike, and rows may add up to another."""
    if cells.height > MOST_COLUMNS:
        return [pl.concat([cells[name].rename("cell") for name in cells.columns])]
    return cells.transpose().get_columns()


def marks_of(columns: Sequence[pl.Series], about: About = About()) -> Marks:
    """The marks of a table's columns of numbers."""
    own = [_own_mark(column) for column in columns]
    decided = Counter(mark for mark in own if isinstance(mark, DecimalMark))
    mixed = next((mark for mark in own if isinstance(mark, Doubt)), None)
    if decided:
        usual = max(decided, key=lambda mark: decided[mark])
        others = tuple(n for n, mark in enumerate(own) if isinstance(mark, DecimalMark) and mark is not usual)
        shown = next(n for n, mark in enumerate(own) if mark is usual)
        reason = f"as {_named(about, shown)} is" if any(mark is None for mark in own) else ""
        return Marks(usual, others, _at(mixed, own), reason)
    if mixed is not None:
        return Marks(DecimalMark.POINT, doubt=_at(mixed, own))
    doubt = next((found for n, column in enumerate(columns) if (found := _doubt(n, column)) is not None), None)
    if doubt is None:
        return Marks()
    mark, reason = _by_evidence(columns, doubt, about)
    if mark is not None:
        return Marks(mark, reason=reason)
    # nothing decides: the mark that stands there is taken for the decimal one until it is answered, but for commas
    return Marks(DecimalMark.POINT, doubt=doubt)


def _named(about: About, place: int) -> str:
    return about.names[place] if place < len(about.names) else "another row"


def _at(mixed: Doubt | None, own: Sequence[DecimalMark | Doubt | None]) -> Doubt | None:
    if mixed is None:
        return None
    return Doubt(own.index(mixed), mixed.at, mixed.text, mixed=True)


def _own_mark(column: pl.Series) -> DecimalMark | Doubt | None:
    """The mark that alone reads a column's cells; None where both read them. A doubt where some cells need the one and some
    the other."""
    texts = column.gather_every(max(1, column.len() // MOST_CELLS)).drop_nulls()
    texts = texts.filter(texts.str.contains(r"\d.*[.,]|[.,]\d"))
    if not texts.len():
        return None
    point, comma = (read_cells(texts, Writing(mark)).value for mark in MARKS)
    only_point, only_comma = (point.is_not_null() & comma.is_null()), (comma.is_not_null() & point.is_null())
    points, commas = int(only_point.sum()), int(only_comma.sum())
    if points and commas and min(points, commas) * 10 >= max(points, commas):
        text = str(texts.filter(only_comma)[0])
        return Doubt(0, int((column == text).arg_max() or 0), text, mixed=True)
    # one cell, which may be a slip of the hand, does not decide for many that both marks read
    doubtful = int((point != comma).fill_null(False).sum())
    if points != commas and not (max(points, commas) == 1 and doubtful >= MANY):
        return DecimalMark.POINT if points > commas else DecimalMark.COMMA
    return None


def _doubt(place: int, column: pl.Series) -> Doubt | None:
    """The first cell of a column that both marks read, as two numbers."""
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
    """The mark that something beside the cells of the column decides for, and what it was."""
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
    """The only mark under which one column is the sum of the others, row by row; None where both or none are."""
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
