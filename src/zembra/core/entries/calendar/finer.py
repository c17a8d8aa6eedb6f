"""Put lines on a finer grain, with a rule for the periods between two values."""

from __future__ import annotations

from collections.abc import Callable
from typing import Annotated, ClassVar, Literal

import numpy as np
from pydantic import Field

from zembra.core.arithmetic.arrays import Floats
from zembra.core.arithmetic.fills import carried_back, carried_on, interpolated
from zembra.core.calendar.complete import Expected
from zembra.core.calendar.finer import finer, finer_reach
from zembra.core.calendar.grain import COARSENESS, Grain, Unit
from zembra.core.calendar.lines import Condition
from zembra.core.calendar.months import CalendarUnit
from zembra.core.errors import Refusal
from zembra.core.grammar import Choice
from zembra.core.ledger.entry import Entry, Group
from zembra.core.ledger.evidence import SERIES, Row, Table, count
from zembra.core.ledger.registry import register
from zembra.core.ledger.state import Additions, Outcome, State

Onto = Literal[CalendarUnit.HOUR, CalendarUnit.DAY, CalendarUnit.WEEK, CalendarUnit.MONTH]


class FinerBetween(Choice):
    HELD = ("held", "a value holds until the next one", "held steps; last observation carried forward")
    EARLY = ("early", "the next value is taken at once", "early steps; next observation carried backward")
    STRAIGHT = ("straight", "a straight line runs to the next", "linear interpolation")
    OPEN = ("open", "nothing is known")


_FILLS: dict[FinerBetween, Callable[[Floats], Floats]] = {
    FinerBetween.HELD: carried_on,
    FinerBetween.EARLY: carried_back,
    FinerBetween.STRAIGHT: interpolated,
    FinerBetween.OPEN: lambda values: values,
}


class FinerUntil(Choice):
    LAST = ("last", "its last date")
    AS_OF = ("as-of", "the as-of date")


@register
class Finer(Entry):
    kind: ClassVar[str] = "finer"
    group: ClassVar[Group] = Group.CALENDAR
    title: ClassVar[str] = "Finer grain"
    hint: ClassVar[str] = "Put dates as they come, or months, onto days: a price holds until the next one."
    rank: ClassVar[int] = 2

    onto: Annotated[Onto, Field(title="grain")] = CalendarUnit.DAY
    between: Annotated[FinerBetween, Field(title="between two values")] = FinerBetween.HELD
    until: Annotated[FinerUntil, Field(title="where a line ends")] = FinerUntil.LAST

    def template(self) -> str:
        return "Put {@periods} onto {onto}; between two values {between}, up to {until}."

    def apply(self, state: State, entry_id: str) -> Outcome:
        grain = Grain(Unit(self.onto.value), 1, state.grain.week_start, state.grain.year_start, zone=state.grain.zone)
        if state.grain.unit is not Unit.MOMENT and COARSENESS[grain.unit] >= COARSENESS[state.grain.unit]:
            raise Refusal(
                f"{self.onto.label.capitalize()} are no finer than {state.grain.plural}.",
                todo="Choose a finer grain, or switch this entry off.",
            )
        at_least = None if self.until is FinerUntil.LAST else state.as_of
        reaches = [finer_reach(line, state.grain, grain, at_least) for line in state.lines]
        points = sum(last - first + 1 for first, last in reaches)
        state.budget.check_points(points, f"{len(reaches)} series in {grain.plural}", "Choose a coarser grain.")
        lines = []
        rows: list[Row] = []
        between = 0
        for line, reach in zip(state.lines, reaches, strict=True):
            placed = finer(line, state.grain, grain, reach)
            values = _FILLS[self.between](placed.value)
            gaps = np.isnan(placed.value) & ~np.isnan(values)
            lines.append(placed.marked(gaps, Condition.FILLED, entry_id, values))
            filled = int((lines[-1].condition == Condition.FILLED).sum())
            between += filled
            rows.append((line.name, int((~np.isnan(line.value)).sum()), len(placed), filled))
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
