"""Files as they come by mail: what a person reads at once is read, and what is odd about it is told."""

from __future__ import annotations

import json
from datetime import date, datetime

import pytest

from tests.help import asked, run_csv
from zembra.core.entries.calendar.start import first_ledger, suggested_as_of
from zembra.core.errors import Refusal
from zembra.core.intake.bringin import BroughtIn, bring_in
from zembra.core.intake.howread import Encoding
from zembra.core.ledger.state import State

MONTHS = [f"2025-{month:02d}" for month in range(1, 13)]
VALUES = [5.5, 6.25, 7.5, 4.5, 8.25, 9.5, 3.5, 2.25, 6.5, 7.25, 8.5, 1.5]


def series(brought: BroughtIn) -> dict[str, list[float | None]]:
    """The numbers of each series in the order of their moments."""
    (frame,) = brought.observations.frames.values()
    names = brought.observations.series
    return {name: frame.filter(frame["series"] == n).sort("when")["value"].to_list() for n, name in enumerate(names)}


def told(brought: BroughtIn) -> str:
    return " ".join(notice.text for notice in brought.notices)


@pytest.mark.parametrize("delimiter", ["^", "~", ":"])
def test_rare_delimiters(delimiter: str) -> None:
    rows = [
        delimiter.join(["month", "riders", "cars"]),
        *(f"{m}{delimiter}{v}{delimiter}{n}" for n, (m, v) in enumerate(zip(MONTHS, VALUES, strict=True))),
    ]
    assert series(bring_in("\n".join(rows).encode()))["riders"] == VALUES


def test_a_few_rows_with_too_few_cells_or_a_remark_too_many() -> None:
    rows = ["month,riders,cars", *(f"{m},{v},{n}" for n, (m, v) in enumerate(zip(MONTHS, VALUES, strict=True)))]
    rows[3] = rows[3].rpartition(",")[0]
    rows[6] += ",late"
    brought = bring_in("\n".join(rows).encode())
    assert series(brought)["riders"] == VALUES
    assert series(brought)["cars"][2] is None
    assert "2 rows have not as many cells as there are names, such as row 4" in told(brought)
    rows[6] = rows[6].replace("late", "7")
    with pytest.raises(Refusal, match="Row 7 has 4 cells"):
        bring_in("\n".join(rows).encode())


def test_a_table_with_a_rule_under_its_names() -> None:
    rows = [f"{m:<12}{v:>8}{n:>8}" for n, (m, v) in enumerate(zip(MONTHS, VALUES, strict=True))]
    text = "\n".join(
        [f"{'month':<12}{'riders':>8}{'cars':>8}", f"{'-' * 11} {'-' * 7} {'-' * 7}", *rows, "(12 rows affected)"]
    )
    assert series(bring_in(text.encode()))["riders"] == VALUES


@pytest.mark.parametrize(
    ("words", "encoding", "found"),
    [
        (["январь", "февраль", "март", "апрель", "май", "июнь"], "koi8-r", Encoding.KOI8_R),
        (["Oca", "Şub", "Mar", "Nis", "May", "Haz", "Tem", "Ağu"], "cp1254", Encoding.CP1254),
        (["Januar", "Februar", "März", "April", "Mai", "Juni"], "cp437", Encoding.CP850),
        (["leden", "únor", "březen", "duben", "květen", "červen"], "cp1250", Encoding.CP1250),
        (["Jan", "Feb", "Mar", "Apr", "May", "Jun"], "utf-32", Encoding.UTF32),
    ],
)
def test_an_encoding_is_the_one_in_which_months_have_names(words: list[str], encoding: str, found: Encoding) -> None:
    text = "\n".join(["month;riders", *(f"{word} 2025;{value}" for word, value in zip(words, VALUES, strict=False))])
    brought = bring_in(text.encode(encoding))
    assert brought.how.table.encoding is found
    assert series(brought)["riders"] == VALUES[: len(words)]


def test_years_across_over_months_down_and_a_change_beside() -> None:
    months = ("Jan", "Feb", "Mar", "Apr", "May", "Jun", "Jul", "Aug", "Sep", "Oct", "Nov", "Dec")
    rows = [f"{month},{value},{value + 10},3%" for month, value in zip(months, VALUES, strict=True)]
    brought = bring_in("\n".join(["Month,2024,2025,Change", *rows]).encode())
    assert list(series(brought).values()) == [[*VALUES, *(value + 10 for value in VALUES)]]
    assert "Not read, as their names are no periods like the others: Change" in told(brought)


