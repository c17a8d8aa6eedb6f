"""Find pairs of entries whose results depend on their order."""

from __future__ import annotations

from datetime import date

import numpy as np

from zembra.core.calendar.budget import USUAL, Budget
from zembra.core.calendar.lines import Line
from zembra.core.errors import Refusal
from zembra.core.intake.observe import Observations
from zembra.core.ledger.entry import Group
from zembra.core.ledger.memo import Memo
from zembra.core.ledger.model import Ledger, Record
from zembra.core.ledger.registry import kinds
from zembra.core.ledger.run import run


def order_matters(
    observations: Observations, ledger: Ledger, as_of: date, file_name: str, memo: Memo, *, budget: Budget = USUAL
) -> list[str]:
    """Return the ids of entries whose result changes when they are swapped with the next one of their group. Only
    entries that change lines are tried, as readings and projections do not affect each other.
    """

    def carried(some: list[Record]) -> tuple[Line, ...]:
        shortened = ledger.model_copy(update={"entries": tuple(some)})
        return run(observations, shortened, as_of, file_name=file_name, memo=memo, budget=budget).state.lines

    entries = [item for item in ledger.entries if item.on]
    found = []
    for at in range(len(entries) - 1):
        first, second = entries[at : at + 2]
        if not (_acts(first) and _acts(second) and _group(first) is _group(second)):
            continue
        swapped = [*entries[:at], second, first]
        try:
            here, there = (carried(entries_in_order) for entries_in_order in (entries[: at + 2], swapped))
        except Refusal:
            continue
        if not same_lines(here, there):
            found.append(first.id)
    return found


def _group(item: Record) -> Group:
    return kinds()[item.kind].group


def _acts(item: Record) -> bool:
    kind = kinds()[item.kind]
    return kind.group in (Group.CALENDAR, Group.REPAIRS) and not kind.once


def same_lines(here: tuple[Line, ...], there: tuple[Line, ...]) -> bool:
    """Return whether two sets of lines have the same points and conditions, in any order."""
    if {line.name for line in here} != {line.name for line in there}:
        return False
    others = {line.name: line for line in there}
    return all(
        np.array_equal(line.periods, others[line.name].periods)
        and np.array_equal(line.value, others[line.name].value, equal_nan=True)
        and np.array_equal(line.condition, others[line.name].condition)
        and (line.afresh, line.begin) == (others[line.name].afresh, others[line.name].begin)
        for line in here
    )
