"""The calendar: its grain, its range, its weekdays, and what an absent period means."""

from __future__ import annotations

from dataclasses import replace
from datetime import date
from typing import Annotated, ClassVar

import numpy as np
from pydantic import Field

from zembra.core.calendar.complete import Absent, Combine, Expected, complete
from zembra.core.calendar.grain import Grain, Unit, detect_grain
from zembra.core.errors import Refusal
from zembra.core.grammar import Choice, Word
from zembra.core.ledger.entry import Entry, Group, register
from zembra.core.ledger.state import Outcome, State, Table
from zembra.core.lines import Received

MOST_POINTS = 20_000_000


class Periods(Choice):
    DAY = ("day", "Days", "grain: one day")
    WEEK = ("week", "Weeks", "grain: one ISO week")
    MONTH = ("month", "Months", "grain: one month")
    QUARTER = ("quarter", "Quarters", "grain: three months")
    YEAR = ("year", "Years", "grain: one year")


class Weekday(Choice):
    MONDAY = ("mon", "Monday")
    TUESDAY = ("tue", "Tuesday")
    WEDNESDAY = ("wed", "Wednesday")
    THURSDAY = ("thu", "Thursday")
    FRIDAY = ("fri", "Friday")
    SATURDAY = ("sat", "Saturday")
    SUNDAY = ("sun", "Sunday")


ALL_WEEK = tuple(Weekday)


@register
class Calendar(Entry):
    kind: ClassVar[str] = "calendar"
    group: ClassVar[Group] = Group.CALENDAR
    title: ClassVar[str] = "Calendar"
    hint: ClassVar[str] = "Which periods are expected, and what a period without a row means."
    once: ClassVar[bool] = True

    grain: Annotated[Periods, Field(title="grain")] = Periods.DAY
    weekdays: Annotated[tuple[Weekday, ...], Field(title="weekdays expected", min_length=1), Word(spoken="span")] = (
        ALL_WEEK
    )
    start: Annotated[date | None, Field(title="first period"), Word(empty="each series' first row")] = None
    end: Annotated[date | None, Field(title="last period"), Word(empty="its last row")] = None
    absent: Annotated[Absent, Field(title="what a period without a row means")] = Absent.UNKNOWN

    def template(self) -> str:
        days = " {weekdays}," if self.grain is Periods.DAY else ""
        return f"{{grain}} run{days} from {{start}} to {{end}}; a {{@period}} with no row is {{absent}}."

    def apply(self, state: State, by: str) -> Outcome:
        if state.selection is None:
            raise Refusal("The calendar has nothing to work on.", todo="Put a source entry before it.")
        if self.start and self.end and self.end < self.start:
            raise Refusal(
                "The last period is before the first.", place=f"{self.start} to {self.end}", todo="Change one of them."
            )
        grain = Grain(Unit(self.grain.value))
        observations = state.observations
        frame = observations.frames[state.selection.measure]
        expected = Expected(grain, tuple(ALL_WEEK.index(day) for day in self.weekdays), self.start, self.end)
        _check_size(frame["when"].min(), frame["when"].max(), expected, len(observations.series))
        lines = complete(frame, observations.series, expected, Combine(state.selection.combine), self.absent, by)
        places = {name: n for n, name in enumerate(observations.series)}
        chosen = tuple(lines[places[name]] for name in state.selection.series)
        absent = sum(int((line.received == Received.ABSENT).sum()) for line in chosen)
        census = Table(
            "What was received",
            ("Series", "Periods", "Measured", "Blank", "Absent", "Unreadable", "Zeros"),
            tuple(
                (
                    line.name,
                    len(line),
                    *(int((line.received == kind).sum()) for kind in Received),
                    int((line.original == 0).sum()),
                )
                for line in chosen[:200]
            ),
        )
        return Outcome(replace(state, expected=expected, lines=chosen), absent, "absent", (census,))

    @classmethod
    def suggest(cls, state: State) -> Calendar:
        """The detected grain; weekdays on which no series ever has a row are left out."""
        frame = next(iter(state.observations.frames.values()))
        moments = frame["when"].unique().sort().to_numpy().astype("datetime64[s]")
        grain = detect_grain(moments)
        unit = grain.unit if grain.unit in {Unit(p.value) for p in Periods} else Unit.DAY
        weekdays = ALL_WEEK
        if unit is Unit.DAY:
            days = Grain(Unit.DAY)
            seen = np.bincount(days.weekdays(np.unique(days.periods(moments))), minlength=7)
            if seen.sum() >= 28:
                weekdays = tuple(day for day, count in zip(ALL_WEEK, seen, strict=True) if count)
        return cls(grain=Periods(unit.value), weekdays=weekdays)


def _check_size(first: object, last: object, expected: Expected, series: int) -> None:
    ends = [expected.start or first, expected.end or last]
    low, high = (expected.grain.period(end) for end in ends)  # type: ignore[arg-type]
    if (high - low + 1) * series > MOST_POINTS:
        raise Refusal(
            f"On this grain the calendar would hold {(high - low + 1) * series:,} points.",
            place=f"{expected.grain.label(low)} to {expected.grain.label(high)}, {series} series",
            todo="Choose a coarser grain or a shorter range.",
        )
