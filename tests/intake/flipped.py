"""Right files of every container, with one bit of one byte changed: what Zembra makes of each, held against the file as it was."""

from __future__ import annotations

import gzip
import io
import random
import sqlite3
import tempfile
import zipfile
from collections import Counter
from collections.abc import Callable
from dataclasses import dataclass, field
from datetime import date, timedelta
from pathlib import Path

import polars as pl
import pyarrow as pa
import pyarrow.feather
import xlsxwriter

from zembra.core.errors import Refusal
from zembra.core.intake.bringin import BroughtIn, bring_in

ROWS = 120
DAYS = [date(2026, 1, 1) + timedelta(n) for n in range(ROWS)]
PASSENGERS = [200 + n * 37 % 101 for n in range(ROWS)]
FRAME = pl.DataFrame({"day": DAYS, "passengers": PASSENGERS})
CSV = FRAME.write_csv().encode()


def _parquet() -> bytes:
    out = io.BytesIO()
    FRAME.write_parquet(out)
    return out.getvalue()


def _arrow() -> bytes:
    out = io.BytesIO()
    pyarrow.feather.write_feather(pa.table({"day": DAYS, "passengers": PASSENGERS}), out, compression="uncompressed")
    return out.getvalue()


def _sqlite() -> bytes:
    with tempfile.TemporaryDirectory() as folder:
        file = Path(folder) / "ferry.db"
        database = sqlite3.connect(file)
        database.execute("create table counts (day text, passengers integer)")
        database.executemany("insert into counts values (?, ?)", zip(map(str, DAYS), PASSENGERS, strict=True))
        database.commit()
        database.close()
        return file.read_bytes()


def _xlsx() -> bytes:
    out = io.BytesIO()
    book = xlsxwriter.Workbook(out, {"default_date_format": "yyyy-mm-dd"})
    sheet = book.add_worksheet()
    sheet.write_row(0, 0, ["day", "passengers"])
    for n, row in enumerate(zip(DAYS, PASSENGERS, strict=True), 1):
        sheet.write_row(n, 0, row)
    book.close()
    return out.getvalue()


def _zip(name: str = "counts.csv", data: bytes = CSV) -> bytes:
    out = io.BytesIO()
    with zipfile.ZipFile(out, "w", zipfile.ZIP_DEFLATED) as archive:
        archive.writestr(name, data)
    return out.getvalue()


CONTAINERS: dict[str, Callable[[], bytes]] = {
    "parquet": _parquet,
    "arrow": _arrow,
    "sqlite": _sqlite,
    "xlsx": _xlsx,
    "zip": _zip,
    "gzip": lambda: gzip.compress(CSV, mtime=0),
}
# forms that say by a sum of their own whether they are as they were written; the others cannot know
SUMMED = ("xlsx", "zip", "gzip")


@dataclass
class Flipped:
    """counts: of refused, the same, and other. raised: what was no refusal."""

    counts: Counter[str] = field(default_factory=Counter)
    raised: list[str] = field(default_factory=list)


def numbers(brought: BroughtIn) -> list[tuple[object, ...]]:
    return [row for name in sorted(brought.observations.frames) for row in brought.observations.frames[name].select("series", "when", "value").rows()]  # fmt: skip


def flips(form: str, count: int, seed: int) -> Flipped:
    """What becomes of so many files of a form, each with one bit changed."""
    right = CONTAINERS[form]()
    usual = numbers(bring_in(right))
    assert len(usual) == ROWS
    rng, found = random.Random(seed), Flipped()
    for _ in range(count):
        data = bytearray(right)
        data[rng.randrange(len(data))] ^= 1 << rng.randrange(8)
        try:
            came = numbers(bring_in(bytes(data)))
        except Refusal:
            found.counts["refused"] += 1
        except BaseException as error:  # readers written in Rust panic past Exception
            found.raised.append(f"{type(error).__name__}: {error}")
        else:
            found.counts["the same" if came == usual else "other"] += 1
    return found


def nested(depth: int, inner: bytes = CSV) -> bytes:
    """An archive in an archive, and so on."""
    data, name = inner, "counts.csv"
    for level in range(depth):
        data, name = _zip(name, data), f"level-{level}.zip"
    return data
