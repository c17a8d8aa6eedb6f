"""Merge the table that is there with the one that came."""

from __future__ import annotations

import io
from dataclasses import dataclass

import numpy as np
import polars as pl

from zembra.core.errors import Refusal
from zembra.core.intake.bringin import BroughtIn
from zembra.core.intake.dateforms import DateForm
from zembra.core.intake.howread import DatesHow, Down, FileForm, HowRead, Names, TableHow, ValueKind
from zembra.core.intake.joining import folded, joined, series_texts
from zembra.core.intake.numbercell import DecimalMark
from zembra.core.intake.numbers import read_cells
from zembra.core.intake.rowdates import row_moments
from zembra.core.newrows.takingwords import InBoth, NoLonger, NowBlank, Taken, TakingHow

_KEY = ["__series", "__when", "__about"]  # of a row, beside the columns of the table
# parts of how two files are read that must agree for rows to be mixed as written
_ALIKE = ("dates", "series", "values")


@dataclass(frozen=True, slots=True)
class JoinedTable:
    """The merged table.

    data: Parquet with every cell as text
    how: how it is read
    """

    data: bytes
    how: HowRead


def together(before: BroughtIn, came: BroughtIn, how: TakingHow) -> JoinedTable:
    """Merge old and new rows as the sentence says. Rows are identified by series and moment, not by period, so that
    half a month does not replace the other half. Raises Refusal.
    """
    if ValueKind.ACROSS in (before.how.values.kind, came.how.values.kind):
        raise Refusal(
            "Where periods run across the columns, rows cannot be mixed.",
            todo="Bring in the whole table, and let it take the place of what was there.",
        )
    alike = all(getattr(before.how, part) == getattr(came.how, part) for part in _ALIKE)
    old, new = (_keyed(brought, plain=not alike) for brought in (before, came))
    missing = [name for name in before.how.values.columns if name not in new.columns]
    if missing:
        raise Refusal(f"What came has no column {missing[0]}.", todo="Bring it in as a study of its own.")
    # rewritten cells are parsed again
    read = before.how if alike else _plain_how(before.how)
    cells = _mixed(old, new, read, how).drop(_KEY)
    out = io.BytesIO()
    cells.write_parquet(out, compression="lz4", statistics=False)
    return JoinedTable(out.getvalue(), read.model_copy(update={"table": TableHow(form=FileForm.PARQUET)}))


def _keyed(brought: BroughtIn, *, plain: bool) -> pl.DataFrame:
    """Return the cells with a key for each row.

    plain: whether to write dates and numbers in one way
    """
    table, how = brought.table, brought.how
    names = series_texts(table, how.series)
    moments = row_moments(table, how.dates, names)
    when = moments.when if moments.wall is None else moments.wall
    cells = table.cells
    filled = [
        cells[name].forward_fill().alias(name)
        for part, name in ((how.dates, how.dates.column), (how.series, how.series.column))
        if name is not None and part.down is Down.ABOVE
    ]
    cells = cells.with_columns(filled)
    if plain:
        cells = _written_plainly(cells, how, when)
    nothing = pl.repeat("", cells.height, dtype=pl.String, eager=True)
    key = names.fill_null("").str.strip_chars() if names is not None else nothing
    if how.series.names is Names.FOLDED:
        key = key.replace({name: folded(name) for name in key.unique()})
    # rows that a condition tells apart are not rows of one thing
    about = [cells[name].fill_null("") for name in dict.fromkeys(keep.column for keep in how.keep)]
    condition = joined(about, "\n") if about else nothing
    keys = (key, moments.when.cast(pl.Datetime("ms")), condition)
    return cells.with_columns(column.alias(name) for name, column in zip(_KEY, keys, strict=True))


def _written_plainly(cells: pl.DataFrame, how: HowRead, when: pl.Series) -> pl.DataFrame:
    assert how.dates.column is not None
    if how.dates.zone is not None or how.dates.form.in_utc:
        raise Refusal(
            "The two files write their times in different ways, on a clock that changes.",
            todo="Bring in the whole table, and let it take the place of what was there.",
        )
    columns = [when.dt.strftime("%Y-%m-%dT%H:%M:%S").alias(how.dates.column)]
    for name in how.values.columns:
        value = read_cells(cells[name], how.values.writing(name)).value
        # a cell without a number stays as it is written, so that a text stays one
        plain = pl.select(pl.when(value.is_not_null()).then(value.cast(pl.String)).otherwise(cells[name])).to_series()
        columns.append(plain.alias(name))
    return cells.with_columns(columns)


