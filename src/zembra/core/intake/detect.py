"""Guessing how a file is to be read. Every guess is a word the analyst can change."""

from __future__ import annotations

from dataclasses import dataclass

import polars as pl

from zembra.core.errors import Refusal
from zembra.core.grammar import listed
from zembra.core.intake.dates import DateForm, fitting_forms, read_dates
from zembra.core.intake.decode import decode, detect_encoding
from zembra.core.intake.delimited import read_delimited, sniff_delimiter, sniff_header
from zembra.core.intake.howread import (
    DatesHow,
    Delimiter,
    Encoding,
    HowRead,
    SeriesHow,
    TableHow,
    ValuesHow,
)
from zembra.core.intake.numbers import detect_decimal, read_numbers
from zembra.core.intake.table import TextTable
from zembra.core.lines import Received

NUMERIC_SHARE = 0.5
MOST_SERIES = 2000
_AMBIGUOUS = (
    {DateForm.DAY_FIRST, DateForm.MONTH_FIRST},
    {DateForm.DAY_FIRST_TIME, DateForm.MONTH_FIRST_TIME},
)


@dataclass(frozen=True, slots=True)
class Understood:
    """A guess, with the questions it could not answer itself."""

    how: HowRead
    questions: tuple[str, ...] = ()


def read_table(data: bytes, how: TableHow) -> TextTable:
    """The rows and cells of a file, read as `how` says. Raises Refusal with the place."""
    text = decode(data, how.encoding.value)
    return read_delimited(text, how.delimiter.value, how.header_row, how.skip_last)


def detect_table(data: bytes) -> TableHow:
    """How the bytes become rows and cells. Raises Refusal where they are no text."""
    encoding = detect_encoding(data)
    text = decode(data, encoding)
    delimiter = sniff_delimiter(text)
    return TableHow(
        encoding=Encoding(encoding),
        delimiter=Delimiter(delimiter),
        header_row=sniff_header(text, delimiter),
    )


def understand(data: bytes) -> Understood:
    """Detect encoding, delimiter, header, and the roles of the columns.

    Raises Refusal where the file is no table, or no column holds dates or numbers.
    """
    how = detect_table(data)
    return understand_columns(read_table(data, how), how)


def understand_columns(table: TextTable, how: TableHow) -> Understood:
    """The roles of a table's columns. Raises Refusal where no column holds dates or numbers."""
    questions: list[str] = []
    dates = _date_column(table, questions)
    rest = [name for name in table.columns if name != dates.column]
    numeric = {name: share for name in rest if (share := _numeric_share(table.cells[name])) >= NUMERIC_SHARE}
    if not numeric:
        raise Refusal(
            "No column holds numbers.",
            place=f"columns {listed(rest)}" if rest else f"the only column is {dates.column}",
            todo="A line chart needs one column of dates and at least one of numbers.",
        )
    series = _series_column(table, [name for name in rest if name not in numeric], dates, list(numeric))
    columns = [name for name in numeric if name != series]
    decimal = detect_decimal(pl.concat([table.cells[name].rename("cell") for name in columns]))
    return Understood(
        HowRead(
            table=how,
            dates=dates,
            series=SeriesHow(column=series),
            values=ValuesHow(columns=tuple(columns), decimal=decimal),
        ),
        tuple(questions),
    )


def _numeric_share(cells: pl.Series) -> float:
    """The share of the filled cells (blank words apart) that are numbers; 0 where none is filled."""
    sample = cells.drop_nulls().head(5000)
    if sample.len() == 0:
        return 0.0
    _, received = read_numbers(sample, detect_decimal(sample))
    said = received.filter(received != Received.BLANK)
    return float((said == Received.MEASURED).mean() or 0.0) if said.len() else 0.0  # type: ignore[arg-type]


def _date_column(table: TextTable, questions: list[str]) -> DatesHow:
    best: tuple[float, str, list[tuple[DateForm, float]]] | None = None
    for name in table.columns:
        forms = fitting_forms(table.cells[name])
        # bare years and day numbers are plain numbers too: they count as dates only if nothing better does
        if not forms:
            continue
        weight = forms[0][1] - (
            0.3 if forms[0][0] in (DateForm.SERIAL, DateForm.EPOCH, DateForm.YEAR, DateForm.COMPACT) else 0
        )
        if best is None or weight > best[0]:
            best = (weight, name, forms)
    if best is None:
        first = "; ".join(f"{name}: {_sample(table.cells[name])}" for name in table.columns[:6])
        raise Refusal(
            "No column holds dates.",
            place=f"row {table.first_row}: {first}",
            todo="One column must hold dates, such as 2026-03-14, 14/03/2026, Mar 2026 or 2026-Q1.",
        )
    _, name, forms = best
    full = {form for form, share in forms if share == forms[0][1]}
    form = forms[0][0]
    for pair in _AMBIGUOUS:
        if pair <= full:
            first_cell = table.cells[name].drop_nulls()[0]
            questions.append(
                f"Every date in {name} reads both day first and month first (the first is {first_cell}). "
                "Zembra took them as day first: change the word if that is wrong."
            )
    return DatesHow(column=name, form=form)


def _sample(cells: pl.Series) -> str:
    filled = cells.drop_nulls()
    return f"“{str(filled[0])[:24]}”" if filled.len() else "empty"


def _series_column(table: TextTable, texts: list[str], dates: DatesHow, numeric: list[str]) -> str | None:
    """The text column that tells the rows of one date apart, if there is one."""
    moments = read_dates(table.cells[dates.column], dates.form)
    dated = moments.is_not_null()
    rows = int(dated.sum())
    distinct_dates = moments.filter(dated).n_unique()
    best: tuple[int, str] | None = None
    for name in texts:
        cells = table.cells[name].filter(dated)
        names = cells.n_unique()
        if cells.null_count() > rows // 2 or not 1 <= names <= min(MOST_SERIES, max(1, rows // 2)):
            continue
        pairs = pl.DataFrame({"when": moments.filter(dated), "name": cells}).n_unique()
        if names > 1 and pairs <= distinct_dates:
            continue
        if best is None or pairs > best[0]:
            best = (pairs, name)
    return best[1] if best else None
