"""Guess from name, unit and numbers what a measure is, and how its rows combine."""

from __future__ import annotations

import re
from dataclasses import dataclass

import numpy as np

from zembra.core.arithmetic.arrays import Floats
from zembra.core.calendar.complete import Combine

_WORDS = {
    "a price": "price prices fare fares tariff",
    "a rate": "rate rates ratio share percent pct percentage margin yield index score utilisation utilization occupancy "
    "efficiency probability per",
    "an average": "average avg mean median",
    "a reading": "temperature temp humidity pressure speed level voltage",
}
_STOCK = {
    "a stock": "stock stocks inventory backlog headcount population members subscribers reserve reserves outstanding",
    "a balance": "balance balances",
    "a running total": "cumulative cumulated",
}
_STOCK_PHRASES = re.compile(r"(?i)to[ _-]date|on[ _-]hand|meter[ _-]reading|running[ _-]total|year[ _-]to")
_RATE_UNITS = ("%", "°C", "°F", "°")


@dataclass(frozen=True, slots=True)
class Nature:
    """What a measure looks like.

    combine: how its rows combine
    looks: a description, empty if it adds up
    """

    combine: Combine
    looks: str = ""


def nature_of(name: str, unit: str, values: Floats) -> Nature:
    """Guess how rows combine: sums of income, means of a margin, the last of a stock.

    values: some numbers, no NaN
    """
    words = set(re.findall(r"[a-z]+", re.sub(r"([a-z])([A-Z])", r"\1 \2", name).lower()))
    for looks, nature in _STOCK.items():
        if words & set(nature.split()):
            return Nature(Combine.LAST, looks)
    if _STOCK_PHRASES.search(name):
        return Nature(Combine.LAST, "a running total")
    for looks, nature in _WORDS.items():
        if words & set(nature.split()):
            return Nature(Combine.MEAN, looks)
    if "%" in name or unit in _RATE_UNITS:
        return Nature(Combine.MEAN, "a rate")
    if values.size >= 5 and np.all((values >= 0) & (values <= 1)) and np.any(values % 1 != 0):
        return Nature(Combine.MEAN, "a share")
    return Nature(Combine.SUM)