def test_quarters_among_months_are_left_out_and_asked_about() -> None:
    rows = [f"{date(2025, m + 1, 1):%b %Y};{VALUES[m]}" for m in range(12)]
    for quarter in (3, 2, 1, 0):
        rows.insert(3 * quarter + 3, f"Q{quarter + 1} 2025;{sum(VALUES[3 * quarter : 3 * quarter + 3])}")
    data = "\n".join(["Month;riders", *rows]).encode()
    assert series(bring_in(data))["riders"] == VALUES
    assert any(question.key.startswith("undated") for question in asked(data))


def test_years_without_names_keep_their_first_row() -> None:
    rows = [f"{1990 + n}.0,{value}" for n, value in enumerate(VALUES)]
    assert list(series(bring_in("\n".join(rows).encode())).values()) == [VALUES]


def test_two_keys_that_are_blank_where_they_repeat() -> None:
    rows = []
    for route in ("Outer Isles", "North Head"):
        for channel in ("web", "pier"):
            rows += [
                f"{route if n + (channel == 'pier') * 9 == 0 else ''};{channel if n == 0 else ''};{m};{v}"
                for n, (m, v) in enumerate(zip(MONTHS, VALUES, strict=True))
            ]
    found = series(bring_in("\n".join(["route;channel;month;riders", *rows]).encode()))
    assert set(found) == {
        f"{route}, {channel}" for route in ("Outer Isles", "North Head") for channel in ("web", "pier")
    }
    assert all(values == VALUES for values in found.values())


def test_json_of_series_with_points_of_features_and_wrapped_twice() -> None:
    stamps = [int(datetime(2025, n + 1, 1).timestamp() * 1000) for n in range(12)]
    pairs = [{"name": name, "data": list(zip(stamps, VALUES, strict=True))} for name in ("a", "b")]
    assert set(series(bring_in(json.dumps(pairs).encode()))) == {"a", "b"}
    features = [
        {"type": "Feature", "geometry": {"coordinates": [1, 2]}, "properties": {"pier": "N", "month": m, "riders": v}}
        for m, v in zip(MONTHS, VALUES, strict=True)
    ]
    assert VALUES in series(bring_in(json.dumps({"type": "FeatureCollection", "features": features}).encode())).values()
    wrapped = {
        "meta": {"unit": "€", "rows": 12},
        "data": {"series": [{"month": m, "riders": str(v)} for m, v in zip(MONTHS, VALUES, strict=True)]},
    }
    assert list(series(bring_in(json.dumps(wrapped).encode())).values()) == [VALUES]


def test_what_a_page_hides_is_no_digit_and_neither_is_a_superscript() -> None:
    cells = [
        f"<tr><td>{m}</td><td>{v}<span style='display: none'>99</span><b hidden>7</b></td></tr>"
        for m, v in zip(MONTHS, VALUES, strict=True)
    ]
    page = "<table><tr><th>month</th><th>riders</th></tr>{}</table>"
    assert series(bring_in(page.format("".join(cells)).encode()))["riders"] == VALUES
    raised = "".join(cells).replace(f"{VALUES[2]}<", f"{VALUES[2]}<sup>2</sup><", 1)
    questions = asked(page.format(raised).encode())
    assert [question.key for question in questions] == ["unread:riders:9 9"]
    assert questions[0].answers[0].label == "7.5: “2” changes nothing"


def test_the_newest_rows_have_happened_whatever_their_cells_say() -> None:
    rows = [f"2012-{month:02d};{month if month < 10 else ''}" for month in range(1, 13)]
    state = run_csv("\n".join(["month;riders", *rows]).encode()).base
    assert suggested_as_of(state, date(2026, 1, 1)) == date(2012, 12, 31)


def test_cells_of_several_kinds_are_asked_about_pattern_by_pattern() -> None:
    cells = ["5", "6 boats", "7 boats", "<8", "9-12", "10", "11", "12", "closed", "1.2k", "13", "[14]"]
    data = "\n".join(["month;riders", *(f"{m};{cell}" for m, cell in zip(MONTHS, cells, strict=True))]).encode()
    questions = asked(data)
    assert {question.key for question in questions} == {
        "units:riders",
        "unread:riders:<9",
        "unread:riders:9-9",
    }
    brought = bring_in(data)
    for sentence in ("“closed” (row 10)", "says k, and is read times 1", "in square brackets is read as negative"):
        assert sentence in told(brought)
    ledger = first_ledger(brought.observations, brought.how, date(2026, 1, 1))
    assert State(brought.observations, date(2026, 1, 1)).observations.marked == {}
    assert ledger.intake == brought.how
