"""Small hard files made by hand, each with what must be understood from it.

What is expected is written as words, a period each: `2026-01-01=5` measured, `=_` blank, `=x`
unreadable, `=.` absent. A file that leaves room for doubt names the question or the error instead.
"""

from __future__ import annotations

import io
import json
import zipfile
from dataclasses import dataclass, field
from datetime import date

import polars as pl
import xlsxwriter

A = {"riders": "2026-01-01=5 2026-01-02=6 2026-01-03=_ 2026-01-04=8"}


@dataclass(frozen=True)
class Case:
    """told: a text that the first question or the error must hold, where Zembra is to ask or refuse."""

    name: str
    data: bytes
    expected: dict[str, str] = field(default_factory=dict)
    told: str | None = None


def text(
    name: str, body: str, expected: dict[str, str] | None = None, *, encoding: str = "utf-8", told: str | None = None
) -> Case:
    return Case(name, body.encode(encoding), expected or {}, told)


def rows(*lines: str) -> str:
    return "\n".join(lines) + "\n"


def by_day(cells: str, first: str = "2026-01-0", name: str = "riders") -> dict[str, str]:
    """Expected words of consecutive days of January from a list of cells."""
    return {name: " ".join(f"{first}{n}={cell}" for n, cell in enumerate(cells.split(), 1))}


def across(header: str, *lines: str) -> str:
    return rows(header, *lines)


TABLE = rows("day,riders", "2026-01-01,5", "2026-01-02,6", "2026-01-03,", "2026-01-04,8")
NUMBERS = [
    ("decimal comma", "5,5 6,25 7,0 8,1", "5.5 6.25 7 8.1", ";"),
    ("decimal comma with thousands points", "1.234,5 2.345,6 3.456,7 999,1", "1234.5 2345.6 3456.7 999.1", ";"),
    ("thousands commas", "1,234.5 2,345.6 3,456.7 999.1", "1234.5 2345.6 3456.7 999.1", ";"),
    ("apostrophe thousands", "1'234.5 2'345.6 3'456.7 999.1", "1234.5 2345.6 3456.7 999.1", ";"),
    ("thin spaces", "1\u202f234 2\u202f345 3\u202f456 999", "1234 2345 3456 999", ";"),
    ("currency before", "£5.10 £6.20 £7.30 £8.40", "5.1 6.2 7.3 8.4", ";"),
    ("currency after", "5,10€ 6,20€ 7,30€ 8,40€", "5.1 6.2 7.3 8.4", ";"),
    ("percent", "5% 6% 7.5% 8%", "5 6 7.5 8", ";"),
    ("brackets for negatives", "(5.5) 6 (7) 8", "-5.5 6 -7 8", ";"),
    ("trailing minus", "5- 6 7.5- 8", "-5 6 -7.5 8", ";"),
    ("true minus sign", "−5 6 −7.5 8", "-5 6 -7.5 8", ";"),
    ("unit after", "5kWh 6kWh 7.5kWh 8kWh", "5 6 7.5 8", ";"),
    ("exponents", "5e3 6.5E2 7e-1 8", "5000 650 0.7 8", ";"),
    ("blank words", "5 n/a 7 -", "5 _ 7 _", ";"),
    ("workbook errors", "5 #N/A #DIV/0! 8", "5 _ _ 8", ";"),
    ("null and none", "5 NULL none 8", "5 _ _ 8", ";"),
    ("text among numbers", "5 closed 7 tbc", "5 x 7 x", ";"),
    ("real zeros", "0 6 0 8", "0 6 0 8", ","),
]
DATES = [
    ("iso with midnight", "2026-01-01T00:00:00 2026-01-02T00:00:00 2026-01-03T00:00:00"),
    ("day first with dots", "29.12.2025 30.12.2025 31.12.2025 1.1.2026"),
    ("day first with slashes", "29/12/2025 30/12/2025 31/12/2025 01/01/2026"),
    ("month first", "12/29/2025 12/30/2025 12/31/2025 01/01/2026"),
    ("two-digit years", "29.12.25 30.12.25 31.12.25 01.01.26"),
    ("slash year first", "2025/12/29 2025/12/30 2025/12/31 2026/01/01"),
    ("eight digits", "20251229 20251230 20251231 20260101"),
    ("workbook day numbers", "46020 46021 46022 46023"),
    ("epoch seconds", "1766966400 1767052800 1767139200 1767225600"),
    ("words, English", "29-Dec-2025 30-Dec-2025 31-Dec-2025 1-Jan-2026"),
    ("words, German", "29.Dezember.2025 30.Dezember.2025 31.Dezember.2025 1.Januar.2026"),
    ("words, French", "29-décembre-2025 30-décembre-2025 31-décembre-2025 1-janvier-2026"),
    ("words, Spanish", "29-diciembre-2025 30-diciembre-2025 31-diciembre-2025 1-enero-2026"),
    ("words, Italian", "29-dicembre-2025 30-dicembre-2025 31-dicembre-2025 1-gennaio-2026"),
    ("words, Dutch", "29-december-2025 30-december-2025 31-december-2025 1-januari-2026"),
    ("words, Swedish", "29-dec-2025 30-dec-2025 31-dec-2025 1-jan-2026"),
    ("words, Portuguese", "29-dezembro-2025 30-dezembro-2025 31-dezembro-2025 1-janeiro-2026"),
]
DAYS = ("2025-12-29", "2025-12-30", "2025-12-31", "2026-01-01")
COARSE = [
    ("years", "2023 2024 2025 2026", "2023 2024 2025 2026"),
    ("quarters, year first", "2025-Q1 2025-Q2 2025-Q3 2025-Q4", "2025-Q1 2025-Q2 2025-Q3 2025-Q4"),
    ("quarters, short", "Q1_24 Q2_24 Q3_24 Q4_24", "2024-Q1 2024-Q2 2024-Q3 2024-Q4"),
    ("months, ISO", "2025-11 2025-12 2026-01 2026-02", "2025-11 2025-12 2026-01 2026-02"),
    ("months in words", "Nov_2025 Dec_2025 Jan_2026 Feb_2026", "2025-11 2025-12 2026-01 2026-02"),
    ("months in digits", "11/2025 12/2025 01/2026 02/2026", "2025-11 2025-12 2026-01 2026-02"),
    ("ISO weeks", "2025-W51 2025-W52 2026-W01 2026-W02", "2025-W51 2025-W52 2026-W01 2026-W02"),
    ("month ends", "2025-11-30 2025-12-31 2026-01-31 2026-02-28", "2025-11 2025-12 2026-01 2026-02"),
]


