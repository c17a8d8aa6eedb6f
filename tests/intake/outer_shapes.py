"""Tables that write a part of the date once, stand under each other, or have names that look like dates."""

from __future__ import annotations

import json
from datetime import UTC, date, datetime, timedelta
from random import Random
from zoneinfo import ZoneInfo

from tests.intake.shapes import VALUES, Shape, days, months, quarters, table, words

_SHORT = ["Jan", "Feb", "Mar", "Apr", "May", "Jun", "Jul", "Aug", "Sep", "Oct", "Nov", "Dec"]
_YEARS = (2021, 2022, 2023)
_FROM_JULY, _FROM_APRIL = _SHORT[6:] + _SHORT[:6], _SHORT[3:] + _SHORT[:3]
_COUNTS = [*VALUES[:8], *VALUES[:8], *VALUES[:8]]


def _of(year: int) -> list[int]:
    return [value + year - 2020 for value in VALUES]


def _all_years() -> list[int]:
    return [value for year in _YEARS for value in _of(year)]


def _fiscal(first_month: int) -> list[str]:
    """The months of three fiscal years from 2021, as labels."""
    return [f"{2021 + (first_month - 1 + n) // 12}-{(first_month - 1 + n) % 12 + 1:02d}" for n in range(36)]


def _once(value: object, n: int) -> str:
    return str(value) if n == 0 else ""


def outer_dates() -> list[Shape]:
    """A year, and what stands below it."""
    monthly = {"riders": words(months(36, 2021), _all_years())}
    polish = ("I", "II", "III", "IV")
    return [
        table("the year once, its months below", "year,month,riders", [f"{_once(y, n)},{m},{v}" for y in _YEARS for n, (m, v) in enumerate(zip(_SHORT, _of(y), strict=True))], monthly),
        table("the year once, months as numbers", "year,month,riders", [f"{_once(y, n)},{n + 1},{v}" for y in _YEARS for n, v in enumerate(_of(y))], monthly),
        table("the year once, months as numbers without a name", "year,,riders", [f"{_once(y, n)},{n + 1},{v}" for y in _YEARS for n, v in enumerate(_of(y))], monthly),
        table("the year as a row of its own", "period,riders", [line for y in _YEARS for line in (f"{y},", *(f"{m},{v}" for m, v in zip(_SHORT, _of(y), strict=True)))], monthly),
        table("the year as a row of its own, below a title", "Saltmarch Ferries\n\nperiod;riders", [line for y in _YEARS for line in (f"{y};", *(f"{m};{v}" for m, v in zip(_SHORT, _of(y), strict=True)))], monthly),
        table("the year once, with rows of its total", "year,month,riders", [line for y in _YEARS for line in (*(f"{_once(y, n)},{m},{v}" for n, (m, v) in enumerate(zip(_SHORT, _of(y), strict=True))), f"{y} total,,{sum(_of(y))}")], monthly),
        table("the year once, with its quarters", "year,quarter,riders", [f"{_once(y, q)},{q + 1},{v}" for y in _YEARS for q, v in enumerate(_of(y)[:4])], {"riders": words(quarters(12, 2021), [v for y in _YEARS for v in _of(y)[:4]])}),
        table("the year and the month once, with days", "year,month,day,riders", [f"{2025 if one == date(2025, 11, 20) else ''},{one.month if one.day in (1, 20) and (one.day == 1 or one.month == 11) else ''},{one.day},{n + 100}" for n, one in enumerate(date(2025, 11, 20) + timedelta(k) for k in range(40))], {"riders": words(days(40, date(2025, 11, 20)), range(100, 140))}),
        table("Polish quarters, the year once", "Rok;Kwartał;pasażerowie", [f"{_once(y, n)};{q} kw.;{v}" for y in _YEARS for n, (q, v) in enumerate(zip(polish, _of(y), strict=False))], {"pasażerowie": words(quarters(12, 2021), [v for y in _YEARS for v in _of(y)[:4]])}),
        table("German months, the year once", "Jahr;Monat;Fahrgäste", [f"{_once(y, n)};{m};{v}" for y in _YEARS for n, (m, v) in enumerate(zip(["Jan", "Feb", "März", "April", "Mai", "Juni", "Juli", "Aug", "Sept", "Okt", "Nov", "Dez"], _of(y), strict=True))], {"Fahrgäste": monthly["riders"]}),
        table("fiscal years from July across", "year," + ",".join(_FROM_JULY), [f"{y}/{y % 100 + 1},{','.join(map(str, _of(y)))}" for y in _YEARS], {"values": words(_fiscal(7), _all_years())}),
        table("fiscal years from April across, by route", "route,year," + ",".join(_FROM_APRIL), [f"{r},{y}/{y % 100 + 1},{','.join(str(v + k) for v in _of(y))}" for k, r in enumerate(("Outer Isles", "North Head")) for y in _YEARS], {"Outer Isles": words(_fiscal(4), _all_years()), "North Head": words(_fiscal(4), [v + 1 for v in _all_years()])}),
        table("fiscal years once, months below", "year,month,riders", [f"{_once(f'{y}/{y % 100 + 1}', n)},{m},{v}" for y in _YEARS for n, (m, v) in enumerate(zip(_FROM_JULY, _of(y), strict=True))], {"riders": words(_fiscal(7), _all_years())}),
        table("a year and months that run over its end", "year,month,riders", [f"{_once(2021, n)},{m},{v}" for n, (m, v) in enumerate(zip([*_SHORT[7:], *_SHORT[:4]], VALUES, strict=False))], {"riders": words(_fiscal(8)[:9], VALUES[:9])}),
        table("years in the headers", "route,pop2010,pop2011,pop2012,pop2013", ["Outer Isles,100,102,104,108", "North Head,50,52,53,57"], {"Outer Isles": words(["2010", "2011", "2012", "2013"], [100, 102, 104, 108]), "North Head": words(["2010", "2011", "2012", "2013"], [50, 52, 53, 57])}),
        table("years before the word", "area,2019_Trips,2020_Trips,2021_Trips", ["Outer Isles,100,102,104", "North Head,50,52,53"], {"Outer Isles": words(["2019", "2020", "2021"], [100, 102, 104]), "North Head": words(["2019", "2020", "2021"], [50, 52, 53])}),
        table("years after a word and a blank", "pier,Score 2017,Score 2018,Score 2019", ["Outer,10,12,14", "North,5,7,6"], {"Outer": words(["2017", "2018", "2019"], [10, 12, 14])}),
    ]  # fmt: skip


