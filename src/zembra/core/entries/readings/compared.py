"""Compare a series with itself some periods, a season or a year before."""

from __future__ import annotations

from collections.abc import Sequence
from datetime import date
from typing import Annotated, ClassVar, Literal

import numpy as np
from pydantic import Field

from zembra.core.arithmetic.arrays import Ints, values_at
from zembra.core.calendar.grain import COARSENESS, Grain, Unit
from zembra.core.calendar.lines import Line
from zembra.core.calendar.months import CalendarUnit, shifted
from zembra.core.calendar.seasons import usual_season
from zembra.core.english import upper_first
from zembra.core.entries.shared.others import SeriesByName
from zembra.core.errors import Refusal
from zembra.core.grammar import Choice, Clause, Word
from zembra.core.ledger.entry import Group
from zembra.core.ledger.evidence import SERIES, count, measure, percent, table
from zembra.core.ledger.lineentry import Account, LineEntry, LineResult, rows_of
from zembra.core.ledger.registry import register
from zembra.core.ledger.shapes import Curve, shape_id
from zembra.core.ledger.state import State, Study


class Before(Clause):
    """What a line is compared with.

    itself: whether that is the line itself
    """

    itself: ClassVar[bool] = True

    def places(self, line: Line, study: Study) -> Ints:
        """Return the period that each period is compared with. Raises Refusal."""
        raise NotImplementedError

    def of(self, line: Line, study: Study) -> Line:
        """Return the line that those periods belong to."""
        return line

    def others(self, state: State, line: Line) -> tuple[Line, ...]:
        """Return other lines that this line depends on. Raises Refusal."""
        return ()

    def named(self, study: Study) -> str:
        raise NotImplementedError


class PeriodsBefore(Before):
    label: ClassVar[str] = "before, by periods"

    kind: Literal["periods"] = "periods"
    count: Annotated[int, Field(title="how many periods", ge=1, le=100_000), Word(usual="season")] = 7

    def template(self) -> str:
        return "{count} {@periods} {self}"

    def named(self, study: Study) -> str:
        return f"{self.count} {study.grain.plural if self.count > 1 else study.grain.singular} before"

    def places(self, line: Line, study: Study) -> Ints:
        return line.periods - self.count


class By(Choice):
    DATE = ("date", "by date")
    WEEKDAY = ("weekday", "by weekday", "52 weeks before, so that a Monday lies beside a Monday")


def years_before(grain: Grain, periods: Ints, years: int, by: By) -> Ints:
    """Return the periods so many years before, by date or by weekday."""
    starts = grain.days(periods).astype("datetime64[s]")
    if by is By.WEEKDAY:
        return grain.on_clock(shifted(starts, -52 * years, CalendarUnit.WEEK))
    return grain.on_clock(shifted(starts, -years, CalendarUnit.YEAR))


class YearBefore(Before):
    label: ClassVar[str] = "before, by the calendar"

    kind: Literal["year"] = "year"
    years: Annotated[int, Field(title="how many years", ge=1, le=100)] = 1
    by: Annotated[By, Field(title="aligned")] = By.DATE

    def template(self) -> str:
        return f"{{years}} {'year' if self.years == 1 else 'years'} {{self}}, aligned {{by}}"

    def named(self, study: Study) -> str:
        return "a year before" if self.years == 1 else f"{self.years} years before"

    def places(self, line: Line, study: Study) -> Ints:
        grain = study.grain
        if grain.unit is Unit.MOMENT:
            raise Refusal("Dates as they come have no day a year before.", todo="Put them on a calendar first.")
        if self.by is By.WEEKDAY and COARSENESS[grain.unit] > COARSENESS[Unit.WEEK]:
            raise Refusal(f"A {grain.singular} has no weekday.", todo="Align by date.")
        return years_before(grain, line.periods, self.years, self.by)


class StretchBefore(Before):
    label: ClassVar[str] = "from another start:"
    tip: ClassVar[str] = "two stretches laid over each other from a common start"

    kind: Literal["stretch"] = "stretch"
    start: Annotated[date | None, Field(title="where the earlier stretch starts"), Word(empty="no day yet")] = None
    onto: Annotated[date | None, Field(title="the day it is laid on"), Word(empty="no day yet")] = None

    def template(self) -> str:
        return "{self} the stretch from {start} laid on the one from {onto}"

    def named(self, study: Study) -> str:
        return f"from {study.grain.spoken(self._starts(study)[0])}"

    def places(self, line: Line, study: Study) -> Ints:
        start, onto = self._starts(study)
        return np.where(line.periods >= onto, line.periods - (onto - start), np.iinfo(np.int64).min)

    def _starts(self, study: Study) -> tuple[int, int]:
        if self.start is None or self.onto is None:
            raise Refusal("Two starts are needed.", todo="Choose the day each stretch starts on.")
        start, onto = (study.grain.span(day)[0] for day in (self.start, self.onto))
        if start >= onto:
            raise Refusal("The stretch that is laid over the other one starts before it.", todo="Swap the two days.")
        return start, onto