def numbers_cases() -> list[Case]:
    made = []
    for name, cells, values, delimiter in NUMBERS:
        lines = [f"2026-01-0{n}{delimiter}{cell}" for n, cell in enumerate(cells.split(" "), 1)]
        made.append(text(name, rows(f"day{delimiter}riders", *lines), by_day(values)))
    return made


def date_cases() -> list[Case]:
    made = []
    for name, dates in DATES:
        written = dates.split(" ")
        periods = ("2026-01-01", "2026-01-02", "2026-01-03") if name == "iso with midnight" else DAYS
        body = rows("when;riders", *(f"{day};{n}" for n, day in enumerate(written, 5)))
        made.append(text(name, body, {"riders": " ".join(f"{p}={n}" for n, p in enumerate(periods, 5))}))
    for name, dates, periods_ in COARSE:
        body = rows("when;riders", *(f"{day.replace('_', ' ')};{n}" for n, day in enumerate(dates.split(" "), 5)))
        made.append(text(name, body, {"riders": " ".join(f"{p}={n}" for n, p in enumerate(periods_.split(" "), 5))}))
    return made


def shape_cases() -> list[Case]:
    long = {
        "North Head": "2026-01-01=5 2026-01-02=6 2026-01-03=7 2026-01-04=8",
        "Outer Isles": "2026-01-01=50 2026-01-02=. 2026-01-03=_ 2026-01-04=80",
    }
    return [
        text("tabs", TABLE.replace(",", "\t"), A),
        text("bars", TABLE.replace(",", "|"), A),
        text("UTF-8 with a mark", TABLE, A, encoding="utf-8-sig"),
        text("UTF-16", TABLE, A, encoding="utf-16"),
        text("Windows-1252", TABLE.replace("riders", "Fahrgäste"), {"Fahrgäste": A["riders"]}, encoding="cp1252"),
        text("old line ends", TABLE.replace("\n", "\r\n"), A),
        text("no line end at the end", TABLE.rstrip("\n"), A),
        text("quoted cells with delimiters", rows('day,remark,riders', '2026-01-01,"calm, clear",5', '2026-01-02,"wind\nlater rain",6', '2026-01-03,,', '2026-01-04,"say ""no""",8'), A),
        text("title rows above", rows("Saltmarch Ferries", "weekly sheet,,", "", "day,riders", "2026-01-01,5", "2026-01-02,6", "2026-01-03,", "2026-01-04,8"), A),
        text("a total below", TABLE + "Total,19\n", A),
        text("a note below", TABLE + "counted at the pier,\n", A),
        text("an empty column", rows("day,,riders", "2026-01-01,,5", "2026-01-02,,6", "2026-01-03,,", "2026-01-04,,8"), A),
        text("names repeated on every page", rows("day,riders", "2026-01-01,5", "2026-01-02,6", "day,riders", "2026-01-03,", "2026-01-04,8"), A),
        text("no column names", rows("2026-01-01,5", "2026-01-02,6", "2026-01-03,7", "2026-01-04,8"), {"column 2": "2026-01-01=5 2026-01-02=6 2026-01-03=7 2026-01-04=8"}),
        text("names over two rows", rows(",North Head,,Outer Isles,", "day,riders,cars,riders,cars", "2026-01-01,5,1,50,10", "2026-01-02,6,2,60,20", "2026-01-03,7,3,70,30"), {
            "North Head riders": "2026-01-01=5 2026-01-02=6 2026-01-03=7", "Outer Isles cars": "2026-01-01=10 2026-01-02=20 2026-01-03=30",
        }),
        text("long, a series column", rows("day,route,riders", "2026-01-01,North Head,5", "2026-01-01,Outer Isles,50", "2026-01-02,North Head,6", "2026-01-03,North Head,7", "2026-01-03,Outer Isles,", "2026-01-04,North Head,8", "2026-01-04,Outer Isles,80"), long),
        text("wide, a column a series", rows("day,North Head,Outer Isles", "2026-01-01,5,50", "2026-01-02,6,60", "2026-01-03,7,", "2026-01-04,8,80"), {
            "North Head": "2026-01-01=5 2026-01-02=6 2026-01-03=7 2026-01-04=8", "Outer Isles": "2026-01-01=50 2026-01-02=60 2026-01-03=_ 2026-01-04=80",
        }),
        text("periods across", rows("route,Jan 2026,Feb 2026,Mar 2026,Apr 2026", "North Head,5,6,7,8", "Outer Isles,50,,n/a,80"), {
            "North Head": "2026-01=5 2026-02=6 2026-03=7 2026-04=8", "Outer Isles": "2026-01=50 2026-02=_ 2026-03=_ 2026-04=80",
        }),
        text("years across", rows("vessel,2022,2023,2024,2025", "Dunlin,5,6,7,8", "Tern,9,10,,12"), {"Dunlin": "2022=5 2023=6 2024=7 2025=8", "Tern": "2022=9 2023=10 2024=_ 2025=12"}),
        text("rows out of order", rows("day,riders", "2026-01-04,8", "2026-01-02,6", "2026-01-03,", "2026-01-01,5"), A),
        text("dates not in the first column", rows("riders,day", "5,2026-01-01", "6,2026-01-02", ",2026-01-03", "8,2026-01-04"), A),
        text("a column that counts the rows", rows("no,day,riders", *(f"{n},2026-01-0{n},{n * 7 % 5}" for n in range(1, 8))), by_day("2 4 1 3 0 2 4")),
        text("days without a row", rows("day,riders", "2026-01-01,5", "2026-01-02,6", "2026-01-04,8", "2026-01-05,9"), by_day("5 6 . 8 9")),
        text("a number with a remark, asked", rows("day;riders", "2026-01-01;5", "2026-01-02;6?", "2026-01-03;7", "2026-01-04;8"), told="1 cell in riders is not read as a number"),
        text("several rows a day, asked", rows("day,riders", "2026-01-01,2", "2026-01-01,3", "2026-01-02,6", "2026-01-03,", "2026-01-04,8"), told="Rows 2 and 3 are all 1 Jan 2026"),
        text("future months are no blanks", rows("month,riders", *(f"2026-{m:02d},{m if m < 11 else ''}" for m in range(7, 13))), {"riders": "2026-07=7 2026-08=8 2026-09=9 2026-10=10"}),
        text("events to count", rows("seen,what,by", *(f"2026-01-0{day},otter,watch {n}" for n, day in enumerate((1, 1, 2, 4, 4, 4)))), told="Is each row something that happened, to be counted?"),
        text("hours with offsets over a clock change", rows("at,kwh", "2026-03-29T00:00+00:00,5", "2026-03-29T02:00+01:00,6", "2026-03-29T03:00+01:00,7"), {"kwh": "2026-03-29T00:00=5 2026-03-29T02:00+01:00=6 2026-03-29T03:00+01:00=7"}),
        text("quarter hours", rows("at,kwh", *(f"2026-03-29 10:{m:02d},{m}" for m in (0, 15, 45))), {"kwh": "2026-03-29T10:00=0 2026-03-29T10:15=15 2026-03-29T10:30=. 2026-03-29T10:45=45"}),
        text("prices that hold until the next", rows("agreed,price", "2024-01-09,0.9", "2024-05-03,0.95", "2025-07-08,1.1", "2025-10-30,1.12"), {"price": "2024-01-09=0.9 2024-05-03=0.95 2025-07-08=1.1 2025-10-30=1.12"}),
        text("a remark column is no series", rows("day,remark,riders", "2026-01-01,calm,5", "2026-01-02,windy,6", "2026-01-03,,", "2026-01-04,fog,8"), A),
        text("day or month first, asked", rows("day,riders", "01/02/2026,5", "02/02/2026,6", "03/02/2026,7", "04/02/2026,8"), told="is that 1 Feb 2026 (day first) or 2 Jan 2026 (month first)?"),
        text("two ways of writing dates, refused", rows("day,riders", "2026-01-01,5", "2026-01-02,6", "2026-01-03,6", "04/01/2026,8"), told="written in two ways"),
        text("two columns of one name", rows("day,riders,riders", "2026-01-01,5,6", "2026-01-02,7,8"), {"riders": "2026-01-01=5 2026-01-02=7", "riders (2)": "2026-01-01=6 2026-01-02=8"}),
        text("a row too long, refused", rows("day,riders", "2026-01-01,5", "2026-01-02,6,7"), told="Row 3 has 3 cells"),
        text("no dates, refused", rows("name,riders", "Dunlin,5", "Tern,6"), told="No column holds dates"),
        text("names only, refused", "day,riders\n", told="no rows under it"),
        text("records", json.dumps([{"day": f"2026-01-0{n}", "riders": v} for n, v in enumerate((5, 6, None, 8), 1)]), A),
        text("columns", json.dumps({"day": [f"2026-01-0{n}" for n in range(1, 5)], "riders": [5, 6, None, 8]}), A),
        text("records one level down", json.dumps({"made": "by hand", "rows": [{"day": f"2026-01-0{n}", "riders": v} for n, v in enumerate((5, 6, None, 8), 1)]}), A),
    ]  # fmt: skip


