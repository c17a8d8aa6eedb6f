"""The calendar: its grain, its range, the days expected, and what an absent period means."""

from __future__ import annotations

from dataclasses import replace
from datetime import date, datetime
from typing import Annotated, ClassVar

import numpy as np
import polars as pl
from pydantic import Field

from zembra.core.calendar.closed import public_holidays
from zembra.core.calendar.complete import Absent, Combine, Expected, Range, Span, Until, moments_for
from zembra.core.calendar.grain import COARSENESS, Grain, Unit, detect_grain
from zembra.core.errors import Refusal
from zembra.core.grammar import Choice, Word
from zembra.core.intake.observe import EVENTS
from zembra.core.ledger.entries.zeros import zeros_offer
from zembra.core.ledger.entry import Entry, Group, register
from zembra.core.ledger.state import Completing, Outcome, State, Table
from zembra.core.lines import Line, Quantity, Received

MOST_POINTS = 20_000_000


class Periods(Choice):
    MINUTE = ("minute", "Minutes", "grain: one minute")
    MINUTE_2 = ("2-minute", "Two minutes", "grain: two minutes")
    MINUTE_5 = ("5-minute", "Five minutes", "grain: five minutes")
    MINUTE_10 = ("10-minute", "Ten minutes", "grain: ten minutes")
    MINUTE_15 = ("15-minute", "Quarter hours", "grain: fifteen minutes")
    MINUTE_20 = ("20-minute", "Twenty minutes", "grain: twenty minutes")
    MINUTE_30 = ("30-minute", "Half hours", "grain: thirty minutes")
    HOUR = ("hour", "Hours", "grain: one hour")
    HOUR_2 = ("2-hour", "Two hours", "grain: two hours")
    HOUR_3 = ("3-hour", "Three hours", "grain: three hours")
    HOUR_4 = ("4-hour", "Four hours", "grain: four hours")
    HOUR_6 = ("6-hour", "Six hours", "grain: six hours")
    HOUR_8 = ("8-hour", "Eight hours", "grain: eight hours")
    HOUR_12 = ("12-hour", "Half days", "grain: twelve hours")
    DAY = ("day", "Days", "grain: one day")
    DAY_2 = ("2-day", "Every second day", "grain: two days")
    DAY_5 = ("5-day", "Five days", "grain: five days")
    DAY_8 = ("8-day", "Eight days", "grain: eight days")
    DAY_10 = ("10-day", "Ten days", "grain: ten days")
    WEEK = ("week", "Weeks", "grain: seven days")
    WEEK_2 = ("2-week", "Two weeks", "grain: fourteen days")
    WEEK_4 = ("4-week", "Four weeks", "grain: twenty-eight days")
    MONTH = ("month", "Months", "grain: one month")
    MONTH_2 = ("2-month", "Two months", "grain: two months")
    QUARTER = ("quarter", "Quarters", "grain: three months")
    MONTH_4 = ("4-month", "Four months", "grain: four months")
    MONTH_6 = ("6-month", "Half-years", "grain: six months")
    YEAR = ("year", "Years", "grain: twelve months")
    YEAR_2 = ("2-year", "Every second year", "grain: two years")
    YEAR_4 = ("4-year", "Every fourth year", "grain: four years")
    YEAR_5 = ("5-year", "Five years", "grain: five years")
    YEAR_10 = ("10-year", "Ten years", "grain: ten years")
    MOMENT = ("moment", "Dates as they come", "no calendar: nothing is expected, so nothing is absent")

    @property
    def unit(self) -> Unit:
        return Unit(self.value.split("-")[-1])

    @property
    def step(self) -> int:
        return int(self.value.split("-")[0]) if "-" in self.value else 1

    @classmethod
    def of(cls, grain: Grain) -> Periods:
        return cls(grain.unit.value if grain.step == 1 else f"{grain.step}-{grain.unit.value}")


class Weekday(Choice):
    MONDAY = ("mon", "Monday")
    TUESDAY = ("tue", "Tuesday")
    WEDNESDAY = ("wed", "Wednesday")
    THURSDAY = ("thu", "Thursday")
    FRIDAY = ("fri", "Friday")
    SATURDAY = ("sat", "Saturday")
    SUNDAY = ("sun", "Sunday")


