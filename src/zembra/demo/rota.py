"""Seeded generator of rota_hours.csv: paid hours on working days, as an older office program writes them.

What is planted is listed in docs/demo-data.md.
"""

from __future__ import annotations

from datetime import date, timedelta

import numpy as np

SEED = 44
FIRST, LAST = date(2026, 1, 5), date(2026, 10, 30)
CREWS = {"Deck": 96.0, "Engine": 41.5, "Café": 28.0}
# days of the working week on which the office was shut: no row for any crew
SHUT = (date(2026, 4, 3), date(2026, 4, 6), date(2026, 8, 31))
NO_SHEET = {("Deck", date(2026, 5, 14)): "k. A.", ("Café", date(2026, 6, 9)): "", ("Engine", date(2026, 9, 2)): "?"}
ABOVE = ("Saltmarch Ferries – paid hours", "all crews, without overtime", "")


def rota_csv() -> bytes:
    """Windows-1252, semicolons, decimal commas, day first; title rows above, a total below."""
    rng = np.random.default_rng(SEED)
    rows = [*ABOVE, "Datum;Crew;Hours;Remark"]
    total = 0.0
    day = FIRST
    while day <= LAST:
        if day.weekday() < 5 and day not in SHUT:
            for crew, level in CREWS.items():
                hours = round(level * (1 + rng.normal(0, 0.06)) * 4) / 4
                cell = NO_SHEET.get((crew, day), f"{hours:.2f}".replace(".", ","))
                total += 0 if (crew, day) in NO_SHEET else hours
                rows.append(f"{day:%d.%m.%Y};{crew};{cell};{'late sheet' if rng.random() < 0.03 else ''}")
        day += timedelta(1)
    whole, cents = f"{total:.2f}".split(".")
    rows.append(f"Total;;{int(whole):,}".replace(",", ".") + f",{cents};")
    return ("\r\n".join(rows) + "\r\n").encode("cp1252")
