"""The whole way from a file's bytes to observations."""

from __future__ import annotations

import hashlib
from collections.abc import Callable
from dataclasses import dataclass

from zembra.core.intake.detect import understand
from zembra.core.intake.formats import detect_table, read_table
from zembra.core.intake.howread import HowRead, TableHow, ValueKind
from zembra.core.intake.observe import Observations, observe
from zembra.core.intake.table import TextTable

Progress = Callable[[str, float], None]


@dataclass(frozen=True, slots=True)
class BroughtIn:
    """A file as read. questions: what Zembra could not decide by itself. notices: what of the file
    was left out, in words."""

    table: TextTable
    how: HowRead
    observations: Observations
    questions: tuple[str, ...]
    notices: tuple[str, ...]


def sha256(data: bytes) -> str:
    return hashlib.sha256(data).hexdigest()


def _quiet(stage: str, share: float) -> None:
    """No one is told."""


def bring_in(
    data: bytes,
    how: HowRead | None = None,
    *,
    table_how: TableHow | None = None,
    kind: ValueKind | None = None,
    progress: Progress = _quiet,
) -> BroughtIn:
    """Read a file as `how` says, or as Zembra understands it. Raises Refusal.

    table_how, kind: parts of the reading that are settled while the rest is guessed. progress: told
    (what is being done, share done); what it raises ends the reading.
    """
    questions: tuple[str, ...] = ()
    if how is None:
        progress("looking at the file", 0.05)
        table_how = table_how or detect_table(data)
        progress("cutting rows into cells", 0.15)
        table = read_table(data, table_how)
        progress("finding dates and numbers", 0.45)
        understood = understand(table, table_how, kind)
        how, questions = understood.how, understood.questions
    else:
        progress("cutting rows into cells", 0.15)
        table = read_table(data, how.table)
    progress("reading every cell", 0.6)
    observations = observe(table, how, sha256(data))
    progress("counting", 0.9)
    return BroughtIn(table, how, observations, questions, _notices(table, how, observations))


def _notices(table: TextTable, how: HowRead, observations: Observations) -> tuple[str, ...]:
    said = []
    above = how.table.header_row - how.table.header_rows
    if above > 0:
        said.append(f"{above} row{'s' if above > 1 else ''} above the column names left out.")
    if how.table.skip_last:
        count = how.table.skip_last
        said.append(f"The last {count} row{'s look' if count > 1 else ' looks'} like totals or notes, and {'are' if count > 1 else 'is'} left out.")
    said.extend(f"{one} left out." for one in table.left_out)
    if observations.dropped:
        said.append(f"{observations.dropped} rows left out by the conditions.")
    return tuple(said)