def names_like_dates() -> list[Shape]:
    """A good column of dates, beside names that could be dates."""
    d = days(24)
    v = _COUNTS
    return [
        table("shops S101 and S102", "day,S101,S102", [f"{one},{x},{x + 9}" for one, x in zip(d, v, strict=True)], {"S101": words(d, v), "S102": words(d, [x + 9 for x in v])}),
        table("sites H101 and H201", "day,H101,H201", [f"{one},{x},{x + 9}" for one, x in zip(d, v, strict=True)], {"H101": words(d, v), "H201": words(d, [x + 9 for x in v])}),
        table("rooms Q101 to Q104", "day,Q101,Q102,Q103,Q104", [f"{one},{x},{x + 9},{x + 4},{x + 2}" for one, x in zip(d, v, strict=True)], {"Q101": words(d, v), "Q104": words(d, [x + 2 for x in v])}),
        table("branches 2001 to 2012", "date," + ",".join(map(str, range(2001, 2013))), [",".join([one, *(str(x + k) for k in range(12))]) for one, x in zip(d, v, strict=True)], {"2001": words(d, v), "2012": words(d, [x + 11 for x in v])}),
        table("a year beside the date", "date,year,riders", [f"{one},{one[:4]},{x}" for one, x in zip(d, v, strict=True)], {"riders": words(d, v)}),
        table("the year of the budget and of the forecast", "budget year,forecast year,amount", [f"{2010 + n // 3},{2010 + n // 3 + n % 3},{100 + n}" for n in range(24)], {}, asks="date-columns:"),
        table("years long ago", "year,people", [f"{y},{y * 3}" for y in range(1086, 1300, 10)], {}, refused="before"),
    ]  # fmt: skip


