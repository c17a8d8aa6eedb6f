"""Tables as they come, at random, each with what stands in it: titles, totals, remarks, missing rows, columns that tell
nothing, in many ways of writing dates and numbers."""

from __future__ import annotations

import math
from dataclasses import dataclass
from datetime import date, timedelta
from random import Random

from tests.help import AS_OF
from zembra.core.asking.ask import open_questions
from zembra.core.entries.calendar.start import first_ledger
from zembra.core.errors import Refusal
from zembra.core.intake.bringin import bring_in
from zembra.core.ledger.run import run

DATES = (
    "%Y-%m-%d", "%d/%m/%Y", "%m/%d/%Y", "%d.%m.%Y", "%d %B %Y", "%d-%b-%Y", "%b %d, %Y", "%Y%m%d", "%Y-%m-%dT00:00:00",
    "%Y-%m-%d 00:00", "%Y/%m/%d", "%a %Y-%m-%d", "%A %d/%m/%Y",
)  # fmt: skip
NUMBERS = {
    "whole": lambda value: f"{value:.0f}",
    "point": lambda value: f"{value:.2f}",
    "comma": lambda value: f"{value:.2f}".replace(".", ","),
    "thousands": lambda value: f"{value:,.2f}",
    "continental": lambda value: f"{value:,.2f}".translate(str.maketrans(",.", ".,")),
}
ROUTES = ("Outer Isles", "Harbour Loop", "North Head", "Kittiwake Bay")
REMARKS = ("", "calm", "rough", "fog")


@dataclass(frozen=True)
class RandomTable:
    """truth: by series and day, the number that stands there; None where the cell is blank."""

    data: bytes
    truth: dict[str, dict[str, float | None]]


def random_table(rng: Random) -> RandomTable:
    days = _days(rng, rng.choice([12, 30, 60, 200]))
    routes = rng.sample(ROUTES, rng.choice([1, 1, 2, 3]))
    style, form = rng.choice(list(NUMBERS)), rng.choice(DATES)
    size, nothing = rng.choice([5, 100, 1500, 80_000, 2e6]), rng.choice(["", "", "n/a", "-"])
    for_good = set(rng.sample(days[1:-1], rng.choice([0, 0, 1, 3])))
    days = [day for day in days if day not in for_good]
    truth = {route: {str(day): _value(rng, size, n, style) for n, day in enumerate(days)} for route in routes}

    def cell(route: str, day: date) -> str:
        value = truth[route][str(day)]
        return nothing if value is None else NUMBERS[style](value)

    written = days[::-1] if rng.random() < 0.15 else days
    if len(routes) > 1 and rng.random() < 0.5:
        head = ["day", "route", "riders"]
        rows = [(day, [day.strftime(form), route, cell(route, day)]) for day in written for route in routes]
    else:
        head = ["day", *routes]
        rows = [(day, [day.strftime(form), *(cell(route, day) for route in routes)]) for day in written]
    return RandomTable(_file(rng, head, rows), truth)


def _days(rng: Random, count: int) -> list[date]:
    first = date(rng.randrange(2008, 2024), rng.randrange(1, 13), rng.randrange(1, 28))
    step = rng.choice([1, 1, 1, 7, 14, None])
    if step is not None:
        return [first + timedelta(step * n) for n in range(count)]
    return [day for n in range(count * 2) if (day := first + timedelta(n)).weekday() < 5][:count]


def _value(rng: Random, size: float, n: int, style: str) -> float | None:
    if rng.random() < 0.03:
        return None
    return round(size * (1 + 0.2 * math.sin(n / 5)) * rng.uniform(0.8, 1.2), 0 if style == "whole" else 2)


def _file(rng: Random, head: list[str], rows: list[tuple[date, list[str]]]) -> bytes:
    """The table with what stands around it."""
    cells = [row for _, row in rows]
    if rng.random() < 0.2:
        head, cells = [head[0], "weekday", *head[1:]], [[row[0], f"{day:%a}", *row[1:]] for day, row in rows]
    if rng.random() < 0.2:
        head, cells = [*head, "remark"], [[*row, rng.choice(REMARKS)] for row in cells]
    if rng.random() < 0.15:
        head, cells = ["no", *head], [[str(n + 1), *row] for n, row in enumerate(cells)]
    between = rng.choice([",", ";", "\t", "|"])
    lines = [between.join(f'"{one}"' if between in one else one for one in row) for row in [head, *cells]]
    if rng.random() < 0.2:
        lines = ["Saltmarch Ferries: passengers", "", *lines]
    if rng.random() < 0.15:
        lines.append(between.join(["Total", *[""] * (len(head) - 2), "999"]))
    if rng.random() < 0.1:
        lines += ["", "Source: harbour office"]
    return "".join(line + rng.choice(["\n", "\r\n"]) for line in lines).encode(
        rng.choice(["utf-8", "utf-8-sig", "utf-16"])
    )


def verdict(table: RandomTable) -> str:
    """right, asked, refused, or what is wrong without a word."""
    try:
        brought = bring_in(table.data)
        result = run(brought.observations, first_ledger(brought.observations, brought.how, AS_OF), AS_OF)
    except Refusal:
        return "refused"
    if open_questions(brought, result):
        return "asked"
    seen = brought.observations
    found: dict[str, dict[str, float | None]] = {}
    for frame in seen.frames.values():
        days = frame["when"].dt.strftime("%Y-%m-%d")
        for code, day, value in zip(frame["series"], days, frame["value"].fill_nan(None), strict=True):
            found.setdefault(seen.series[code], {})[day] = value
    if len(table.truth) == 1 and len(found) == 1:
        found = dict(zip(table.truth, found.values(), strict=True))
    if found.keys() != table.truth.keys():
        return f"series {sorted(found)}"
    for name, cells in table.truth.items():
        other = {day for day in cells.keys() | found[name].keys() if cells.get(day, ...) != found[name].get(day, ...)}
        if other:
            return f"{name} on {min(other)}"
    return "right"
