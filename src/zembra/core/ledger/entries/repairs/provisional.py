"""The newest periods, not yet complete: drawn striped, and by default not counted."""

from __future__ import annotations

from typing import Annotated, ClassVar

import numpy as np
from pydantic import Field

from zembra.core.arrays import Bools
from zembra.core.calendar.grain import COARSENESS, Grain, Unit
from zembra.core.errors import Refusal
from zembra.core.grammar import Choice, Moment, Word
from zembra.core.ledger.effect import effect_table
from zembra.core.ledger.entry import Entry, Group, register
from zembra.core.ledger.state import Cell, Outcome, State, Table
from zembra.core.lines import Condition, Line, provisional_too


class Newest(Choice):
    LAST = ("last", "the last", "a fixed number of periods")
    CURRENT = ("current", "the current calendar", "the week, month, quarter or year of the as-of date")
    SINCE = ("since", "everything from")
    FEW = ("few", "the newest, as long as they have few rows,", "rows a period compared with the usual")


class Span(Choice):
    WEEK = ("week", "week")
    MONTH = ("month", "month")
    QUARTER = ("quarter", "quarter")
    YEAR = ("year", "year")


@register
class Provisional(Entry):
    kind: ClassVar[str] = "provisional"
    group: ClassVar[Group] = Group.REPAIRS
    title: ClassVar[str] = "Provisional tail"
    hint: ClassVar[str] = "The newest periods are not all in yet: drawn striped, by default not counted."
    rank: ClassVar[int] = 4

    rule: Annotated[Newest, Field(title="which periods")] = Newest.LAST
    last: Annotated[int, Field(title="how many", ge=1, le=10_000)] = 5
    current: Annotated[Span, Field(title="calendar span")] = Span.MONTH
    since: Annotated[Moment | None, Field(title="from"), Word(empty="no day yet")] = None
    share: Annotated[float, Field(title="share of the usual rows", gt=0, le=100), Word(unit="%", step=5)] = 80.0
    series: Annotated[tuple[str, ...], Field(title="series"), Word(options="lines", empty="every series")] = ()

    def template(self) -> str:
        which = {
            Newest.LAST: "{rule} {last} {@periods}",
            Newest.CURRENT: "{rule} {current}",
            Newest.SINCE: "{rule} {since} on",
            Newest.FEW: "{rule} fewer than {share} of the usual,",
        }[self.rule]
        return f"Treat {which} of {{series}} as provisional: drawn striped, and not counted unless a reading says so."

    def apply(self, state: State, by: str) -> Outcome:
        before = state.lines
        rows: list[tuple[Cell, ...]] = []
        touched = 0
        for place in state.chosen(self.series):
            line = state.lines[place]
            where = self._where(state, line) & ~np.isnan(line.value) & (line.condition != Condition.SET_ASIDE)
            count = int(where.sum())
            first = state.grain.label(int(line.periods[np.argmax(where)])) if count else None
            rows.append((line.name, count, first))
            touched += count
            if count:
                state = state.with_line(place, provisional_too(line, where, by))
        evidence = Table("Not yet complete", ("Series", f"Provisional {state.grain.plural}", "From"), tuple(rows))
        return Outcome(state, touched, "provisional", (evidence, *effect_table(before, state)))

    def _where(self, state: State, line: Line) -> Bools:
        if self.rule is Newest.SINCE:
            if self.since is None:
                raise Refusal("No day is given from which periods are provisional.", todo="Choose the first one.")
            return np.asarray(line.periods >= state.grain.span(self.since)[0])
        if self.rule is Newest.CURRENT:
            return self._in_current(state, line)
        known = np.flatnonzero(~np.isnan(line.value))
        tail = np.zeros(len(line), dtype=bool)
        if known.size == 0:
            return tail
        if self.rule is Newest.LAST:
            tail[max(0, int(known[-1]) - self.last + 1) :] = True
            return tail
        usual = float(np.median(line.row_count[line.row_count > 0])) if (line.row_count > 0).any() else 0.0
        full = np.flatnonzero(line.row_count >= usual * self.share / 100)
        tail[int(full[-1]) + 1 if full.size else 0 :] = True
        return tail

    def _in_current(self, state: State, line: Line) -> Bools:
        span = Grain(Unit(self.current.value), 1, state.grain.week_start, state.grain.year_start)
        if COARSENESS[span.unit] <= COARSENESS[state.grain.unit]:
            raise Refusal(
                f"The current {self.current.label} holds no more than one {state.grain.singular}.",
                todo="Choose a longer span, or a number of periods.",
            )
        return np.asarray(span.periods(state.grain.starts(line.periods)) == span.period(state.as_of))