class Month(Choice):
    JANUARY = ("1", "January")
    FEBRUARY = ("2", "February")
    MARCH = ("3", "March")
    APRIL = ("4", "April")
    MAY = ("5", "May")
    JUNE = ("6", "June")
    JULY = ("7", "July")
    AUGUST = ("8", "August")
    SEPTEMBER = ("9", "September")
    OCTOBER = ("10", "October")
    NOVEMBER = ("11", "November")
    DECEMBER = ("12", "December")


class Drawn(Choice):
    START = ("start", "start")
    END = ("end", "end")


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
    week_start: Annotated[Weekday, Field(title="first day of a week")] = Weekday.MONDAY
    year_start: Annotated[Month, Field(title="first month of a year")] = Month.JANUARY
    drawn: Annotated[Drawn, Field(title="where a period is drawn")] = Drawn.START
    closed: Annotated[tuple[date, ...], Field(title="closed days"), Word(empty="no days", spoken="shortened")] = ()
    holidays: Annotated[
        str | None,
        Field(title="country whose public holidays are closed"),
        Word(options="countries", empty="no"),
    ] = None
    span: Annotated[Span, Field(title="where lines begin")] = Span.OWN
    start: Annotated[date | None, Field(title="first day"), Word(empty="no day yet")] = None
    until: Annotated[Until, Field(title="where lines end")] = Until.OWN
    end: Annotated[date | None, Field(title="last day"), Word(empty="no day yet")] = None
    absent: Annotated[Absent, Field(title="what a period without a row means")] = Absent.UNKNOWN
    zero_for: Annotated[
        tuple[str, ...], Field(title="series in which it means zero"), Word(options="series", empty="no series")
    ] = ()
    closed_for: Annotated[
        tuple[str, ...], Field(title="series in which it means closed"), Word(options="series", empty="no series")
    ] = ()

    def template(self) -> str:
        unit = self.grain.unit
        if unit is Unit.MOMENT:
            return "{grain} are kept; none is expected, so none is absent."
        about = ""
        if unit in (Unit.MINUTE, Unit.HOUR, Unit.DAY):
            about = " {weekdays}, {closed} and {holidays} public holidays closed,"
        elif unit is Unit.WEEK:
            about = " from {week_start} on, drawn at their {drawn},"
        elif unit is Unit.MONTH:
            about = ", drawn at their {drawn},"
        else:
            about = " of a year that starts in {year_start}, drawn at their {drawn},"
        begin = "{span}, {start}," if self.span is Span.GIVEN else "{span}"
        finish = "{until}, {end}" if self.until is Until.GIVEN else "{until}"
        return (
            f"{{grain}} run{about} from {begin} to {finish}; {{@a_period}} with no row is {{absent}}, "
            "zero in {zero_for}, closed in {closed_for}."
        )

    def apply(self, state: State, by: str) -> Outcome:
        if state.selection is None:
            raise Refusal("The calendar has nothing to work on.", todo="Put a source entry before it.")
        if self.start and self.end and self.end < self.start:
            raise Refusal(
                "The last period is before the first.", place=f"{self.start} to {self.end}", todo="Change one of them."
            )
        grain = Grain(
            self.grain.unit,
            self.grain.step,
            week_start=ALL_WEEK.index(self.week_start),
            year_start=int(self.year_start),
            zone=state.observations.zone if self.grain.unit in (Unit.HOUR, Unit.MINUTE) else None,
        )
        observations = state.observations
        frame = moments_for(observations.frames[state.selection.measure], grain)
        grain = _in_step(grain, frame)
        first, last = frame["when"].min(), frame["when"].max()
        ends = [self.start if self.span is Span.GIVEN else None, self.end if self.until is Until.GIVEN else None]
        low, high = (grain.period(end or moment) for end, moment in zip(ends, (first, last), strict=True))  # type: ignore[arg-type]
        _check_size(grain, low, high, len(observations.series))
        expected = Expected(
            grain,
            tuple(ALL_WEEK.index(day) for day in self.weekdays),
            self._closed_days(int(str(first)[:4]), max(int(str(last)[:4]), state.as_of.year) + 2),
            at_end=self.drawn is Drawn.END,
        )
        span = Range(state.as_of, self.span, self.until, self.start, self.end)
        completing = Completing(expected, span, self._absent_in, by)
        chosen_by = state.selection
        lines = completing.complete(frame, observations.series, chosen_by.combine, chosen_by.exceptions)
        places = {name: n for n, name in enumerate(observations.series)}
        chosen = tuple(replace(lines[places[name]], quantity=_quantity(state, name)) for name in chosen_by.series)
        absent = sum(int(np.count_nonzero(line.received == Received.ABSENT.value)) for line in chosen)
        state = replace(state, expected=expected, lines=chosen, calendar=completing)
        warned = _moved(state.frame, frame)
        return Outcome(state, absent, "absent", (_census(chosen),), warned, zeros_offer(state))

    def _absent_in(self, series: str) -> Absent:
        if series in self.zero_for:
            return Absent.ZERO
        return Absent.CLOSED if series in self.closed_for else self.absent

    def _closed_days(self, first_year: int, last_year: int) -> frozenset[date]:
        public = public_holidays(self.holidays, first_year, last_year) if self.holidays else frozenset()
        return frozenset(self.closed) | public

    @classmethod
    def suggest(cls, state: State) -> Calendar:
        """The detected grain; weekdays on which no series ever has a row are left out."""
        measure = next(iter(state.observations.frames))
        frame = state.observations.frames[measure]
        moments = frame["when"].unique().to_numpy().astype("datetime64[s]")
        events = measure == EVENTS
        grain = detect_grain(moments)
        if events and COARSENESS[grain.unit] < COARSENESS[Unit.DAY]:
            grain = Grain(Unit.DAY)
        weekdays = ALL_WEEK
        if grain.unit in (Unit.DAY, Unit.HOUR, Unit.MINUTE) and not events:
            days = Grain(Unit.DAY)
            seen = np.bincount(days.weekdays(np.unique(days.periods(moments))), minlength=7)
            if seen.sum() >= 28:
                weekdays = tuple(day for day, count in zip(ALL_WEEK, seen, strict=True) if count)
        return cls(
            grain=Periods.of(grain),
            weekdays=weekdays,
            week_start=ALL_WEEK[grain.week_start],
            year_start=Month(str(grain.year_start)),
            absent=Absent.ZERO if events else Absent.UNKNOWN,
            until=Until.WHOLE if events else Until.OWN,
            span=Span.WHOLE if events else Span.OWN,
        )


