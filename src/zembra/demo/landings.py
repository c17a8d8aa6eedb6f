"""Passengers of every landing by every fare: 3 000 made-up series, and what is planted in some of them."""

from __future__ import annotations

import io
from datetime import timedelta

import numpy as np
import polars as pl

from zembra.demo import AS_OF

ROUTES = ("Outer Isles", "Harbour Loop", "North Head", "Kittiwake Bay")
LANDINGS = 125  # of each route
FARES = ("single", "day return", "child", "crew", "bicycle", "freight")
SHARES = (1.0, 0.8, 0.45, 0.15, 0.2, 0.3)  # of a landing's passengers, by fare
DAYS = 120
FIRST = AS_OF - timedelta(DAYS - 1)
WEEK = (0.85, 0.85, 0.9, 0.95, 1.15, 1.3, 1.0)  # by weekday, from Monday
# every so many series, and which of these: what is planted never meets in one series
SHIFTED, STOPPED, LATE, FAR, NEW = (97, 3), (131, 11), (83, 29), (151, 40), (23, 8)
SHIFT_DAYS, STOP_DAYS, LATE_DAYS, NEW_DAYS = 24, 40, 3, 26


def name_of(number: int) -> str:
    """The landing and the fare of a series, as a study names it."""
    landing, fare = divmod(number, len(FARES))
    return f"{ROUTES[landing // LANDINGS]} {landing % LANDINGS + 1:03d}, {FARES[fare]}"


def planted() -> dict[str, list[str]]:
    """Names of series, by what is planted in them: a level that shifted, rows that stopped, rows that are late, a newest number that is
    far off; and fares that are new."""
    kinds = {"shifted": SHIFTED, "stopped": STOPPED, "late": LATE, "far": FAR, "new": NEW}
    found: dict[str, list[str]] = {kind: [] for kind in kinds}
    for number in range(len(ROUTES) * LANDINGS * len(FARES)):
        kind = next((kind for kind, (every, which) in kinds.items() if number % every == which), None)
        if kind is not None:
            found[kind].append(name_of(number))
    return found


def landings_parquet() -> bytes:
    """A row a day, landing and fare."""
    rng = np.random.default_rng(20261031)
    count = len(ROUTES) * LANDINGS * len(FARES)
    names = [name_of(number).rpartition(", ") for number in range(count)]
    days = np.arange(DAYS)
    weekday = (FIRST.weekday() + days) % 7
    size = rng.uniform(90, 700, len(ROUTES) * LANDINGS).repeat(len(FARES)) * np.tile(SHARES, len(ROUTES) * LANDINGS)
    slope = rng.normal(0, 0.0006, count)
    usual = size[:, None] * np.array(WEEK)[weekday] * (1 + slope[:, None] * days)
    value = usual + rng.normal(0, 0.06, usual.shape) * size[:, None]
    there = np.ones(usual.shape, dtype=bool)
    place = {name_of(number): number for number in range(count)}
    kinds = planted()
    for n, name in enumerate(kinds["shifted"]):
        value[place[name], -SHIFT_DAYS:] += (0.5 if n % 2 else -0.45) * size[place[name]]
    for name in kinds["stopped"]:
        there[place[name], -STOP_DAYS:] = False
    for name in kinds["late"]:
        there[place[name], -LATE_DAYS:] = False
    for name in kinds["far"]:
        value[place[name], -1] *= 2.2
    for name in kinds["new"]:
        there[place[name], :-NEW_DAYS] = False
    series, at = np.nonzero(there)
    table = pl.DataFrame(
        {
            "day": pl.Series(np.datetime64(FIRST) + at.astype("timedelta64[D]")).cast(pl.Date),
            "landing": pl.Series([landing for landing, _, _ in names]).gather(series),
            "fare": pl.Series([fare for _, _, fare in names]).gather(series),
            "route": pl.Series([landing.rpartition(" ")[0] for landing, _, _ in names]).gather(series),
            "passengers": np.maximum(np.rint(value[series, at]), 0).astype(np.int64),
        }
    )
    out = io.BytesIO()
    table.write_parquet(out, compression="zstd")
    return out.getvalue()
