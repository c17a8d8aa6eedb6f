"""Quoted cells, read as Python's own csv reader reads them, whichever way is taken."""

from __future__ import annotations

import csv
import io

import pytest
from hypothesis import given
from hypothesis import strategies as st

from zembra.core.errors import Refusal
from zembra.core.intake.delimited import _fast, read_delimited
from zembra.core.intake.howread import TableHow

CELL = st.text(st.sampled_from('ab1 ,;"\n'), max_size=5)


@given(st.lists(st.tuples(st.sampled_from("xyz"), CELL, CELL), min_size=1, max_size=8), st.booleans())
def test_quoted_tables_are_cut_like_csv_cuts_them(rows: list[tuple[str, str, str]], everything: bool) -> None:
    out = io.StringIO()
    writer = csv.writer(out, quoting=csv.QUOTE_ALL if everything else csv.QUOTE_MINIMAL, lineterminator="\n")
    writer.writerows([("day", "a, b", "c"), *rows])
    table = read_delimited(out.getvalue().encode(), TableHow())
    assert table.columns == ("day", "a, b", "c")
    assert [tuple(cell or "" for cell in row) for row in table.cells.iter_rows()] == rows


@pytest.mark.parametrize("body", ['1,"2', '1,2"', 'a"b",1', '1,"2"3'])
def test_a_stray_quote_leaves_the_fast_path_and_loses_nothing(body: str) -> None:
    text = f"day,sold\n{body}\n5,6\n"
    assert _fast(text.encode(), TableHow()) is None
    rows = list(csv.reader(io.StringIO(text)))[1:]
    swallowed = any("5,6" in cell for row in rows for cell in row)
    if swallowed or any(len(row) != 2 for row in rows):
        with pytest.raises(Refusal, match="never closes" if swallowed else "cells"):
            read_delimited(text.encode(), TableHow())
        return
    assert [list(row) for row in read_delimited(text.encode(), TableHow()).cells.iter_rows()] == rows


def test_one_quoted_cell_stays_on_the_fast_path() -> None:
    text = "day,sold\n" + "2026-01-01,1\n" * 50 + '2026-01-02,"1,200"\n'
    fast = _fast(text.encode(), TableHow())
    assert fast is not None
    assert fast.cells["sold"][-1] == "1,200"