def _moved(came: pl.DataFrame, put: pl.DataFrame) -> tuple[str, ...]:
    """What is said where stamps were put on their step."""
    if came is put or "wall" in came.columns:
        return ()
    off = (put["when"] - came["when"]).dt.total_milliseconds().abs()
    count = int((off > 0).sum())
    if not count:
        return ()
    most = float(off.max() or 0) / 1000  # type: ignore[arg-type]
    return (f"{count} stamps are put on their step; they were off by up to {most:g} s.",)


def _quantity(state: State, series: str) -> Quantity:
    """What a series counts, before anything is made of it."""
    selection, observations = state.selection, state.observations
    assert selection is not None
    combine = selection.exceptions.get(series, selection.combine)
    unit = observations.unit_of(selection.measure, series)
    if combine is Combine.COUNT:
        return Quantity("rows" if selection.measure != EVENTS else EVENTS, "", True)
    # a chart of several columns has no one name
    name = "" if series in observations.columns and len(observations.columns) > 1 else selection.measure
    return Quantity(name, unit, combine is Combine.SUM)


def _in_step(grain: Grain, frame: pl.DataFrame) -> Grain:
    """A grain of several units begins where the first row stands."""
    first = frame["when"].min()
    if grain.step == 1 or grain.unit is Unit.MINUTE or not isinstance(first, datetime):
        return grain
    unit = replace(grain, step=1).period(first)
    return replace(grain, phase=unit % grain.step)


def _census(lines: tuple[Line, ...]) -> Table:
    return Table(
        "What was received",
        ("Series", "Periods", "Measured", "Blank", "Absent", "Unreadable", "Zeros", "Rows combined"),
        tuple(
            (
                line.name,
                len(line),
                *np.bincount(line.received, minlength=len(Received)).tolist(),
                int(np.count_nonzero(line.original == 0)),
                int(line.row_count[line.row_count > 1].sum()),
            )
            for line in lines[:200]
        ),
    )


def _check_size(grain: Grain, low: int, high: int, series: int) -> None:
    if grain.unit is not Unit.MOMENT and (high - low + 1) * series > MOST_POINTS:
        raise Refusal(
            f"On this grain the calendar would hold {(high - low + 1) * series:,} points.",
            place=f"{grain.label(low)} to {grain.label(high)}, {series} series",
            todo="Choose a coarser grain or a shorter range.",
        )
