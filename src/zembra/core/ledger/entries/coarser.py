"""Moving to a coarser grain, with a say in what a partly covered period is."""

from __future__ import annotations

from dataclasses import replace
from typing import Annotated, ClassVar

import numpy as np
from pydantic import Field

from zembra.core.calendar.coarser import coarser
from zembra.core.calendar.complete import Combine, Expected
from zembra.core.calendar.grain import COARSENESS, Grain, Unit
from zembra.core.errors import Refusal
from zembra.core.grammar import Choice
from zembra.core.ledger.entries.calendar import ALL_WEEK, Month, Weekday
from zembra.core.ledger.entry import Entry, Group, register
from zembra.core.ledger.state import Cell, Outcome, State, Table
from zembra.core.lines import Condition, Line


class Into(Choice):
    HOUR = ("hour", "hours")
    DAY = ("day", "days")
    WEEK = ("week", "weeks")
    MONTH = ("month", "months")
    QUARTER = ("quarter", "quarters")
    YEAR = ("year", "years")


class Putting(Choice):
    SUM = ("sum", "added up", "sum")
    MEAN = ("mean", "averaged", "arithmetic mean")
    MEDIAN = ("median", "as their middle value", "median")
    FIRST = ("first", "as their first value")
    LAST = ("last", "as their last value")
    MIN = ("min", "as their smallest value")
    MAX = ("max", "as their largest value")
    COUNT = ("count", "counted")


class Partly(Choice):
    LEFT_OUT = ("left-out", "left open", "no number for it")
    PROVISIONAL = ("provisional", "kept, provisional", "drawn striped, by default not counted")
    SCALED = ("scaled", "scaled up to a full one", "times expected parts over parts with a number; for sums and counts")


@register
class Coarser(Entry):
    kind: ClassVar[str] = "coarser"
    group: ClassVar[Group] = Group.CALENDAR
    title: ClassVar[str] = "Coarser grain"
    hint: ClassVar[str] = "Put days into weeks, months and so on."
    rank: ClassVar[int] = 1

    into: Annotated[Into, Field(title="grain")] = Into.MONTH
    combine: Annotated[Putting, Field(title="how they are put together")] = Putting.SUM
    partly: Annotated[Partly, Field(title="what a partly covered period is")] = Partly.LEFT_OUT
    week_start: Annotated[Weekday, Field(title="first day of a week")] = Weekday.MONDAY
    year_start: Annotated[Month, Field(title="first month of a year")] = Month.JANUARY

    def template(self) -> str:
        about = ""
        if self.into is Into.WEEK:
            about = " from {week_start} on"
        elif self.into in (Into.QUARTER, Into.YEAR):
            about = " of a year that starts in {year_start}"
        return f"Put {{@periods}} into {{into}}{about}, {{combine}}; one that is partly covered is {{partly}}."

    def apply(self, state: State, by: str) -> Outcome:
        grain = Grain(Unit(self.into.value), 1, ALL_WEEK.index(self.week_start), int(self.year_start))
        if COARSENESS[grain.unit] <= COARSENESS[state.grain.unit] or state.grain.unit is Unit.MOMENT:
            raise Refusal(
                f"{self.into.label.capitalize()} are no coarser than {state.grain.plural}.",
                todo="Choose a coarser grain, or switch this entry off.",
            )
        lines = []
        rows: list[tuple[Cell, ...]] = []
        partial = 0
        for line in state.lines:
            made, share = coarser(line, state.expected, grain, Combine(self.combine.value))
            partly = (share > 0) & (share < 1)
            partial += int(partly.sum())
            rows.append((line.name, len(made), int((share >= 1).sum()), int(partly.sum()), int((share == 0).sum())))
            lines.append(self._settled(made, share, by))
        columns = ("Series", grain.plural.capitalize(), "Fully covered", "Partly covered", "Without a number")
        expected = Expected(grain, at_end=state.expected.at_end)
        return Outcome(
            replace(state, lines=tuple(lines), expected=expected),
            partial,
            "partly covered",
            (Table(f"{state.grain.plural.capitalize()} put into {grain.plural}", columns, tuple(rows)),),
        )

    def _settled(self, line: Line, share: np.ndarray, by: str) -> Line:
        partly = (share > 0) & (share < 1)
        if not partly.any():
            return line
        if self.partly is Partly.PROVISIONAL:
            return line.marked(partly, Condition.PROVISIONAL, by)
        if self.partly is Partly.SCALED:
            scales = self.combine in (Putting.SUM, Putting.COUNT)
            return line.marked(partly, Condition.ADJUSTED, by, line.value / share if scales else line.value)
        return line.marked(partly, Condition.OPEN, by, np.full(len(line), np.nan))
