"""Count the rows of sealed tables with triggers, so that rows deleted by other programs are noticed."""

from __future__ import annotations

import sqlite3

from zembra.store.registry import SEALED


def count_along(connection: sqlite3.Connection) -> None:
    """Create triggers that count inserted and deleted rows of this connection; deletions by other programs are not
    counted.
    """
    there = {name for (name,) in connection.execute("SELECT name FROM sqlite_master WHERE type = 'table'")}
    for kept in SEALED if "tally" in there else ():
        if kept.name not in there:
            continue  # which is told by whoever checks
        for word, by in (("INSERT", "+ 1"), ("DELETE", "- 1")):
            connection.execute(
                f"CREATE TEMP TRIGGER IF NOT EXISTS tally_{kept.name}_{word} AFTER {word} ON main.{kept.name} "
                f"BEGIN UPDATE tally SET rows = rows {by} WHERE name = '{kept.name}'; END"
            )


def miscounted(connection: sqlite3.Connection) -> list[tuple[str, int, int]]:
    """Return (table, counted, actual) where they differ. Raises sqlite3.Error."""
    found = []
    for kept in SEALED:
        told = connection.execute("SELECT rows FROM tally WHERE name = ?", (kept.name,)).fetchone()
        try:
            (there,) = connection.execute(f"SELECT count(*) FROM {kept.name}").fetchone()
        except sqlite3.OperationalError:
            continue  # it is not there, which is told by itself
        counted = int(told[0]) if told else 0
        if counted != there:
            found.append((kept.name, counted, int(there)))
    return found