def _plain_how(how: HowRead) -> HowRead:
    dates = DatesHow(column=how.dates.column, form=DateForm.ISO_TIME)
    # sizes, signs and units are in the numbers already
    values = how.values.model_copy(update={"decimal": DecimalMark.POINT, "other_mark": (), "times": (), "negative": ()})
    return how.model_copy(update={"dates": dates, "values": values})


def _mixed(old: pl.DataFrame, new: pl.DataFrame, read: HowRead, how: TakingHow) -> pl.DataFrame:
    values = [name for name in read.values.columns if name in new.columns]
    dated_old, dated_new = (frame.filter(pl.col(_KEY[1]).is_not_null()) for frame in (old, new))
    only_old = _without(dated_old, dated_new.select(_KEY))
    if how.taken is Taken.WHOLE and how.gone is NoLonger.GO:
        only_old = only_old.clear()
    in_new = dated_new
    if values and (how.both is not InBoth.NEW or how.blank is NowBlank.STAY):
        single = all(frame.select(_KEY).is_unique().all() for frame in (dated_old, dated_new))
        chosen = _by_cell if single else _by_group
        in_new = chosen(dated_old, dated_new, values, read, how)
    return pl.concat([only_old, in_new], how="diagonal")


def _without(rows: pl.DataFrame, keys: pl.DataFrame) -> pl.DataFrame:
    """Return the rows whose key is not in a set. Most rows precede all new ones and need no lookup."""
    when = _KEY[1]
    low, high = keys[when].min(), keys[when].max()
    numbered = rows.select(*_KEY).with_row_index("__row").filter(pl.col(when).is_between(low, high))
    met = numbered.join(keys, on=_KEY, how="semi")["__row"].to_numpy()
    kept = np.ones(rows.height, dtype=bool)
    kept[met] = False
    return rows.filter(pl.Series(kept))


def _by_cell(old: pl.DataFrame, new: pl.DataFrame, values: list[str], read: HowRead, how: TakingHow) -> pl.DataFrame:
    """Choose each number by itself; every key is unique."""
    both = new.join(old.select(*_KEY, *values), on=_KEY, how="left", suffix="__old", maintain_order="left")
    for name in values:
        mine, theirs = both[name], both[f"{name}__old"]
        now, was = (read_cells(cells, read.values.writing(name)).value for cells in (mine, theirs))
        stays = was.is_not_null() & (
            now.is_null() if how.blank is NowBlank.STAY else pl.repeat(False, now.len(), eager=True)
        )
        if how.both is InBoth.OLD:
            stays = stays | (was.is_not_null() & now.is_not_null())
        elif how.both is InBoth.LARGER:
            stays = stays | (was > now).fill_null(False)
        both = both.with_columns(pl.select(pl.when(stays).then(theirs).otherwise(mine)).to_series().alias(name))
    return both.drop([f"{name}__old" for name in values])


def _by_group(old: pl.DataFrame, new: pl.DataFrame, values: list[str], read: HowRead, how: TakingHow) -> pl.DataFrame:
    """Choose among groups of rows with one series and moment, by the sum of their first number column."""

    def summed(frame: pl.DataFrame, name: str) -> pl.DataFrame:
        value = read_cells(frame[values[0]], read.values.writing(values[0])).value
        some = pl.col("v").is_not_null().any()
        sums = frame.select(_KEY).with_columns(v=value).group_by(_KEY, maintain_order=True)
        return sums.agg(pl.when(some).then(pl.col("v").sum()).alias(name))

    sums = summed(new, "now").join(summed(old, "was"), on=_KEY, how="inner")
    had, has = pl.col("was").is_not_null(), pl.col("now").is_not_null()
    stays = had & ~has if how.blank is NowBlank.STAY else pl.lit(False)
    if how.both is InBoth.OLD:
        stays = stays | (had & has)
    elif how.both is InBoth.LARGER:
        stays = stays | (had & has & (pl.col("was") > pl.col("now")))
    kept = sums.filter(stays).select(_KEY)
    return pl.concat([new.join(kept, on=_KEY, how="anti"), old.join(kept, on=_KEY, how="semi")], how="diagonal")
