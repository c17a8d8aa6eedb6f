"""Guess how a file is read. An analyst can change every guess."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import replace
from itertools import combinations

import polars as pl

from zembra.core.english import listed
from zembra.core.errors import Refusal
from zembra.core.intake.clock import midnight_zones
from zembra.core.intake.datecolumns import EVEN, find_dates, numeric_share, regular, speaks_of_dates
from zembra.core.intake.dateforms import DateForm
from zembra.core.intake.dateparts import DAY_FORMS, first_month, part_column, parts_said, written_once
from zembra.core.intake.dates import fitting_forms, read_dates
from zembra.core.intake.decimals import About, DecimalMarks, across, marks_of
from zembra.core.intake.hours import changed_clock, hours_across
from zembra.core.intake.howread import (
    DatesHow,
    Delimiter,
    Down,
    FileForm,
    HowRead,
    SeriesHow,
    TableHow,
    TimesHow,
    ValueKind,
    ValuesHow,
)
from zembra.core.intake.joining import (
    FEWEST_ACROSS,
    joined,
    parts_of_date,
    period_columns,
    series_texts,
    years_in_names,
)
from zembra.core.intake.numbers import MAY_BE_NUMBER
from zembra.core.intake.plain import plain_columns, some_rows
from zembra.core.intake.rowdates import row_moments
from zembra.core.intake.table import TextTable
from zembra.core.intake.totals import without_totals

NUMERIC_SHARE = 0.5
MOST_SERIES = 2000
MOST_CODES = 60  # different whole numbers a column may hold and still name series
SAMPLE_CELLS = 20_000  # of all columns of numbers together
FEWEST_SAMPLED = 60  # rows
SAMPLE_ROWS = 20_000
MOST_MONTHS_DOWN = 400  # rows of a table with years across
FEWEST_DATED = 5  # rows: fewer dates may be on a grain by chance


def understand(table: TextTable, how: TableHow, kind: ValueKind | None = None) -> HowRead:
    """Detect the roles of columns. Raises Refusal if no column holds dates or numbers.

    kind: where numbers stand, None to detect
    """
    if kind is None:
        kind = ValueKind.ACROSS if _runs_across(table) else None
    if kind is ValueKind.ACROSS:
        return _across(table, how)
    if kind is None and (columns := years_in_names(table)) and _worth_reading_across(table, columns):
        return _read_across(table, how, DateForm.NAME_YEAR, columns)
    if kind is None and (grid := _year_grid(table, how)) is not None:
        return grid
    plain = plain_columns(table)
    found = find_dates(table, plain)
    if kind is None and (grid := _hour_grid(table, how, found.how)) is not None:
        return grid
    dates = _down(table, found.how)
    if not dates.more and (zones := midnight_zones(table.cells[dates.column or ""], dates.form)):
        dates = dates.model_copy(update={"zone": zones[0]})
    taken = {dates.column, *dates.more}
    rest = [name for name in table.columns if name not in taken]
    # neither a second date column nor a column that repeats the date is a measure
    says_no_more = {other.column for other in found.others} | set(parts_said(table, dates, rest))
    numeric = []
    if kind is not ValueKind.EVENTS:
        numeric = [name for name in rest if name in plain or may_be_measured(table.cells[name])]
        numeric = [name for name in numeric if name not in says_no_more] or numeric
        # a column that only counts its rows is no measure, unless it is all there is
        numeric = [name for name in numeric if not numbers_rows(table.cells[name])] or numeric
    if not numeric:
        if kind is ValueKind.COLUMNS or (kind is None and not _looks_like_events(table, rest)):
            raise Refusal(
                "No column holds numbers.",
                place=f"columns {listed(rest)}" if rest else f"the only column is {dates.column}",
                todo="A line chart needs one column of dates and at least one of numbers, or events to count.",
            )
        values = ValuesHow(kind=ValueKind.EVENTS)
        series = SeriesHow(column=_event_series(table, rest))
    else:
        series, numeric = _series(table, rest, numeric, dates)
        if dates.times is not TimesHow.WRITTEN:
            days = read_dates(table.cells[dates.column or ""], dates.form)
            dates = dates.model_copy(update={"zone": changed_clock(days, series_texts(table, series), dates.times)})
        marks = table_marks(table, how, dates, numeric)
        values = ValuesHow(
            columns=tuple(numeric),
            decimal=marks.decimal,
            other_mark=tuple(numeric[n] for n in marks.others(marks.decimal)),
        )
    return HowRead(table=how, dates=dates, series=series, values=values)


def table_marks(table: TextTable, how: TableHow, dates: DatesHow, names: Sequence[str]) -> DecimalMarks:
    """Detect decimal marks from sampled rows."""
    most = max(FEWEST_SAMPLED, SAMPLE_CELLS // len(names))
    some = some_rows(table.cells.select(names), most)
    points = dates.column is not None and bool(
        table.cells[dates.column].head(FEWEST_DATED).str.contains(r"^\d{1,2}\.\d{1,2}\.").any()
    )
    by_semicolons = how.form is FileForm.TEXT and how.delimiter is Delimiter.SEMICOLON
    return marks_of(some.get_columns(), About(names, by_semicolons and points))


def may_be_measured(cells: pl.Series) -> bool:
    """Return whether most filled cells are numbers."""
    sample = cells.drop_nulls().head(500)
    return bool(sample.str.contains(MAY_BE_NUMBER).any()) and numeric_share(cells) >= NUMERIC_SHARE


def _runs_across(table: TextTable) -> bool:
    found = period_columns(table.columns, fewest=_fewest_across(table))
    return found is not None and len(found[1]) >= len(table.columns) * 0.5 and _no_dates_beside(table, found[1])


def _fewest_across(table: TextTable) -> int:
    """Return the least number of period columns: two years suffice beside rows of months."""
    if table.height > MOST_MONTHS_DOWN:
        return FEWEST_ACROSS
    months = table.height >= FEWEST_DATED and part_column(table, "month", []) is not None
    return FEWEST_ACROSS - 1 if months else FEWEST_ACROSS


def _worth_reading_across(table: TextTable, columns: Sequence[str]) -> bool:
    return all(numeric_share(table.cells[name]) >= NUMERIC_SHARE for name in columns) and _no_dates_beside(
        table, columns
    )


def _no_dates_beside(table: TextTable, columns: Sequence[str]) -> bool:
    """Return whether no other column has dates on a grain, as names never beat dates."""
    rest = [name for name in table.columns if name not in columns]
    if not rest or table.height < FEWEST_DATED:
        return True
    beside = replace(table, columns=tuple(rest), cells=table.cells.select(rest))
    try:
        found = find_dates(beside, plain_columns(beside)).how
    except Refusal:
        return True
    return found.form.bare or regular(read_dates(beside.cells[found.column or ""], found.form)) < EVEN


def _across(table: TextTable, how: TableHow) -> HowRead:
    found = period_columns(table.columns, fewest=_fewest_across(table))
    if found is None:
        raise Refusal(
            "No three column names are periods.",
            place=f"the columns are {', '.join(table.columns[:8])}",
            todo="Choose another row for the column names, or say that the numbers are in columns of their own.",
        )
    return _read_across(table, how, *found)


def _read_across(table: TextTable, how: TableHow, form: DateForm, columns: Sequence[str]) -> HowRead:
    others = [name for name in table.columns if name not in columns]
    decimal = marks_of(across(table.cells.select(columns))).decimal
    within = tuple(columns) if form is DateForm.NAME_YEAR else ()
    values = ValuesHow(kind=ValueKind.ACROSS, decimal=decimal, columns=within)
    if form is DateForm.YEAR:
        # years across and months or quarters down
        for part, joined_form in (("month", DateForm.YEAR_MONTH), ("quarter", DateForm.YEAR_QUARTER)):
            column = part_column(table, part, columns)
            if column is not None and not _one_of_each(table, column):
                column = column if table.cells[column].n_unique() > 1 else None
            if column is not None:
                # numbers beside the months are something else, such as a change on the year before
                left = [name for name in others if name != column and not may_be_measured(table.cells[name])]
                dates = DatesHow(column=column, form=joined_form)
                return HowRead(table=how, dates=dates, series=_labels(table, left), values=values)
    return HowRead(table=how, dates=DatesHow(column=None, form=form), series=_labels(table, others), values=values)


def _one_of_each(table: TextTable, column: str) -> bool:
    return table.cells[column].n_unique() == table.height


def _labels(table: TextTable, others: Sequence[str]) -> SeriesHow:
    """Return the text columns that identify the rows, one or two."""
    texts = [name for name in others if not may_be_measured(table.cells[name])] or list(others)[:1]
    if not texts:
        return SeriesHow()
    best = max(texts, key=lambda name: table.cells[name].n_unique())
    down = Down.ABOVE if written_once(table.cells[best]) else Down.OWN
    cells = series_texts(table, SeriesHow(column=best, down=down))
    assert cells is not None
    if cells.n_unique() < table.height:
        for other in texts:
            both = SeriesHow(column=best, more=(other,), down=_any_merged(table, (best, other)))
            found = series_texts(table, both)
            if other != best and found is not None and found.n_unique() == table.height:
                first, second = sorted((best, other), key=table.columns.index)
                return both.model_copy(update={"column": first, "more": (second,)})
    return SeriesHow(column=best, down=down)


def _any_merged(table: TextTable, names: Sequence[str]) -> Down:
    return Down.ABOVE if any(written_once(table.cells[name]) for name in names) else Down.OWN


def _hour_grid(table: TextTable, how: TableHow, dates: DatesHow) -> HowRead | None:
    """Detect days down and hours across."""
    if dates.form not in DAY_FORMS or dates.more:
        return None
    found = hours_across([name for name in table.columns if name != dates.column])
    if found is None:
        return None
    names, times, says = found
    others = [name for name in table.columns if name not in (dates.column, *names)]
    values = ValuesHow(
        kind=ValueKind.ACROSS, columns=tuple(names), decimal=marks_of(across(table.cells.select(names))).decimal
    )
    apart = _labels(table, others) if table.cells[dates.column or ""].n_unique() < table.height else SeriesHow()
    return HowRead(
        table=how, dates=dates.model_copy(update={"times": times, "hours": says}), series=apart, values=values
    )


def _year_grid(table: TextTable, how: TableHow) -> HowRead | None:
    """Detect years down and months or quarters across."""
    parts = [name for name in parts_of_date(table.columns, DateForm.YEAR_MONTH) if not fitting_forms(pl.Series([name]))]
    quarters = parts_of_date(table.columns, DateForm.YEAR_QUARTER)
    form, names = (DateForm.YEAR_MONTH, parts)
    if len(quarters) > len(parts) or (len(quarters) == len(parts) == 4 and all(n.strip() in "1234" for n in quarters)):
        form, names = DateForm.YEAR_QUARTER, quarters
    if len(names) < FEWEST_ACROSS or len(names) * 2 < len(table.columns):
        return None
    for name in table.columns:
        if name in names:
            continue
        cells = without_totals(table.cells[name])
        kind = (
            DateForm.FISCAL
            if not cells.str.contains(r"^\s*\d{4}(?:\.0+)?\s*$").all() and form is DateForm.YEAR_MONTH
            else DateForm.YEAR
        )
        years = read_dates(cells, kind)
        if cells.len() and years.null_count() <= cells.len() // 10:
            others = [column for column in table.columns if column not in names and column != name]
            decimal = marks_of(across(table.cells.select(names))).decimal
            values = ValuesHow(kind=ValueKind.ACROSS, columns=tuple(names), decimal=decimal)
            begins = 1
            if form is DateForm.YEAR_MONTH:
                months = (
                    read_dates(pl.Series([f"2024 {title}" for title in names]), form).dt.month().drop_nulls().to_numpy()
                )
                begins = first_month([months])
            dates = DatesHow(column=name, form=form, down=_any_merged(table, (name,)), year_begins=begins)
            texts = [other for other in others if not may_be_measured(table.cells[other])]
            series = _labels(table, texts) if texts and years.n_unique() < years.len() else SeriesHow()
            return HowRead(table=how, dates=dates, series=series, values=values)
    return None


def numbers_rows(cells: pl.Series) -> bool:
    """Return whether a column only counts rows."""
    if cells.len() and str(cells[0]).strip().split(".")[0] not in ("0", "1"):
        return False
    if cells.head(20).cast(pl.Int64, strict=False).null_count():
        return False
    whole = cells.cast(pl.Int64, strict=False)
    if whole.null_count() or whole.len() < 5 or whole[0] not in (0, 1):
        return False
    return bool((whole.diff().drop_nulls() == 1).all())


def _looks_like_events(table: TextTable, rest: Sequence[str]) -> bool:
    """Return whether rows are mostly distinct texts, as events are."""
    return len(rest) >= 2 and table.height >= 5


def _event_series(table: TextTable, rest: Sequence[str]) -> str | None:
    """Return the text column with the fewest values, if they repeat like kinds of events."""
    few = [(table.cells[name].n_unique(), name) for name in rest]
    good = [(count, name) for count, name in few if 2 <= count <= max(2, min(12, table.height // 5))]
    return min(good)[1] if good else None


def _down(table: TextTable, dates: DatesHow) -> DatesHow:
    """A date that is written once applies to the rows below."""
    if dates.column is None or dates.down is not Down.OWN or not written_once(table.cells[dates.column]):
        return dates
    others = [name for name in table.columns if name not in (dates.column, *dates.more)]
    rows_without = table.cells.filter(pl.col(dates.column).is_null())
    full = (
        rows_without.select(pl.any_horizontal(pl.col(name).is_not_null() for name in others)).to_series()
        if others
        else None
    )
    return dates.model_copy(update={"down": Down.ABOVE}) if full is not None and bool(full.all()) else dates


def codes_like(table: TextTable, name: str) -> bool:
    """Return whether integers may be codes: few distinct, each often."""
    cells = table.cells[name].drop_nulls()
    if not cells.len() or cells.str.strip_chars().str.contains(r"^\d{1,6}$").mean() != 1.0:
        return False
    return 2 <= cells.n_unique() <= min(MOST_CODES, max(2, cells.len() // 3))


def shares_rows(moments: pl.Series, labels: pl.Series | None) -> int:
    """Return how many rows repeat the date, and series, of an earlier row."""
    frame = pl.DataFrame({"when": moments})
    if labels is not None:
        frame = frame.with_columns(label=labels)
    frame = frame.filter(pl.col("when").is_not_null())
    return frame.height - frame.n_unique()


def telling_apart(
    table: TextTable, moments: pl.Series, columns: Sequence[str], already: SeriesHow | None = None
) -> list[tuple[str, ...]]:
    """Return columns, or pairs, that identify all rows of a date, the shortest first."""
    start = series_texts(table, already) if already and already.column else None

    def apart(names: tuple[str, ...]) -> bool:
        cells = [table.cells[name].fill_null("(no name)") for name in names]
        labels = joined([start, *cells] if start is not None else cells, ", ")
        return shares_rows(moments, labels) == 0

    single = [(name,) for name in columns if apart((name,))]
    if single:
        return sorted(single, key=lambda names: table.cells[names[0]].n_unique())
    pairs: list[tuple[str, ...]] = [names for names in combinations(columns[:12], 2) if apart(names)]
    return pairs[:6]


def _series(table: TextTable, rest: Sequence[str], numeric: list[str], dates: DatesHow) -> tuple[SeriesHow, list[str]]:
    """Return the series columns, and the remaining number columns."""
    top = TextTable(table.columns, table.cells.head(SAMPLE_ROWS), table.numbers.head(SAMPLE_ROWS))
    moments = row_moments(top, dates).when
    dated = moments.is_not_null()
    rows = int(dated.sum())
    texts = [name for name in rest if name not in numeric]
    if shares_rows(moments, None) == 0:
        # one row a date: a text column is a remark, unless it says the same in every row
        undated = [name for name in texts if not speaks_of_dates(name)]
        same = [name for name in undated if top.cells[name].n_unique() == 1 and top.cells[name].null_count() == 0]
        return SeriesHow(column=same[0] if same else None), numeric
    naming = [name for name in texts if _may_name(top, name, dated, rows)]
    codes = [name for name in numeric if codes_like(top, name)]
    apart = telling_apart(top, moments, naming)
    if not apart:
        filled = [name for name in naming if written_once(top.cells[name])]
        for name in filled:
            if shares_rows(moments, series_texts(top, SeriesHow(column=name, down=Down.ABOVE))) == 0:
                return SeriesHow(column=name, down=Down.ABOVE), numeric
        for first, second in combinations(filled, 2):
            both = SeriesHow(column=first, more=(second,), down=Down.ABOVE)
            if shares_rows(moments, series_texts(top, both)) == 0:
                return both, numeric
        if len(codes) < len(numeric):
            # a code is taken for a name only where it tells all rows apart
            apart = [names for names in telling_apart(top, moments, codes) if len(names) == 1] if not naming else []
            if not apart and naming:
                apart = [
                    n for n in telling_apart(top, moments, [*naming, *codes]) if any(column in naming for column in n)
                ]
    if apart:
        names = apart[0]
        left = [name for name in numeric if name not in names]
        if left:
            return SeriesHow(column=names[0], more=names[1:]), left
    best: tuple[int, str] | None = None
    distinct = moments.filter(dated).n_unique()
    for name in naming:
        pairs = pl.DataFrame({"when": moments, "name": top.cells[name]}).filter(dated).n_unique()
        if top.cells[name].n_unique() > 1 and pairs <= distinct:
            continue
        if best is None or pairs > best[0]:
            best = (pairs, name)
    return SeriesHow(column=best[1] if best else None), numeric


def _may_name(top: TextTable, name: str, dated: pl.Series, rows: int) -> bool:
    cells = top.cells[name].filter(dated)
    names = cells.n_unique()
    empty = cells.null_count() > rows // 2 and not written_once(top.cells[name])
    return not empty and 1 <= names <= min(MOST_SERIES, max(1, rows // 2)) and not _is_date(top, name)


def _is_date(table: TextTable, name: str) -> bool:
    """Return whether a column restates the date."""
    return speaks_of_dates(name) and bool(fitting_forms(table.cells[name], share=0.9))
