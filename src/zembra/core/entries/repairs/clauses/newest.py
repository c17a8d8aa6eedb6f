"""Rules for which of the newest periods are incomplete."""

from __future__ import annotations

from typing import Annotated, ClassVar, Literal

import numpy as np
from pydantic import Field

from zembra.core.arithmetic.arrays import Bools
from zembra.core.calendar.grain import COARSENESS, Grain, Unit
from zembra.core.calendar.lines import Line
from zembra.core.errors import Refusal
from zembra.core.grammar import Choice, Clause, Moment, Word
from zembra.core.ledger.state import Study


class CalendarSpan(Choice):
    WEEK = ("week", "week")
    MONTH = ("month", "month")
    QUARTER = ("quarter", "quarter")
    YEAR = ("year", "year")


class Newest(Clause):
    def where(self, line: Line, study: Study) -> Bools:
        """Return a mask of the incomplete points. Raises Refusal."""
        raise NotImplementedError


class LastFew(Newest):
    label: ClassVar[str] = "the last"
    tip: ClassVar[str] = "a fixed number of periods"

    kind: Literal["last"] = "last"
    last: Annotated[int, Field(title="how many", ge=1, le=10_000)] = 5

    def template(self) -> str:
        return "{self} {last} {@periods}"

    def where(self, line: Line, study: Study) -> Bools:
        known = np.flatnonzero(~np.isnan(line.value))
        return _from(line, max(0, int(known[-1]) - self.last + 1)) if known.size else _from(line, len(line))


class CurrentSpan(Newest):
    label: ClassVar[str] = "the current calendar"
    tip: ClassVar[str] = "the week, month, quarter or year of the as-of date"

    kind: Literal["current"] = "current"
    current: Annotated[CalendarSpan, Field(title="calendar span")] = CalendarSpan.MONTH

    def template(self) -> str:
        return "{self} {current}"

    def where(self, line: Line, study: Study) -> Bools:
        span = Grain(Unit(self.current.value), 1, study.grain.week_start, study.grain.year_start)
        if COARSENESS[span.unit] <= COARSENESS[study.grain.unit]:
            raise Refusal(
                f"The current {self.current.label} holds no more than one {study.grain.singular}.",
                todo="Choose a longer span, or a number of periods.",
            )
        return np.asarray(span.periods(study.grain.days(line.periods)) == span.period(study.as_of))


class EverySince(Newest):
    label: ClassVar[str] = "everything from"

    kind: Literal["since"] = "since"
    since: Annotated[Moment | None, Field(title="from"), Word(empty="no day yet")] = None

    def template(self) -> str:
        return "{self} {since} on"

    def where(self, line: Line, study: Study) -> Bools:
        if self.since is None:
            raise Refusal("No day is given from which periods are provisional.", todo="Choose the first one.")
        return np.asarray(line.periods >= study.grain.span(self.since)[0])


class FewRows(Newest):
    label: ClassVar[str] = "the newest, as long as they have few rows,"
    tip: ClassVar[str] = "rows a period compared with the usual"

    kind: Literal["few"] = "few"
    share: Annotated[float, Field(title="share of the usual rows", gt=0, le=100), Word(unit="%", step=5)] = 80.0

    def template(self) -> str:
        return "{self} fewer than {share} of the usual,"

    def where(self, line: Line, study: Study) -> Bools:
        if np.isnan(line.value).all():
            return _from(line, len(line))
        usual = float(np.median(line.row_count[line.row_count > 0])) if (line.row_count > 0).any() else 0.0
        full = np.flatnonzero(line.row_count >= usual * self.share / 100)
        return _from(line, int(full[-1]) + 1 if full.size else 0)


def _from(line: Line, place: int) -> Bools:
    tail = np.zeros(len(line), dtype=bool)
    tail[place:] = True
    return tail


NewestRule = LastFew | CurrentSpan | EverySince | FewRows
