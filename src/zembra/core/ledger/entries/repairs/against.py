"""A series set against another one, or against a target: difference, ratio, percent of."""

from __future__ import annotations

from typing import Annotated, ClassVar

import numpy as np
from pydantic import Field, field_validator

from zembra.core.arithmetic.totals import ratio
from zembra.core.arrays import Bools, Floats
from zembra.core.errors import Refusal
from zembra.core.grammar import Choice, Word
from zembra.core.ledger.derived import Place, derived, on_periods_of, placed
from zembra.core.ledger.effect import effect_table
from zembra.core.ledger.entries.calendar.source import nature_of_measure
from zembra.core.ledger.entry import Entry, Group, register
from zembra.core.ledger.state import Cell, Outcome, State, Table
from zembra.core.lines import Line, Quantity


class Against(Choice):
    SERIES = ("series", "the series")
    NUMBER = ("number", "the target")
    MONTHS = ("months", "a target for each month,", "twelve numbers, January first")
    MEASURE = ("measure", "another column of the file,")


class How(Choice):
    DIFFERENCE = ("difference", "the difference")
    RATIO = ("ratio", "the ratio")
    PERCENT = ("percent", "percent of it")


@register
class SetAgainst(Entry):
    kind: ClassVar[str] = "against"
    group: ClassVar[Group] = Group.REPAIRS
    title: ClassVar[str] = "Set against"
    hint: ClassVar[str] = "Another series, a target or a column: difference, ratio, percent of."
    rank: ClassVar[int] = 8

    series: Annotated[tuple[str, ...], Field(title="series"), Word(options="lines", empty="every series")] = ()
    against: Annotated[Against, Field(title="what it is set against")] = Against.NUMBER
    other: Annotated[str | None, Field(title="the other series"), Word(options="lines", empty="none yet")] = None
    number: Annotated[float, Field(title="target", allow_inf_nan=False)] = 100.0
    months: Annotated[tuple[float, ...], Field(title="twelve targets, January first")] = (100.0,) * 12
    measure: Annotated[str | None, Field(title="column"), Word(options="measures", empty="none yet")] = None
    how: Annotated[How, Field(title="how")] = How.DIFFERENCE
    place: Annotated[Place, Field(title="where it goes")] = Place.BESIDE

    @field_validator("months")
    @classmethod
    def _a_year(cls, months: tuple[float, ...]) -> tuple[float, ...]:
        if len(months) != 12 or not all(np.isfinite(months)):
            raise ValueError("twelve numbers are needed, January first")
        return months

    def template(self) -> str:
        what = {
            Against.SERIES: "{other}",
            Against.NUMBER: "{number}",
            Against.MONTHS: "{months}",
            Against.MEASURE: "{measure}",
        }
        return f"Set {{series}} against {{against}} {what[self.against]}: take {{how}}, {{place}}."

    def apply(self, state: State, by: str) -> Outcome:
        before = state.lines
        rows: list[tuple[Cell, ...]] = []
        points = 0
        for place in state.chosen(self.series):
            line = state.lines[place]
            if self.against is Against.SERIES and line.name == self.other:
                continue
            theirs, parents = self._theirs(state, line)
            values, zero = self._compared(line.countable(provisional=True), theirs)
            blank: list[tuple[Bools, str]] = [
                (zero, "division by zero"),
                (np.isnan(line.countable(provisional=True)), f"{line.name} has no number"),
                (np.isnan(theirs), "what it is set against has no number"),
            ]
            made = derived(line, values, by, self._quantity(line), parents=parents, because=blank)
            known = int((~np.isnan(values)).sum())
            points += known
            rows.append((line.name, known, int(len(line) - known), int(zero.sum())))
            state = placed(state, place, made, self.place, f"{line.name}, {self._told()}")
        if not rows:
            raise Refusal("A series set against itself says nothing.", todo="Choose another one.")
        columns = ("Series", "With a value", "Blank", "Of these divisions by zero")
        evidence = Table("Set against", columns, tuple(rows))
        return Outcome(state, points, "values", (evidence, *effect_table(before, state)))

    @classmethod
    def suggest(cls, state: State) -> SetAgainst:
        if len(state.lines) > 1:
            return cls(series=(state.lines[0].name,), against=Against.SERIES, other=state.lines[1].name)
        values = state.lines[0].counted if state.lines else np.array([np.nan])
        middle = float(np.nanmedian(values)) if (~np.isnan(values)).any() else 100.0
        return cls(number=float(f"{middle:.3g}"))

    def _compared(self, mine: Floats, theirs: Floats) -> tuple[Floats, Bools]:
        """(the comparison, where it would divide by zero)."""
        if self.how is How.DIFFERENCE:
            return mine - theirs, np.zeros(mine.size, dtype=bool)
        return ratio(mine * (100 if self.how is How.PERCENT else 1), theirs)

    def _quantity(self, line: Line) -> Quantity:
        old, told = line.quantity, self._told()
        if self.how is How.DIFFERENCE:
            return Quantity(f"{old.name or line.name} {told}", old.unit)
        return Quantity(f"{old.name or line.name}, {told}", "%" if self.how is How.PERCENT else "")

    def _told(self) -> str:
        other = {Against.SERIES: self.other, Against.MEASURE: self.measure}.get(self.against) or "target"
        return {How.DIFFERENCE: f"over {other}", How.RATIO: f"to {other}", How.PERCENT: f"percent of {other}"}[self.how]

    def _theirs(self, state: State, line: Line) -> tuple[Floats, list[Line]]:
        """(the numbers set against, the lines they come from, on the periods of `line`)."""
        if self.against is Against.NUMBER:
            return np.full(len(line), self.number), []
        if self.against is Against.MONTHS:
            months = state.grain.starts(line.periods).astype("datetime64[M]").astype(np.int64) % 12
            return np.asarray(self.months)[months], []
        if self.against is Against.SERIES:
            if self.other is None:
                raise Refusal("No series is chosen to set it against.", todo="Choose one.")
            other = state.lines[state.chosen((self.other,))[0]]
        else:
            other = self._column(state, line.name)
        other = on_periods_of(line, other)
        return other.countable(provisional=True), [other]

    def _column(self, state: State, name: str) -> Line:
        """The same series of another measure, on the same calendar."""
        known = state.observations.measures
        if self.measure not in known or state.calendar is None or state.selection is None:
            raise Refusal("No other column is chosen.", place=f"the columns are {', '.join(known)}", todo="Choose one.")
        if name not in state.observations.series:
            raise Refusal(f"{name} is not in the file.", todo="Choose a series that came with the file.")
        if state.calendar.expected.grain != state.grain:
            raise Refusal("The lines were put on another grain since.", todo="Put this entry on the first grain.")
        frame = state.observations.frames[self.measure]
        combine = nature_of_measure(state.observations, self.measure).combine
        lines = state.calendar.complete(frame, state.observations.series, combine, {})
        return lines[state.observations.series.index(name)]
