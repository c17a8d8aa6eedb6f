"""Query the rows of a run: count, find, sort, hand over; by predicate, never all in memory."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from pathlib import Path

import polars as pl

from zembra.core.errors import Refusal
from zembra.core.many.columns import COLUMNS, Where
from zembra.core.many.looks import LOOK, Near, counts_of, looks_of, marked, tagged
from zembra.service.many.charts import CHARTS, ROW, has_charts, with_charts
from zembra.service.many.work import part_file

DRAWN = 2_000  # newest points of a series that are drawn
OPEN_BITS = "open_bits"  # no column to hand over


@dataclass(frozen=True, slots=True)
class Wanted:
    """A query of rows.

    look: a reason for a look, or empty
    find: part of the name
    by, descending: sort order
    where: filters
    """

    look: str = ""
    find: str = ""
    by: str = "series"
    descending: bool = False
    start: int = 0
    count: int = 100
    where: tuple[Where, ...] = ()


def known_rows(out: Path) -> pl.LazyFrame | None:
    """Return rows of the last run, or of finished parts of the first one, or None.

    out: folder of the run
    """
    whole = out / "series.parquet"
    if whole.exists():
        return pl.scan_parquet(whole)
    parts: Sequence[Path] = sorted((out / ".work" / "series").glob("part-*.parquet"))
    if not parts:
        return None
    frames = [pl.scan_parquet(file).with_columns(part=pl.lit(int(file.stem[5:]), dtype=pl.UInt32)) for file in parts]
    return pl.concat(frames)


def counts(out: Path, near: Near) -> dict[str, int]:
    """Count series by reason for a look. Raises Refusal."""
    return counts_of(_known(out), near)


def rows(out: Path, wanted: Wanted, near: Near) -> tuple[int, pl.DataFrame]:
    """Return the total and one page of rows. Raises Refusal."""
    known = _known(out)
    apart = has_charts(out)
    if apart:
        known = known.drop(CHARTS).with_row_index(ROW)
    found = _ordered(_chosen(known, wanted, near), wanted).collect()
    page = tagged(found.slice(wanted.start, wanted.count))
    return found.height, with_charts(out, page) if apart else page


def every_row(out: Path, wanted: Wanted, near: Near) -> pl.DataFrame:
    """Return all rows of a query, to hand over. Raises Refusal."""
    found = tagged(_ordered(_chosen(_known(out).drop(CHARTS), wanted, near), wanted).collect())
    return found.drop(OPEN_BITS).with_columns(pl.col("found").list.join(", "))


def points_and_lines(out: Path, series: str) -> tuple[pl.DataFrame, pl.DataFrame]:
    """Return the newest points of a series, and its lines there. Raises Refusal."""
    found = _known(out).filter(pl.col("series") == series).select("part").collect()
    if not found.height or found["part"][0] is None:
        raise Refusal(f"There are no results for “{series}”.", todo="Carry the ledger out on all series.")
    points, lines = (
        pl.scan_parquet(part_file(out, kind, found["part"][0])).filter(pl.col("series") == series).collect()
        for kind in ("points", "lines")
    )
    points = points.tail(DRAWN)
    first = points["period"][0] if points.height else ""
    return points, lines.filter(pl.col("period") >= first)


def _known(out: Path) -> pl.LazyFrame:
    found = known_rows(out)
    if found is None:
        raise Refusal("The ledger was not carried out on all series yet.", todo="Carry it out.")
    return found


def _ordered(found: pl.LazyFrame, wanted: Wanted) -> pl.LazyFrame:
    return found.sort(wanted.by, "series", descending=[wanted.descending, False], nulls_last=True)


def _chosen(known: pl.LazyFrame, wanted: Wanted, near: Near) -> pl.LazyFrame:
    every = marked(known, near)
    if wanted.look:
        looks = looks_of(near)
        if wanted.look not in looks:
            raise Refusal(f"There is nothing to look at called “{wanted.look}”.", place=", ".join(looks))
        every = every.filter(LOOK + wanted.look)
    if wanted.find.strip():
        every = every.filter(
            pl.col("series").str.to_lowercase().str.contains(wanted.find.strip().lower(), literal=True)
        )
    for where in wanted.where:
        every = every.filter(where.expr())
    if wanted.by != "series" and wanted.by not in COLUMNS:
        raise Refusal(f"There is no column “{wanted.by}” to put rows in order by.")
    return every
