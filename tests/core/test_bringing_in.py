"""Files to observations: what is understood, and what is refused with its place."""

import pytest

from tests.help import asked, daily_csv, only_line, run_csv
from zembra.core.asking.census import census
from zembra.core.calendar.lines import Received
from zembra.core.errors import Refusal
from zembra.core.intake.bringin import bring_in
from zembra.core.intake.dates import DateForm
from zembra.core.intake.howread import Delimiter, Encoding
from zembra.core.intake.numbercell import DecimalMark


def test_a_semicolon_file_with_decimal_commas_in_windows_1252() -> None:
    rows = ["Tag;Linie;Fahrgäste"] + [f"{d:02d}.03.2026;Süd;1.{d:03d},5" for d in range(1, 29)]
    brought = bring_in("\r\n".join(rows).encode("cp1252"))
    how = brought.how
    assert (how.table.encoding, how.table.delimiter) == (Encoding.CP1252, Delimiter.SEMICOLON)
    assert (how.dates.column, how.dates.form) == ("Tag", DateForm.DAY_FIRST)
    assert (how.series.column, how.values.columns) == ("Linie", ("Fahrgäste",))
    assert how.values.decimal is DecimalMark.COMMA
    assert brought.observations.series == ("Süd",)
    assert brought.observations.frames["Fahrgäste"]["value"][2] == 1003.5


def test_title_rows_above_the_header_are_passed_over() -> None:
    data = b"Saltmarch Ferries\nweekly sheet,,\n\nday,route,riders\n2026-01-01,A,5\n2026-01-02,A,6\n2026-01-03,A,7\n"
    brought = bring_in(data)
    assert brought.how.table.header_row == 4
    assert brought.table.row_number(0) == 5


def test_quoted_cells_with_delimiters_and_line_ends() -> None:
    data = b'day,note,riders\n2026-01-01,"calm, clear",5\n2026-01-02,"fog\nin the bay",6\n'
    brought = bring_in(data)
    assert brought.observations.frames["riders"]["value"].to_list() == [5, 6]


def test_every_kind_of_nothing_is_told_apart() -> None:
    result = run_csv(daily_csv([5, None, ..., "closed", 0, 7]))
    received = [Received(code) for code in only_line(result).received]
    assert received == [
        Received.MEASURED, Received.BLANK, Received.ABSENT, Received.UNREADABLE, Received.MEASURED, Received.MEASURED,
    ]  # fmt: skip
    counts = {count.key: count for count in census(result.base)}
    assert {key: count.count for key, count in counts.items()} == {
        "measured": 3, "blank": 1, "absent": 1, "unreadable": 1, "zeros": 1, "combined": 0, "marked": 0, "undated": 0,
    }  # fmt: skip
    (unreadable,) = counts["unreadable"].examples
    assert (unreadable.row, unreadable.text, unreadable.period) == (4, "closed", "2026-01-04")


def test_rows_sharing_a_period_are_combined_and_counted() -> None:
    data = b"day,riders\n2026-01-01,5\n2026-01-01,7\n2026-01-02,n/a\n2026-01-02,4\n"
    line = only_line(run_csv(data))
    assert line.original.tolist() == [12, 4]
    assert line.row_count.tolist() == [2, 2]


def test_ambiguous_day_and_month_is_asked() -> None:
    rows = "\n".join(f"0{d}/0{m}/2026,{d + m}" for m in range(1, 4) for d in range(1, 6))
    question, *_ = asked(f"day,riders\n{rows}\n".encode())
    assert [answer.label for answer in question.answers] == ["day first: 2 Jan 2026", "month first: 1 Feb 2026"]
    assert question.columns == ("day",)


def test_a_row_without_a_date_is_left_out_and_told() -> None:
    data = daily_csv([1, 2, 3]) + b"later,6\n2026-01-04,4\n"
    observations = bring_in(data).observations
    assert observations.undated_count == 1
    assert (observations.undated[0].row, observations.undated[0].text) == (5, "later")


@pytest.mark.parametrize(
    ("data", "says", "place"),
    [
        (b"", "empty", None),
        (b"\xef\xbb\xbf \n\n", "empty", None),
        (b"day,riders\n", "header and no rows", "row 1"),
        (b"name,riders\nA,1\nB,2\n", "No column holds dates", "name"),
        (b"day,note\n2026-01-01,calm\n2026-01-02,rough\n", "No column holds numbers", "note"),
        (bytes(range(256)) * 40, "not text", "byte"),
        (b"\x89PNG\r\n\x1a\n" + b"\x00" * 100, "PNG picture", "first bytes"),
        (b"day,riders\n2026-01-01,1\n2026-01-02,2,3\n", "Row 3 has 3 cells", "row 3"),
        (b"day,a,b\n2026-01-01,1,2\n2026-01-02\n2026-01-03\n2026-01-04,1,2\n", "Row 3 has 1 cells", "row 3"),
        (b"day,riders\n2026-01-01,1\n2026-01-02,1\n2026-01-03,1\n04/01/2026,1\n", "written in two ways", "row 5"),
    ],
)
def test_bad_input_is_refused_with_its_place(data: bytes, says: str, place: str | None) -> None:
    with pytest.raises(Refusal) as refused:
        bring_in(data)
    assert says in refused.value.what
    if place:
        assert place in (refused.value.place or "")
