"""Seeded generator of ticket_income_to_date.csv: a running total that starts again each January.

What is planted is listed in docs/demo-data.md.
"""

from __future__ import annotations

from datetime import date, timedelta

import numpy as np

SEED = 46
FIRST, LAST = date(2025, 1, 1), date(2026, 10, 30)
RESETS = (date(2026, 1, 1),)
CORRECTION = (date(2026, 3, 18), -2350.0)
NO_ROW = (date(2025, 8, 10), date(2025, 8, 11), date(2026, 6, 21))
BLANK = (date(2026, 9, 5),)


def daily_income() -> dict[date, float]:
    """What was taken on each day, the correction included."""
    rng = np.random.default_rng(SEED)
    taken = {}
    for n in range((LAST - FIRST).days + 1):
        day = FIRST + timedelta(n)
        level = 5200 * (1 + 0.3 * np.cos(2 * np.pi * (day.timetuple().tm_yday - 208) / 365.25))
        weekend = 1.35 if day.weekday() >= 5 else 0.9
        taken[day] = round(float(level * weekend + rng.normal(0, 260)), 2)
    taken[CORRECTION[0]] = CORRECTION[1]
    return taken


def tickets_csv() -> bytes:
    """Columns: day, income to date."""
    rows = ["day,income to date"]
    total = 0.0
    for day, taken in daily_income().items():
        total = taken if day in RESETS else total + taken
        if day not in NO_ROW:
            rows.append(f"{day},{'' if day in BLANK else f'{total:.2f}'}")
    return ("\n".join(rows) + "\n").encode()
