"""Compute what every part needs but only all parts know: ends, targets, names, pooled limits."""

from __future__ import annotations

from collections.abc import Sequence
from datetime import date
from pathlib import Path

import polars as pl

from zembra.core.errors import Refusal
from zembra.core.intake.columnar import cells_of
from zembra.core.intake.grid import frame_table
from zembra.core.intake.howread import FileForm, HowRead
from zembra.core.intake.joining import series_texts
from zembra.core.many.plan import DataEnds
from zembra.core.projection.likeseries import HeldBack, LikeSeries, asked_of, learned
from zembra.service.many.parts import Parts
from zembra.service.many.rows import Rows
from zembra.service.many.work import PartTask, ends_of, few_of, held_back_of
from zembra.store.whole import whole_file
from zembra.work.executor import Executor, TaskLimits

PART_MB = 2_500  # memory of a worker


def names_of_series(files: Sequence[Rows], how: HowRead, known: Sequence[str]) -> list[str]:
    """Return series names: all if that is fast, else those of the sample."""
    if how.series.column is None:
        return list(known)
    columns = [how.series.column, *how.series.more]
    found: set[str] = set(known)
    for file in files:
        if file.how.form is FileForm.PARQUET:
            rows = cells_of(pl.scan_parquet(file.path).select(columns).unique()).collect(engine="streaming")
            texts = series_texts(frame_table(rows), how.series)
            assert texts is not None
            found |= set(texts.drop_nulls().to_list())
    return list(found)


def ends_of_all(parts: Parts, how: HowRead, executor: Executor) -> DataEnds:
    first: list[date] = []
    last: list[date] = []
    tasks = [(parts, part, how) for part in range(parts.count) if parts.files(part)]
    for _, ends in executor.map(ends_of, tasks, name="looking at where series begin and end"):
        first.extend(ends.first)
        last.extend(ends.last)
    if not first:
        raise Refusal("No row has a date.")
    return DataEnds(min(first), max(last), max(first), min(last))


def rows_of_targets(parts: Parts, how: HowRead, names: Sequence[str], out: Path) -> Path | None:
    """Write rows of series that every part needs to a file."""
    if not names:
        return None
    homes = sorted({parts.part_of(name, how) for name in names})
    frames = [parts.cells(part) for part in homes]
    column = how.series.column
    if column is None:
        keys = [name for name in (how.dates.column, *how.dates.more) if name]
        frame = pl.concat(
            [cells.select(*keys, *(name for name in names if name in cells.columns)) for cells in frames],
            how="diagonal",
        )
    else:
        frame = pl.concat(frames).filter(pl.col(column).str.strip_chars().is_in(list(names)))
    if not frame.height:
        raise Refusal(f"There is no series named “{names[0]}”.", todo="Choose one that is there.")
    file = out / ".work" / "targets.parquet"
    with whole_file(file) as beside:
        frame.write_parquet(beside)
    return file


def what_like_series_say(tasks: Sequence[PartTask], executor: Executor) -> dict[str, LikeSeries]:
    """Return pooled limits by projection. Raises Refusal."""
    limits = TaskLimits(memory_mb=PART_MB)
    few: dict[str, list[str]] = {}
    for _, part in executor.map(
        few_of, [(task,) for task in tasks], name="counting the numbers of series", limits=limits
    ):
        for entry, names in part.items():
            few.setdefault(entry, []).extend(names)
    asked = {entry: asked_of(names) for entry, names in few.items()}
    held_back: dict[str, list[HeldBack]] = {}
    for _, held in executor.map(
        held_back_of, [(task, asked) for task in tasks], name="a part of the series", limits=limits
    ):
        for entry, every in held.items():
            held_back.setdefault(entry, []).extend(every)
    return {entry: learned(held_back.get(entry, ()), levels) for entry, levels in tasks[0].plan.pooled_limits}
