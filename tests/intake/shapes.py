"""Tables in the shapes that real ones come in, all of ferry numbers, each with the census it must give.

A shape is right when it is read as expected without a question, asked where the doubt is real (then one of
the answers must lead to what is expected), or refused where nothing can be read. Anything else is wrong.
"""

from __future__ import annotations

import gzip
import io
import json
import zipfile
from collections.abc import Sequence
from dataclasses import dataclass, field
from datetime import UTC, date, datetime, timedelta
from zoneinfo import ZoneInfo

import openpyxl
import polars as pl

VALUES = (104, 98, 107, 101, 110, 104, 113, 109, 121, 118, 99, 95)


@dataclass(frozen=True)
class Shape:
    """expected: series to "label=value" words. asks: how the key of the first question begins. answer: what
    of its label is clicked to get what is expected. refused: what the refusal says. tells: how the key of what is
    told without asking begins."""

    name: str
    data: bytes
    expected: dict[str, str] = field(default_factory=dict)
    asks: str | None = None
    answer: str | None = None
    refused: str | None = None
    tells: str | None = None


def words(labels: Sequence[str], values: Sequence[object] = VALUES) -> str:
    return " ".join(f"{label}={value}" for label, value in zip(labels, values, strict=False))


def table(name: str, header: str, lines: Sequence[str], expected: dict[str, str], **more: str) -> Shape:
    return Shape(name, ("\n".join([header, *lines]) + "\n").encode(), expected, **more)  # type: ignore[arg-type]


def days(count: int, first: date = date(2025, 12, 27)) -> list[str]:
    return [str(first + timedelta(n)) for n in range(count)]


def months(count: int, year: int = 2023) -> list[str]:
    return [f"{year + n // 12}-{n % 12 + 1:02d}" for n in range(count)]


def quarters(count: int, year: int = 2021) -> list[str]:
    return [f"{year + n // 4}-Q{n % 4 + 1}" for n in range(count)]


def years(count: int, year: int = 2015) -> list[str]:
    return [str(year + n) for n in range(count)]


def weeks(count: int) -> list[str]:
    return [f"2023-W{n:02d}" for n in range(1, count + 1)]


def hours(count: int, first: datetime = datetime(2026, 1, 31, 21)) -> list[str]:
    return [f"{first + timedelta(hours=n):%Y-%m-%dT%H:%M}" for n in range(count)]


_SHORT = ["Jan", "Feb", "Mar", "Apr", "May", "Jun", "Jul", "Aug", "Sep", "Oct", "Nov", "Dec"]


def _each(labels: list[str], write: object) -> list[str]:
    return [
        write(
            *(
                int(part)
                for part in label.replace("T", "-").replace(":", "-").replace("Q", "").replace("W", "").split("-")
            )
        )
        for label in labels
    ]  # type: ignore[operator]


