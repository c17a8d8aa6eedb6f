"""Dates and numbers as they are written: what is read, and what is refused a meaning."""

from datetime import date, datetime

import polars as pl
import pytest
from hypothesis import given
from hypothesis import strategies as st

from zembra.core.calendar.lines import Received
from zembra.core.intake.bringin import bring_in
from zembra.core.intake.dates import DateForm, fitting_forms, read_dates
from zembra.core.intake.numbercell import DecimalMark
from zembra.core.intake.numbers import detect_decimal, read_numbers

POINT, COMMA = DecimalMark.POINT, DecimalMark.COMMA
ENGLISH_MONTHS = ["Jan", "Feb", "Mar", "Apr", "May", "Jun", "Jul", "Aug", "Sep", "Oct", "Nov", "Dec"]


def read_one(text: str, decimal: DecimalMark = POINT) -> tuple[float | None, Received]:
    value, received = read_numbers(pl.Series([text]), decimal)
    return value[0], Received(received[0])


@pytest.mark.parametrize(
    ("text", "decimal", "value"),
    [
        ("12", POINT, 12),
        ("-3.5", POINT, -3.5),
        ("1,234.5", POINT, 1234.5),
        ("1 234,5", COMMA, 1234.5),
        ("1.234,5", COMMA, 1234.5),
        ("1.234", COMMA, 1234),
        ("1'234'567.25", POINT, 1234567.25),
        ("(1,200)", POINT, -1200),
        ("450-", POINT, -450),
        ("−7", POINT, -7),
        ("€ 12.50", POINT, 12.5),
        ("-£3", POINT, -3),
        ("12 %", POINT, 12),
        ("38 kWh", POINT, 38),
        ("1e3", POINT, 1000),
    ],
)
def test_numbers_read(text: str, decimal: DecimalMark, value: float) -> None:
    assert read_one(text, decimal) == (value, Received.MEASURED)


@pytest.mark.parametrize("text", ["n/a", "-", "NULL", "#DIV/0!", " ", "nan"])
def test_blank_words_are_blank(text: str) -> None:
    assert read_one(text) == (None, Received.BLANK)


@pytest.mark.parametrize("text", ["closed", "12 of 30", "1,23,4", "(12", "inf", "12/3", "1.2.3", "--4", "see row 5"])
def test_other_texts_are_unreadable_and_never_a_number(text: str) -> None:
    assert read_one(text) == (None, Received.UNREADABLE)


@given(st.floats(-1e9, 1e9).map(lambda v: round(v, 4)), st.sampled_from(["", ",", " ", "'"]))
def test_a_written_number_reads_back(value: float, thousands: str) -> None:
    text = f"{value:,.4f}".replace(",", thousands)
    assert read_one(text)[0] == value
    swapped = f"{value:,.4f}".replace(",", "\0").replace(".", ",").replace("\0", "." if thousands == "," else thousands)
    assert read_one(swapped, COMMA)[0] == value


def test_the_decimal_mark_is_told_from_the_cells() -> None:
    assert detect_decimal(pl.Series(["1,5", "22,75", "3"])) is COMMA
    assert detect_decimal(pl.Series(["1,234.50", "3"])) is POINT
    assert detect_decimal(pl.Series(["1,234", "3"])) is POINT


WRITERS = {
    DateForm.ISO_DAY: lambda d: d.isoformat(),
    DateForm.SLASH_YMD: lambda d: f"{d:%Y/%m/%d}",
    DateForm.COMPACT: lambda d: f"{d:%Y%m%d}",
    DateForm.DAY_FIRST: lambda d: f"{d:%d/%m/%Y}",
    DateForm.MONTH_FIRST: lambda d: f"{d:%m/%d/%Y}",
    DateForm.NAMED_DAY: lambda d: f"{d.day} {ENGLISH_MONTHS[d.month - 1]} {d.year}",
    DateForm.SERIAL: lambda d: str((d - date(1899, 12, 30)).days),
}


@given(st.dates(date(1970, 1, 2), date(2060, 12, 31)), st.sampled_from(list(WRITERS)))
def test_a_written_date_reads_back(day: date, form: DateForm) -> None:
    assert read_dates(pl.Series([WRITERS[form](day)]), form)[0] == datetime(day.year, day.month, day.day)


@pytest.mark.parametrize(
    ("text", "form", "day"),
    [
        ("Q1 24", DateForm.QUARTER, (2024, 1, 1)),
        ("2024-Q3", DateForm.QUARTER, (2024, 7, 1)),
        ("Mar 2024", DateForm.NAMED_MONTH, (2024, 3, 1)),
        ("März 2024", DateForm.NAMED_MONTH, (2024, 3, 1)),
        ("févr. 2024", DateForm.NAMED_MONTH, (2024, 2, 1)),
        ("14 de marzo de 2024", DateForm.NAMED_DAY, (2024, 3, 14)),
        ("2026-W11", DateForm.ISO_WEEK, (2026, 3, 9)),
        ("03/04/26", DateForm.DAY_FIRST, (2026, 4, 3)),
        ("31/12/99", DateForm.DAY_FIRST, (1999, 12, 31)),
    ],
)
def test_other_writings(text: str, form: DateForm, day: tuple[int, int, int]) -> None:
    assert read_dates(pl.Series([text]), form)[0] == datetime(*day)


def test_no_date_is_read_from_an_impossible_one() -> None:
    assert read_dates(pl.Series(["2026-02-30", "31/06/2026"]), DateForm.ISO_DAY).to_list() == [None, None]


def test_one_telling_row_decides_day_first() -> None:
    forms = [form for form, share in fitting_forms(pl.Series(["01/02/2026", "13/02/2026"])) if share == 1]
    assert forms == [DateForm.DAY_FIRST, DateForm.DAY_FIRST_TIME]


@pytest.mark.parametrize(("last", "year"), [(35, 2035), (36, 1936)])
def test_years_of_two_digits_turn_at_36(last: int, year: int) -> None:
    """As the page of dates says, at the edge itself; the rows are the same wherever they are read."""
    rows = "".join(f"{day}.12.{last},{day}\n" for day in range(20, 32))
    read = bring_in(f"day,riders\n{rows}".encode())
    frame = next(iter(read.observations.frames.values()))
    assert {when.year for when in frame["when"]} == {year}
    (notice,) = [notice.text for notice in read.notices if "two digits" in notice.text]
    assert "36 to 99" in notice
