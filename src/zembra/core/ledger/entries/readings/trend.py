"""A straight trend line with its equation and R²."""

from __future__ import annotations

from dataclasses import replace
from typing import Annotated, ClassVar

import numpy as np
from pydantic import Field

from zembra.core.arithmetic.regression import StraightFit, first_known, steps_since, straight_fit
from zembra.core.errors import Refusal
from zembra.core.grammar import Moment, Nouns, Word
from zembra.core.ledger.entry import Entry, Group, register
from zembra.core.ledger.state import Cell, Outcome, State, Table
from zembra.core.ledger.words import Counting
from zembra.core.lines import Drawn, Line


@register
class Trend(Entry):
    kind: ClassVar[str] = "trend"
    group: ClassVar[Group] = Group.READINGS
    title: ClassVar[str] = "Straight trend line"
    hint: ClassVar[str] = "The least-squares line, with its equation and R²."
    rank: ClassVar[int] = 3

    series: Annotated[tuple[str, ...], Field(title="series"), Word(options="lines", empty="every series")] = ()
    start: Annotated[Moment | None, Field(title="from"), Word(empty="the beginning")] = None
    end: Annotated[Moment | None, Field(title="to"), Word(empty="the end")] = None
    provisional: Annotated[Counting, Field(title="provisional periods")] = Counting.NOT

    def template(self) -> str:
        return "Draw a straight trend line through {series}[, from {start} to {end}][, provisional {@periods} {provisional}]."

    def label(self, nouns: Nouns) -> str:
        return "trend line"

    def apply(self, state: State, by: str) -> Outcome:
        drawn: list[Drawn] = []
        rows: list[tuple[Cell, ...]] = []
        points = 0
        for place in state.chosen(self.series):
            line = state.lines[place]
            found = self._fitted(state, line)
            if found is None:
                rows.append((line.name, "too few numbers", None, None, None, None))
                continue
            fit, first, last = found
            points += fit.points
            inside = (line.periods >= first) & (line.periods <= last)
            x = steps_since(line.periods[inside], first)
            rows.append((line.name, fit.equation, state.grain.label(first), fit.r2, fit.spread, fit.points))
            drawn.append(Drawn(line.name, self.label(state.nouns), self.kind, by, line.periods[inside], fit.at(x)))
        if not drawn:
            raise Refusal("A trend line needs two numbers at two times.", todo="Widen the range, or fill blanks.")
        unit = "dates, in seconds" if state.grain.singular == "date" else state.grain.plural
        columns = ("Series", f"Equation, x in {unit}", "x is 0 at", "R²", "Residual spread (n − 2)", "Points")
        evidence = Table("Straight trend line", columns, tuple(rows))
        r2 = rows[0][3] if len(rows) == 1 else None
        told = f"points, R² {r2:.3f}" if isinstance(r2, float) else "points"
        return Outcome(replace(state, drawn=(*state.drawn, *drawn)), points, told, (evidence,))

    def _fitted(self, state: State, line: Line) -> tuple[StraightFit, int, int] | None:
        """(the fit, the period where x is 0, the last period drawn)."""
        values = line.since_begin(line.countable(provisional=self.provisional.yes))
        if self.start:
            values = np.where(line.periods < state.grain.span(self.start)[0], np.nan, values)
        if self.end:
            values = np.where(line.periods > state.grain.span(self.end)[1], np.nan, values)
        first = first_known(line.periods, values)
        if first is None:
            return None
        fit = straight_fit(steps_since(line.periods, first), values)
        last = int(line.periods[np.flatnonzero(~np.isnan(values))[-1]])
        return (fit, first, last) if fit else None
