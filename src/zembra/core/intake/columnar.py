"""Read Parquet and Arrow files as columns of texts."""

from __future__ import annotations

import io
from dataclasses import replace

import polars as pl

from zembra.core.intake.bounds import check_cells, check_columns
from zembra.core.intake.foreign import guarded
from zembra.core.intake.grid import frame_table
from zembra.core.intake.signatures import ARROW_STREAM
from zembra.core.intake.table import TextTable


def parquet_table(data: bytes) -> TextTable:
    """Read Parquet. Lists, structs and bytes are named but not read. The declared size is checked before reading.
    Raises Refusal.
    """
    return _table(guarded("Parquet", lambda: pl.scan_parquet(io.BytesIO(data))), "Parquet")


def arrow_table(data: bytes) -> TextTable:
    """Read an Arrow or Feather file, or an Arrow stream. Raises Refusal."""
    if data.startswith(ARROW_STREAM):
        return _table(guarded("Arrow", lambda: pl.read_ipc_stream(io.BytesIO(data)).lazy()), "Arrow")
    return _table(guarded("Arrow", lambda: pl.scan_ipc(io.BytesIO(data))), "Arrow")


def _table(file: pl.LazyFrame, kind: str) -> TextTable:
    schema = guarded(kind, file.collect_schema)
    kept = _kept(schema)
    check_columns(len(kept))
    check_cells(guarded(kind, lambda: file.select(pl.len()).collect().item()), max(1, len(kept)))
    # dates that no calendar has are noticed only when they are written as text
    table: TextTable = guarded(kind, lambda: frame_table(cells_of(file).collect()))
    return replace(table, unread=tuple(name for name in schema if name not in kept))


def cells_of(rows: pl.LazyFrame) -> pl.LazyFrame:
    """Return the readable columns of Parquet, for `frame_table`."""
    schema = rows.collect_schema()
    return rows.select(_cell(name, schema[name]) for name in _kept(schema))


def _kept(schema: pl.Schema) -> list[str]:
    return [name for name, kind in schema.items() if not (kind.is_nested() or kind == pl.Binary)]


def _cell(name: str, kind: pl.DataType) -> pl.Expr:
    """Convert a column to text: moments with offset, durations as hours, minutes, seconds."""
    column = pl.col(name)
    if isinstance(kind, pl.Datetime) and kind.time_zone:
        return column.dt.strftime("%Y-%m-%dT%H:%M:%S%:z")
    if isinstance(kind, pl.Duration):
        seconds = column.dt.total_seconds().abs()
        parts = [seconds // 3600, *(part.cast(pl.String).str.zfill(2) for part in (seconds // 60 % 60, seconds % 60))]
        sign = pl.when(column.dt.total_seconds() < 0).then(pl.lit("-")).otherwise(pl.lit(""))
        return pl.concat_str(sign, pl.concat_str(parts, separator=":")).alias(name)
    return column
