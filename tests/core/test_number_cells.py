"""The grammar of a number cell: what is read, and that nothing is ever taken out of a cell."""

from __future__ import annotations

import polars as pl
import pytest
from babel.numbers import format_decimal
from hypothesis import given, settings
from hypothesis import strategies as st

from zembra.core.calendar.lines import Received
from zembra.core.intake.bringin import bring_in
from zembra.core.intake.decimals import About, marks_of
from zembra.core.intake.howread import ValuesHow
from zembra.core.intake.numbercell import DecimalMark, SaidBeside
from zembra.core.intake.numbers import Writing, read_cells, read_numbers
from zembra.core.intake.numberwords import Standing, factors_to

POINT, COMMA = DecimalMark.POINT, DecimalMark.COMMA
READ = {
    "1,234.50": 1234.5, "(1,234)": -1234, "$ (1,234.00)": -1234, "-$1,234.00": -1234, "$-1,234.00": -1234, "1,234-": -1234,
    "4,711.08- EUR": -4711.08, "–105": -105, "- 1,234": -1234, "<1,234>": -1234, "[1,234]": -1234, "▲1,234": -1234,
    "682.1k": 682_100, "$1.2M": 1.2e6, "2.10 bn": 2.1e9, "₹1.25 Cr": 12_500_000, "₹85.00 L": 8_500_000, "£1,234.5k": 1_234_500,
    "12.3万": 123_000, "e12.3": 12.3, "(p) 12": 12, "12 [1]": 12, "12¹": 12, "12^2": 12, "12.3 (1)": 12.3, "109 prov.": 109,
    "109 (est.)": 109, "~12.3": 12.3, "45.6 r": 45.6, "1 234.50 €": 1234.5, "CHF 1'234.50": 1234.5, "1’234.50": 1234.5,
    "Fr. 1'234.–": 1234, "12,34,567.00": 1_234_567, "Rs. 12,34,567/-": 1_234_567, "Rs.500": 500, "1,234円": 1234, "１２３４": 1234,
    "٨٨٢٫٤": 882.4, "25bp": 25, "+1.2 pp": 1.2, "3.2‰": 3.2, "1.23456E+06": 1_234_560, "'1,234": 1234, '="123.40"': 123.4,
    "0000123.40": 123.4, "1_234.50": 1234.5, "12·34": 12.34, "12 1/2": 12.5, "12½": 12.5, "1,759 €/l": 1759, ".5": 0.5, "5.": 5,
}  # fmt: skip
UNREAD = (
    "58 2", "12 34 5", "1234 567", "103 2", "1,2345", "1.2.3", "0,123.4.5", "1o5", "x105", "12-15", "<0.5", "12:30", "7h 30m", "12/100",
    "2024-01-05", "12 Main St", "-(12)", "12--", "(12", "12)", "[12)", "12.3 (15%)", "1,23 4", "1'23'4", "12 3/7", "€ 12 $ x", "0.123.456",
)  # fmt: skip


def one(text: str, mark: DecimalMark = POINT) -> float | None:
    value: float | None = read_numbers(pl.Series([text]), mark)[0][0]
    return value


@pytest.mark.parametrize(("text", "value"), READ.items())
def test_it_is_read(text: str, value: float) -> None:
    assert one(text) == pytest.approx(value, rel=1e-12)


@pytest.mark.parametrize("text", UNREAD)
def test_a_cell_is_parsed_whole_or_not_at_all(text: str) -> None:
    value, received = read_numbers(pl.Series([text]), POINT)
    assert (value[0], received[0]) == (None, Received.UNREADABLE)


@given(
    st.floats(min_value=-1e9, max_value=1e9), st.sampled_from(["de", "fr", "en", "pl", "de_CH", "hi", "sv", "pt_BR"])
)
@settings(deadline=None)
def test_numbers_are_read_as_their_languages_write_them(value: float, locale: str) -> None:
    text = format_decimal(round(value, 2), format="#,##0.00" if locale != "hi" else "#,##,##0.00", locale=locale)
    mark = COMMA if locale in ("de", "fr", "pl", "sv", "pt_BR") else POINT
    assert one(text, mark) == pytest.approx(round(value, 2), abs=1e-9)


@given(st.integers(min_value=1000, max_value=10**9), st.sampled_from("xo,.' ¹*k"), st.data())
@settings(deadline=None)
def test_a_letter_or_mark_among_digits_never_leaves_other_digits(whole: int, put: str, data: st.DataObject) -> None:
    digits = str(whole)
    at = data.draw(st.integers(min_value=1, max_value=len(digits) - 1))
    value = one(digits[:at] + put + digits[at:])
    # read as a grouped number, one with decimals, or not at all
    allowed = {None, float(whole), float(f"{digits[:at]}.{digits[at:]}")}
    assert value in allowed


def test_sizes_depend_on_what_else_stands_in_the_column() -> None:
    metres = read_cells(pl.Series(["12 m", "15 m"]), Writing())
    assert metres.value.to_list() == [12, 15]
    millions = read_cells(pl.Series(["640 m", "2.1 bn", "950"]), Writing())
    assert millions.value.to_list() == [6.4e8, 2.1e9, 950]


