"""Report on a file's numbers: cells without one, text beside them, unusual notation."""

from __future__ import annotations

from collections.abc import Iterator, Sequence

import numpy as np
import polars as pl

from zembra.core.arithmetic.arrays import Floats
from zembra.core.english import counted, listed, number
from zembra.core.intake.datecolumns import numeric_share
from zembra.core.intake.detect import NUMERIC_SHARE, numbers_rows
from zembra.core.intake.howread import HowRead, ValueKind
from zembra.core.intake.joining import periods_across
from zembra.core.intake.numbers import CellMeaning, Writing, detect_decimal, read_cells
from zembra.core.intake.numberwords import Standing
from zembra.core.intake.observe import Observations
from zembra.core.intake.table import TextTable

FEWEST = 8  # numbers of a column, of which a few can be unlike the others
FEW = 0.02  # of them
MOST_SHOWN = 3
PARTLY = 0.1  # of the cells of a column
LOOKED_AT = 500  # cells
LONGEST = 200_000  # cells of a column that are looked at for how they are written
_BRACKETS = {"[": "square brackets", "<": "angle brackets"}


def told_of_numbers(table: TextTable, how: HowRead, observations: Observations) -> list[str]:
    """Return sentences that name a column, a count and some rows."""
    if how.values.kind is ValueKind.EVENTS:
        return []
    told: list[str] = []
    for column, said in observations.said.items():
        told += _of_column(column, said)
    if how.values.kind is ValueKind.COLUMNS:
        for column in _with_a_few_unlike(how, observations):
            told += _written_unlike(table, how, column, observations.said.get(column, ()))
        told += _partly_numbers(table, how)
    else:
        told += _beside_periods(table, how)
    return told


def _of_column(column: str, said: tuple[CellMeaning, ...]) -> Iterator[str]:
    where = f" in {column}" if column else ""
    words = [alike for alike in said if alike.beside is None and not any(map(str.isdigit, "".join(alike.texts)))]
    if words:
        total = sum(alike.count for alike in words)
        yield f"{counted(total, 'cell')}{where} {'hold' if total > 1 else 'holds'} words and no number: {_shown(words)}."
    read = [alike for alike in said if alike.beside is not None and alike.beside.read]
    sizes = [alike for alike in read if alike.beside and alike.beside.size]
    for size in dict.fromkeys(alike.beside.size for alike in sizes if alike.beside):
        own = [alike for alike in sizes if alike.beside and alike.beside.size == size]
        total = sum(alike.count for alike in own)
        factor = own[0].beside.factor if own[0].beside else 1.0
        yield f"{counted(total, 'number')}{where} {'say' if total > 1 else 'says'} {size}, and {'are' if total > 1 else 'is'} read times {number(factor)}: {_shown(own)}."
    for bracket, name in _BRACKETS.items():
        own = [alike for alike in read if alike.beside and alike.beside.bracket == bracket]
        if own:
            total = sum(alike.count for alike in own)
            yield f"{counted(total, 'number')}{where} in {name} {'are' if total > 1 else 'is'} read as negative: {_shown(own)}."
    down = [alike for alike in read if alike.beside and alike.beside.down]
    if down:
        total = sum(alike.count for alike in down)
        yield f"{counted(total, 'number')}{where} with a triangle {'are' if total > 1 else 'is'} read as negative: {_shown(down)}."
    # what says that it is provisional, estimated or foreseen is told by itself
    noted = [
        alike for alike in read
        if alike.beside and alike.beside.note and alike.beside.standing in (None, Standing.REVISED, Standing.FLAGGED)
    ]  # fmt: skip
    if noted:
        total = sum(alike.count for alike in noted)
        marks = listed(list(dict.fromkeys(alike.beside.note for alike in noted if alike.beside))[:6])
        yield f"{counted(total, 'number')}{where} {'carry' if total > 1 else 'carries'} a mark ({marks}), as of a footnote; it stays in the cell text: {_shown(noted)}."


def _shown(said: list[CellMeaning]) -> str:
    pairs = [(text, row) for alike in said for text, row in zip(alike.texts, alike.places, strict=True)]
    return listed([f"“{text}” (row {row})" for text, row in pairs[:MOST_SHOWN]])


