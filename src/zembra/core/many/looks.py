"""Find which of very many series need a look."""

from __future__ import annotations

from dataclasses import dataclass

import polars as pl

from zembra.core.many.seriesrow import BITS

OUTSIDE, SHIFT, SILENT, BLANK, WORSE, REFUSED, ASK, NOTHING = (
    "outside",
    "shift",
    "silent",
    "blank",
    "worse",
    "refused",
    "ask",
    "nothing",
)


@dataclass(frozen=True, slots=True)
class Near:
    """What counts as recent.

    lately: days within which a shift is recent, or after which a series is overdue
    end: newest periods that are near the end
    """

    lately: int = 28
    end: int = 14


def words_of(near: Near) -> dict[str, str]:
    """Return the texts of the reasons."""
    return {
        OUTSIDE: "newest outside its limits",
        SHIFT: f"level shift in the last {near.lately} days",
        SILENT: f"no newer number for {near.lately} days",
        BLANK: f"blank or absent in the newest {near.end}",
        WORSE: "projection worse than the usual step",
        REFUSED: "the ledger could not be carried out",
        ASK: "on the follow-up list",
        NOTHING: "nothing found",
    }


def looks_of(near: Near) -> dict[str, pl.Expr]:
    """Return for each reason a mask of rows. The newest day is that of all rows."""
    newest = pl.col("last").max()
    since = newest - pl.duration(days=near.lately)
    bits = (1 << min(BITS, max(1, near.end))) - 1
    found = {
        OUTSIDE: pl.col("away") > 1,
        SHIFT: pl.col("shift_day") > since,
        SILENT: pl.col("newest_day").fill_null(pl.col("last")) <= since,
        BLANK: (pl.col("open_bits") & pl.lit(bits, dtype=pl.UInt64)) > 0,
        WORSE: pl.col("error") > 1,
        REFUSED: pl.col("refused").fill_null("") != "",
        ASK: pl.col("findings") > 0,
    }
    known = {name: rule.fill_null(False) for name, rule in found.items()}
    return {**known, NOTHING: ~pl.any_horizontal(*known.values())}


def counts_of(rows: pl.LazyFrame, near: Near) -> dict[str, int]:
    """Count the rows for each reason."""
    counts = rows.select(rule.sum().alias(name) for name, rule in looks_of(near).items()).collect()
    return {name: int(counts[name][0] or 0) for name in counts.columns}


LOOK = "look "  # before the names of columns that say whether a row is to be looked at


def marked(rows: pl.LazyFrame, near: Near) -> pl.LazyFrame:
    """Add a boolean column for each reason. Reasons depend on all rows, so this precedes any filter."""
    return rows.with_columns(rule.alias(LOOK + name) for name, rule in looks_of(near).items())


def tagged(rows: pl.DataFrame) -> pl.DataFrame:
    """Add the reasons as a list in the column `found`; slow for many rows."""
    marks = [name for name in rows.columns if name.startswith(LOOK)]
    words = [pl.when(name).then(pl.lit(name.removeprefix(LOOK))) for name in marks if name != LOOK + NOTHING]
    return rows.with_columns(found=pl.concat_list(words).list.drop_nulls()).drop(marks)
