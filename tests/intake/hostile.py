"""Small files that ask for a great deal of memory or time when they are read."""

from __future__ import annotations

import gzip
import io
import zipfile
from collections.abc import Callable

import openpyxl
import polars as pl

MB = 1024 * 1024
ROWS = "".join(f"2026-01-{day:02},{day}\n" for day in range(1, 29))


def workbook(*cells: tuple[str, object]) -> bytes:
    book = openpyxl.Workbook()
    sheet = book.active
    assert sheet is not None
    for row in [("day", "value"), *(line.split(",") for line in ROWS.splitlines())]:
        sheet.append(row)
    for place, content in cells:
        sheet[place] = content
    out = io.BytesIO()
    book.save(out)
    return out.getvalue()


def stretched(name: str, start: bytes, size: int, end: bytes, packed: bytes | None = None) -> bytes:
    """An archive in which one member is `size` letters long, beside what `packed` holds."""
    out = io.BytesIO()
    with zipfile.ZipFile(out, "w", zipfile.ZIP_DEFLATED, compresslevel=1) as archive:
        if packed is not None:
            with zipfile.ZipFile(io.BytesIO(packed)) as old:
                for member in old.namelist():
                    if member != name:
                        archive.writestr(member, old.read(member))
        with archive.open(name, "w", force_zip64=True) as member_file:
            member_file.write(start)
            block = b"x" * MB
            for _ in range(size // MB):
                member_file.write(block)
            member_file.write(end)
    return out.getvalue()


def one_string(size: int) -> bytes:
    """A workbook whose shared strings are one of this many letters."""
    start = b'<?xml version="1.0"?><sst xmlns="http://schemas.openxmlformats.org/spreadsheetml/2006/main"><si><t>'
    return stretched("xl/sharedStrings.xml", start, size, b"</t></si></sst>", workbook())


def constant_parquet(rows: int) -> bytes:
    """Rows that all hold the same: a few kilobytes, whatever their number."""
    frame = pl.select(pl.repeat(1.0, rows // 100, dtype=pl.Float64).alias("value"))
    out = io.BytesIO()
    pl.concat([frame] * 100).lazy().with_columns(day=pl.lit("2026-01-01")).sink_parquet(out)
    return out.getvalue()


def gzipped(size: int) -> bytes:
    out = io.BytesIO()
    with gzip.open(out, "wb", compresslevel=1) as stream:
        stream.write(b"day,value\n")
        for _ in range(size // MB):
            stream.write(b"2026-01-01,1\n" * (MB // 13))
    return out.getvalue()


def wide(columns: int) -> bytes:
    names = ",".join(f"c{n}" for n in range(columns))
    return (
        "day," + names + "\n" + "".join(f"2026-01-{day:02},{'1,' * columns}"[:-1] + "\n" for day in (1, 2, 3))
    ).encode()


HOSTILE: dict[str, Callable[[], bytes]] = {
    "a stray cell in the last row": lambda: workbook(("A1048576", "x")),
    "a stray cell in the last column": lambda: workbook(("XFD1", "x")),
    "a stray cell in the far corner": lambda: workbook(("XFD1048576", "x")),
    "a workbook of one string": lambda: one_string(1_900 * MB),
    "an archive of gigabytes": lambda: stretched("rows.csv", b"day,value\n", 3_500 * MB, b"\n"),
    "a gzip of gigabytes": lambda: gzipped(3_000 * MB),
    "100,000 columns": lambda: wide(100_000),
    "a cell of 50 MB": lambda: b"day,value\n2026-01-01," + b"9" * (50 * MB) + b"\n",
    "a quoted cell of 50 MB": lambda: b'day,value\n2026-01-01,"' + b"9\n" * (25 * MB) + b'"\n',
    "one line of 50 MB": lambda: b"9" * (50 * MB),
    "Parquet of 300 million rows": lambda: constant_parquet(300_000_000),
    "JSON nested deeply": lambda: b"[" * 1_000_000,
    "JSON of one number": lambda: b'[{"day": "2026-01-01", "value": ' + b"9" * 5_000 + b"}]",
    "XML that names itself": lambda: stretched(
        "xl/workbook.xml",
        b'<?xml version="1.0"?><!DOCTYPE a [<!ENTITY a "aaaaaaaaaa"><!ENTITY b "&a;&a;&a;&a;&a;">]><a>&b;</a>',
        0,
        b"",
        workbook(),
    ),
}