def clocks() -> list[Shape]:
    """Hours that end, and midnights told in another clock."""
    hourly = [f"2026-01-{d:02d}T{h:02d}:00" for d in range(1, 6) for h in range(24)]
    counts = [h + d for d in range(1, 6) for h in range(1, 25)]
    berlin, utc = ZoneInfo("Europe/Berlin"), UTC
    firsts = [datetime(2024 + m // 12, m % 12 + 1, 1, tzinfo=berlin) for m in range(24)]
    numbered = [100 + n for n in range(24)]
    monthly = {"riders": words(months(24, 2024), numbered)}
    durations = Random(4)
    return [
        table("hours 1 to 24 that end", "day,hour,riders", [f"2026-01-{d:02d},{h},{h + d}" for d in range(1, 6) for h in range(1, 25)], {"riders": words(hourly, counts)}),
        table("months as local midnights in UTC", "when,riders", [f"{one.astimezone(utc):%Y-%m-%dT%H:%M:%SZ},{x}" for one, x in zip(firsts, numbered, strict=True)], monthly),
        table("months as local midnights since 1970", "time,riders", [f"{one.timestamp() * 1000:.0f},{x}" for one, x in zip(firsts, numbered, strict=True)], monthly),
        table("a duration beside the day", "day,duration,riders", [f"{one},{durations.randrange(3):02d}:{durations.randrange(60):02d},{x}" for one, x in zip(days(24), numbered, strict=True)], {"riders": words(days(24), numbered)}),
        Shape("JSON rows without names", json.dumps([[one, x] for one, x in zip(days(12), VALUES, strict=True)]).encode(), {"column 2": words(days(12))}),
    ]  # fmt: skip


def tables_below() -> list[Shape]:
    """A second table in the same file."""
    first, second = [f"{one},{x}" for one, x in zip(days(12), VALUES, strict=True)], days(8)
    plan = [f"{one},{900 + n}" for n, one in enumerate(second)]
    expected = {"riders": words(days(12))}
    return [
        table("a second table below, with its own header", "day,riders", [*first, "", "Plan", "day,plan", *plan], expected, asks="parts:", answer="rows 2 to 13"),
        table("a second table below, without a header", "day,riders", [*first, "", "Plan", *plan], expected, asks="parts:", answer="rows 2 to 13"),
        table("blank rows between the weeks", "day,riders", [line for n, one in enumerate(first) for line in ([one, ""] if n % 7 == 6 else [one])], expected),
    ]  # fmt: skip


def dots() -> list[Shape]:
    """Thousands by dots, where other columns and sums tell."""
    return [
        table("sums tell that dots part thousands", "day,Outer Isles,North Head,Kittiwake Bay,All", [f"{one},1.{200 + n},2.{300 + n},{410 + n},3.{910 + 3 * n}" for n, one in enumerate(days(25))], {"Outer Isles": words(days(25), [1200 + n for n in range(25)]), "Kittiwake Bay": words(days(25), [410 + n for n in range(25)])}, asks="sum:All", answer="leave it out"),
        table("dots with three places and nothing else", "day,riders", [f"{one},{1 + n % 3}.{300 + n}" for n, one in enumerate(days(25))], {"riders": words(days(25), [(1 + n % 3) * 1000 + 300 + n for n in range(25)])}, asks="decimal:", answer="1300"),
        table("dots in numbers with a unit", "day,income", [f"{one},{1 + n % 3}.{300 + n} €" for n, one in enumerate(days(25))], {"income": words(days(25), [(1 + n % 3) * 1000 + 300 + n for n in range(25)])}, asks="decimal:", answer="1300"),
    ]  # fmt: skip


def all_outer_shapes() -> list[Shape]:
    return [*outer_dates(), *names_like_dates(), *clocks(), *tables_below(), *dots()]
