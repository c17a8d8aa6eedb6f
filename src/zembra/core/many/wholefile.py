"""Check what only a whole file can show, over all its series."""

from __future__ import annotations

from dataclasses import dataclass

import polars as pl

from zembra.core.calendar.grain import Grain
from zembra.core.english import counted, number
from zembra.core.handover.tables import BRIDGED
from zembra.core.intake.howread import HowRead

FEW_PERIODS = 8  # below this, gaps are seen at a glance
MOST_ABSENT = 0.5
_CONDITIONS = ("measured", "open", "filled", "set_aside", "adjusted", "provisional", BRIDGED)


@dataclass(frozen=True, slots=True)
class WholeFile:
    """Counts over all series.

    periods: in their calendars; blank, absent, unreadable: as received; shared: with several rows, in `sharing`
    series
    sparse: series with rows in less than half of their periods
    undated: rows without a date
    shared_such, unreadable_such, sparse_such: an example series, or empty
    """

    series: int
    rows: int
    periods: int
    blank: int
    absent: int
    unreadable: int
    shared: int
    sharing: int
    sparse: int
    undated: int
    shared_such: str
    unreadable_such: str
    sparse_such: str


def counted_over(rows: pl.DataFrame, undated: int) -> WholeFile:
    """Count over all series.

    rows: of series.parquet
    """
    every = rows.filter(pl.col("rows").is_not_null()).with_columns(periods=pl.sum_horizontal(*_CONDITIONS))
    sparse = every.filter((pl.col("periods") >= FEW_PERIODS) & (pl.col("absent") > MOST_ABSENT * pl.col("periods")))
    sharing = every.filter(pl.col("shared") > 0)
    totals = {name: int(every[name].sum()) for name in ("rows", "periods", "blank", "absent", "unreadable", "shared")}
    return WholeFile(
        series=every.height,
        **totals,
        sharing=sharing.height,
        sparse=sparse.height,
        undated=undated,
        shared_such=_one_of(sharing),
        unreadable_such=_one_of(every.filter(pl.col("unreadable") > 0)),
        sparse_such=_one_of(sparse),
    )


def questions_of(found: WholeFile, how: HowRead, grain: Grain | None) -> list[str]:
    """Return questions about the whole file as text, without those asked when it was brought in."""
    settled = {closed.key.partition(":")[0] for closed in how.settled}
    periods = grain.plural if grain else "periods"
    said = []
    if found.shared and not settled & {"shared", "combine"}:
        of = counted(found.sharing, "series", "series")
        said.append(
            f"{number(found.shared)} {periods} of {of} are shared by several rows, such as of “{found.shared_such}”. What becomes of them?"
        )
    if found.sparse and "absent" not in settled:
        of = counted(found.sparse, "series has", "series have")
        said.append(
            f"{of} a row in fewer than half of {'its' if found.sparse == 1 else 'their'} {periods}, such as “{found.sparse_such}”. On which calendar are the numbers?"
        )
    if found.unreadable:
        said.append(
            f"{counted(found.unreadable, 'cell is', 'cells are')} no number, such as of “{found.unreadable_such}”. What do they mean?"
        )
    if found.undated:
        said.append(
            f"{counted(found.undated, 'row has', 'rows have')} no date that can be read, and {'is' if found.undated == 1 else 'are'} left out."
        )
    return said


def _one_of(rows: pl.DataFrame) -> str:
    return str(rows["series"].min()) if rows.height else ""