def workbook(fill: object) -> bytes:
    out = io.BytesIO()
    book = xlsxwriter.Workbook(out)
    fill(book)  # type: ignore[operator]
    book.close()
    return out.getvalue()


def _plain_sheet(book: xlsxwriter.Workbook, at: int = 0, name: str | None = None) -> None:
    sheet = book.add_worksheet(name)
    as_day = book.add_format({"num_format": "yyyy-mm-dd"})
    sheet.write_row(at, 0, ["day", "riders"])
    for n, value in enumerate((5, 6, None, 8), 1):
        sheet.write_datetime(at + n, 0, date(2026, 1, n), as_day)
        if value is not None:
            sheet.write_number(at + n, 1, value)


def _merged_title(book: xlsxwriter.Workbook) -> None:
    _plain_sheet(book, at=2)
    book.worksheets()[0].merge_range(0, 0, 0, 1, "Saltmarch Ferries")


def _cover_sheet(book: xlsxwriter.Workbook) -> None:
    book.add_worksheet("Cover").write(0, 0, "made for the board")
    _plain_sheet(book, name="Riders")


def _errors_and_texts(book: xlsxwriter.Workbook) -> None:
    sheet = book.add_worksheet()
    sheet.write_row(0, 0, ["month", "riders"])
    for n, cell in enumerate((5, "#N/A", "closed", 8), 1):
        sheet.write_row(n, 0, [f"2026-0{n}", cell])


