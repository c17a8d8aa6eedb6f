"""Turn a table and how it is read into observations."""

from __future__ import annotations

import hashlib
from collections import Counter
from collections.abc import Mapping
from concurrent.futures import ThreadPoolExecutor
from dataclasses import dataclass, field, replace

import numpy as np
import polars as pl

from zembra.core.errors import Refusal
from zembra.core.intake.dateforms import DateForm
from zembra.core.intake.dates import fitting_forms, read_dates
from zembra.core.intake.howread import HowRead, KeepHow, RowTest, TimesHow, ValueKind
from zembra.core.intake.joining import date_texts, joined, periods_across, series_texts, stem
from zembra.core.intake.numbers import CellMeaning, ParsedCells, Writing, read_cells
from zembra.core.intake.numberwords import is_currency
from zembra.core.intake.rowdates import in_its_year, moments_of, time_texts
from zembra.core.intake.table import TextTable

MOST_UNDATED_LISTED = 200
EVENTS = "events"


@dataclass(frozen=True, slots=True)
class Undated:
    """A row that is skipped because it has no date."""

    row: int
    text: str


@dataclass(frozen=True, slots=True)
class Observations:
    """Received data in long form.

    frames: by measure, with columns series (UInt32, index into `series`), when (Datetime ms, in standard time),
    value (Float64 or null), received (UInt8), text (the cell), row (UInt32, row number in the file), and wall
    (local time) where the clock changes
    dropped: rows excluded by conditions
    digest: hash of the bytes and settings
    zone: the place whose clock changes
    units: by column, if there is one unit
    columns: number columns that are series each
    said: texts beside numbers by column, "" for periods across, with row numbers
    """

    frames: Mapping[str, pl.DataFrame]
    series: tuple[str, ...]
    undated: tuple[Undated, ...]
    undated_count: int
    dropped: int
    digest: str
    zone: str | None = None
    units: Mapping[str, str] = field(default_factory=dict)
    columns: tuple[str, ...] = ()
    said: Mapping[str, tuple[CellMeaning, ...]] = field(default_factory=dict)

    @property
    def marked(self) -> dict[str, int]:
        """Return how many numbers of a column have a footnote or a certainty mark."""
        counts = {
            name: sum(alike.count for alike in said if alike.beside and alike.beside.note)
            for name, said in self.said.items()
        }
        return {name: count for name, count in counts.items() if count}

    def unit_of(self, measure: str, series: str) -> str:
        """Return the unit of a measure or series column."""
        return self.units.get(series if series in self.columns else measure, "")

    @property
    def measures(self) -> tuple[str, ...]:
        return tuple(self.frames)


def observation_digest(fingerprint: str, how: HowRead) -> str:
    # closed questions change no number
    return hashlib.sha256(f"{fingerprint}\n{how.model_dump_json(exclude={'settled'})}".encode()).hexdigest()


def observe(table: TextTable, how: HowRead, fingerprint: str = "") -> Observations:
    """Return the observations of a table. Raises Refusal for an unknown column or mixed date formats."""
    _check_columns(table, how)
    kept = _kept_rows(table, how)
    found = _across(kept, how) if how.values.kind is ValueKind.ACROSS else _down(kept, how)
    dropped = table.height - kept.height
    digest = observation_digest(fingerprint, how)
    columns = how.values.columns if how.values.kind is ValueKind.COLUMNS else ()
    return Observations(
        found.frames,
        tuple(found.names),
        found.undated,
        found.undated_count,
        dropped,
        digest,
        found.zone,
        units=_units(found),
        columns=columns if how.series.column is None else (),
        said=found.said,
    )


def _units(found: _Found) -> dict[str, str]:
    """Return the unit of each column: a currency beside any number, another unit beside most."""
    made = {}
    for name, said in found.said.items():
        counts = Counter[str]()
        for alike in said:
            if alike.beside and alike.beside.unit:
                counts[alike.beside.unit] += alike.count
        if len(counts) != 1:
            continue
        ((unit, count),) = counts.items()
        if is_currency(unit) or 2 * count >= _numbers_in(found, name):
            made[name] = unit
    return made


def _numbers_in(found: _Found, name: str) -> int:
    """Count the numbers of a column."""
    frame = found.frames.get(name)
    if frame is None:
        (frame,) = found.frames.values()
        if name:
            frame = frame.filter(pl.col("series") == found.names.index(name))
    return frame.height - frame["value"].null_count()


