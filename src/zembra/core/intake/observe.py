"""A text table and how it is read, to observations: moments, numbers and what each cell was."""

from __future__ import annotations

import hashlib
from collections.abc import Mapping
from dataclasses import dataclass

import polars as pl

from zembra.core.errors import Refusal
from zembra.core.intake.dates import DateForm, fitting_forms, read_dates
from zembra.core.intake.howread import HowRead
from zembra.core.intake.numbers import read_numbers
from zembra.core.intake.table import TextTable

MOST_UNDATED_LISTED = 200


@dataclass(frozen=True, slots=True)
class Undated:
    """A row left out because its date cell is empty or is no date."""

    row: int
    text: str


@dataclass(frozen=True, slots=True)
class Observations:
    """What came in, in long form.

    frames: per measure, a table with the columns series (UInt32, a place in `series`), when
        (Datetime ms), value (Float64, null where none), received (UInt8), text (the cell) and row
        (UInt32, the row's number in the file).
    digest: hash of the file's bytes and of how they were read.
    """

    frames: Mapping[str, pl.DataFrame]
    series: tuple[str, ...]
    undated: tuple[Undated, ...]
    undated_count: int
    digest: str

    @property
    def measures(self) -> tuple[str, ...]:
        return tuple(self.frames)


def observation_digest(data_sha: str, how: HowRead) -> str:
    return hashlib.sha256(f"{data_sha}\n{how.model_dump_json()}".encode()).hexdigest()


def observe(table: TextTable, how: HowRead, data_sha: str = "") -> Observations:
    """Observations of a table. Raises Refusal for an unknown column or dates written in two ways."""
    for name in (how.dates.column, *([how.series.column] if how.series.column else []), *how.values.columns):
        if name not in table.columns:
            raise Refusal(
                f"There is no column named “{name}”.",
                place=f"the columns are {', '.join(table.columns)}",
                todo="Choose one of these columns.",
            )
    moments = read_dates(table.cells[how.dates.column], how.dates.form)
    dated = moments.is_not_null()
    undated, undated_count = _undated(table, how, dated)
    rows = pl.select(pl.int_range(table.first_row, table.first_row + table.height, dtype=pl.UInt32)).to_series()
    whole = undated_count == 0 and bool(dated.all())
    if not dated.any():
        cells = table.cells[how.dates.column].drop_nulls()
        raise Refusal(
            f"No cell of {how.dates.column} is a date written as {how.dates.form.label}.",
            place=f"row {table.first_row}: “{cells[0] if cells.len() else ''}”",
            todo="Choose another column, or another way of writing dates.",
        )

    def keep(column: pl.Series) -> pl.Series:
        return column if whole else column.filter(dated)

    when, numbers = keep(moments), keep(rows)
    if how.series.column:
        labels = keep(table.cells[how.series.column]).fill_null("(no name)").str.strip_chars()
        distinct = labels.unique(maintain_order=True)
        codes, names = labels.cast(pl.Enum(distinct)).to_physical().cast(pl.UInt32), distinct.to_list()
        frames = {column: _frame(codes, when, keep(table.cells[column]), numbers, how) for column in how.values.columns}
    else:
        names = list(how.values.columns)
        stacked = [
            _frame(
                pl.repeat(code, when.len(), dtype=pl.UInt32, eager=True), when, keep(table.cells[column]), numbers, how
            )
            for code, column in enumerate(names)
        ]
        measure = names[0] if len(names) == 1 else "values"
        frames = {measure: stacked[0] if len(stacked) == 1 else pl.concat(stacked)}
    return Observations(frames, tuple(names), undated, undated_count, observation_digest(data_sha, how))


def _frame(codes: pl.Series, when: pl.Series, cells: pl.Series, rows: pl.Series, how: HowRead) -> pl.DataFrame:
    value, received = read_numbers(cells, how.values.decimal, how.values.blank_words)
    return pl.DataFrame(
        {"series": codes, "when": when, "value": value, "received": received, "text": cells, "row": rows}
    )


def _undated(table: TextTable, how: HowRead, dated: pl.Series) -> tuple[tuple[Undated, ...], int]:
    """The rows without a date; raises Refusal where their cells are dates in another writing."""
    if dated.all():
        return (), 0
    cells = table.cells[how.dates.column]
    empty_row = table.cells.select(pl.all_horizontal(pl.all().is_null())).to_series()
    lost = (~dated & ~empty_row).arg_true()
    said = cells.gather(lost)
    # bare numbers fit several forms by chance; only a text that can be nothing but a date counts here
    others = fitting_forms(said.filter(said.str.contains(r"[-/. ]")), share=0.01) if lost.len() else []
    others = [(form, share) for form, share in others if form not in (DateForm.SERIAL, DateForm.YEAR)]
    if others and dated.any():
        form = others[0][0]
        at = lost.filter(read_dates(said, form).is_not_null())
        if at.len():
            good = int(dated.arg_true()[0])
            bad = int(at[0])
            raise Refusal(
                f"The dates in {how.dates.column} are written in two ways.",
                place=(
                    f"row {table.row_number(good)} has “{cells[good]}” ({how.dates.form.label}), "
                    f"row {table.row_number(bad)} has “{cells[bad]}” ({form.label}); {at.len()} rows like it"
                ),
                todo="Write all dates of the column in one way and bring the file in again.",
            )
    listed = tuple(
        Undated(table.row_number(int(at)), text or "")
        for at, text in zip(lost.head(MOST_UNDATED_LISTED), said.head(MOST_UNDATED_LISTED), strict=True)
    )
    return listed, lost.len()
