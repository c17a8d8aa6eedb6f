"""Choose among several tables of a file by their names."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import replace

from zembra.core.errors import Refusal
from zembra.core.intake.dates import fitting_forms
from zembra.core.intake.table import TextTable

MOST_TRIED = 10
ReadTable = Callable[[str], TextTable]


def first_dated(names: Sequence[str], read: ReadTable) -> str | None:
    """Return the first table with readable dates, or None."""
    for name in names[:MOST_TRIED]:
        try:
            table = read(name)
        except Refusal:
            continue
        if any(not form.bare for column in table.columns for form, _ in fitting_forms(table.cells[column])):
            return name
    return None


def one_of(names: Sequence[str], wanted: str | None, read: ReadTable, what: str) -> TextTable:
    """Return the wanted table, and note the others. Raises Refusal.

    what: the kind of file, for the message
    """
    chosen = wanted or names[0]
    if chosen not in names:
        raise Refusal(f"{what} has no table named “{chosen}”.", place=f"it has {', '.join(names[:12])}")
    table = read(chosen)
    return replace(table, sheets=tuple(names), alike=tuple(name for name in names if name != chosen))