def writings() -> list[Shape]:
    """One column of dates and one of numbers: how dates are written."""
    d, m, q, y, w, h = days(8), months(12), quarters(8), years(8), weeks(8), hours(8)
    given: list[tuple[str, str, list[str], list[str]]] = [
        ("y/m/d h:m", "when", h, _each(h, lambda y, m, d, H, M: f"{y}/{m:02d}/{d:02d} {H:02d}:{M:02d}")),
        ("d.m.y h:m", "when", h, _each(h, lambda y, m, d, H, M: f"{d:02d}.{m:02d}.{y} {H:02d}:{M:02d}")),
        ("m/d/y h:m:s", "when", h, _each(h, lambda y, m, d, H, M: f"{m}/{d}/{y} {H:02d}:{M:02d}:00")),
        ("m/d/y 12 hours", "when", h, _each(h, lambda y, m, d, H, M: f"{m}/{d}/{y} {(H + 11) % 12 + 1}:{M:02d} {'AM' if H < 12 else 'PM'}")),
        ("d/m/y T", "when", h, _each(h, lambda y, m, d, H, M: f"{d:02d}/{m:02d}/{y}T{H:02d}:{M:02d}")),
        ("ISO with T and Z", "when", h, [f"{one}:00Z" for one in h]),
        ("ISO, one offset", "when", h, [f"{one}:00+01:00" for one in h]),
        ("compact with T", "when", h, [one.replace("-", "").replace(":", "") for one in h]),
        ("compact, twelve digits", "timestamp", h, [one.replace("-", "").replace(":", "").replace("T", "") for one in h]),
        ("day, month in words, time", "when", h, _each(h, lambda y, m, d, H, M: f"{d:02d} {_SHORT[m - 1]} {y} {H:02d}:{M:02d}")),
        ("as in mail headers", "when", h, _each(h, lambda y, m, d, H, M: f"{date(y, m, d):%a}, {d:02d} {_SHORT[m - 1]} {y} {H:02d}:{M:02d}:00 +0000")),
        ("epoch seconds", "time", d, [str(int(datetime.fromisoformat(one).replace(tzinfo=UTC).timestamp())) for one in d]),
        ("epoch milliseconds", "timestamp", d, [str(int(datetime.fromisoformat(one).replace(tzinfo=UTC).timestamp()) * 1000) for one in d]),
        ("epoch microseconds", "ts", h, [str(int(datetime.fromisoformat(one).replace(tzinfo=UTC).timestamp()) * 1_000_000) for one in h]),
        ("six digits", "month", m, [one.replace("-", "") for one in m]),
        ("2023M01", "period", m, [one.replace("-", "M") for one in m]),
        ("year.month", "month", m, [one.replace("-", "/") for one in m]),
        ("decimal years, months", "time", months(24, 1949), [f"{1949 + n / 12:.3f}" for n in range(24)]),
        ("decimal years, four digits", "year", months(24, 1949), [f"{1949 + n / 12:.4f}" for n in range(24)]),
        ("years with a point", "year", y, [f"{one}.0" for one in y]),
        ("Jan-1-1995", "day", d, _each(d, lambda y, m, d: f"{_SHORT[m - 1]}-{d}-{y}")),
        ("weekday, month in words", "day", d, _each(d, lambda y, m, d: f"{date(y, m, d):%A}, {date(y, m, d):%B} {d}, {y}")),
        ("1st of January", "day", d, _each(d, lambda y, m, d: f"{d}{'st' if d == 1 else 'th'} {date(y, m, d):%B} {y}")),
        ("Jan-23", "month", m, _each(m, lambda y, m: f"{_SHORT[m - 1]}-{y % 100}")),
        ("2023 Jan", "month", m, _each(m, lambda y, m: f"{y} {_SHORT[m - 1]}")),
        ("quarters 2021Q3", "quarter", q, _each(q, lambda y, q: f"{y}Q{q}")),
        ("quarters 2021-Q03", "quarter", q, _each(q, lambda y, q: f"{y}-Q0{q}")),
        ("quarters Q3/21", "quarter", q, _each(q, lambda y, q: f"Q{q}/{y % 100}")),
        ("quarters 3Q21", "quarter", q, _each(q, lambda y, q: f"{q}Q{y % 100}")),
        ("quarters 2021:3", "quarter", q, _each(q, lambda y, q: f"{y}:{q}")),
        ("quarters 2021-III", "quarter", q, _each(q, lambda y, q: f"{y}-{['I', 'II', 'III', 'IV'][q - 1]}")),
        ("quarters, German", "Quartal", q, _each(q, lambda y, q: f"{q}. Quartal {y}")),
        ("quarters, French", "trimestre", q, _each(q, lambda y, q: f"T{q} {y}")),
        ("fiscal years", "year", y, [f"FY{one}" for one in y]),
        ("fiscal years over two", "year", y, [f"{one}/{(int(one) + 1) % 100:02d}" for one in y]),
        ("fiscal years with a dash", "year", years(8, 2004), [f"{one}-{(int(one) + 1) % 100:02d}" for one in years(8, 2004)]),
        ("FY2015/16", "year", y, [f"FY{one}/{(int(one) + 1) % 100:02d}" for one in y]),
        ("half-years", "half", [f"{2020 + n // 2}-{'07' if n % 2 else '01'}" for n in range(8)], [f"{2020 + n // 2}-H{n % 2 + 1}" for n in range(8)]),
        ("weeks KW 5/2023", "week", w, _each(w, lambda y, w: f"KW {w}/{y}")),
        ("weeks Week 5, 2023", "week", w, _each(w, lambda y, w: f"Week {w}, {y}")),
        ("weeks 2023W05", "week", w, [one.replace("-", "") for one in w]),
        ("weeks by their Mondays", "week", w, [str(date.fromisocalendar(2023, n, 1)) for n in range(1, 9)]),
        ("marks of estimate", "year", y, [*y[:-2], f"{y[-2]}p", f"{y[-1]}p"]),
        ("footnotes", "year", y, [*y[:-1], f"{y[-1]}*"]),
        ("years before 1600", "year", years(8, 1550), years(8, 1550)),
        ("two-digit year first", "day", d, _each(d, lambda y, m, d: f"{y % 100}-{m:02d}-{d:02d}")),
        ("Japanese", "月", m, _each(m, lambda y, m: f"{y}年{m}月")),
        ("Polish genitive", "dzień", days(8, date(2026, 1, 3)), [f"{n} stycznia 2026" for n in range(3, 11)]),
        ("Russian", "дата", days(8, date(2026, 3, 3)), [f"{n} марта 2026" for n in range(3, 11)]),
        ("Czech", "datum", days(8, date(2026, 5, 3)), [f"{n}. května 2026" for n in range(3, 11)]),
        ("Greek", "ημέρα", days(8, date(2026, 2, 3)), [f"{n} Φεβρουαρίου 2026" for n in range(3, 11)]),
        ("Finnish", "kuukausi", ["2025-11", "2025-12", "2026-01", "2026-02"], ["marraskuu 2025", "joulukuu 2025", "tammikuu 2026", "helmikuu 2026"]),
        ("Turkish", "ay", ["2025-11", "2025-12", "2026-01", "2026-02"], ["Kasım 2025", "Aralık 2025", "Ocak 2026", "Şubat 2026"]),
        ("midnight is 24:00", "when", ["2026-01-31T22:00", "2026-01-31T23:00", "2026-02-01T00:00", "2026-02-01T01:00"], ["2026-01-31 22:00", "2026-01-31 23:00", "2026-01-31 24:00", "2026-02-01 01:00"]),
        ("every five years", "year", [str(1981 + 5 * n) for n in range(8)], [str(1981 + 5 * n) for n in range(8)]),
        ("every second year", "year", [str(2001 + 2 * n) for n in range(8)], [str(2001 + 2 * n) for n in range(8)]),
        ("every ten years", "year", [str(1790 + 10 * n) for n in range(8)], [str(1790 + 10 * n) for n in range(8)]),
        ("every three hours", "when", [f"2026-01-{1 + n // 8:02d}T{n % 8 * 3:02d}:00" for n in range(10)], [f"2026-01-{1 + n // 8:02d} {n % 8 * 3:02d}:00" for n in range(10)]),
        ("every second week", "week", [str(date(2026, 1, 6) + timedelta(14 * n)) for n in range(8)], [str(date(2026, 1, 6) + timedelta(14 * n)) for n in range(8)]),
        ("stamps a few seconds off", "when", [f"2026-01-01T{8 + n // 12:02d}:{n % 12 * 5:02d}" for n in range(1, 25)], [f"2026-01-01 {8 + n // 12:02d}:{n % 12 * 5:02d}:{n % 3:02d}" for n in range(1, 25)]),
        ("quarter ends", "quarter", q, [f"{2021 + n // 4}-{['03-31', '06-30', '09-30', '12-31'][n % 4]}" for n in range(8)]),
        ("year ends", "year", y, [f"{one}-12-31" for one in y]),
        ("month ends, day first", "month", m, [f"{date(2023 + (n + 1) // 12, (n + 1) % 12 + 1, 1) - timedelta(1):%d.%m.%Y}" for n in range(12)]),
    ]  # fmt: skip
    values = [*VALUES, *VALUES]
    made = []
    for name, column, labels, texts in given:
        lines = [f"{text};{value}" for text, value in zip(texts, values, strict=False)]
        made.append(table(f"dates: {name}", f"{column};riders", lines, {"riders": words(labels, values)}))
    return made


