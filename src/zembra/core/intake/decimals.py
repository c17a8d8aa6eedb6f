"""Which decimal mark the numbers of a table are written with, by its cells and by what its columns add up to."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
import polars as pl

from zembra.core.intake.numbers import DecimalMark, detect_decimal, read_numbers, says_decimal

FEWEST_COLUMNS = 3
FEWEST_SUMS = 4  # rows
NEARLY_ALL = 0.95  # of the rows
ROUNDED = 1e-6  # of a sum
MOST_COLUMNS = 40  # looked at for sums
# whole below a thousand, or three digits behind a mark that may part thousands
_EITHER = r"^\D*[1-9]\d{0,2}[.,]\d{3}\D*$"
_WHOLE = r"^\D*\d{1,3}\D*$"


@dataclass(frozen=True, slots=True)
class Doubt:
    """A column whose numbers can be read in two ways. text: a cell that shows it, at row place `at` of the column."""

    column: int
    at: int
    text: str


def across(cells: pl.DataFrame) -> list[pl.Series]:
    """Rows of numbers as columns: what stands in a row is written alike, and rows may add up to another."""
    if cells.height > MOST_COLUMNS:
        return [pl.concat([cells[name].rename("cell") for name in cells.columns])]
    return cells.transpose().get_columns()


def decimal_of(columns: Sequence[pl.Series]) -> DecimalMark:
    """The mark of a table's columns of numbers: what any cell shows, else that under which columns add up to another."""
    cells = pl.concat([column.rename("cell") for column in columns])
    if says_decimal(cells) or doubt_of(columns) is None:
        return detect_decimal(cells)
    return adding_up(columns) or DecimalMark.POINT


def doubt_of(columns: Sequence[pl.Series]) -> Doubt | None:
    """The first column that nothing decides for: every cell has three digits behind its only mark, or none."""
    for n, column in enumerate(columns):
        texts = column.str.strip_chars()
        parted = texts.str.contains(_EITHER).fill_null(False)
        if int(parted.sum()) < 2:
            continue
        filled = texts.filter(texts.str.contains(r"\d").fill_null(False))
        points = texts.filter(parted).str.contains(".", literal=True)
        if not (points.all() or not points.any()) or not bool(
            (filled.str.contains(_EITHER) | filled.str.contains(_WHOLE)).all()
        ):
            continue
        # commas that part thousands are the rule where nothing speaks for a decimal comma
        if points.any() and texts.filter(parted).n_unique() > 1:
            at = int(parted.arg_true()[0])
            return Doubt(n, at, str(texts[at]))
    return None


def adding_up(columns: Sequence[pl.Series]) -> DecimalMark | None:
    """The only mark under which one column is the sum of the others, row by row; None where both or none are."""
    if not FEWEST_COLUMNS <= len(columns) <= MOST_COLUMNS:
        return None
    found = [mark for mark in DecimalMark if _sums(columns, mark)]
    return found[0] if len(found) == 1 else None


def _sums(columns: Sequence[pl.Series], mark: DecimalMark) -> bool:
    values = np.array([read_numbers(column, mark)[0].to_numpy() for column in columns])
    known = values[:, ~np.isnan(values).any(axis=0)]
    if known.shape[1] < FEWEST_SUMS:
        return False
    rest = known.sum(axis=0) - known
    same = np.abs(rest - known) <= ROUNDED * np.maximum(np.abs(known), 1e-9)
    return bool((same.mean(axis=1) >= NEARLY_ALL).any())
