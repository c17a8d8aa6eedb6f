"""Split names of series into parts, such as landing and fare."""

from __future__ import annotations

from collections.abc import Sequence

import polars as pl

BETWEEN = (
    ", ",
    " · ",
    " | ",
    " / ",
    " – ",
    " — ",
    " - ",
    "; ",
    ": ",
    "|",
    ";",
    "/",
    "_",
    ":",
)  # what parts names, likeliest first
JOINED = BETWEEN[0]  # what stands between the columns that a name was made of
ENOUGH = 0.9  # share of the names that have as many parts
MOST_PARTS = 6


def name_parts(names: Sequence[str], columns: Sequence[str]) -> pl.DataFrame:
    """Split names into parts: a row per series with its name as `series`, and a column per part, null if its name
    has another number of parts.

    columns: source columns of the names, which then name the parts
    """
    frame = pl.DataFrame({"series": names}, schema={"series": pl.String})
    if len(columns) > 1:
        return _apart(frame, JOINED, len(columns), columns)
    for between in BETWEEN:
        counts = frame.select(pl.col("series").str.count_matches(between, literal=True) + 1).to_series()
        usual = counts.mode()
        count = int(usual[0]) if usual.len() else 1
        if not 2 <= count <= MOST_PARTS or (counts == count).mean() < ENOUGH:  # type: ignore[operator]
            continue
        found = _apart(frame, between, count, [f"part {n + 1}" for n in range(count)])
        # a split without repeated parts is no structure
        if any(found[name].n_unique() < found.height / 2 for name in found.columns[1:]):
            return found
    return frame


def _apart(frame: pl.DataFrame, between: str, count: int, titles: Sequence[str]) -> pl.DataFrame:
    split = pl.col("series").str.split(between)
    right = split.list.len() == count
    return frame.with_columns(
        pl.when(right).then(split.list.get(n, null_on_oob=True).str.strip_chars()).alias(title)
        for n, title in enumerate(titles)
    )


def groups_by(parts: pl.DataFrame, by: Sequence[str]) -> pl.DataFrame:
    """Return which series belong to which sums: series, sum (name), level (number of parts). Sums of one series are
    left out.

    parts: as `name_parts` returns them
    by: parts; there is one sum of all, then by the first, then by the first two, and so on
    """
    found = []
    for level in range(len(by) + 1):
        some = parts.drop_nulls(list(by[:level]))
        name = pl.concat_str(list(by[:level]), separator=JOINED) if level else pl.lit("all series")
        found.append(some.select("series", name.alias("sum"), pl.lit(level, dtype=pl.UInt8).alias("level")))
    every = pl.concat(found).with_columns(pl.len().over("level", "sum").alias("members"))
    return every.filter(pl.col("members") > 1).drop("members")
