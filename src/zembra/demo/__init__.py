"""The demo scenario: Saltmarch Ferries, its files and how they were made."""

from datetime import date
from importlib.resources import files

AS_OF = date(2026, 10, 31)
DEMO_FILES = {
    "sailings.csv": "Daily passengers and vehicles of four routes, September 2023 to October 2026",
    "sailings_to_august.csv": "The same as the ports had told it by the end of August 2026",
    "sailings_to_september.csv": "The same a month later, longer, the late days corrected",
    "upkeep_by_month.xlsx": "Cost of upkeep, one row a vessel and months across; a sheet by year",
    "dock_meter.csv": "Power drawn at the dock, hour by hour, with outages",
    "incidents.csv": "Events to be counted; a quiet day has no row",
    "rota_hours.csv": "Paid hours on working days, with decimal commas and title rows",
    "fuel_contract.csv": "Contract prices of fuel, each valid until the next",
    "ticket_income_to_date.csv": "A running total of ticket income that starts again each January",
}


def demo_file(name: str) -> bytes:
    """The bytes of a shipped demo file."""
    return files(__package__).joinpath("data", name).read_bytes()
