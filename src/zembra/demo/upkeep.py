"""Seeded generator of upkeep_by_month.xlsx: cost of upkeep, one row a vessel, months across.

What is planted is listed in docs/demo-data.md.
"""

from __future__ import annotations

import io
from datetime import datetime

import numpy as np

SEED = 41
MONTHS = tuple((year, month) for year in (2025, 2026) for month in range(1, 13))
NAMES = ("Jan", "Feb", "Mar", "Apr", "May", "Jun", "Jul", "Aug", "Sep", "Oct", "Nov", "Dec")
# the last month each vessel has reached; later months are there and empty
VESSELS = {"Marsh Heron": (2026, 10), "Black Tern": (2026, 10), "Dunlin": (2026, 8), "Oystercatcher": (2026, 9)}
LEVELS = {"Marsh Heron": 4200.0, "Black Tern": 2900.0, "Dunlin": 1850.0, "Oystercatcher": 5100.0}
BLANK = {("Marsh Heron", (2025, 5)), ("Dunlin", (2025, 11)), ("Dunlin", (2025, 12)), ("Oystercatcher", (2026, 2))}
TEXTS = {("Black Tern", (2025, 9)): "in dock", ("Oystercatcher", (2026, 6)): "invoice due"}
TITLE = "Saltmarch Ferries: upkeep by vessel"
YEARS = (2022, 2023, 2024, 2025)


def costs() -> dict[str, list[float]]:
    """Every vessel's cost in every month, before blanks and texts are planted."""
    rng = np.random.default_rng(SEED)
    return {
        vessel: [
            round(level * (1 + 0.15 * np.cos(2 * np.pi * (month - 2) / 12) + rng.normal(0, 0.08)), 2)
            for _, month in MONTHS
        ]
        for vessel, level in LEVELS.items()
    }


def upkeep_xlsx() -> bytes:
    """A workbook with the sheets "By month" and "By year"."""
    import xlsxwriter

    out = io.BytesIO()
    book = xlsxwriter.Workbook(out, {"in_memory": True})
    # a fixed day, so that the same bytes come out every time
    book.set_properties({"created": datetime(2026, 10, 31)})
    sheet = book.add_worksheet("By month")
    sheet.write_row(0, 0, [TITLE])
    sheet.write_row(1, 0, ["amounts without tax"])
    sheet.write_row(3, 0, ["Vessel", *(f"{NAMES[month - 1]} {year}" for year, month in MONTHS)])
    table = costs()
    totals = [0.0] * len(MONTHS)
    for row, vessel in enumerate(VESSELS, 4):
        sheet.write(row, 0, vessel)
        for n, month in enumerate(MONTHS):
            if month > VESSELS[vessel] or (vessel, month) in BLANK:
                continue
            cell = TEXTS.get((vessel, month), table[vessel][n])
            sheet.write(row, n + 1, cell)
            totals[n] += cell if isinstance(cell, float) else 0
    sheet.write_row(4 + len(VESSELS), 0, ["Total", *(total or None for total in totals)])
    years = book.add_worksheet("By year")
    years.write_row(0, 0, ["Vessel", *(str(year) for year in YEARS)])
    rng = np.random.default_rng(SEED + 1)
    for row, (vessel, level) in enumerate(LEVELS.items(), 1):
        years.write_row(row, 0, [vessel, *(round(level * 12 * (1 + rng.normal(0, 0.05))) for _ in YEARS)])
    book.close()
    return out.getvalue()
