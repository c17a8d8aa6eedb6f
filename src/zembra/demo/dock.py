"""Seeded generator of dock_meter.csv: power drawn at the dock, hour by hour, with outages.

What is planted is listed in docs/demo-data.md.
"""

from __future__ import annotations

from datetime import datetime, timedelta

import numpy as np

SEED = 42
FIRST = datetime(2026, 3, 1)
HOURS = 24 * 61
# clocks go from +00:00 to +01:00; the meter writes the wall clock with its offset
CLOCK_CHANGE = datetime(2026, 3, 29, 1)
NO_ROWS = (datetime(2026, 3, 12, 2), 9)
BLANK = (datetime(2026, 4, 3, 14), 4)
OFFLINE = (datetime(2026, 4, 18, 6), 2)
ZEROS = (datetime(2026, 3, 7, 11), datetime(2026, 3, 19, 4), datetime(2026, 4, 22, 16))


def dock_csv() -> bytes:
    """Columns: read_at, kwh. One row an hour, in UTC plus the offset of the day."""
    rng = np.random.default_rng(SEED)
    rows = ["read_at,kwh"]
    for n in range(HOURS):
        at = FIRST + timedelta(hours=n)
        summer = at >= CLOCK_CHANGE
        wall = at + timedelta(hours=1) if summer else at
        day = 1.0 + 0.35 * np.sin(2 * np.pi * (wall.hour - 7) / 24) - (0.12 if wall.weekday() == 6 else 0)
        cell = f"{48 * day + rng.normal(0, 2.2):.1f}"
        if within(at, NO_ROWS):
            continue
        if within(at, BLANK):
            cell = ""
        elif within(at, OFFLINE):
            cell = "offline"
        elif at in ZEROS:
            cell = "0"
        rows.append(f"{wall:%Y-%m-%dT%H:%M}{'+01:00' if summer else '+00:00'},{cell}")
    return ("\n".join(rows) + "\n").encode()


def within(at: datetime, stretch: tuple[datetime, int]) -> bool:
    return stretch[0] <= at < stretch[0] + timedelta(hours=stretch[1])
