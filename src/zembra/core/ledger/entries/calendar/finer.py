"""Putting dates, or coarse periods, onto a finer calendar: what a value means until the next one."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import replace
from typing import Annotated, ClassVar

import numpy as np
from pydantic import Field

from zembra.core.arithmetic.arrays import Codes, Floats, Ints
from zembra.core.arithmetic.fills import carried_back, carried_on, interpolated
from zembra.core.calendar.complete import Expected, new_line
from zembra.core.calendar.grain import COARSENESS, Grain, Unit
from zembra.core.calendar.lines import Condition, Line, Received
from zembra.core.errors import Refusal
from zembra.core.grammar import Choice
from zembra.core.ledger.entry import Entry, Group, register
from zembra.core.ledger.evidence import SERIES, Row, Table, count
from zembra.core.ledger.state import Additions, Outcome, State


class Onto(Choice):
    HOUR = ("hour", "hours")
    DAY = ("day", "days")
    WEEK = ("week", "weeks")
    MONTH = ("month", "months")


class Between(Choice):
    HELD = ("held", "a value holds until the next one", "held steps; last observation carried forward")
    EARLY = ("early", "the next value is taken at once", "early steps; next observation carried backward")
    STRAIGHT = ("straight", "a straight line runs to the next", "linear interpolation")
    OPEN = ("open", "nothing is known")


_FILLS: dict[Between, Callable[[Floats], Floats]] = {
    Between.HELD: carried_on,
    Between.EARLY: carried_back,
    Between.STRAIGHT: interpolated,
    Between.OPEN: lambda values: values,
}


class Until(Choice):
    LAST = ("last", "its last date")
    AS_OF = ("as-of", "the as-of date")


@register
class Finer(Entry):
    kind: ClassVar[str] = "finer"
    group: ClassVar[Group] = Group.CALENDAR
    title: ClassVar[str] = "Finer grain"
    hint: ClassVar[str] = "Put dates as they come, or months, onto days: a price holds until the next one."
    rank: ClassVar[int] = 2

    onto: Annotated[Onto, Field(title="grain")] = Onto.DAY
    between: Annotated[Between, Field(title="between two values")] = Between.HELD
    until: Annotated[Until, Field(title="where a line ends")] = Until.LAST

    def template(self) -> str:
        return "Put {@periods} onto {onto}; between two values {between}, up to {until}."

    def apply(self, state: State, by: str) -> Outcome:
        grain = Grain(Unit(self.onto.value), 1, state.grain.week_start, state.grain.year_start, zone=state.grain.zone)
        if state.grain.unit is not Unit.MOMENT and COARSENESS[grain.unit] >= COARSENESS[state.grain.unit]:
            raise Refusal(
                f"{self.onto.label.capitalize()} are no finer than {state.grain.plural}.",
                todo="Choose a finer grain, or switch this entry off.",
            )
        sizes = [end - first + 1 for first, end in (self._reach(state, line, grain) for line in state.lines)]
        state.budget.check_points(sum(sizes), f"{len(sizes)} series in {grain.plural}", "Choose a coarser grain.")
        lines = []
        rows: list[Row] = []
        between = 0
        for line in state.lines:
            made = self._spread(state, line, grain, by)
            lines.append(made)
            filled = int((made.condition == Condition.FILLED).sum())
            between += filled
            rows.append((line.name, int((~np.isnan(line.value)).sum()), len(made), filled))
        columns = (
            SERIES,
            count("values", "Values"),
            count("periods", grain.plural.capitalize()),
            count("between", "In between, marked as filled"),
        )
        return Outcome(
            Additions(lines=tuple(lines), expected=Expected(grain)),
            between,
            "in between",
            (Table(f"{state.grain.plural.capitalize()} onto {grain.plural}", columns, tuple(rows)),),
        )

    def _reach(self, state: State, line: Line, grain: Grain) -> tuple[int, int]:
        """The first and the last period of a line on the finer grain; the last before the first where it is empty."""
        known = np.flatnonzero(~np.isnan(line.counted))
        if not known.size:
            return 0, -1
        first, last = (int(period) for period in grain.periods(state.grain.starts(line.periods[known[[0, -1]]])))
        return first, last if self.until is Until.LAST else max(last, grain.period(state.as_of))

    def _spread(self, state: State, line: Line, grain: Grain, by: str) -> Line:
        values = line.counted
        known = np.flatnonzero(~np.isnan(values))
        if known.size == 0:
            return replace(new_line(line.name, *(array[:0] for array in _arrays(line))), entries=line.entries)
        at = grain.periods(state.grain.starts(line.periods[known]))
        first, last = self._reach(state, line, grain)
        size = last - first + 1
        periods = np.arange(first, last + 1, dtype=np.int64)
        place = at - int(at[0])  # of two dates in one period the later one stays: it holds at its end
        own = np.full(size, np.nan)
        own[place] = values[known]
        received = np.full(size, Received.ABSENT, dtype=np.uint8)
        received[place] = line.received[known]
        rows = np.full(size, -1, dtype=np.int64)
        rows[place] = line.first_row[known]
        combined = np.zeros(size, dtype=np.int32)
        combined[place] = line.row_count[known]
        made = replace(
            new_line(line.name, periods, own, received, rows, combined),
            condition=_placed(line.condition[known], place, size, Condition.OPEN),
            entry=_placed(line.entry[known], place, size, 0),
            entries=line.entries,
            quantity=line.quantity.per(state.grain.singular),
        )
        filled = _FILLS[self.between](own)
        gaps = np.isnan(own) & ~np.isnan(filled)
        return made.marked(gaps, Condition.FILLED, by, filled)


def _placed(codes: Codes, place: Ints, size: int, empty: int) -> Codes:
    """What was decided about a value stays with it."""
    out = np.full(size, empty, dtype=np.uint8)
    out[place] = codes
    return out


def _arrays(line: Line) -> tuple[np.ndarray, ...]:
    return line.periods, line.value, line.received, line.first_row, line.row_count