def binary_cases() -> list[Case]:
    frame = pl.DataFrame({"day": [date(2026, 1, n) for n in range(1, 5)], "riders": [5, 6, None, 8]})
    parquet = io.BytesIO()
    frame.write_parquet(parquet)
    package = io.BytesIO()
    with zipfile.ZipFile(package, "w") as archive:
        resource = {"name": "riders", "path": "data/riders.csv"}
        archive.writestr("datapackage.json", json.dumps({"name": "ferry", "resources": [resource]}))
        archive.writestr("data/riders.csv", TABLE)
    return [
        Case("a workbook", workbook(_plain_sheet), A),
        Case("a workbook with a merged title", workbook(_merged_title), A),
        Case("a workbook with a cover sheet", workbook(_cover_sheet), A),
        Case("a workbook with errors and texts", workbook(_errors_and_texts), {"riders": "2026-01=5 2026-02=_ 2026-03=x 2026-04=8"}),
        Case("Parquet", parquet.getvalue(), A),
        Case("a data package", package.getvalue(), A),
        Case("a picture, refused", b"\x89PNG\r\n\x1a\n" + bytes(60), told="PNG picture"),
        Case("half a workbook, refused", workbook(_plain_sheet)[:900], told="cannot be read"),
    ]  # fmt: skip


def all_cases() -> list[Case]:
    return [*numbers_cases(), *date_cases(), *shape_cases(), *binary_cases()]
