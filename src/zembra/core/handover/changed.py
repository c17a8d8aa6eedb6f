"""Compare frozen numbers with current ones, period by period."""

from __future__ import annotations

from dataclasses import dataclass

import polars as pl

KEYS = {"points": ("series", "period"), "lines": ("series", "line", "period", "level")}
COMPARED = {"points": ("value", "condition"), "lines": ("value", "lower", "upper")}


@dataclass(frozen=True, slots=True)
class Change:
    """A period that differs.

    line: empty for the series itself
    was, now: values or None
    said: in words
    """

    series: str
    line: str
    period: str
    was: float | None
    now: float | None
    said: str


@dataclass(frozen=True, slots=True)
class ChangedPeriods:
    """Differences.

    counts: number of periods by kind
    rows: the first of them
    """

    counts: dict[str, int]
    rows: list[Change]


def changes(frozen: pl.DataFrame, now: pl.DataFrame, table: str, most: int) -> ChangedPeriods:
    """Compare a frozen table with the current one.

    table: points or lines
    most: rows to return
    """
    keys = list(KEYS[table])
    columns = COMPARED[table]
    was, is_ = (frame.select(*keys, *columns).with_columns(pl.lit(True).alias("there")) for frame in (frozen, now))
    both = was.join(
        is_, on=keys, how="full", coalesce=True, suffix="_now", nulls_equal=True, maintain_order="right_left"
    )
    differs = pl.any_horizontal(*(pl.col(column).ne_missing(pl.col(f"{column}_now")) for column in columns))
    both = both.with_columns(
        pl.when(pl.col("there").is_null())
        .then(pl.lit("new"))
        .when(pl.col("there_now").is_null())
        .then(pl.lit("gone"))
        .when(pl.col("value").ne_missing(pl.col("value_now")))
        .then(pl.lit("another value"))
        .when(differs)
        .then(pl.lit("another condition" if table == "points" else "other limits"))
        .alias("how")
    ).filter(pl.col("how").is_not_null())
    counts = {str(how): int(count) for how, count in both.group_by("how").len().sort("how").iter_rows()}
    rows = [
        Change(
            series=row["series"],
            line=row.get("line") or "",
            period=row["period"],
            was=row["value"],
            now=row["value_now"],
            said=_said(row, table),
        )
        for row in both.head(most).iter_rows(named=True)
    ]
    return ChangedPeriods(counts, rows)


def _said(row: dict[str, object], table: str) -> str:
    if (
        table == "points"
        and row["how"] in ("another condition", "another value")
        and row["condition"] != row["condition_now"]
    ):
        return f"was {row['condition']}, is {row['condition_now']}"
    return str(row["how"])