def spread_dates() -> list[Shape]:
    """Time in several columns, down and across."""
    m, v = months(24), [*VALUES, *VALUES]
    both = list(zip(m, v, strict=True))
    ym = [(int(one[:4]), int(one[5:])) for one in m]
    h = hours(8)
    grid = [f"{y},{','.join(str(v[(y - 2021) * 3 + n]) for n in range(12))}" for y in (2021, 2022, 2023)]
    in_grid = {"values": words(months(36, 2021), [v[(n // 12) * 3 + n % 12] for n in range(36)])}
    return [
        table("year and month", "year,month,riders", [f"{y},{n},{x}" for (y, n), x in zip(ym, v, strict=True)], {"riders": words(m, v)}),
        table("year and month in words", "year,month,riders", [f"{y},{_SHORT[n - 1]},{x}" for (y, n), x in zip(ym, v, strict=True)], {"riders": words(m, v)}),
        table("month before year", "month,year,riders", [f"{n},{y},{x}" for (y, n), x in zip(ym, v, strict=True)], {"riders": words(m, v)}),
        table("year and quarter", "year,quarter,riders", [f"{one[:4]},{one[-1]},{x}" for one, x in zip(quarters(8), v, strict=False)], {"riders": words(quarters(8), v)}),
        table("year and Q01 in a column named otherwise", "line,year,period,riders", [f"A,{one[:4]},Q0{one[-1]},{x}" for one, x in zip(quarters(8), v, strict=False)], {"A": words(quarters(8), v)}),
        table("year and M01", "line,year,period,riders", [f"A,{y},M{n:02d},{x}" for (y, n), x in zip(ym, v, strict=True)], {"A": words(m, v)}),
        table("years of two digits", "pier,year,riders", [f"{p},{y},{x + k}" for k, p in enumerate(("North", "South")) for y, x in zip(range(63, 71), v, strict=False)], {"North": words([str(1900 + y) for y in range(63, 71)], v), "South": words([str(1900 + y) for y in range(63, 71)], [x + 1 for x in v])}),
        table("month and year of two digits", "month,riders", [f"{n}/86,{x}" for n, x in zip(range(1, 9), v, strict=False)], {"riders": words(months(8, 1986), v)}),
        table("six digits", "date,riders", [f"{one[2:4]}{one[5:7]}{one[8:]},{x}" for one, x in zip(days(8, date(1998, 1, 28)), v, strict=False)], {"riders": words(days(8, date(1998, 1, 28)), v)}),
        table("year and Q1", "year,qtr,riders", [f"{one[:4]},Q{one[-1]},{x}" for one, x in zip(quarters(8), v, strict=False)], {"riders": words(quarters(8), v)}),
        table("year and week", "year,week,riders", [f"2023,{n},{x}" for n, x in zip(range(1, 13), v, strict=False)], {"riders": words(weeks(12), v)}),
        table("year, month and day", "year,month,day,riders", [f"{one[:4]},{int(one[5:7])},{int(one[8:])},{x}" for one, x in zip(days(8), v, strict=False)], {"riders": words(days(8), v)}),
        table("year, month, day and hour", "year,month,day,hour,kwh", [f"{one[:4]},{int(one[5:7])},{int(one[8:10])},{int(one[11:13])},{x}" for one, x in zip(h, v, strict=False)], {"kwh": words(h, v)}),
        table("date and time", "date,time,kwh", [f"{one[:10]},{one[11:]},{x}" for one, x in zip(h, v, strict=False)], {"kwh": words(h, v)}),
        table("date and time, day first", "date;time;kwh", [f"{one[8:10]}/{one[5:7]}/{one[:4]};{one[11:]};{x}" for one, x in zip(h, v, strict=False)], {"kwh": words(h, v)}),
        table("date and hour", "date,hour,kwh", [f"{one[:10]},{int(one[11:13])},{x}" for one, x in zip(h, v, strict=False)], {"kwh": words(h, v)}),
        table("years down, months across", "year," + ",".join(_SHORT), grid, in_grid),
        table("years down, numbered months across", "year," + ",".join(str(n) for n in range(1, 13)), grid, in_grid),
        table("years down, quarters across", "year,Q1,Q2,Q3,Q4", [f"{2021 + n},{','.join(str(x) for x in v[4 * n : 4 * n + 4])}" for n in range(4)], {"values": words(quarters(16), v)}),
        table("months down, years across", "month,2021,2022,2023", [f"{_SHORT[n]},{','.join(str(v[n + 3 * k]) for k in range(3))}" for n in range(12)], in_grid),
        table("a date written once", "day,route,riders", ["2026-01-01,North Head,5", ",Outer Isles,50", "2026-01-02,North Head,6", ",Outer Isles,60", "2026-01-03,North Head,7", ",Outer Isles,70"], {
            "North Head": words(days(3, date(2026, 1, 1)), (5, 6, 7)), "Outer Isles": words(days(3, date(2026, 1, 1)), (50, 60, 70)),
        }),
        table("a route written once", "route,month,riders", [f"{'North Head' if n == 0 else ''},{one},{x}" for n, (one, x) in enumerate(both[:6])] + [f"{'Outer Isles' if n == 0 else ''},{one},{x * 2}" for n, (one, x) in enumerate(both[:6])], {
            "North Head": words(m[:6], v), "Outer Isles": words(m[:6], [x * 2 for x in v]),
        }),
        table("year and month with a region", "year,month,region,riders", [f"{y},{n},{r},{x + k}" for (y, n), x in zip(ym, v, strict=True) for k, r in enumerate(("East", "West"))], {"East": words(m, v), "West": words(m, [x + 1 for x in v])}),
        table("a running day number beside the date", "t,day,riders", [f"{n},{one},{x}" for n, (one, x) in enumerate(zip(days(8), v, strict=False), 1)], {"riders": words(days(8), v)}),
        table("parts of the date beside it", "day,year,month,riders", [f"{one},{one[:4]},{int(one[5:7])},{x}" for one, x in zip(days(8), v, strict=False)], {"riders": words(days(8), v)}),
    ]  # fmt: skip


def several() -> list[Shape]:
    """Several series and measures; what tells rows apart."""
    d = days(6, date(2026, 1, 1))
    piers = ("North", "South")
    rows = [
        (one, pier, kind, VALUES[n] + 10 * p + k)
        for n, one in enumerate(d)
        for p, pier in enumerate(piers)
        for k, kind in enumerate(("cars", "vans"))
    ]
    pairs = {
        f"{pier}, {kind}": words(d, [VALUES[n] + 10 * p + k for n in range(6)])
        for p, pier in enumerate(piers)
        for k, kind in enumerate(("cars", "vans"))
    }
    coded = {str(code): words(d, [VALUES[n] + code for n in range(6)]) for code in (11, 12, 13)}
    return [
        table("two columns name a series", "day,pier,kind,trips", [",".join(map(str, row)) for row in rows], pairs),
        table("a code names the series", "day,berth,trips", [f"{one},{code},{VALUES[n] + code}" for n, one in enumerate(d) for code in (11, 12, 13)], coded),
        table("several measures and a route", "day,route,riders,fare", [f"{one},{route},{VALUES[n] + k},{3.5 + k}" for n, one in enumerate(d) for k, route in enumerate(piers)], {"North": words(d), "South": words(d, [x + 1 for x in VALUES])}),
        table("rows that repeat each other", "day,riders", [f"{one},{x}" for one, x in zip(d, VALUES, strict=False)] + [f"{d[-1]},{VALUES[5]}"], {"riders": words(d)}, asks="doubled:", answer="take them once"),
        table("two readings of some days", "day,riders", [f"{one},{x}" for one, x in zip(d, VALUES, strict=False)] + [f"{d[0]},2"], {"riders": words(d, [VALUES[0] + 2, *VALUES[1:]])}, asks="shared:", answer="add them up"),
        table("tickets sold one by one", "sold,ticket,amount", [f"{one},T{n}{k},{5 + k}" for n, one in enumerate(d) for k in range(1 + n * 7 % 4)], {"amount": words(d, [sum(5 + k for k in range(1 + n * 7 % 4)) for n in range(6)])}),
        table("an identifier first", "day,berth_id,riders", [f"{one},{7001 + n * 3},{x}" for n, (one, x) in enumerate(zip(d, VALUES, strict=False))], {"riders": words(d)}, asks="measure:", answer="riders instead"),
        table("a place first", "day,lat,lon,riders", [f"{one},{51.2 + n / 100:.2f},{1.4 + n / 100:.2f},{x}" for n, (one, x) in enumerate(zip(d, VALUES, strict=False))], {"riders": words(d)}, asks="measure:", answer="riders instead"),
        table("an age first", "day,age,riders", [f"{one},{30 + n},{x}" for n, (one, x) in enumerate(zip(d, VALUES, strict=False))], {"riders": words(d)}, asks="measure:", answer="riders instead"),
        table("two columns of dates", "booked,sailed,riders", [f"{date(2025, 12, 3) + timedelta(n * 3)},{one},{x}" for n, (one, x) in enumerate(zip(d, VALUES, strict=False))], {"riders": words(d)}, asks="date-columns:", answer="sailed"),
        table("day or month first", "day,riders", [f"0{n}/0{n % 4 + 1}/2026,{x}" for n, x in zip(range(1, 7), VALUES, strict=False)], asks="two-readings:", expected={}),
        table("month starts, month first", "month,riders", [f"{n % 12 + 1:02d}/01/{2025 + n // 12},{x}" for n, x in zip(range(24), VALUES * 2, strict=True)], {"riders": words(months(24, 2025), VALUES * 2)}),
        table("month starts, day first", "month,riders", [f"01/{n % 12 + 1:02d}/{2025 + n // 12},{x}" for n, x in zip(range(24), VALUES * 2, strict=True)], {"riders": words(months(24, 2025), VALUES * 2)}),
        table("twelve month starts, or twelve days", "month,riders", [f"01/{n:02d}/2025,{x}" for n, x in zip(range(1, 13), VALUES, strict=False)], {"riders": words(months(12, 2025))}, asks="two-readings:", answer="day first"),
        table("some rows without a date", "day,riders", [f"{one},{x}" for one, x in zip(d, VALUES, strict=False)] + ["later,4", "unknown,5"], {"riders": words(d)}, asks="undated:", answer="leave them out"),
        table("names in small letters and with dashes", "day,route,riders", [f"{one},{route},{x}" for n, (one, x) in enumerate(zip(days(12, date(2026, 1, 1)), VALUES, strict=True)) for route in ("outer-isles" if n == 3 else "OUTER ISLES " if n == 5 else "Outer Isles", "North Head")], {name: words(days(12, date(2026, 1, 1))) for name in ("Outer Isles", "North Head")}, asks="alike:", answer="one series"),
        table("weekdays before dates", "day,riders", [f"{date.fromisoformat(one):%a} {one},{x}" for one, x in zip(d, VALUES, strict=False)], {"riders": words(d)}),
        table("weekdays before dates, day first", "day,riders", [f"{one:%A}, {one:%d/%m/%Y},{x}" .replace(", ", " ") for one, x in zip([date(2026, 1, 10) + timedelta(n) for n in range(8)], VALUES, strict=False)], {"riders": words(days(8, date(2026, 1, 10)))}),
        table("weeks with their weekday", "day,weekday,riders,cars", [f"{one},Mon,{x},{x + 3}" for one, x in zip([str(date(2026, 1, 5) + timedelta(7 * n)) for n in range(8)], VALUES, strict=False)], {"riders": words([f"2026-W{n + 2:02d}" for n in range(8)]), "cars": words([f"2026-W{n + 2:02d}" for n in range(8)], [x + 3 for x in VALUES])}),
        table("a total among the series", "day,route,riders", [f"{one},{route},{riders}" for one, x in zip(days(12), VALUES, strict=True) for route, riders in (("Outer Isles", x), ("North Head", x + 7), ("All", 2 * x + 7))], {"Outer Isles": words(days(12)), "North Head": words(days(12), [x + 7 for x in VALUES])}, asks="sum:All", answer="leave it out"),
        table("a total in a column", "day,Outer Isles,North Head,Sum", [f"{one},{x},{x + 7},{2 * x + 7 if n != 4 else 3 * x}" for n, (one, x) in enumerate(zip(days(12), VALUES, strict=True))], {"Outer Isles": words(days(12)), "North Head": words(days(12), [x + 7 for x in VALUES])}, tells="sum:Sum"),
        table("three routes that only look alike", "day,Outer Isles,North Head,Harbour Loop", [f"{one},{x},{x + 7},{2 * x + 7 + n % 3}" for n, (one, x) in enumerate(zip(days(12), VALUES, strict=True))], {"Outer Isles": words(days(12)), "Harbour Loop": words(days(12), [2 * x + 7 + n % 3 for n, x in enumerate(VALUES)])}),
        table("rows of a forecast", "day,riders,kind", [f"{one},{x},{'Actual' if n < 4 else 'Forecast'}" for n, (one, x) in enumerate(zip(days(6), VALUES, strict=False))], {"riders": words(days(4))}, asks="unlike:kind", answer="leave them out"),
        table("rows with a flag of estimates", "month,riders,obs_status", [f"{one},{x},{'E' if n in (5, 6) else 'A'}" for n, (one, x) in enumerate(zip(months(12), VALUES, strict=True))], {"riders": words(months(12))}, asks="unlike:obs_status", answer="they count like the others"),
        table("a pier named E", "month,riders,pier", [f"{one},{x},{'E' if n in (5, 6) else 'A'}" for n, (one, x) in enumerate(zip(months(12), VALUES, strict=True))], {"riders": words(months(12))}),
        table("a date that stands for none", "day,riders", [f"{one},{x}" for one, x in zip(d, VALUES, strict=False)] + ["1900-01-01,4"], {"riders": words(d)}, asks="far:", answer="leave it out"),
        table("a year mistyped", "day,riders", [f"{one},{x}" for one, x in zip(d, VALUES, strict=False)] + ["2062-01-08,4"], {"riders": words([*d, "2062-01-08"], [*VALUES[:len(d)], 4])}, asks="far:", answer="it is right"),
        table("far away in two ways", "day,riders", [f"{date(2025, 1, 1) + timedelta(n)},{n}" for n in range(120)] + ["2199-12-31,4", "1753-01-01,4"], {"riders": words([str(date(2025, 1, 1) + timedelta(n)) for n in range(120)], range(120))}, asks="far:", answer="leave them out"),
        table("days of the years 0, 1 and 9999", "day,riders", [f"{one},{x}" for one, x in zip(d, VALUES, strict=False)] + ["0000-00-00,1", "0000-01-01,1", "0001-01-01,4", "9999-12-31,5"], {"riders": words(d)}, asks="undated:", answer="leave them out"),
        table("an early start", "year,riders", [f"{one},{x}" for one, x in zip([1990, *range(2012, 2024)], [*VALUES, 3], strict=False)], {}, asks="far:"),
        table("most days without a row", "day,riders", [f"{date(2026, 1, 1) + timedelta(n * n)},{x}" for n, x in zip(range(8), VALUES, strict=False)], asks="absent:", expected={}),
        table("sales of five digits beside the date", "day,sales", [f"{one},{41000 + x * 37}" for one, x in zip(d, VALUES, strict=False)], {"sales": words(d, [41000 + x * 37 for x in VALUES])}),
        table("sales of five digits before the date", "sales,day", [f"{41000 + x * 37},{one}" for one, x in zip(d, VALUES, strict=False)], {"sales": words(d, [41000 + x * 37 for x in VALUES])}),
        table("a barcode beside a year", "year,ean,riders", [f"{2015 + n},{4006381333931 + n * 977},{x}" for n, x in zip(range(8), VALUES, strict=False)], {"riders": words(years(8))}, asks="measure:", answer="riders instead"),
        table("year beside five-digit sales", "year,sales", [f"{2015 + n},{41000 + x}" for n, x in zip(range(8), VALUES, strict=False)], {"sales": words(years(8), [41000 + x for x in VALUES])}),
        table("no dates but numbers of five digits", "pier,sales", [f"berth {n},{41000 + x * 37}" for n, x in zip(range(8), VALUES, strict=False)], {}, refused="No column holds dates"),
        table("only ten-digit numbers", "account,amount", [f"{1712345678 + n * 91919},{x}" for n, x in zip(range(8), VALUES, strict=False)], {}, refused="No column holds dates"),
    ]  # fmt: skip


def layouts() -> list[Shape]:
    """Headers, separators, comments, units, blocks, totals; how numbers are written."""
    d = days(4, date(2026, 1, 1))
    lines = [f"{one},{x}" for one, x in zip(d, VALUES, strict=False)]
    good = {"riders": words(d, VALUES[:4])}
    semi = [f"{one};{x}" for one, x in zip(d, ("1.234", "2.345", "3.456", "999"), strict=True)]
    return [
        table("an empty and a numeric name", ",0", lines, {"0": words(d, VALUES[:4])}),
        table("separators at the end of the names alone", "day,riders,,", lines, good),
        table("separators at the end of the rows alone", "day,riders", [f"{line},," for line in lines], good),
        table("row names that the header leaves out", "day,riders", [f"{n},{line}" for n, line in enumerate(lines, 1)], good),
        table("remarks above", "# counted at the pier\n# by hand\nday,riders", lines, good),
        table("names behind a remark mark", "# counted at the pier\n#day,riders", lines, good),
        table("a row of units", "day,riders\n(date),(persons)", lines, good),
        table("names over two rows", ",North,South\nday,riders,riders", [f"{line},{x + 1}" for line, x in zip(lines, VALUES, strict=False)], {"North riders": words(d, VALUES[:4]), "South riders": words(d, [x + 1 for x in VALUES[:4]])}),
        table("blocks with headings", "Outer Isles\nday,riders", [*lines, "", "North Head", "day,riders", *[f"{one},{x * 2}" for one, x in zip(d, VALUES, strict=False)]], {"Outer Isles": words(d, VALUES[:4]), "North Head": words(d, [x * 2 for x in VALUES[:4]])}),
        table("headings within one table", "day,riders", ["Outer Isles,", *lines, "North Head,", *[f"{one},{x * 2}" for one, x in zip(d, VALUES, strict=False)]], {"Outer Isles": words(d, VALUES[:4]), "North Head": words(d, [x * 2 for x in VALUES[:4]])}),
        table("points before three digits, semicolons", "day;riders", semi, {"riders": words(d, (1234, 2345, 3456, 999))}, asks="decimal:", answer="1234"),
        table("thousands points that decide", "day;riders", [f"{one};{x}" for one, x in zip(d, ("1.234,5", "2.345,0", "3.456,1", "999,9"), strict=True)], {"riders": words(d, (1234.5, 2345, 3456.1, 999.9))}),
        table("decimal points of three digits", "day,draught", [f"{one},{x}" for one, x in zip(d, ("1.234", "0.345", "3.456", "2.999"), strict=True)], {"draught": words(d, (1.234, 0.345, 3.456, 2.999))}),
        table("a number that stands for none", "day,riders", [*lines, "2026-01-05,-999", "2026-01-06,-999"], {"riders": words([*d, "2026-01-05", "2026-01-06"], (*VALUES[:4], "_", "_"))}, asks="sentinel:", answer="means blank"),
        table("nines that stand for none", "day,depth", [*lines, "2026-01-05,99999"], {"depth": words([*d, "2026-01-05"], (*VALUES[:4], "_"))}, asks="sentinel:", answer="means blank"),
        table("real minus values", "day,balance", [f"{one},{x}" for one, x in zip(d, (-99, -40, 12, -71), strict=True)], {"balance": words(d, (-99, -40, 12, -71))}),
        table("percent signs", "day,share", [f"{one},{x}%" for one, x in zip(d, (4.5, 5, 6.25, 3), strict=True)], {"share": words(d, (4.5, 5, 6.25, 3))}),
        table("two currencies", "day,fare", [f"{one},{x}" for one, x in zip(d, ("$5", "€6", "$7", "€4"), strict=True)], {"fare": words(d, (5, 6, 7, 4))}, asks="units:", answer="one measure"),
        table("notes behind numbers", "day,riders", [lines[0] + "*", lines[1] + " (r)", *lines[2:]], good),
        table("blanks and dashes", "day,riders", [lines[0], f"{d[1]},-", f"{d[2]},", f"{d[3]},n/a"], {"riders": words(d, (104, "_", "_", "_"))}),
        table("two columns of one name", "day,riders,riders", [f"{line},{x + 1}" for line, x in zip(lines, VALUES, strict=False)], {"riders": words(d, VALUES[:4]), "riders (2)": words(d, [x + 1 for x in VALUES[:4]])}),
        table("parted by spaces", "day riders", [line.replace(",", " ") for line in lines], good),
        table("columns in line", "day         riders  weather", [f"{one}  {x:>6}  {'light rain' if n else 'calm'}" for n, (one, x) in enumerate(zip(d, VALUES, strict=False))], good),
        table("a total below", "day,riders", [*lines, "Total,410"], good),
        table("numbers in quotes", "day,riders", [f'"{one}","{x}"' for one, x in zip(d, VALUES, strict=False)], good),
    ]  # fmt: skip


def _workbook(*sheets: tuple[str, list[list[object]]]) -> bytes:
    book = openpyxl.Workbook()
    book.remove(book.active)
    for name, rows in sheets:
        sheet = book.create_sheet(name)
        for row in rows:
            sheet.append(row)
    out = io.BytesIO()
    book.save(out)
    return out.getvalue()


def forms() -> list[Shape]:
    """Files that are no delimited text in UTF-8."""
    d = days(4, date(2026, 1, 1))
    good = {"riders": words(d, VALUES[:4])}
    plain = "day,riders\n" + "".join(f"{one},{x}\n" for one, x in zip(d, VALUES, strict=False))
    records = [{"day": one, "riders": x} for one, x in zip(d, VALUES, strict=False)]
    at = [datetime(2026, 1, 1, 22) + timedelta(hours=n) for n in range(4)]
    rows: list[list[object]] = [
        ["day", "riders"],
        *([date.fromisoformat(one), x] for one, x in zip(d, VALUES, strict=False)),
    ]
    far = openpyxl.load_workbook(io.BytesIO(_workbook(("riders", rows))))
    far.active.cell(1_048_576, 16_384, "stray")
    stray = io.BytesIO()
    far.save(stray)
    zipped, package, zoned, rich = io.BytesIO(), io.BytesIO(), io.BytesIO(), io.BytesIO()
    with zipfile.ZipFile(zipped, "w") as archive:
        archive.writestr("riders.csv", plain)
    with zipfile.ZipFile(package, "w") as archive:
        named = [{"name": "piers", "path": "piers.csv"}, {"name": "riders", "path": "riders.csv"}]
        archive.writestr("datapackage.json", json.dumps({"name": "ferry", "resources": named}))
        archive.writestr("piers.csv", "pier,length\nNorth,120\nSouth,80\n")
        archive.writestr("riders.csv", plain)
    midnights = [datetime(2026, 3, 27, tzinfo=ZoneInfo("Europe/Berlin")) + timedelta(n) for n in range(4)]
    pl.DataFrame({"day": midnights, "riders": VALUES[:4]}).write_parquet(zoned)
    pl.DataFrame(
        {"day": [date.fromisoformat(one) for one in d], "riders": VALUES[:4], "seats": [[1, 2]] * 4}
    ).with_columns(pl.col("riders").cast(pl.Decimal(10, 2))).write_parquet(rich)
    html = (
        "<html><body><p>Riders</p><table><tr><th>day<th>riders</tr>"
        + "".join(f"<tr><td>{r['day']}</td><td>{r['riders']}</td></tr>" for r in records)
        + "</table></body></html>"
    )
    keyed = {"riders": dict(zip(d, VALUES, strict=False))}
    local = days(4, date(2026, 3, 27))
    offsets = "".join(
        f"{one}T00:00:00{'+01:00' if one < '2026-03-30' else '+02:00'},{x}\n"
        for one, x in zip(local, VALUES, strict=False)
    )
    return [
        Shape("JSON lines", "\n".join(json.dumps(one) for one in records).encode(), good),
        Shape("JSON by column and index", json.dumps(keyed).encode(), good),
        Shape("JSON by index", json.dumps({r["day"]: {"riders": r["riders"]} for r in records}).encode(), good),
        Shape("JSON, day to number", json.dumps({r["day"]: r["riders"] for r in records}).encode(), {"value": words(d, VALUES[:4])}),
        Shape("JSON, records within records", json.dumps([{"day": r["day"], "count": {"riders": r["riders"]}} for r in records]).encode(), {"count riders": words(d, VALUES[:4])}),
        Shape("JSON, split", json.dumps({"columns": ["riders"], "index": d, "data": [[x] for x in VALUES[:4]]}).encode(), good),
        Shape("gzip", gzip.compress(plain.encode()), good),
        Shape("zip of one file", zipped.getvalue(), good),
        Shape("package, dates in the second resource", package.getvalue(), good, asks="sheet:", answer="yes"),
        Shape("Parquet with local midnights", zoned.getvalue(), {"riders": words(local, VALUES[:4])}),
        Shape("Parquet with decimals and lists", rich.getvalue(), good),
        Shape("a web page", html.encode(), good),
        Shape("Windows-1250", plain.replace("riders", "pasażerowie łodzi").encode("cp1250"), {"pasażerowie łodzi": good["riders"]}),
        Shape("Windows-1251", plain.replace("riders", "пассажиры парома").encode("cp1251"), {"пассажиры парома": good["riders"]}),
        Shape("Shift JIS", plain.replace("riders", "乗客の数と車").encode("shift_jis"), {"乗客の数と車": good["riders"]}),
        Shape("GB 18030", plain.replace("riders", "乘客人数和车辆").encode("gb18030"), {"乘客人数和车辆": good["riders"]}),
        Shape("workbook with times", _workbook(("kwh", [["at", "kwh"], *([one, x] for one, x in zip(at, VALUES, strict=False))])), {"kwh": words([f"{one:%Y-%m-%dT%H:%M}" for one in at], VALUES[:4])}),
        Shape("workbook with two tables", _workbook(("2025", rows), ("2026", rows)), good, asks="sheet:", answer="yes"),
        Shape("workbook with a stray cell", stray.getvalue(), good),
        Shape("local midnights with offsets", f"day,riders\n{offsets}".encode(), {"riders": words(local, VALUES[:4])}),
    ]  # fmt: skip


def all_shapes() -> list[Shape]:
    return [*writings(), *spread_dates(), *several(), *layouts(), *forms()]
