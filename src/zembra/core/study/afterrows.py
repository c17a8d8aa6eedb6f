"""Tell how new rows change an entry's findings and the follow-up list."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from enum import StrEnum

import numpy as np

from zembra.core.calendar.grain import Grain
from zembra.core.entries.repairs.shiftresults import SeriesShifts
from zembra.core.ledger.results import results_of
from zembra.core.ledger.run import Report, Result
from zembra.core.newrows.changes import Kind, RevisedPeriods
from zembra.core.study.followup import Item, Noted, State, follow_up


class ItemChange(StrEnum):
    """What happens to an item of the follow-up list."""

    NEW = "new"
    EXPLAINED = "explained by the new number"
    AS_BEFORE = "as before"


@dataclass(frozen=True, slots=True)
class FoundChange:
    """How the findings of an entry change.

    found: new (series, period), newest first
    lost: number of findings that disappear
    """

    found: tuple[tuple[str, int], ...]
    lost: int


def found_change(before: Report | None, after: Report) -> FoundChange:
    """Return the change of an entry's findings. A deferred entry loses none."""
    then, now = _periods_found(before), _periods_found(after)
    found = sorted(now - then, key=lambda key: (key[1], key[0]), reverse=True)
    return FoundChange(tuple(found), 0 if after.waiting else len(then - now))


def _periods_found(report: Report | None) -> set[tuple[str, int]]:
    """Return the (series, period) that an entry reports: candidates, marks, shifts."""
    if report is None:
        return set()
    shifts = results_of(report.outcome.results, SeriesShifts)
    found = {(finding.series, finding.period) for finding in report.outcome.findings}
    return found | {(known.series, shift.period) for known in shifts for shift in known.shifts}


def items_changed(
    before: Result, after: Result, noted: Sequence[Noted], changes: RevisedPeriods
) -> list[tuple[Item, ItemChange]]:
    """Return new items, and earlier ones that nobody explained. An item is explained by the rows if its period was
    revised and nothing finds it any more.
    """
    grain = after.state.grain
    was = {(item.series, item.period) for item in follow_up(before, noted)}
    revised = {
        (row.series, label)
        for kind in (Kind.REVISED, Kind.BLANK)
        for row in changes.of(kind)
        for label in _labels_on(grain, changes.grain, row.period)
    }

    def becomes(item: Item) -> ItemChange:
        key = item.series, item.period
        if key not in was:
            return ItemChange.NEW
        return ItemChange.EXPLAINED if key in revised and item.gone else ItemChange.AS_BEFORE

    return [(item, becomes(item)) for item in follow_up(after, noted) if item.state is not State.EXPLAINED]


def _labels_on(grain: Grain, changed_on: Grain, period: int) -> Sequence[str]:
    """Return labels of the study's periods that overlap a period of the rows."""
    first, last = grain.touched_by(changed_on, np.array([period]))
    return grain.labels(np.arange(first[0], last[0] + 1))
