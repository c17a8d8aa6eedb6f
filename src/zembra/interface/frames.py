"""Convert data frames of other libraries to files, and evidence to data frames."""

from __future__ import annotations

import io
from collections import Counter
from collections.abc import Sequence
from typing import Any

import polars as pl

from zembra.core.errors import Refusal
from zembra.core.ledger.evidence import Plot, Table
from zembra.core.ledger.run import Result


def is_frame(source: object) -> bool:
    """Return whether an object speaks the Arrow interface, or has columns as pandas has them."""
    return isinstance(source, pl.DataFrame) or hasattr(source, "__arrow_c_stream__") or _like_pandas(source)


def frame_bytes(source: Any) -> bytes:
    """Convert a data frame to Parquet. Every index of a pandas frame but a plain range becomes a column. Raises
    Refusal.
    """
    frame = _polars(source)
    if not frame.width or not frame.height:
        raise Refusal("The frame has no rows.", todo="Give one that has some.")
    out = io.BytesIO()
    frame.write_parquet(out)
    return out.getvalue()


def _polars(source: Any) -> pl.DataFrame:
    if isinstance(source, pl.DataFrame):
        return source
    if _like_pandas(source):
        if type(source.index).__name__ != "RangeIndex" or source.index.name is not None:
            source = source.reset_index()
        twice = [name for name, count in Counter(map(str, source.columns)).items() if count > 1]
        if twice:
            raise Refusal(
                "The frame has several columns of one name, and only one of them could be read.",
                place=", ".join(f"“{name}”" for name in twice[:6]),
                todo="Give each a name of its own.",
            )
        # one column after the other: pandas' own way to Arrow needs a library that Zembra does not
        return pl.DataFrame({str(name): _column(source[name]) for name in source.columns})
    return pl.DataFrame(source)


def _column(column: Any) -> pl.Series:
    values = column.to_numpy()
    if values.dtype.kind in "OU" or values.dtype.kind == "T":
        known = [None if value is None or value != value else value for value in column.tolist()]  # noqa: PLR0124
        # a period of pandas is read by what it says: 2024-03, 2024Q1, 2024-03-04/2024-03-10
        known = [str(value) if type(value).__name__ == "Period" else value for value in known]
        return pl.Series(known, strict=False)
    if values.dtype.kind in "mM":
        # a time unit that both support
        values = values.astype(f"{values.dtype.kind}8[us]")
    return pl.Series(values, nan_to_null=values.dtype.kind == "f")


def _like_pandas(source: object) -> bool:
    return all(hasattr(source, name) for name in ("columns", "index", "reset_index", "to_numpy"))


def evidence_frames(result: Result) -> dict[str, pl.DataFrame]:
    """Return all tables and plots by entry and title; equal titles are numbered."""
    found: dict[str, pl.DataFrame] = {}
    for report in result.reports:
        for shown in report.outcome.evidence:
            name = f"{type(report.entry).title}: {shown.title}"
            number = 1
            while (key := name if number == 1 else f"{name} ({number})") in found:
                number += 1
            found[key] = _of_plot(shown) if isinstance(shown, Plot) else _of_table(shown)
    return found


def _of_table(table: Table) -> pl.DataFrame:
    columns: dict[str, Sequence[Any]] = {}
    for n, column in enumerate(table.columns):
        title = column.title or "of"
        columns[title if title not in columns else column.key] = [row[n] for row in table.rows]
    return pl.DataFrame({name: _mixed(values) for name, values in columns.items()})


def _mixed(values: Sequence[Any]) -> pl.Series:
    """Return numbers if all are, else texts."""
    known = [value for value in values if value is not None]
    if any(isinstance(value, str) for value in known):
        return pl.Series([None if value is None else str(value) for value in values], dtype=pl.String)
    return pl.Series([None if value is None else float(value) for value in values], dtype=pl.Float64)


def _of_plot(plot: Plot) -> pl.DataFrame:
    return pl.DataFrame({plot.x_title or "x": list(plot.x), plot.y_title or "y": list(plot.y)})
