"""Compute the moment of each row from its date cells."""

from __future__ import annotations

from dataclasses import replace

import numpy as np
import polars as pl

from zembra.core.intake.clock import Moments, counted_from_midnight, read_moments
from zembra.core.intake.dates import read_dates
from zembra.core.intake.hours import minutes_of
from zembra.core.intake.howread import Century, DatesHow, Down, HourSays, TimesHow, YearNamed
from zembra.core.intake.joining import date_texts
from zembra.core.intake.table import TextTable


def row_moments(table: TextTable, how: DatesHow, groups: pl.Series | None = None) -> Moments:
    """Return the moments of a table's rows.

    groups: the series of each row
    """
    written = table.cells[how.column] if how.column else None
    return moments_of(date_texts(table, how), how, groups, written, time_texts(table, how))


def time_texts(table: TextTable, how: DatesHow) -> pl.Series | None:
    """Return the time of day that stands apart from the date."""
    return table.cells[how.more[-1]] if how.more and how.times is not TimesHow.WRITTEN else None


def moments_of(
    texts: pl.Series,
    how: DatesHow,
    groups: pl.Series | None = None,
    written: pl.Series | None = None,
    times: pl.Series | None = None,
) -> Moments:
    """Parse row dates.

    texts: joined dates
    written: cells of the first date column before filling down
    times: see `time_texts`
    """
    if times is not None:
        return counted_from_midnight(read_dates(texts, how.form), minutes_of(times, how.times, how.hours), how.zone)
    read = read_moments(texts, how.form, how.zone, groups)
    if how.century is not Century.USUAL:
        years = "-100y" if how.century is Century.BEFORE else "100y"
        wall = None if read.wall is None else read.wall.dt.offset_by(years)
        read = replace(read, when=read.when.dt.offset_by(years), wall=wall)
    if how.hours is HourSays.ENDS:
        earlier = pl.duration(hours=1)
        wall = None if read.wall is None else pl.select(read.wall - earlier).to_series()
        read = replace(read, when=pl.select(read.when - earlier).to_series(), wall=wall)
    if how.down is Down.COUNTED and written is not None:
        return replace(read, when=_counted_on(read.when, written))
    if how.year_begins > 1:
        return replace(read, when=in_its_year(read.when, how))
    return read


def in_its_year(moments: pl.Series, how: DatesHow) -> pl.Series:
    """Move months to the calendar year of their fiscal year."""
    late = pl.col("when").dt.month() >= how.year_begins
    moved = (
        pl.when(late).then(pl.col("when")).otherwise(pl.col("when").dt.offset_by("1y"))
        if how.year_named is YearNamed.BEGINS
        else pl.when(late).then(pl.col("when").dt.offset_by("-1y")).otherwise(pl.col("when"))
    )
    return pl.DataFrame({"when": moments}).select(moved).to_series()


def _counted_on(moments: pl.Series, written: pl.Series) -> pl.Series:
    """Advance a year that is written once each time its months restart, or go back if the newest row is first."""
    frame = pl.DataFrame({"when": moments, "block": written.is_not_null().cum_sum()}).with_row_index("row")
    known = frame.drop_nulls("when")
    month = known["when"].dt.month().to_numpy().astype(np.int64)
    same = known["block"].to_numpy()[1:] == known["block"].to_numpy()[:-1]
    steps = np.diff(month)
    forward = np.count_nonzero(same & (steps > 0)) >= np.count_nonzero(same & (steps < 0))
    again = np.concatenate([[0], np.where(same & ((steps < 0) if forward else (steps > 0)), 1, 0)])
    total = np.cumsum(again)
    # counted from the row at which each block begins
    starts = np.concatenate([[True], ~same])
    total -= np.maximum.accumulate(np.where(starts, total, 0))
    years = pl.Series("years", total if forward else -total)
    moved = known.with_columns(years).with_columns(
        pl.col("when").dt.offset_by(pl.format("{}y", pl.col("years"))).alias("moved")
    )
    return frame.join(moved.select("row", "moved"), on="row", how="left", maintain_order="left")["moved"]
