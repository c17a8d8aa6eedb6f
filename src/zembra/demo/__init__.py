"""The demo scenario: Saltmarch Ferries, its files and how they were made."""

from datetime import date
from importlib.resources import files

AS_OF = date(2026, 10, 31)
DEMO_FILES = {
    "sailings.csv": "Daily passengers and vehicles of four routes, September 2023 to October 2026",
}


def demo_file(name: str) -> bytes:
    """The bytes of a shipped demo file."""
    return files(__package__).joinpath("data", name).read_bytes()