class ComparedSeries(SeriesByName, Before):
    itself: ClassVar[bool] = False
    needed: ClassVar[str] = "to lay it beside"

    def named(self, study: Study) -> str:
        return self.other or "the other series"

    def places(self, line: Line, study: Study) -> Ints:
        return line.periods

    def of(self, line: Line, study: Study) -> Line:
        return study.others[0]


AnyBefore = YearBefore | PeriodsBefore | StretchBefore | ComparedSeries


class Taken(Choice):
    DIFFERENCE = ("difference", "the difference")
    PERCENT = ("percent", "the difference in percent")


@register
class Compared(LineEntry):
    kind: ClassVar[str] = "compared"
    group: ClassVar[Group] = Group.READINGS
    title: ClassVar[str] = "Laid beside"
    hint: ClassVar[str] = "Itself a year, a season or some periods before, or another series; with the difference."
    rank: ClassVar[int] = 7

    before: Annotated[AnyBefore, Field(title="what it is laid beside", discriminator="kind")] = YearBefore()
    how: Annotated[Taken, Field(title="what is taken")] = Taken.DIFFERENCE

    def template(self) -> str:
        itself = "itself " if self.before.itself else ""
        return f"Lay {{series}} beside {itself}{{before}}, drawn pale, and take {{how}}."

    def works_on(self, line: Line) -> bool:
        return not (isinstance(self.before, ComparedSeries) and line.name == self.before.other)

    def others(self, state: State, line: Line) -> tuple[Line, ...]:
        return self.before.others(state, line)

    def on_line(self, line: Line, study: Study) -> LineResult:
        wanted = self.before.places(line, study)
        counted, other = line.counted, self.before.of(line, study)
        if not len(other):
            raise Refusal(f"{other.name} has no {study.grain.singular}.", todo="Choose another series.")
        earlier = values_at(other.periods, other.counted, wanted)
        away = counted - earlier
        with np.errstate(invalid="ignore", divide="ignore"):
            share = np.where(earlier != 0, 100 * away / np.abs(earlier), np.nan)
        known = ~np.isnan(away)
        if not known.any():
            if not self.before.itself:
                raise Refusal(f"{line.name} and {other.name} share no {study.grain.singular} with numbers.")
            raise Refusal(f"{line.name} does not reach back so far.", todo="Choose a shorter time.")
        name = self.before.named(study)
        preposition = "over" if self.how is Taken.DIFFERENCE else "over, in percent,"
        curves = (
            Curve(
                id=shape_id(study.entry_id, line.name, "before"),
                entry=study.entry_id,
                series=line.name,
                name=name,
                kind=self.kind,
                periods=line.periods,
                value=earlier,
                pale=np.ones(len(line), dtype=bool),
                strong=False,
                beside=True,
            ),
            Curve(
                id=shape_id(study.entry_id, line.name, "difference"),
                entry=study.entry_id,
                series=line.name,
                name=f"{preposition} {name}",
                kind=self.kind,
                periods=line.periods,
                value=away if self.how is Taken.DIFFERENCE else share,
                drawn=False,
            ),
        )
        here, there = float(counted[known].sum()), float(earlier[known].sum())
        total = 100 * (here - there) / abs(there) if there else None
        rows = ((line.name, int(known.sum()), float(away[known].mean()), here, there, total),)
        return LineResult(shapes=curves, touched=int(known.sum()), rows=rows)

    def account(self, made: Sequence[LineResult], study: Study) -> Account:
        columns = (
            SERIES,
            count("compared", f"{study.grain.plural.capitalize()} compared"),
            measure("mean", "Mean difference"),
            measure("here", "Sum of these"),
            measure("there", f"Sum {self.before.named(study)}"),
            percent("total", "Difference of the sums, %"),
        )
        rows = rows_of(made)
        return Account("compared", (table(upper_first(self.before.named(study)), columns, rows),))

    @classmethod
    def suggest(cls, state: State) -> Compared:
        first = state.lines[0] if state.lines else None
        name = (first.name,) if first else ()
        days = (int(first.periods[-1] - first.periods[0]) * state.grain.seconds / 86_400) if first and len(first) else 0
        if days > 400 and state.grain.unit is not Unit.MOMENT:
            return cls(series=name)
        return cls(series=name, before=PeriodsBefore(count=usual_season(state.expected) or 1))
