"""Partition rows by series; each series is in one part."""

from __future__ import annotations

import hashlib
import shutil
from bisect import bisect_right
from collections.abc import Callable, Iterator, Sequence
from dataclasses import dataclass, replace
from pathlib import Path

import polars as pl

from zembra.core.errors import Refusal
from zembra.core.intake.howread import Down, HowRead, Names, ValueKind
from zembra.core.intake.joining import folded, series_texts
from zembra.core.intake.table import TextTable
from zembra.core.ledger.digest import digest
from zembra.service.many.rows import Rows
from zembra.store.sealedjson import read_sealed, write_sealed

ROWS_OF_A_PART = 250_000
SERIES_OF_A_PART = 250  # so that there is something for every process, and to be told of how far it is
MOST_PARTS = 4_000
GROWN = 1.5  # times as many rows, from which on parts are made anew
COLUMNS_OF_A_PART = 400  # where each column of numbers is a series
ABOUT = "parts.json"


@dataclass(frozen=True, slots=True)
class Parts:
    """Partitioned rows.

    folder: with a folder of Parquet files per part
    edges: first name of each part but the first; empty if columns are series
    columns: by part, if columns are series
    digests: of each part's files as written
    """

    folder: Path
    count: int
    rows: int
    edges: tuple[str, ...]
    columns: tuple[tuple[str, ...], ...]
    digests: tuple[str, ...] = ()

    def files(self, part: int) -> list[Path]:
        return sorted((self.folder / f"{part:04d}").glob("*.parquet"))

    def part_of(self, series: str, how: HowRead) -> int:
        """Return the part of a series."""
        if self.columns:
            return next((n for n, names in enumerate(self.columns) if series in names), 0)
        return bisect_right(self.edges, _key(series, how))

    def how(self, part: int, how: HowRead) -> HowRead:
        """Return how a part is read."""
        if not self.columns:
            return how
        return how.model_copy(update={"values": how.values.model_copy(update={"columns": self.columns[part]})})

    def digest(self, part: int) -> str:
        """Return the digest of a part's files as they are now."""
        made = hashlib.blake2b(digest_size=16)
        for file in self.files(part):
            made.update(file.read_bytes())
        return made.hexdigest()

    def cells(self, part: int) -> pl.DataFrame:
        """Return the rows of a part in received order."""
        return pl.concat([pl.read_parquet(file) for file in self.files(part)], how="vertical")


def put_into_parts(
    files: Sequence[Rows], how: HowRead, names: Sequence[str], about: str, folder: Path, step: Callable[[int], None]
) -> Parts:
    """Partition the rows of files, reusing an existing partition of the same files and settings. Raises Refusal.

    names: sampled series names
    about: digest of the files
    step: reports rows written
    """
    key = digest(about, how.model_dump_json(exclude={"settled"}))
    before = kept_parts(folder)
    if before is not None and before[0] == key:
        return before[1]
    _check(how)
    shutil.rmtree(folder, ignore_errors=True)
    folder.mkdir(parents=True)
    wide = how.series.column is None
    columns = tuple(_chunks(how.values.columns, COLUMNS_OF_A_PART)) if wide else ()
    edges: tuple[str, ...] = ()
    rows = 0
    for number, table in enumerate(_every_piece(files)):
        if number == 0 and not wide:
            edges = _edges(names, how, files, None if before is None else before[1])
        parts = _by_columns(table, how, columns) if wide else _by_name(table, how, edges)
        for part, cells in parts:
            place = folder / f"{part:04d}"
            place.mkdir(exist_ok=True)
            cells.write_parquet(place / f"{number:06d}.parquet", compression="lz4", statistics=False)
        rows += table.height
        step(rows)
    if not rows:
        raise Refusal("There are no rows.", place=files[0].path.name)
    count = len(columns) if wide else len(edges) + 1
    made = Parts(folder, count, rows, edges, columns)
    made = replace(made, digests=tuple(made.digest(part) for part in range(count)))
    about_parts = {
        "key": key,
        "count": count,
        "rows": rows,
        "edges": edges,
        "columns": columns,
        "digests": made.digests,
    }
    write_sealed(folder / ABOUT, about_parts)
    return made


def kept_parts(folder: Path) -> tuple[str, Parts] | None:
    """Return an existing complete partition, and what it is of."""
    about_parts = read_sealed(folder / ABOUT)
    if about_parts is None:
        return None
    columns = tuple(map(tuple, about_parts["columns"]))
    edges, digests = tuple(about_parts["edges"]), tuple(about_parts["digests"])
    return about_parts["key"], Parts(folder, about_parts["count"], about_parts["rows"], edges, columns, digests)


def _check(how: HowRead) -> None:
    if Down.ABOVE in (how.dates.down, how.series.down):
        raise Refusal(
            "Dates or names that are written once for several rows cannot be read in pieces.",
            todo="Save the table with both in every row.",
        )
    if how.values.kind is ValueKind.ACROSS and how.series.column is None:
        raise Refusal("There is no column that names the series.", todo="Say which one does.")


def _every_piece(files: Sequence[Rows]) -> Iterator[TextTable]:
    columns: tuple[str, ...] | None = None
    for file in files:
        for table in file.pieces():
            columns = columns or table.columns
            if table.columns != columns:
                raise Refusal(
                    "The files have other columns each.",
                    place=f"{file.path.name}: {', '.join(table.columns[:12])}",
                    todo=f"All need {', '.join(columns[:12])}.",
                )
            yield table


def _key(name: str, how: HowRead) -> str:
    """Return the sort key of names; equal series sort together."""
    return folded(name) if how.series.names is Names.FOLDED else name.strip()


def _edges(names: Sequence[str], how: HowRead, files: Sequence[Rows], before: Parts | None) -> tuple[str, ...]:
    """Choose the first names of parts of about equal size.

    before: an earlier partition, kept if sizes are similar, so that unchanged parts stay cached
    """
    rows = sum(file.about_how_many for file in files)
    if before is not None and before.edges and before.rows / GROWN < rows < before.rows * GROWN:
        return before.edges
    every = sorted({_key(name, how) for name in names})
    parts = min(MOST_PARTS, len(every), max(1, round(rows / ROWS_OF_A_PART), len(every) // SERIES_OF_A_PART))
    return tuple(every[len(every) * n // parts] for n in range(1, parts))


def _by_name(table: TextTable, how: HowRead, edges: Sequence[str]) -> Iterator[tuple[int, pl.DataFrame]]:
    texts = series_texts(table, how.series.model_copy(update={"names": Names.WRITTEN}))
    assert texts is not None
    unique = texts.fill_null("").unique()
    places = pl.DataFrame({"name": unique, "part": [bisect_right(edges, _key(name, how)) for name in unique.to_list()]})
    cells = table.cells.with_columns(
        texts.fill_null("").to_frame("name").join(places, on="name", how="left", maintain_order="left")["part"]
    )
    for (part,), rows in cells.partition_by("part", as_dict=True, include_key=False, maintain_order=True).items():
        yield int(part), rows


def _by_columns(table: TextTable, how: HowRead, columns: Sequence[Sequence[str]]) -> Iterator[tuple[int, pl.DataFrame]]:
    shared = [name for name in (how.dates.column, *how.dates.more, *(keep.column for keep in how.keep)) if name]
    for part, names in enumerate(columns):
        yield part, table.cells.select(list(dict.fromkeys([*shared, *names])))


def _chunks(names: Sequence[str], size: int) -> Iterator[tuple[str, ...]]:
    for start in range(0, len(names), size):
        yield tuple(names[start : start + size])