def _check_columns(table: TextTable, how: HowRead) -> None:
    named = [
        how.dates.column, *how.dates.more, how.series.column, *how.series.more, *how.values.columns,
        *how.values.other_mark, *(condition.column for condition in how.keep),
    ]  # fmt: skip
    missing = [f"“{name}”" for name in dict.fromkeys(named) if name is not None and name not in table.columns]
    if missing:
        raise Refusal(
            f"There is no column named {' or '.join(missing)}.",
            place=f"the columns are {', '.join(table.columns)}",
            todo="Choose one of the columns that are there.",
        )


def _kept_rows(table: TextTable, how: HowRead) -> TextTable:
    """Return rows that satisfy all conditions. Raises Refusal if none is left."""
    if not how.keep:
        return table
    mask = pl.repeat(True, table.height, eager=True)
    for condition in how.keep:
        mask = mask & _holds(table.cells[condition.column], condition, how.values.writing(condition.column))
    if not mask.any():
        conditions = "; ".join(f"{condition.column} {condition.test.label}" for condition in how.keep)
        raise Refusal("No row is left by the conditions.", place=conditions, todo="Widen or remove one of them.")
    return replace(table, cells=table.cells.filter(mask), numbers=table.numbers.filter(mask))


def _holds(cells: pl.Series, keep: KeepHow, writing: Writing) -> pl.Series:
    texts = cells.fill_null("").str.strip_chars()
    if keep.test is RowTest.RANGE:
        return _in_range(texts, keep, writing)
    wanted = [value.strip().lower() for value in keep.values]
    if not wanted:
        return pl.repeat(True, cells.len(), eager=True)
    lowered = texts.str.to_lowercase()
    if keep.test is RowTest.CONTAINS:
        return lowered.str.contains_any(wanted)
    hit = lowered.is_in(wanted)
    return ~hit if keep.test is RowTest.NOT_ONE_OF else hit


def _in_range(texts: pl.Series, keep: KeepHow, writing: Writing) -> pl.Series:
    """Compare as numbers, dates, or text, by the type of the bounds."""
    ends = [end for end in (keep.low, keep.high) if end]
    inside = texts != ""
    if not ends:
        return inside
    values = read_cells(texts, writing).value
    numbers = read_cells(pl.Series(ends), writing).value
    limits = {"low": keep.low, "high": keep.high}
    if not numbers.null_count():
        column = values
        found = {name: read_cells(pl.Series([end]), writing).value[0] for name, end in limits.items() if end}
    else:
        forms = fitting_forms(texts)
        column = read_dates(texts, forms[0][0]) if forms else texts
        found = {
            name: _limit_date(end, forms[0][0], keep.column) if forms else end for name, end in limits.items() if end
        }
    inside = inside & column.is_not_null()
    if "low" in found:
        inside = inside & (column >= found["low"]).fill_null(False)
    if "high" in found:
        inside = inside & (column <= found["high"]).fill_null(False)
    return inside


def _limit_date(text: str, form: DateForm, column: str) -> object:
    for form_tried in (DateForm.ISO_DAY, form):
        moment = read_dates(pl.Series([text]), form_tried)[0]
        if moment is not None:
            return moment
    raise Refusal(f"“{text}” is no date.", place=f"the condition on {column}", todo="Write it like 2026-03-14.")


@dataclass(frozen=True, slots=True)
class _Found:
    """Parsed cells.

    said: texts beside numbers by column, with rows
    """

    frames: dict[str, pl.DataFrame]
    names: list[str]
    undated: tuple[Undated, ...]
    undated_count: int
    zone: str | None = None
    said: Mapping[str, tuple[CellMeaning, ...]] = field(default_factory=dict)