def test_a_triangle_is_a_minus_only_where_none_points_down() -> None:
    assert read_cells(pl.Series(["▲12", "▲3"]), Writing()).value.to_list() == [-12, -3]
    assert read_cells(pl.Series(["▲12", "▼3"]), Writing()).value.to_list() == [None, None]


def test_what_is_said_beside_numbers_is_told_by_what_is_alike() -> None:
    cells = pl.Series(["12 kg", "13 kg", "14*", "15 p", "16 xy 7", "17 xy 8", "9"])
    said = read_cells(cells, Writing()).said[0]
    forms = {alike.beside: alike for alike in said if alike.beside}
    assert {beside.unit for beside in forms} == {"kg", ""}
    assert [beside.standing for beside in forms if beside.note == "p"] == [Standing.PROVISIONAL]
    (unread,) = [alike for alike in said if alike.beside is None]
    assert (unread.pattern, unread.count, unread.places) == ("9 xy 9", 2, (4, 5))


def test_words_of_the_reading_say_what_texts_beside_numbers_mean() -> None:
    how = ValuesHow(columns=("a",), notes=("x",), negative=("CR",), left_out=("f",), times=("t = 1000", "no text = 2"))
    read = read_cells(pl.Series(["5 x", "6 CR", "7 f", "8 t", "9"]), how.writing("a"))
    assert read.value.to_list() == [5, -6, None, 8000, 18]
    assert read.received[2] == Received.BLANK
    with pytest.raises(ValueError, match="what is multiplied by"):
        ValuesHow(columns=("a",), times=("t is 1000",))
    beside = SaidBeside(notes=("2",))
    assert read_cells(pl.Series(["103 2"]), Writing(beside=beside)).value[0] == 103


def test_one_cell_with_a_unit_says_nothing_of_the_others() -> None:
    def units(first: str) -> dict[str, str]:
        rows = [f"2026-01-{n:02d};{first if n == 3 else n}" for n in range(1, 12)]
        return dict(bring_in("\n".join(["day;riders", *rows]).encode()).observations.units)

    assert units("3 boats") == {}
    assert units("€ 3") == {"riders": "€"}


def test_a_thousandth_leaves_no_digits_behind() -> None:
    thousandth = SaidBeside(times=(("", 0.001), ("g", 0.001)))
    cells = pl.Series(["12345.6", "117654.3 g"])
    assert read_cells(cells, Writing(beside=thousandth)).value.to_list() == [12.3456, 117.6543]


def test_units_of_one_thing_are_turned_into_each_other() -> None:
    assert factors_to("kg", ("kg", "t")) == {"t": 1000.0}
    assert factors_to("%", ("%", "‰", "")) == pytest.approx({"‰": 0.1, "": 100.0})
    assert factors_to("€", ("€", "$")) is None


MARKS = [
    (["1,234", "2,345", "3,456"], None, "nothing decides"),
    (["1.234", "2.345", "3.456"], None, "nothing decides"),
    (["1,234", "2,345", "950", "87"], POINT, "whole numbers below a thousand"),
    (["1.234", "2.345", "950", "87"], COMMA, "whole numbers below a thousand"),
    (["$1,234", "$2,345"], None, "a dollar has a decimal comma in some places"),
    (["12,5", "1,234"], COMMA, "its own"),
    (["0,123", "1,234"], COMMA, "a group does not begin with zero"),
    (["1,234,567", "1,234"], POINT, "two groups"),
]


@pytest.mark.parametrize(("cells", "mark", "_why"), MARKS)
def test_a_mark_is_the_only_one_or_it_is_asked(cells: list[str], mark: DecimalMark | None, _why: str) -> None:
    found = marks_of([pl.Series(cells)], About(("riders",)))
    assert (found.doubt is None or bool(found.reason)) == (mark is not None)
    assert mark in (None, found.decimal)


def test_marks_are_decided_by_other_columns_by_rates_and_by_dates_with_points() -> None:
    doubtful = pl.Series(["1,759", "1,749", "1,801"])
    assert marks_of([doubtful, pl.Series(["12,5", "3,25", "4"])]).decimal is COMMA
    assert marks_of([doubtful], About(("Diesel (€/l)",))).decimal is COMMA
    assert marks_of([doubtful], About(("Diesel",), day_and_dots=True)).decimal is COMMA
    two = marks_of([pl.Series(["1.5", "2.5"]), pl.Series(["1,5", "2,5"]), pl.Series(["3.5", "4.5"])])
    assert (two.decimal, two.others(POINT)) == (POINT, (1,))
    # one cell says nothing of other columns
    assert marks_of([doubtful, pl.Series(["900", "1.2k", "850"])]).reason == ""
    mixed = marks_of([pl.Series(["1,234.50", "1.234,50", "17"])])
    assert mixed.doubt is not None
    assert mixed.doubt.mixed
    each = read_cells(pl.Series(["1,234.50", "1.234,50", "17", "1,234"]), Writing(DecimalMark.EITHER))
    assert each.value.to_list() == [1234.5, 1234.5, 17, None]
