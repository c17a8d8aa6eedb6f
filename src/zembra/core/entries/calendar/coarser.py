"""Aggregate lines to a coarser grain, with a rule for partly covered periods."""

from __future__ import annotations

from typing import Annotated, ClassVar

import numpy as np
from pydantic import Field

from zembra.core.calendar.coarser import Coarse, coarser
from zembra.core.calendar.complete import Absent, Combine, Expected
from zembra.core.calendar.grain import COARSENESS, Grain, Unit
from zembra.core.calendar.lines import Condition, Line
from zembra.core.calendar.months import CalendarUnit
from zembra.core.entries.shared.periodwords import ALL_WEEK, Month, Weekday
from zembra.core.errors import Refusal
from zembra.core.grammar import Choice
from zembra.core.ledger.entry import Entry, Group
from zembra.core.ledger.evidence import SERIES, Row, Table, count
from zembra.core.ledger.registry import register
from zembra.core.ledger.state import Additions, Outcome, State


class Putting(Choice):
    SUM = ("sum", "added up", "sum")
    MEAN = ("mean", "averaged", "arithmetic mean")
    MEDIAN = ("median", "as their middle value", "median")
    FIRST = ("first", "as their first value")
    LAST = ("last", "as their last value")
    MIN = ("min", "as their smallest value")
    MAX = ("max", "as their largest value")
    COUNT = ("count", "counted")


class Week(Choice):
    """Which month a week across two months belongs to."""

    FIRST = ("first", "its first day")
    MIDDLE = ("middle", "its fourth day", "a Thursday where weeks begin on Mondays: most of its days")
    SHARED = ("shared", "its days", "shared out by days: sums in equal parts, marked as adjusted")

    @property
    def day(self) -> int | None:
        return {Week.FIRST: 0, Week.MIDDLE: 3, Week.SHARED: None}[self]


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

    into: Annotated[CalendarUnit, Field(title="grain")] = CalendarUnit.MONTH
    combine: Annotated[Putting, Field(title="how they are put together")] = Putting.SUM
    partly: Annotated[Partly, Field(title="what a partly covered period is")] = Partly.LEFT_OUT
    weeks: Annotated[Week | None, Field(title="what says where a week belongs")] = None
    week_start: Annotated[Weekday, Field(title="first day of a week")] = Weekday.MONDAY
    year_start: Annotated[Month, Field(title="first month of a year")] = Month.JANUARY

    def template(self) -> str:
        about = ""
        if self.into is CalendarUnit.WEEK:
            about = " from {week_start} on"
        elif self.into in (CalendarUnit.QUARTER, CalendarUnit.YEAR):
            about = " of a year that starts in {year_start}"
        weeks = ", a week going by {weeks}" if self.weeks else ""
        return f"Put {{@periods}} into {{into}}{about}{weeks}, {{combine}}; one that is partly covered is {{partly}}."

    def apply(self, state: State, entry_id: str) -> Outcome:
        zone = state.grain.zone if self.into is CalendarUnit.HOUR else None
        grain = Grain(Unit(self.into.value), 1, ALL_WEEK.index(self.week_start), int(self.year_start), zone=zone)
        if COARSENESS[grain.unit] <= COARSENESS[state.grain.unit] or state.grain.unit is Unit.MOMENT:
            raise Refusal(
                f"{self.into.label.capitalize()} are no coarser than {state.grain.plural}.",
                todo="Choose a coarser grain, or switch this entry off.",
            )
        lines = []
        rows: list[Row] = []
        partial = 0
        for line in state.lines:
            closed = state.calendar is not None and state.calendar.absent(line.name) is Absent.CLOSED
            rule = self.weeks or Week.FIRST
            made = coarser(line, state.expected, grain, Combine(self.combine.value), closed=closed, week_day=rule.day)
            partial += int(made.partly.sum())
            none = int((made.have + made.more == 0).sum())
            rows.append((line.name, len(made.line), int(made.covered.sum()), int(made.partly.sum()), none))
            lines.append(self._settled(made, entry_id))
        columns = (
            SERIES,
            count("periods", grain.plural.capitalize()),
            count("full", "Fully covered"),
            count("partly", "Partly covered"),
            count("without", "Without a number"),
        )
        expected = Expected(grain, at_end=state.expected.at_end)
        return Outcome(
            Additions(lines=tuple(lines), expected=expected),
            partial,
            "partly covered",
            (Table(f"{state.grain.plural.capitalize()} put into {grain.plural}", columns, tuple(rows)),),
            warnings=self._about_weeks(state, grain),
        )

    @classmethod
    def suggest(cls, state: State) -> Coarser:
        if state.grain.unit is not Unit.WEEK:
            return cls()
        return cls(weeks=Week.MIDDLE, week_start=ALL_WEEK[state.grain.week_start])

    def _about_weeks(self, state: State, grain: Grain) -> tuple[str, ...]:
        if state.grain.unit is not Unit.WEEK or self.weeks is not None:
            return ()
        return (f"A week that lies across two {grain.plural} is put where its first day is.",)

    def _settled(self, made: Coarse, entry_id: str) -> Line:
        line, partly = made.line, made.partly
        if made.split.any():
            line = line.marked(made.split & (line.condition == Condition.MEASURED), Condition.ADJUSTED, entry_id)
        if not partly.any():
            return line
        if self.partly is Partly.PROVISIONAL:
            return line.marked(partly, Condition.PROVISIONAL, entry_id)
        if self.partly is Partly.SCALED:
            scales = self.combine in (Putting.SUM, Putting.COUNT)
            return line.marked(partly, Condition.ADJUSTED, entry_id, line.value * made.factor if scales else line.value)
        return line.marked(partly, Condition.OPEN, entry_id, np.full(len(line), np.nan))