def _down(table: TextTable, how: HowRead) -> _Found:
    """Read rows with a date each: columns of numbers, or events."""
    assert how.dates.column is not None
    date_cells = date_texts(table, how.dates)
    labels = series_texts(table, how.series)
    # the reader works outside of Python: names and numbers are read beside the dates
    beside = ThreadPoolExecutor(2)
    naming = beside.submit(_codes, labels) if labels is not None else None
    wanted = how.values.columns if how.values.kind is ValueKind.COLUMNS else ()
    reading = {
        column: beside.submit(read_cells, table.cells[column], how.values.writing(column))
        for column in wanted
        if labels is not None
    }
    beside.shutdown(wait=False)
    clock = moments_of(date_cells, how.dates, labels, table.cells[how.dates.column], time_texts(table, how.dates))
    moments = clock.when
    dated = moments.is_not_null()
    undated, undated_count = _undated(table, how, date_cells, dated)
    if not dated.any():
        cells = date_cells.drop_nulls()
        raise Refusal(
            f"No cell of {how.dates.column} is a date written as {how.dates.form.label}.",
            place=f"row {table.row_number(0)}: “{cells[0] if cells.len() else ''}”",
            todo="Choose another column, or another way of writing dates.",
        )
    whole = bool(dated.all())

    def keep(column: pl.Series) -> pl.Series:
        return column if whole else column.filter(dated)

    when, numbers = keep(moments), keep(table.numbers)
    wall = None if clock.wall is None else keep(clock.wall)
    codes, names = _one(when.len(), EVENTS)
    if naming:
        # a name that occurs in undated rows only, such as a total, is no series
        assert labels is not None
        codes, names = naming.result() if whole else _codes(keep(labels))
    if how.values.kind is ValueKind.EVENTS:
        ones = pl.repeat("1", when.len(), dtype=pl.String, eager=True)
        events = _frame(codes, when, ones, numbers, how)
        if wall is not None:
            events = events.with_columns(wall=wall)
        return _Found({EVENTS: events}, names, undated, undated_count, clock.zone)
    said: dict[str, tuple[CellMeaning, ...]] = {}

    def frame(column: str, codes: pl.Series) -> pl.DataFrame:
        read = reading[column].result()
        if read.said:
            said[column] = _with_rows(read.said[0], table.numbers)
        made = _table(codes, when, keep(table.cells[column]), numbers, (keep(read.value), keep(read.received)))
        return made if wall is None else made.with_columns(wall=wall)

    if labels is not None:
        frames = {column: frame(column, codes) for column in wanted}
        return _Found(frames, names, undated, undated_count, clock.zone, said)
    names = list(wanted)
    measure = names[0] if len(names) == 1 else "values"
    # columns one under the other are read in one go
    columns = table.cells.select(names) if whole else table.cells.select(names).filter(dated)
    cells = pl.concat(columns.get_columns())
    places = pl.Series(np.repeat(np.arange(len(names), dtype=np.uint32), when.len()))
    read = _columns_read(columns, cells, how)
    said |= {names[place]: _with_rows(alike, numbers) for place, alike in read.said.items()}
    stacked = _table(places, _times(when, len(names)), cells, _times(numbers, len(names)), (read.value, read.received))
    if wall is not None:
        stacked = stacked.with_columns(wall=_times(wall, len(names)))
    return _Found({measure: stacked}, names, undated, undated_count, clock.zone, said)


def _columns_read(columns: pl.DataFrame, cells: pl.Series, how: HowRead) -> ParsedCells:
    """Read number columns, concatenated.

    cells: as one column
    """
    if how.values.other_mark:
        read = [read_cells(columns[name], how.values.writing(name)) for name in columns.columns]
        return ParsedCells(
            pl.concat([column.value for column in read]),
            pl.concat([column.received for column in read]),
            {n: column.said[0] for n, column in enumerate(read) if column.said},
        )
    parsed = pl.concat(columns.select(pl.all().cast(pl.Float64, strict=False)).get_columns())
    return read_cells(cells, how.values.writing(), parsed, columns.width)


def _with_rows(said: tuple[CellMeaning, ...], numbers: pl.Series) -> tuple[CellMeaning, ...]:
    """Replace row indices by row numbers."""
    return tuple(replace(alike, places=tuple(int(numbers[place]) for place in alike.places)) for alike in said)


def _times(column: pl.Series, count: int) -> pl.Series:
    return column if count == 1 else pl.concat([column] * count)


