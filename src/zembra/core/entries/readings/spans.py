"""Shade stretches of time: between two dates, or recurring each year or week."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Annotated, ClassVar, Literal

import numpy as np
from pydantic import Field

from zembra.core.arithmetic.arrays import Bools, runs
from zembra.core.calendar.grain import Unit
from zembra.core.calendar.lines import Line
from zembra.core.entries.shared.periodwords import Month, Weekday
from zembra.core.errors import Refusal
from zembra.core.grammar import Clause, Moment, Word
from zembra.core.ledger.entry import Group
from zembra.core.ledger.evidence import SERIES, count, measure, period, table
from zembra.core.ledger.lineentry import Account, LineEntry, LineResult, rows_of
from zembra.core.ledger.registry import register
from zembra.core.ledger.shapes import Span, shape_id
from zembra.core.ledger.state import State, Study

MOST_SPANS = 400


class When(Clause):
    def where(self, line: Line, study: Study) -> Bools:
        """Return a mask of the periods. Raises Refusal."""
        raise NotImplementedError


class BetweenDates(When):
    label: ClassVar[str] = "between two dates,"

    kind: Literal["dates"] = "dates"
    start: Annotated[Moment | None, Field(title="from"), Word(empty="the beginning")] = None
    end: Annotated[Moment | None, Field(title="to"), Word(empty="the end")] = None

    def template(self) -> str:
        return "{self} from {start} to {end}"

    def where(self, line: Line, study: Study) -> Bools:
        return study.grain.between(line.periods, self.start, self.end)


class EachYear(When):
    label: ClassVar[str] = "every year in"

    kind: Literal["months"] = "months"
    months: Annotated[tuple[Month, ...], Field(title="months", min_length=1), Word(spoken="span")] = (Month.AUGUST,)

    def template(self) -> str:
        return "{self} {months}"

    def where(self, line: Line, study: Study) -> Bools:
        return np.isin(study.grain.months(line.periods) + 1, [int(month.value) for month in self.months])


class EachWeek(When):
    label: ClassVar[str] = "every week on"

    kind: Literal["weekdays"] = "weekdays"
    weekdays: Annotated[tuple[Weekday, ...], Field(title="weekdays", min_length=1), Word(spoken="span")] = (
        Weekday.SATURDAY,
        Weekday.SUNDAY,
    )

    def template(self) -> str:
        return "{self} {weekdays}"

    def where(self, line: Line, study: Study) -> Bools:
        if study.grain.seconds > 86_400 and study.grain.unit is not Unit.MOMENT:
            raise Refusal(f"A {study.grain.singular} has no weekday.", todo="Choose dates or months.")
        wanted = [tuple(Weekday).index(day) for day in self.weekdays]
        return np.isin(study.grain.weekdays(line.periods), wanted)


AnyWhen = BetweenDates | EachYear | EachWeek


@register
class Spans(LineEntry):
    kind: ClassVar[str] = "span"
    group: ClassVar[Group] = Group.READINGS
    title: ClassVar[str] = "Shaded span"
    hint: ClassVar[str] = "A stretch of time with a name, once or coming back; with what was usual in it and outside."
    rank: ClassVar[int] = 8

    when: Annotated[AnyWhen, Field(title="when", discriminator="kind")] = BetweenDates()
    named: Annotated[str, Field(title="name", max_length=60), Word(empty="nothing")] = ""

    def template(self) -> str:
        return "Shade {when}, called {named}, and tell it for {series}."

    def on_line(self, line: Line, study: Study) -> LineResult:
        inside = self.when.where(line, study)
        found = runs(inside)
        values = line.counted
        mean_in, mean_out = (_mean(values[mask]) for mask in (inside, ~inside))
        ends = np.array([(first, end - 1) for first, end in found[:1]], dtype=np.int64).ravel()
        first, last = study.grain.labels(line.periods[ends]) if ends.size else (None, None)
        known = int((inside & ~np.isnan(values)).sum())
        return LineResult(
            shapes=tuple(
                Span(
                    id=shape_id(study.entry_id, line.name, f"span {n}"),
                    entry=study.entry_id,
                    series=line.name,
                    name=self.named,
                    first=int(line.periods[start]),
                    last=int(line.periods[end - 1]),
                )
                for n, (start, end) in enumerate(found[:MOST_SPANS])
            ),
            touched=known,
            rows=((line.name, len(found), first, last, known, mean_in, mean_out),),
        )

    def account(self, made: Sequence[LineResult], study: Study) -> Account:
        if not any(effect.shapes for effect in made):
            raise Refusal("No period lies within it.", todo="Choose another time.")
        columns = (
            SERIES,
            count("spans", "Spans"),
            period("first", "First from"),
            period("last", "to"),
            count("inside", f"{study.grain.plural.capitalize()} inside with a number"),
            measure("mean_in", "Mean inside"),
            measure("mean_out", "Mean outside"),
        )
        rows = rows_of(made)
        return Account(f"{study.grain.plural} inside", (table(self.named or "Shaded span", columns, rows),))

    @classmethod
    def suggest(cls, state: State) -> Spans:
        first = (state.lines[0].name,) if state.lines else ()
        return cls(series=first, when=EachYear() if state.grain.seconds > 86_400 else EachWeek())


def _mean(values: np.ndarray) -> float | None:
    known = values[~np.isnan(values)]
    return float(known.mean()) if known.size else None
