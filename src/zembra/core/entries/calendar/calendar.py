"""Put observations on a calendar: its grain, range and expected days, and the meaning of a missing period."""

from __future__ import annotations

import math
from dataclasses import replace
from datetime import date
from typing import Annotated, ClassVar

import numpy as np
import polars as pl
from pydantic import Field

from zembra.core.calendar.budget import Budget
from zembra.core.calendar.closed import public_holidays
from zembra.core.calendar.complete import Absent, Combine, Expected, Range, Span, Until, moments_for
from zembra.core.calendar.grain import COARSENESS, Grain, Unit, detect_grain
from zembra.core.calendar.lines import Line, Quantity, Received
from zembra.core.calendar.sensible import in_step, sensible_grain
from zembra.core.english import number
from zembra.core.entries.repairs.zeros import zeros_offer
from zembra.core.entries.shared.periodwords import ALL_WEEK, Drawn, Month, Periods, Weekday
from zembra.core.errors import Refusal
from zembra.core.grammar import Word
from zembra.core.intake.observe import EVENTS
from zembra.core.ledger.entry import Entry, Group
from zembra.core.ledger.evidence import SERIES, Table, count
from zembra.core.ledger.registry import register
from zembra.core.ledger.state import Additions, Completing, Offer, Outcome, State
from zembra.core.projection.ahead import MOST_AHEAD


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
        Field(title="country, or part of one, whose public holidays are closed"),
        Word(options="places", empty="no"),
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
            about = " {weekdays}[, {closed} and {holidays} public holidays closed]"
        elif unit is Unit.WEEK:
            about = " from {week_start} on[, drawn at their {drawn}]"
        elif unit is Unit.MONTH:
            about = "[, drawn at their {drawn}]"
        else:
            about = "[ of a year that starts in {year_start}][, drawn at their {drawn}]"
        begin = "{span}, {start}," if self.span is Span.GIVEN else "{span}"
        finish = "{until}, {end}" if self.until is Until.GIVEN else "{until}"
        return (
            f"{{grain}} run{about}[, from {begin} to {finish}]; {{@a_period}} with no row is {{absent}}"
            "[, zero in {zero_for}, closed in {closed_for}]."
        )

    def apply(self, state: State, entry_id: str) -> Outcome:
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
        grain = in_step(grain, frame)
        first, last = frame["when"].min(), frame["when"].max()
        ends = [self.start if self.span is Span.GIVEN else None, self.end if self.until is Until.GIVEN else None]
        low, high = (grain.period(end or moment) for end, moment in zip(ends, (first, last), strict=True))  # type: ignore[arg-type]
        if self.until is Until.AS_OF:
            high = max(high, grain.span(state.as_of)[1])
        _check_size(grain, low, high, len(observations.series), state.budget)
        expected = Expected(
            grain,
            tuple(ALL_WEEK.index(day) for day in self.weekdays),
            self._closed_days(int(str(first)[:4]), max(int(str(last)[:4]), state.as_of.year) + self._years_ahead),
            at_end=self.drawn is Drawn.END,
        )
        span = Range(state.as_of, self.span, self.until, self.start, self.end)
        completing = Completing(expected, span, self._absent_in, entry_id)
        chosen_by = state.selection
        lines = completing.complete(frame, observations.series, chosen_by.combine, chosen_by.exceptions)
        places = {name: n for n, name in enumerate(observations.series)}
        chosen = tuple(replace(lines[places[name]], quantity=_quantity(state, name)) for name in chosen_by.series)
        absent = sum(int(np.count_nonzero(line.received == Received.ABSENT.value)) for line in chosen)
        adds = Additions(expected=expected, lines=chosen, calendar=completing)
        after = adds.onto(state)
        warned = _moved(state.frame, frame)
        offers = (*self._zero_ends(after), *zeros_offer(after))
        return Outcome(adds, absent, "absent", (_census(chosen),), warnings=warned, offers=offers)

    def _zero_ends(self, state: State) -> tuple[Offer, ...]:
        """Offer zeros between each series' own first and last row only, where a missing row means zero."""
        if self.span is not Span.OWN and self.until is not Until.OWN:
            return ()
        lines = [line for line in state.lines if len(line) and self._absent_in(line.name) is Absent.ZERO]
        every = [line for line in state.lines if len(line)]
        if not lines:
            return ()
        first = min(int(line.periods[0]) for line in every)
        last = max(int(line.periods[-1]) for line in every)
        outside = sum(int(line.periods[0]) - first + last - int(line.periods[-1]) for line in lines)
        if not outside:
            return ()
        words = {"span": Span.WHOLE.value, "until": Until.WHOLE.value}
        sentence = (
            f"No row means zero from each series' own first row to its last: {number(outside)} {state.nouns['periods']} "
            "before or after these get no zero."
        )
        return (Offer(sentence, "From the first row of any to the last", self.kind, words, change=True),)

    def _absent_in(self, series: str) -> Absent:
        if series in self.zero_for:
            return Absent.ZERO
        return Absent.CLOSED if series in self.closed_for else self.absent

    @property
    def _years_ahead(self) -> int:
        """Number of years after the data for which public holidays are needed, as far as anything can be projected."""
        return 1 + math.ceil(MOST_AHEAD * 7 / len(self.weekdays) / 365)

    def _closed_days(self, first_year: int, last_year: int) -> frozenset[date]:
        public = public_holidays(self.holidays, first_year, last_year) if self.holidays else frozenset()
        return frozenset(self.closed) | public

    @classmethod
    def suggest(cls, state: State) -> Calendar:
        """Suggest the detected grain, without weekdays on which no series ever has a row."""
        measure = next(iter(state.observations.frames))
        frame = state.observations.frames[measure]
        moments = frame["when"].unique().to_numpy().astype("datetime64[s]")
        # a weekday is one of the clock on the wall
        shown = frame["wall"].unique().to_numpy().astype("datetime64[s]") if "wall" in frame.columns else moments
        events = measure == EVENTS
        grain = detect_grain(moments)
        if events and COARSENESS[grain.unit] < COARSENESS[Unit.DAY]:
            grain = Grain(Unit.DAY)
        grain = sensible_grain(grain, moments, len(state.observations.series), state.budget)
        weekdays = ALL_WEEK
        if grain.unit in (Unit.DAY, Unit.HOUR, Unit.MINUTE) and not events:
            days = Grain(Unit.DAY)
            seen = np.bincount(days.weekdays(np.unique(days.periods(shown))), minlength=7)
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
    """Report that time stamps were snapped to their step."""
    if came is put or "wall" in came.columns:
        return ()
    off = (put["when"] - came["when"]).dt.total_milliseconds().abs()
    count = int((off > 0).sum())
    if not count:
        return ()
    most = float(off.max() or 0) / 1000  # type: ignore[arg-type]
    return (f"{count} stamps are put on their step; they were off by up to {most:g} s.",)


def _quantity(state: State, series: str) -> Quantity:
    """Return what a series counts, before any entry changes it."""
    selection, observations = state.selection, state.observations
    assert selection is not None
    combine = selection.exceptions.get(series, selection.combine)
    unit = observations.unit_of(selection.measure, series)
    if combine is Combine.COUNT:
        return Quantity("rows" if selection.measure != EVENTS else EVENTS, "", True)
    # a chart of several columns has no single name
    name = "" if series in observations.columns and len(observations.columns) > 1 else selection.measure
    return Quantity(name, unit, combine is Combine.SUM)


def _census(lines: tuple[Line, ...]) -> Table:
    return Table(
        "What was received",
        (
            SERIES,
            count("periods", "Periods"),
            *(count(kind.word, kind.word.capitalize()) for kind in Received),
            count("zeros", "Zeros"),
            count("combined", "Rows combined"),
        ),
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


def _check_size(grain: Grain, low: int, high: int, series: int, budget: Budget) -> None:
    if grain.unit is not Unit.MOMENT:
        place = f"{grain.spoken(low)} to {grain.spoken(high)}, {series} series"
        budget.check_points((high - low + 1) * series, place, "Choose a coarser grain or a shorter range.")
