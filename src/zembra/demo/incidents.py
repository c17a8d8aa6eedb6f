"""Seeded generator of incidents.csv: events to be counted; a quiet day has no row.

What is planted is listed in docs/demo-data.md.
"""

from __future__ import annotations

from datetime import date, timedelta

import numpy as np

SEED = 43
FIRST, LAST = date(2026, 1, 1), date(2026, 10, 30)
KINDS = {"delay": 0.55, "breakdown": 0.12, "lost property": 0.4}
NOTES = ("reported by crew", "reported by a passenger", "seen on camera", "told by phone")
ROUTES = ("Outer Isles", "Harbour Loop", "North Head", "Kittiwake Bay")


def counts() -> dict[date, dict[str, int]]:
    """How many events of each kind happened on each day."""
    rng = np.random.default_rng(SEED)
    days = [FIRST + timedelta(n) for n in range((LAST - FIRST).days + 1)]
    return {
        day: {kind: int(rng.poisson(rate * (1.5 if day.weekday() >= 5 else 0.8))) for kind, rate in KINDS.items()}
        for day in days
    }


def incidents_csv() -> bytes:
    """Columns: reported, kind, route, note. One row an event."""
    rng = np.random.default_rng(SEED + 1)
    rows = ["reported,kind,route,note"]
    for day, happened in counts().items():
        for kind, count in happened.items():
            for _ in range(count):
                rows.append(f"{day},{kind},{rng.choice(ROUTES)},{rng.choice(NOTES)} {rng.integers(100, 999)}")
    return ("\n".join(rows) + "\n").encode()
