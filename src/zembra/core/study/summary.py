"""Summarise a study for the list of studies."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np
from pydantic import BaseModel

from zembra.core.calendar.lines import Condition
from zembra.core.figure.parts.base import numbers
from zembra.core.ledger.entry import Group
from zembra.core.ledger.run import Result
from zembra.core.study.followup import Noted, State, counts, follow_up
from zembra.core.watching.find import Found

SPARK_POINTS = 160


class StudySummary(BaseModel):
    """The card of a study.

    gaps: open periods of all series
    open: open follow-up items
    spark: values of the first shown line, thinned
    problem: why it cannot be run
    unfinished: whether deferred work may still change it
    """

    series: int = 0
    periods: int = 0
    first: str = ""
    last: str = ""
    gaps: int = 0
    entries: int = 0
    open: int = 0
    spark: list[float | None] = []
    problem: str | None = None
    unfinished: bool = False


def summary_of(
    result: Result, shown: Sequence[str], noted: Sequence[Noted], called: Sequence[Found] = ()
) -> StudySummary:
    """Summarise a study.

    shown: names of drawn series, by default all
    called: findings of watches
    """
    state = result.state
    line = next((known for known in state.lines if not shown or known.name in shown), None)
    if line is None or not len(line):
        return StudySummary(entries=len(result.reports))
    step = max(1, len(line) // SPARK_POINTS)
    return StudySummary(
        series=len(state.lines),
        periods=len(line),
        first=state.grain.label(int(line.periods[0])),
        last=state.grain.label(int(line.periods[-1])),
        gaps=sum(int(np.sum(known.condition == Condition.OPEN)) for known in state.lines),
        entries=len(result.reports),
        open=counts(follow_up(result, noted, called))[State.OPEN],
        spark=numbers(line.counted[::step]),
        unfinished=any(type(known.entry).group is not Group.PROJECTIONS for known in result.pending),
    )
