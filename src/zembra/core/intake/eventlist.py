"""Parse a list of events: date, until, name, or date, name."""

from __future__ import annotations

import csv
import io
from datetime import date

MOST_LINES = 2000
HEADINGS = {"date", "day", "from", "on", "start"}


def read_events(text: str) -> list[dict[str, object]]:
    """Parse rows of date, until and name, separated by commas, semicolons or tabs; a header and blank lines are
    skipped. Raises ValueError naming the line.
    """
    lines = text.splitlines()
    if len(lines) > MOST_LINES:
        raise ValueError(f"the list has {len(lines)} lines, more than {MOST_LINES}")
    parted = next((mark for mark in ("\t", ";") if mark in text), ",")
    found: list[dict[str, object]] = []
    for number, row in enumerate(csv.reader(io.StringIO("\n".join(lines)), delimiter=parted), 1):
        cells = [cell.strip() for cell in row]
        if not any(cells) or (not found and cells[0].lower() in HEADINGS):
            continue
        on = _day(cells[0], number)
        until = cells[1] if len(cells) > 2 else ""
        name = f"{parted} ".join(cells[2:] if len(cells) > 2 else cells[1:]).strip()
        if not name:
            raise ValueError(f"line {number} gives {cells[0]} no name")
        found.append({"on": on, "until": _day(until, number) if until else None, "name": name})
    return found


def _day(cell: str, number: int) -> date:
    try:
        return date.fromisoformat(cell)
    except ValueError:
        raise ValueError(f"line {number}: “{cell[:40]}” is no date such as 2026-03-14") from None
