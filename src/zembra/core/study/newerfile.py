"""A study on another file: what would be there, and what changes, period by period."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from zembra.core.calendar.grain import Grain
from zembra.core.calendar.lines import Line
from zembra.core.ledger.run import Result


@dataclass(frozen=True, slots=True)
class Change:
    """A series here and on the other file, as both came in. first, last: labels of the first and the last number,
    empty for none; added, gone: how many periods have a number only there, only here; changed: another one."""

    series: str
    first: str
    last: str
    first_then: str
    last_then: str
    added: int
    gone: int
    changed: int


@dataclass(frozen=True, slots=True)
class Comparison:
    """misfits: entries that can be carried out here and not there, with why."""

    series: tuple[Change, ...]
    new_series: tuple[str, ...]
    lost_series: tuple[str, ...]
    misfits: tuple[str, ...]


def compare_files(here: Result, there: Result) -> Comparison:
    """What another file would change. here, there: the run of one ledger on each file."""
    mine = {line.name: line for line in here.base.lines}
    theirs = {line.name: line for line in there.base.lines}
    same_grain = here.base.grain == there.base.grain
    changes = (
        _change(line, theirs[name], here.base.grain, there.base.grain, same_grain)
        for name, line in mine.items()
        if name in theirs
    )
    refused_before = {report.id for report in here.problems}
    misfits = tuple(
        f"{report.sentence} {report.problem}" for report in there.problems if report.id not in refused_before
    )
    return Comparison(
        tuple(changes),
        tuple(name for name in theirs if name not in mine),
        tuple(name for name in mine if name not in theirs),
        misfits,
    )


def _change(mine: Line, theirs: Line, grain: Grain, grain_then: Grain, same_grain: bool) -> Change:
    own, other = (line.periods[~np.isnan(line.original)] for line in (mine, theirs))
    ends = (*_ends(own, grain), *_ends(other, grain_then))
    if not same_grain:
        return Change(mine.name, *ends, int(other.size), int(own.size), 0)
    both = np.intersect1d(own, other)
    before, after = (line.original[np.searchsorted(line.periods, both)] for line in (mine, theirs))
    return Change(
        mine.name, *ends, int(other.size - both.size), int(own.size - both.size), int((before != after).sum())
    )


def _ends(periods: np.ndarray, grain: Grain) -> tuple[str, str]:
    if not periods.size:
        return "", ""
    first, last = grain.labels(periods[[0, -1]])
    return first, last
