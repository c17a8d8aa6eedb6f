"""Guessing how a file is to be read. Every guess is a word the analyst can change."""

from __future__ import annotations

from collections import Counter
from collections.abc import Sequence
from dataclasses import dataclass

import polars as pl

from zembra.core.errors import Refusal
from zembra.core.grammar import listed
from zembra.core.intake.dates import DateForm, fitting_forms, forms_like, read_dates
from zembra.core.intake.howread import DatesHow, HowRead, SeriesHow, TableHow, ValueKind, ValuesHow
from zembra.core.intake.numbers import MAY_BE_NUMBER, detect_decimal, read_numbers
from zembra.core.intake.table import TextTable
from zembra.core.lines import Received

NUMERIC_SHARE = 0.5
MOST_SERIES = 2000
FEWEST_ACROSS = 3
SAMPLE_CELLS = 5_000
SAMPLE_ROWS = 20_000
_BARE = (DateForm.SERIAL, DateForm.EPOCH, DateForm.YEAR, DateForm.COMPACT)
_AMBIGUOUS = (
    (DateForm.DAY_FIRST, DateForm.MONTH_FIRST),
    (DateForm.DAY_FIRST_TIME, DateForm.MONTH_FIRST_TIME),
)


@dataclass(frozen=True, slots=True)
class Understood:
    """A guess, with the questions it could not answer itself."""

    how: HowRead
    questions: tuple[str, ...] = ()


def understand(table: TextTable, how: TableHow, kind: ValueKind | None = None) -> Understood:
    """The roles of a table's columns; `kind` says where the numbers stand, None lets Zembra see.

    Raises Refusal where no column holds dates, or none holds numbers.
    """
    if kind is None:
        kind = ValueKind.ACROSS if _runs_across(table) else None
    if kind is ValueKind.ACROSS:
        return _across(table, how)
    questions: list[str] = []
    dates = _date_column(table, questions)
    rest = [name for name in table.columns if name != dates.column]
    numeric = []
    if kind is not ValueKind.EVENTS:
        numeric = [name for name in rest if _numeric_share(table.cells[name]) >= NUMERIC_SHARE]
        # a column that only counts its rows is no measure, unless it is all there is
        numeric = [name for name in numeric if not _numbers_rows(table.cells[name])] or numeric
    if not numeric:
        if kind is ValueKind.COLUMNS or (kind is None and not _looks_like_events(table, rest)):
            raise Refusal(
                "No column holds numbers.",
                place=f"columns {listed(rest)}" if rest else f"the only column is {dates.column}",
                todo="A line chart needs one column of dates and at least one of numbers, or events to count.",
            )
        values = ValuesHow(kind=ValueKind.EVENTS)
        if kind is None:
            questions.append("No column holds numbers, so each row is taken for an event and counted.")
        series = _event_series(table, rest)
    else:
        cells = pl.concat([_some(table.cells[name]).rename("cell") for name in numeric])
        series = _series_column(table, [name for name in rest if name not in numeric], dates, questions)
        values = ValuesHow(columns=tuple(numeric), decimal=detect_decimal(cells))
    found = HowRead(table=how, dates=dates, series=SeriesHow(column=series), values=values)
    return Understood(found, tuple(questions))


def period_columns(names: Sequence[str], form: DateForm | None = None) -> tuple[DateForm, list[str]] | None:
    """(form, columns) whose names are periods of one form; None where fewer than three are."""
    best: tuple[DateForm, list[str]] | None = None
    looks: Counter[DateForm] = Counter()
    for name in names:
        looks.update(forms_like(name) - {DateForm.SERIAL, DateForm.EPOCH})
    for one in [form] if form else [one for one in DateForm if looks[one] >= FEWEST_ACROSS]:
        moments = read_dates(pl.Series(list(names), dtype=pl.String), one)
        hits = [name for name, moment in zip(names, moments, strict=True) if moment is not None]
        if len(hits) >= (1 if form else FEWEST_ACROSS) and (best is None or len(hits) > len(best[1])):
            best = (one, hits)
    return best


def _runs_across(table: TextTable) -> bool:
    found = period_columns(table.columns)
    return found is not None and len(found[1]) >= len(table.columns) * 0.5


def _across(table: TextTable, how: TableHow) -> Understood:
    found = period_columns(table.columns)
    if found is None:
        raise Refusal(
            "No three column names are periods.",
            place=f"the columns are {', '.join(table.columns[:8])}",
            todo="Choose another row for the column names, or say that the numbers are in columns of their own.",
        )
    form, columns = found
    others = [name for name in table.columns if name not in columns]
    labels = [name for name in others if _numeric_share(table.cells[name]) < NUMERIC_SHARE]
    series = max(labels, key=lambda name: table.cells[name].n_unique(), default=None)
    cells = pl.concat([table.cells[name].rename("cell") for name in columns])
    questions = []
    unused = [name for name in others if name != series]
    if unused:
        questions.append(f"Not periods, and not used: the columns {listed(unused)}.")
    values = ValuesHow(kind=ValueKind.ACROSS, decimal=detect_decimal(cells))
    dates = DatesHow(column=None, form=form)
    return Understood(HowRead(table=how, dates=dates, series=SeriesHow(column=series), values=values), tuple(questions))


