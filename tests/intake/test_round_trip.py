"""Any table written out in any shape and any style of dates and numbers is read back equal."""

from __future__ import annotations

from datetime import date, timedelta

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from tests.help import run_csv

DATE_STYLES = {
    "iso": "{:%Y-%m-%d}", "dots": "{:%d.%m.%Y}", "slashes": "{:%m/%d/%Y}", "compact": "{:%Y%m%d}",
    "words": "{:%d %b %Y}", "year first": "{:%Y/%m/%d}", "short": "{:%d.%m.%y}", "midnight": "{:%Y-%m-%dT%H:%M:%S}",
}  # fmt: skip
NUMBER_STYLES = {
    "point": lambda v: f"{v:.2f}",
    "comma": lambda v: f"{v:.2f}".replace(".", ","),
    "thousands": lambda v: f"{v:,.2f}",
    "continental": lambda v: f"{v:,.2f}".replace(",", "_").replace(".", ",").replace("_", "."),
    "brackets": lambda v: f"({-v:.2f})" if v < 0 else f"{v:.2f}",
    "unit": lambda v: f"{v:.2f} km",
}
NAMES = ("Outer Isles", "Harbour Loop", "North Head")
TABLES = st.integers(1, 3).flatmap(
    lambda series: st.lists(
        st.lists(st.one_of(st.none(), st.integers(-500_000, 900_000)), min_size=series, max_size=series),
        min_size=16,
        max_size=40,
    )
)


@settings(max_examples=60)
@given(
    TABLES,
    st.sampled_from(sorted(DATE_STYLES)),
    st.sampled_from(sorted(NUMBER_STYLES)),
    st.sampled_from(["long", "wide", "across"]),
    st.sampled_from([";", "\t", "|"]),
    st.sampled_from(["", "n/a", "-"]),
)
def test_a_table_is_read_back_equal(
    cells: list[list[int | None]], dates: str, numbers: str, shape: str, delimiter: str, nothing: str
) -> None:
    days = [date(2025, 3, 1) + timedelta(n) for n in range(len(cells))]
    # a hundredth and no thousand: what tells the decimal mark in every style
    values = np.array([[np.nan if v is None else (v * 100 + 25) / 10_000 for v in row] for row in cells]).round(2)
    values[0], values[-1] = 12.25, 13.75
    names = NAMES[: values.shape[1]]
    told = [[nothing if np.isnan(v) else NUMBER_STYLES[numbers](v) for v in row] for row in values]
    written = [DATE_STYLES[dates].format(day) for day in days]
    data = laid_out(shape, delimiter, names, written, told)
    state = run_csv(data).state
    assert [line.name for line in state.lines] == list(names)
    for line, column in zip(state.lines, values.T, strict=True):
        assert state.grain.labels(line.periods) == [f"{day:%Y-%m-%d}" for day in days]
        np.testing.assert_array_equal(line.original, column)


def laid_out(shape: str, delimiter: str, names: tuple[str, ...], days: list[str], cells: list[list[str]]) -> bytes:
    if shape == "wide":
        rows = [("day", *names), *((day, *row) for day, row in zip(days, cells, strict=True))]
    elif shape == "long":
        rows = [("day", "route", "riders")]
        rows += [
            (day, name, cell)
            for day, row in zip(days, cells, strict=True)
            for name, cell in zip(names, row, strict=True)
        ]
    else:
        rows = [
            ("route", *days),
            *((name, *column) for name, column in zip(names, zip(*cells, strict=True), strict=True)),
        ]
    text = "\n".join(delimiter.join(row) for row in rows) + "\n"
    return text.encode()


@pytest.mark.parametrize("shape", ["long", "wide", "across"])
def test_months_too(shape: str) -> None:
    months = [f"{year}-{month:02d}" for year in (2024, 2025) for month in range(1, 13)]
    cells = [[f"{n}.5", "" if n % 5 == 3 else f"{n * 3}.25"] for n in range(24)]
    state = run_csv(laid_out(shape, ";", NAMES[:2], months, cells)).state
    assert state.grain.labels(state.lines[1].periods) == months
    expected = [np.nan if n % 5 == 3 else n * 3 + 0.25 for n in range(24)]
    np.testing.assert_array_equal(state.lines[1].original, expected)
