"""Seeded generator of sailings.csv: daily passengers and vehicles of four routes.

Everything planted here is listed in docs/demo-data.md, so that tests can check that it is found.
"""

from __future__ import annotations

from dataclasses import dataclass, field
from datetime import date, timedelta

import numpy as np

FIRST = date(2023, 9, 1)
LAST = date(2026, 10, 30)
SEED = 20261031
WEEK = np.array([-0.12, -0.15, -0.10, -0.04, 0.14, 0.22, 0.05])  # Monday to Sunday, share of the level


@dataclass(frozen=True)
class Route:
    """A route's level and season, and what is planted in it."""

    name: str
    level: float
    trend: float  # passengers a day, per year
    yearly: float  # share of the level
    noise: float
    vehicles: float  # per passenger
    no_sailing: tuple[date, ...] = ()
    blank: tuple[date, ...] = ()
    texts: dict[date, str] = field(default_factory=dict)
    closed: tuple[tuple[date, date], ...] = ()
    zeros: tuple[date, ...] = ()
    spikes: dict[date, int] = field(default_factory=dict)
    shift: tuple[date, float] | None = None


def _days(first: date, count: int) -> tuple[date, ...]:
    return tuple(first + timedelta(n) for n in range(count))


ROUTES = (
    Route(
        "Outer Isles", 880, 18, 0.10, 26, 0.31,
        no_sailing=(date(2024, 1, 22), date(2024, 11, 3), date(2025, 7, 14), date(2026, 1, 12), date(2026, 3, 2)),
        blank=(*_days(date(2024, 5, 11), 2), *_days(date(2025, 9, 9), 3), *_days(date(2026, 6, 3), 5), date(2026, 8, 19)),
        texts={date(2025, 2, 6): "closed", date(2026, 4, 21): "see note", date(2026, 9, 8): "tbc"},
        spikes={date(2025, 8, 14): 1720, date(2026, 2, 17): 1695, date(2025, 10, 30): 185},
        shift=(date(2025, 11, 28), 165),
    ),
    Route(
        "Harbour Loop", 2140, 35, 0.06, 70, 0.02,
        no_sailing=(date(2024, 12, 25), date(2025, 12, 25)),
        blank=(*_days(date(2025, 3, 18), 2), date(2026, 7, 7)),
        texts={date(2024, 8, 1): "n/a"},
    ),
    Route(
        "North Head", 410, -9, 0.18, 24, 0.44,
        no_sailing=(*_days(date(2024, 2, 9), 3), date(2025, 1, 19), *_days(date(2026, 2, 1), 2)),
        blank=(date(2024, 6, 30), *_days(date(2025, 5, 5), 4)),
        texts={date(2026, 5, 16): "error"},
    ),
    Route(
        "Kittiwake Bay", 165, 12, 0.42, 16, 0.12,
        blank=(*_days(date(2025, 6, 20), 2),),
        zeros=(date(2024, 1, 9), date(2024, 1, 10), date(2024, 12, 25), date(2025, 1, 21), date(2025, 12, 25), date(2026, 1, 27)),
        closed=((date(2025, 2, 3), date(2025, 2, 9)),),
    ),
)  # fmt: skip
LATE = {0: 0.35, 1: 0.55, 2: 0.72, 3: 0.86, 4: 0.94}  # share reported, by days before the last one


# a wrong number that stood in the September file only: day, route, how many too few
SILENT = (date(2026, 9, 14), "Harbour Loop", 720)


def sailings_csv() -> bytes:
    """The file, the same bytes every time. Columns: day, route, passengers, vehicles."""
    return _as_told(LAST)


def to_august_csv() -> bytes:
    """The same as it was told two months before: its last five days not all in yet."""
    return _as_told(date(2026, 8, 30))


def to_september_csv() -> bytes:
    """The same as it was told a month before, with a number that was corrected later without a word."""
    return _as_told(date(2026, 9, 30), SILENT)


def _as_told(last: date, wrong: tuple[date, str, int] | None = None) -> bytes:
    """last: the last day that the ports had told of anything."""
    rng = np.random.default_rng(SEED)
    days = _days(FIRST, (LAST - FIRST).days + 1)
    columns = {route.name: _counts(route, days, rng, last) for route in ROUTES}
    rows = ["day,route,passengers,vehicles"]
    for n, day in enumerate(day for day in days if day <= last):
        for route in ROUTES:
            if day in route.no_sailing or any(first <= day <= last for first, last in route.closed):
                continue
            passengers, vehicles = columns[route.name][n]
            if wrong is not None and (day, route.name) == wrong[:2]:
                passengers -= wrong[2]
            cell = str(passengers)
            if day in route.blank:
                cell = ""
            cell = route.texts.get(day, cell)
            rows.append(f"{day.isoformat()},{route.name},{cell},{vehicles}")
    return ("\n".join(rows) + "\n").encode()


def _counts(route: Route, days: tuple[date, ...], rng: np.random.Generator, last: date) -> list[tuple[int, int]]:
    shocks = rng.normal(0, route.noise, len(days))
    counts = []
    drift = 0.0
    for n, day in enumerate(days):
        drift = 0.6 * drift + shocks[n]
        # the year's height is at the end of July
        yearly = np.cos(2 * np.pi * (day.timetuple().tm_yday - 208) / 365.25)
        level = route.level + route.trend * n / 365.25
        if route.shift and day >= route.shift[0]:
            level += route.shift[1]
        passengers = level * (1 + WEEK[day.weekday()] * 0.6 + route.yearly * yearly) + drift
        passengers *= LATE.get((last - day).days, 1.0)
        passengers = route.spikes.get(day, max(12, round(passengers)))
        if day in route.zeros:
            passengers = 0
        vehicles = max(0, round(passengers * route.vehicles + rng.normal(0, 2 + 8 * route.vehicles)))
        counts.append((int(passengers), 0 if day in route.zeros else int(vehicles)))
    return counts