def _with_a_few_unlike(how: HowRead, observations: Observations) -> list[str]:
    """Return columns with a few fractions among integers, or a few numbers of the other sign."""
    found: list[str] = []
    for columns, values in _values_by_columns(how, observations):
        nothing = np.count_nonzero(np.isnan(values), axis=1)
        known = values.shape[1] - nothing
        # what is no number differs from every other
        fractions = np.count_nonzero(values != np.floor(values), axis=1) - nothing
        below = np.count_nonzero(values < 0, axis=1)
        few = np.maximum(1, (FEW * known).astype(np.int64))
        # whole numbers among fractions come by chance
        odd = [(count > 0) & (count <= few) for count in (fractions, below, known - below)]
        found += [columns[n] for n in np.flatnonzero((odd[0] | odd[1] | odd[2]) & (known >= FEWEST)).tolist()]
    return found


def _values_by_columns(how: HowRead, observations: Observations) -> Iterator[tuple[Sequence[str], Floats]]:
    """Return columns and their numbers, a row each."""
    columns = how.values.columns
    if how.series.column is None and len(observations.frames) == 1 and len(columns) == len(observations.series):
        (frame,) = observations.frames.values()
        # columns that are series stand one under the other
        yield columns, frame["value"].to_numpy().reshape(len(columns), -1)
        return
    for column in columns:
        if column in observations.frames:
            yield (column,), observations.frames[column]["value"].to_numpy().reshape(1, -1)


def _written_unlike(table: TextTable, how: HowRead, column: str, said: tuple[CellMeaning, ...]) -> Iterator[str]:
    """Report a few numbers with decimals, signs or digits that no other has."""
    cells = table.cells[column]
    if cells.len() > LONGEST:
        return
    value = read_cells(cells, how.values.writing(column)).value
    # numbers with a magnitude are already reported
    sized = [row for alike in said if alike.beside and alike.beside.size for row in alike.places]
    known = value.is_not_null() & ~table.numbers.is_in(sized)
    count = int(known.sum())
    if count < FEWEST:
        return
    decimals = cells.str.strip_chars().str.extract(r"[.,·](\d*)\D*$", 1).str.len_chars().fill_null(0)
    kinds = (
        pl.DataFrame({"known": known, "decimals": decimals, "below": value < 0}).with_row_index("at").filter("known")
    )
    for name, what in (("decimals", "written unlike the others"), ("below", "on another side of zero than the others")):
        groups = kinds.group_by(name).agg(pl.len(), pl.col("at").head(MOST_SHOWN)).sort("len", descending=True)
        odd = groups.filter(pl.col("len") <= max(1, FEW * count))
        if groups.height - odd.height != 1 or not odd.height:
            continue
        places = np.sort(np.array([at for found in odd["at"] for at in found]))[:MOST_SHOWN].tolist()
        total = int(odd["len"].sum())
        shown = listed([f"“{cells[at]}” (row {table.row_number(at)}) is {number(float(value[at]))}" for at in places])
        yield f"{counted(total, 'number')} in {column} {'are' if total > 1 else 'is'} {what}: {shown}."


def _partly_numbers(table: TextTable, how: HowRead) -> Iterator[str]:
    """Report unread columns that contain numbers."""
    used = {how.dates.column, *how.dates.more, how.series.column, *how.series.more, *how.values.columns}
    used |= {condition.column for condition in how.keep}
    for name in [name for name in table.columns if name not in used]:
        cells = table.cells[name].head(LOOKED_AT).drop_nulls()
        if not cells.len() or numbers_rows(table.cells[name]):
            continue
        share = numeric_share(cells)
        if PARTLY <= share < NUMERIC_SHARE:
            yield f"{name} is not read: {share:.0%} of its cells are numbers, the others are not, such as {_not_a_number(cells)}."


def _not_a_number(cells: pl.Series) -> str:
    value = read_cells(cells, Writing(detect_decimal(cells))).value
    return f"“{cells.filter(value.is_null())[0]}”"


def _beside_periods(table: TextTable, how: HowRead) -> Iterator[str]:
    """Report unread number columns beside periods."""
    used = {how.dates.column, *how.dates.more, how.series.column, *how.series.more, *periods_across(table, how)}
    left = [name for name in table.columns if name not in used]
    held = [name for name in left if read_cells(table.cells[name], how.values.writing()).value.is_not_null().any()]
    if held:
        yield f"Not read, as their names are no periods like the others: {listed(held[:12])}."
