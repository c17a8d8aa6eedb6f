"""The demo files and what makes them. scripts/generate.py writes them and checks that they are current."""

from __future__ import annotations

from collections.abc import Callable

from zembra.demo.dock import dock_csv
from zembra.demo.fuel import fuel_csv
from zembra.demo.incidents import incidents_csv
from zembra.demo.rota import rota_csv
from zembra.demo.sailings import sailings_csv, to_august_csv, to_september_csv
from zembra.demo.tickets import tickets_csv
from zembra.demo.upkeep import upkeep_xlsx

FILES: dict[str, Callable[[], bytes]] = {
    "sailings.csv": sailings_csv,
    "sailings_to_august.csv": to_august_csv,
    "sailings_to_september.csv": to_september_csv,
    "upkeep_by_month.xlsx": upkeep_xlsx,
    "dock_meter.csv": dock_csv,
    "incidents.csv": incidents_csv,
    "rota_hours.csv": rota_csv,
    "fuel_contract.csv": fuel_csv,
    "ticket_income_to_date.csv": tickets_csv,
}
