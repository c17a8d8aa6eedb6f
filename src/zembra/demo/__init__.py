"""The demo scenario: Saltmarch Ferries, its files and how they were made."""

from datetime import date
from importlib.resources import files

AS_OF = date(2026, 10, 31)


def demo_file(name: str) -> bytes:
    """The bytes of a shipped demo file."""
    return files(__package__).joinpath("data", name).read_bytes()
