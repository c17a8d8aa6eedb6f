"""Monthly, quarterly and daily numbers rewritten as people lay them out: parts of the date once, fiscal years across,
subtotals, second tables, dots for thousands, names that look like dates; with what stands in them."""

from __future__ import annotations

from collections.abc import Callable
from datetime import date, timedelta
from random import Random

from tests.intake.random_tables import ROUTES, RandomTable

_NAMES = {
    "English": "Jan Feb Mar Apr May Jun Jul Aug Sep Oct Nov Dec",
    "long": "January February March April May June July August September October November December",
    "German": "Januar Februar März April Mai Juni Juli August September Oktober November Dezember",
    "Spanish": "enero febrero marzo abril mayo junio julio agosto septiembre octubre noviembre diciembre",
    "French": "janvier février mars avril mai juin juillet août septembre octobre novembre décembre",
    "numbers": "1 2 3 4 5 6 7 8 9 10 11 12",
}
MONTHS = {language: names.split() for language, names in _NAMES.items()}
Truth = dict[str, dict[str, float | None]]
Lines = list[list[str]]


def rewritten_table(rng: Random) -> RandomTable:
    lines, truth = rng.choice(WAYS)(rng)
    between = rng.choice([",", ";", "\t"])
    if rng.random() < 0.25:
        lines = [["Saltmarch Ferries: passengers"], [], *lines]
    if rng.random() < 0.2:
        lines = [*lines, [], ["Source: harbour office"]]
    text = "".join(between.join(line) + "\n" for line in lines)
    return RandomTable(text.encode(rng.choice(["utf-8", "utf-8-sig"])), truth)


def _year_once(rng: Random) -> tuple[Lines, Truth]:
    """The year beside the first month, or in every row, or in a row of its own; with or without subtotals."""
    names, routes, where = _months(rng), _routes(rng), rng.choice(["beside", "row", "each"])
    # bare numbers below a row with nothing but a year could be anything: months there are words
    names = MONTHS["English"] if where == "row" else names
    subtotals = where == "beside" and rng.random() < 0.4
    lines = [["period", *routes]] if where == "row" else [["year", "month", *routes]]
    truth: Truth = {route: {} for route in routes}
    for year in _years(rng):
        if where == "row":
            lines.append([str(year), *[""] * len(routes)])
        for n, name in enumerate(names):
            values = [_filled(truth, route, date(year, n + 1, 1), rng) for route in routes]
            outer = {"beside": [str(year) if n == 0 else ""], "row": [], "each": [str(year)]}[where]
            lines.append([*outer, name, *values])
        if subtotals:
            year_sums = [sum(v or 0 for day, v in truth[one].items() if day.startswith(f"{year}")) for one in routes]
            lines.append([f"{year} total", "", *(f"{one:.0f}" for one in year_sums)])
    return lines, truth


def _quarters(rng: Random) -> tuple[Lines, Truth]:
    routes, write = _routes(rng), rng.choice(["Q{}", "{}. quarter", "{}"])
    truth: Truth = {route: {} for route in routes}
    lines = [["year", "quarter", *routes]]
    for year in _years(rng):
        for q in range(4):
            values = [_filled(truth, route, date(year, 3 * q + 1, 1), rng) for route in routes]
            lines.append([str(year) if q == 0 else "", write.format(q + 1), *values])
    return lines, truth


def _across(rng: Random) -> tuple[Lines, Truth]:
    """Months across from January or from where a fiscal year begins, which its name tells."""
    begins, names = rng.choice([1, 4, 7, 10]), _months(rng, numbers=False)
    routes = _routes(rng)
    by_route = len(routes) > 1
    if not by_route:
        routes = ["values"]
    truth: Truth = {route: {} for route in routes}
    lines = [[*(["route"] if by_route else []), "year", *names[begins - 1 :], *names[: begins - 1]]]
    for route in routes:
        for year in _years(rng, 2014):
            firsts = [date(year + (begins - 1 + n) // 12, (begins - 1 + n) % 12 + 1, 1) for n in range(12)]
            told = str(year) if begins == 1 else f"{year}/{(year + 1) % 100:02d}"
            cells = [_filled(truth, route, first, rng) for first in firsts]
            lines.append([*([route] if by_route else []), told, *cells])
    return lines, truth


def _like_dates(rng: Random) -> tuple[Lines, Truth]:
    """Days, and series whose names could be years, half-years or quarters."""
    letter = rng.choice(["S", "H", "Q", "20"])
    names = [f"{letter}{10 + n:02d}" if letter == "20" else f"{letter}{n}0{n}" for n in range(1, rng.choice([3, 5, 8]))]
    return _daily(rng, names)


def _daily(rng: Random, names: list[str]) -> tuple[Lines, Truth]:
    first, form = date(2019, 3, 1) + timedelta(rng.randrange(1500)), rng.choice(["%Y-%m-%d", "%d %b %Y", "%d.%m.%Y"])
    truth: Truth = {name: {} for name in names}
    days = [first + timedelta(n) for n in range(rng.choice([20, 45, 90]))]
    lines = [["day", *names], *([f"{one:{form}}", *(_filled(truth, name, one, rng) for name in names)] for one in days)]
    return lines, truth


def _second_table(rng: Random) -> tuple[Lines, Truth]:
    lines, truth = _daily(rng, _routes(rng))
    other, _ = _daily(rng, ["plan"])
    header = rng.random() < 0.6
    # without either, later rows below a gap are rows of the first
    title = [[rng.choice(["Plan", "Budget of the year"])]] if not header or rng.random() < 0.6 else []
    return [*lines, [], *title, *(other[:12] if header else other[1:12])], truth


def _dots(rng: Random) -> tuple[Lines, Truth]:
    """Thousands by dots; sums of the row may tell so."""
    lines, truth = _daily(rng, _routes(rng))
    summed = len(truth) > 1 and rng.random() < 0.5
    unit = rng.choice(["", "", " EUR"])
    days = list(next(iter(truth.values())))
    values = [[truth[name][day] for name in truth] for day in days]
    written = [[*row, sum(v or 0 for v in row)] if summed else row for row in values]
    cells = [["" if v is None else f"{v:,.0f}".replace(",", ".") + unit for v in row] for row in written]
    if summed:
        lines[0].append("Total")
        truth = {**truth, "Total": {day: row[-1] for day, row in zip(days, written, strict=True)}}
    return [lines[0], *([line[0], *row] for line, row in zip(lines[1:], cells, strict=True))], truth


WAYS: tuple[Callable[[Random], tuple[Lines, Truth]], ...] = (
    _year_once, _year_once, _quarters, _across, _like_dates, _second_table, _dots,
)  # fmt: skip


def _months(rng: Random, *, numbers: bool = True) -> list[str]:
    return MONTHS[rng.choice([name for name in MONTHS if numbers or name != "numbers"])]


def _years(rng: Random, first: int | None = None) -> range:
    """Three years from a given one on, or some from any."""
    if first is not None:
        return range(first, first + 3)
    begins = rng.randrange(1990, 2019)
    return range(begins, begins + rng.choice([2, 3, 5]))


def _routes(rng: Random) -> list[str]:
    return rng.sample(ROUTES, rng.choice([1, 2, 3]))


def _filled(truth: Truth, name: str, first: date, rng: Random) -> str:
    """Another number of the series, as text; now and then a blank."""
    value = None if rng.random() < 0.02 else float(round(rng.uniform(300, 9000)))
    truth[name][str(first)] = value
    return "" if value is None else f"{value:.0f}"
