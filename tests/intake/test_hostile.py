"""Small files that ask for a great deal: refused with the limit named, read within a limit, stopped at once."""

from __future__ import annotations

import io
import threading
import time

import openpyxl
import pytest

from tests.intake.hostile import HOSTILE, gzipped, one_string, wide, workbook
from zembra.core.errors import Refusal
from zembra.core.intake.workbook import Workbook
from zembra.service.reading import read_file
from zembra.work.processes import ready
from zembra.work.queue import Lane, Stage, WorkQueue

SAID = {
    "a workbook of one string": "unpacks to more than 512 MB",
    "an archive of gigabytes": "unpacks to more than 512 MB",
    "a gzip of gigabytes": "unpacks to more than 512 MB",
    "100,000 columns": "more than 5,000, the most",
    "a cell of 50 MB": "more than 8,000,000, the most",
    "a quoted cell of 50 MB": "longer than 1,000,000 bytes",
    "one line of 50 MB": "more than 8,000,000, the most",
    "Parquet of 300 million rows": "more than 30,000,000 cells",
    "JSON nested deeply": "nested too deeply",
    "JSON of one number": "more digits than any measure",
    "XML that names itself": "cannot be read",
}
STRAY = {
    "a stray cell in the last row": "A1048576",
    "a stray cell in the last column": "XFD1",
    "a stray cell in the far corner": "XFD1048576",
}
SLOW_TO_MAKE = (
    "a workbook of one string",
    "an archive of gigabytes",
    "a gzip of gigabytes",
    "Parquet of 300 million rows",
)


@pytest.mark.parametrize("name", [name for name in SAID if name not in SLOW_TO_MAKE])
def test_it_is_refused_and_the_limit_is_named(name: str) -> None:
    with pytest.raises(Refusal, match=SAID[name]):
        read_file(HOSTILE[name]())


def test_what_unpacks_to_too_much_is_refused() -> None:
    for data in (one_string(600 * 1024**2), gzipped(600 * 1024**2)):
        with pytest.raises(Refusal, match="unpacks to more than 512 MB"):
            read_file(data)


@pytest.mark.parametrize("name", [name for name in HOSTILE if name.startswith("a stray cell")])
def test_a_stray_cell_keeps_nothing_from_being_read(name: str) -> None:
    brought = read_file(HOSTILE[name]())
    assert brought.table.cells.height == 28
    assert [one.text for one in brought.notices if "far from all others" in one.text] == [
        f"1 cell far from all others ({STRAY[name]}) left out."
    ]


def test_only_strays_of_the_sheet_that_is_read_are_told() -> None:
    book = openpyxl.load_workbook(io.BytesIO(workbook()))
    other = book.create_sheet("A & B")
    for place in ("A1", "A2", "XFD1", "XFD2", "A1048576", "B1048576"):
        other[place] = 1
    out = io.BytesIO()
    book.save(out)
    assert not any("far from" in one.text for one in read_file(out.getvalue()).notices)
    assert Workbook(out.getvalue()).remarks("A & B") == (
        "4 cells far from all others (XFD1, XFD2, A1048576 …) left out.",
    )


def test_what_is_hidden_and_formulas_without_results_are_told() -> None:
    book = openpyxl.load_workbook(io.BytesIO(workbook(("B5", "=2*21"), ("B6", "=B5"))))
    sheet = book.active
    assert sheet is not None
    for row in (8, 9):
        sheet.row_dimensions[row].hidden = True
    sheet.column_dimensions["B"].hidden = True
    out = io.BytesIO()
    book.save(out)
    brought = read_file(out.getvalue())
    told = [one.text for one in brought.notices]
    assert told[:2] == ["2 hidden rows are read like the others.", "1 hidden column is read like the others."]
    assert told[2].startswith("2 cells with a formula and no result (B5, B6) read as empty")
    assert brought.table.cells["value"].null_count() == 2


def test_as_many_columns_as_are_allowed_are_read() -> None:
    with pytest.raises(Refusal) as told:
        read_file(wide(5_000))
    assert "5,001 columns" in str(told.value)
    assert len(read_file(wide(1_000)).table.columns) == 1_001


def test_reading_stops_within_a_moment_and_leaves_no_process() -> None:
    ready()
    queue = WorkQueue()
    data = one_string(400 * 1024**2)
    work = queue.submit("reading", Lane.READING, lambda progress: read_file(data, progress=progress))
    while work.stage is Stage.WAITING or not work.share:
        time.sleep(0.02)
    queue.stop("reading")
    assert work.finished.wait(120)
    assert work.stage is Stage.STOPPED
    assert threading.active_count() < 50
    queue.close()
