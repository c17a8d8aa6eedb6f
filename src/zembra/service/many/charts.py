"""Sparklines of a run, as rows of a fixed-width file in the order of series.parquet: those of a page are read without
the others (2 ms of 100 000 rows, where a table of lists takes 80)."""

from __future__ import annotations

from pathlib import Path

import numpy as np
import polars as pl

from zembra.core.arithmetic.arrays import Floats
from zembra.core.many.seriesrow import SPARK
from zembra.store.whole import whole_file

CHARTS = ("spark", "spark_lower", "spark_upper")
ROW = "row"  # place in series.parquet


def keep_charts(out: Path, rows: pl.DataFrame) -> None:
    """Write the sparklines of rows.

    rows: as in series.parquet, which must be written first
    """
    # how many numbers, then these; NaN for none
    table = np.full((rows.height, len(CHARTS), 1 + SPARK), np.nan, dtype=np.float32)
    for at, name in enumerate(CHARTS):
        lengths = rows[name].list.len().fill_null(0).to_numpy().astype(np.int64)
        table[:, at, 0] = lengths
        known = rows[name].filter(pl.Series(lengths > 0)).explode()
        row = np.repeat(np.arange(rows.height), lengths)
        place = np.arange(row.size) - np.repeat(np.cumsum(lengths) - lengths, lengths)
        table[row, at, 1 + place] = known.cast(pl.Float32).fill_null(float("nan")).to_numpy()
    with whole_file(_file(out)) as beside, beside.open("wb") as file:
        np.save(file, table)


def has_charts(out: Path) -> bool:
    """Return whether sparklines match the rows."""
    rows, charts = out / "series.parquet", _file(out)
    return rows.exists() and charts.exists() and charts.stat().st_mtime_ns >= rows.stat().st_mtime_ns


def with_charts(out: Path, page: pl.DataFrame) -> pl.DataFrame:
    """Add sparklines to a page.

    page: rows with their index in column `row`, which is dropped
    """
    table = np.load(_file(out), mmap_mode="r")[page[ROW].to_numpy()]
    charts = [pl.Series(name, _lists(table[:, at]), dtype=pl.List(pl.Float32)) for at, name in enumerate(CHARTS)]
    return page.drop(ROW).with_columns(charts)


def _lists(table: Floats) -> list[list[float | None]]:
    return [
        [None if np.isnan(value) else float(value) for value in row[1 : 1 + int(row[0])]] for row in np.asarray(table)
    ]


def _file(out: Path) -> Path:
    return out / ".work" / "charts.npy"