def _some(cells: pl.Series) -> pl.Series:
    """Cells from all over a column, few enough to look at each."""
    return cells.gather_every(max(1, cells.len() // SAMPLE_CELLS))


def _numbers_rows(cells: pl.Series) -> bool:
    """Whether a column only counts its rows 1, 2, 3…"""
    if cells.head(20).cast(pl.Int64, strict=False).null_count():
        return False
    whole = cells.cast(pl.Int64, strict=False)
    if whole.null_count() or whole.len() < 5 or whole[0] not in (0, 1):
        return False
    return bool((whole.diff().drop_nulls() == 1).all())


def _looks_like_events(table: TextTable, rest: Sequence[str]) -> bool:
    """Rows of texts that mostly differ: something that happened, told once each."""
    return len(rest) >= 2 and table.height >= 5


def _event_series(table: TextTable, rest: Sequence[str]) -> str | None:
    """The text column with the fewest different texts, if they repeat enough to be kinds of event."""
    few = [(table.cells[name].n_unique(), name) for name in rest]
    good = [(count, name) for count, name in few if 2 <= count <= max(2, min(12, table.height // 5))]
    return min(good)[1] if good else None


def _numeric_share(cells: pl.Series) -> float:
    """The share of the filled cells (blank words apart) that are numbers; 0 where none is filled."""
    sample = cells.drop_nulls().head(500)
    if not sample.str.contains(MAY_BE_NUMBER).any():
        return 0.0
    _, received = read_numbers(sample, detect_decimal(sample))
    said = received.filter(received != Received.BLANK)
    return float((said == Received.MEASURED).mean() or 0.0) if said.len() else 0.0  # type: ignore[arg-type]


def _date_column(table: TextTable, questions: list[str]) -> DatesHow:
    best: tuple[float, str, list[tuple[DateForm, float]]] | None = None
    for name in table.columns:
        forms = fitting_forms(table.cells[name])
        if not forms:
            continue
        # bare years and day numbers are plain numbers too: they count as dates only if nothing better does
        bare = 0.3 if forms[0][0] in _BARE else 0
        filled = 1 - table.cells[name].null_count() / table.height
        weight = forms[0][1] * (0.5 + 0.5 * filled) - bare
        if best is None or weight > best[0] + 1e-9:
            best = (weight, name, forms)
    if best is None:
        first = "; ".join(f"{name}: {_sample(table.cells[name])}" for name in table.columns[:6])
        raise Refusal(
            "No column holds dates.",
            place=f"row {table.row_number(0)}: {first}",
            todo="One column must hold dates, such as 2026-03-14, 14/03/2026, Mar 2026 or 2026-Q1.",
        )
    _, name, forms = best
    full = {form for form, share in forms if share == forms[0][1]}
    form = forms[0][0]
    for day, month in _AMBIGUOUS:
        if {day, month} <= full:
            form = _likelier(table.cells[name], day, month)
            deciding = _deciding_rows(table, name)
            questions.append(
                f"Every date in {name} can be read day first and month first; {deciding} Taken as {form.label}: "
                "change the word if that is wrong."
            )
    return DatesHow(column=name, form=form)


def _likelier(cells: pl.Series, day: DateForm, month: DateForm) -> DateForm:
    """Of two readings that both fit, the one whose dates step evenly; day first where both do."""

    def unevenness(form: DateForm) -> float:
        moments = read_dates(cells, form).drop_nulls().unique().sort()
        gaps = moments.diff().drop_nulls().dt.total_seconds()
        return float(gaps.n_unique()) if gaps.len() else 0.0

    return month if unevenness(month) < unevenness(day) else day


def _deciding_rows(table: TextTable, name: str) -> str:
    """Two rows told, so that the analyst can see: one where the readings differ most."""
    cells = table.cells[name]
    differ = (read_dates(cells, DateForm.DAY_FIRST) != read_dates(cells, DateForm.MONTH_FIRST)).fill_null(False)
    at = [int(n) for n in differ.arg_true().head(2)] or [0]
    return f"see {listed([f'row {table.row_number(n)} (“{cells[n]}”)' for n in at])}."


def _sample(cells: pl.Series) -> str:
    filled = cells.drop_nulls()
    return f"“{str(filled[0])[:24]}”" if filled.len() else "empty"


def _series_column(table: TextTable, texts: list[str], dates: DatesHow, questions: list[str]) -> str | None:
    """The text column that tells the rows of one date apart, if there is one."""
    assert dates.column is not None
    # the rows of one date stand together, or those of one series: the first ones tell
    top = table.cells.head(SAMPLE_ROWS)
    moments = read_dates(top[dates.column], dates.form)
    dated = moments.is_not_null()
    rows = int(dated.sum())
    distinct_dates = moments.filter(dated).n_unique()
    if distinct_dates == rows:
        # one row a date: a text column is a remark, unless it says the same in every row
        same = [name for name in texts if top[name].n_unique() == 1 and top[name].null_count() == 0]
        return same[0] if same else None
    best: tuple[int, str] | None = None
    for name in texts:
        cells = top[name].filter(dated)
        names = cells.n_unique()
        if cells.null_count() > rows // 2 or not 1 <= names <= min(MOST_SERIES, max(1, rows // 2)):
            continue
        pairs = pl.DataFrame({"when": moments.filter(dated), "name": cells}).n_unique()
        if names > 1 and pairs <= distinct_dates:
            continue
        if best is None or pairs > best[0]:
            best = (pairs, name)
    return best[1] if best else None