def _across(table: TextTable, how: HowRead) -> _Found:
    """Read periods in column names, one series a row, or parts of dates."""
    columns = periods_across(table, how)
    if not columns:
        raise Refusal(
            f"No column name is a date written as {how.dates.form.label}.",
            place=f"the columns are {', '.join(table.columns[:8])}",
            todo="Choose another way of writing dates, or another row for the column names.",
        )
    labels = series_texts(table, how.series)
    if labels is None and how.dates.column is None:
        labels = pl.select(pl.format("row {}", table.numbers)).to_series()
    codes, names = _codes(labels) if labels is not None else _one(table.height, "values")
    stems = list(dict.fromkeys(stem(name) for name in columns)) if how.dates.form is DateForm.NAME_YEAR else []
    if len(stems) > 1:
        # each word beside the years is a series of its own
        names = [part if labels is None else f"{name}, {part}" for part in stems for name in names]
    rows = len(names) // max(1, len(stems))
    beside = date_texts(table, how.dates).str.replace(r"^(\d+)\.0+$", "$1") if how.dates.column else None
    frames = []
    undated: tuple[Undated, ...] = ()
    # periods across are one measure, so texts apply to all of it
    read = read_cells(pl.concat([table.cells[name].rename("cell") for name in columns]), how.values.writing())
    said = {"": _with_rows(read.said[0], pl.concat([table.numbers] * len(columns)))} if read.said else {}
    for n, name in enumerate(columns):
        texts = pl.repeat(name, table.height, dtype=pl.String, eager=True)
        if beside is not None and how.dates.times is not TimesHow.WRITTEN:
            moments = moments_of(beside, how.dates, labels, times=texts).when
        else:
            moments = read_dates(texts if beside is None else joined([beside, texts]), how.dates.form)
        moments = in_its_year(moments, how.dates) if how.dates.year_begins > 1 else moments
        dated = moments.is_not_null()
        if beside is not None and not dated.any():
            continue
        if not dated.all() and not undated:
            undated = _listed(table, (~dated).arg_true(), beside if beside is not None else texts)
        own = codes if len(stems) < 2 else (codes + stems.index(stem(name)) * rows).cast(pl.UInt32)
        part = (column.slice(n * table.height, table.height) for column in (read.value, read.received))
        frame = _table(own, moments, table.cells[name], table.numbers, tuple(part))
        frames.append(frame if dated.all() else frame.filter(dated))
    if not frames:
        raise Refusal(
            f"{how.dates.column} and the column names make no date written as {how.dates.form.label}.",
            todo="Choose another column, or another way of writing dates.",
        )
    return _Found({"values": pl.concat(frames)}, names, undated, len(undated), said=said)


def _codes(labels: pl.Series) -> tuple[pl.Series, list[str]]:
    """Return codes in order of first appearance, and their names."""
    written = labels.fill_null("(no name)")
    distinct = written.unique(maintain_order=True)
    codes = written.cast(pl.Enum(distinct)).to_physical().cast(pl.UInt32)
    clean = distinct.str.strip_chars()
    names = clean.unique(maintain_order=True)
    if names.len() < distinct.len():
        codes = clean.cast(pl.Enum(names)).to_physical().cast(pl.UInt32).gather(codes)
    return codes, names.to_list()


def _one(size: int, name: str) -> tuple[pl.Series, list[str]]:
    return pl.repeat(0, size, dtype=pl.UInt32, eager=True), [name]


def _frame(codes: pl.Series, when: pl.Series, cells: pl.Series, rows: pl.Series, how: HowRead) -> pl.DataFrame:
    read = read_cells(cells, how.values.writing())
    return _table(codes, when, cells, rows, (read.value, read.received))


def _table(
    codes: pl.Series, when: pl.Series, cells: pl.Series, rows: pl.Series, read: tuple[pl.Series, ...]
) -> pl.DataFrame:
    value, received = read
    return pl.DataFrame(
        {"series": codes, "when": when, "value": value, "received": received, "text": cells, "row": rows}
    )


def _undated(table: TextTable, how: HowRead, cells: pl.Series, dated: pl.Series) -> tuple[tuple[Undated, ...], int]:
    """Return rows without a date; raises Refusal if their dates are in another format."""
    if dated.all():
        return (), 0
    lost = (~dated).arg_true()
    said = cells.gather(lost)
    # bare numbers match several formats by chance, so only unambiguous dates count here
    others = fitting_forms(said.filter(said.str.contains(r"[-/. ]")), share=0.01) if lost.len() else []
    others = [(form, share) for form, share in others if not form.bare and form is not how.dates.form]
    # rows of quarters and years among months, or of months among days, add others up
    others = [(form, share) for form, share in others if not form.coarser_than(how.dates.form)]
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
    return _listed(table, lost, cells), lost.len()


def _listed(table: TextTable, lost: pl.Series, cells: pl.Series) -> tuple[Undated, ...]:
    some = lost.head(MOST_UNDATED_LISTED)
    return tuple(
        Undated(table.row_number(int(at)), text or "") for at, text in zip(some, cells.gather(some), strict=True)
    )
