"""A straight trend line with its equation and R²."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Annotated, ClassVar

import numpy as np
from pydantic import Field

from zembra.core.arithmetic.regression import StraightFit, first_known, steps_since, straight_fit
from zembra.core.errors import Refusal
from zembra.core.grammar import Moment, Word
from zembra.core.ledger.entry import Group, register
from zembra.core.ledger.evidence import SERIES, Column, ColumnKind, count, measure, period, table
from zembra.core.ledger.lineentry import LineEntry, Made, Told
from zembra.core.ledger.state import Study
from zembra.core.ledger.words import Counting
from zembra.core.lines import Line
from zembra.core.shapes import Curve, shape_id


@register
class Trend(LineEntry):
    kind: ClassVar[str] = "trend"
    group: ClassVar[Group] = Group.READINGS
    title: ClassVar[str] = "Straight trend line"
    hint: ClassVar[str] = "The least-squares line, with its equation and R²."
    rank: ClassVar[int] = 3

    start: Annotated[Moment | None, Field(title="from"), Word(empty="the beginning")] = None
    end: Annotated[Moment | None, Field(title="to"), Word(empty="the end")] = None
    provisional: Annotated[Counting, Field(title="provisional periods")] = Counting.NOT

    def template(self) -> str:
        return "Draw a straight trend line through {series}[, from {start} to {end}][, provisional {@periods} {provisional}]."

    def on_line(self, line: Line, study: Study) -> Made:
        found = self._fitted(line, study)
        if found is None:
            return Made(rows=((line.name, "too few numbers", None, None, None, None),))
        fit, first, last = found
        inside = (line.periods >= first) & (line.periods <= last)
        curve = Curve(
            id=shape_id(study.by, line.name, "trend"),
            entry=study.by,
            series=line.name,
            name="trend line",
            kind=self.kind,
            periods=line.periods[inside],
            value=fit.at(steps_since(line.periods[inside], first)),
        )
        rows = ((line.name, fit.equation, study.grain.label(first), fit.r2, fit.spread, fit.points),)
        return Made(shapes=(curve,), touched=fit.points, rows=rows, facts=fit)

    def told(self, made: Sequence[Made], study: Study) -> Told:
        if not any(one.shapes for one in made):
            raise Refusal("A trend line needs two numbers at two times.", todo="Widen the range, or fill blanks.")
        unit = "dates, in seconds" if study.grain.singular == "date" else study.grain.plural
        columns = (
            SERIES,
            Column("equation", f"Equation, x in {unit}", ColumnKind.EQUATION),
            period("origin", "x is 0 at"),
            measure("r2", "R²"),
            measure("spread", "Residual spread (n − 2)"),
            count("points", "Points"),
        )
        evidence = table("Straight trend line", columns, (row for one in made for row in one.rows))
        r2 = made[0].facts.r2 if len(made) == 1 else None
        return Told("points" if r2 is None else f"points, R² {r2:.3f}", (evidence,))

    def _fitted(self, line: Line, study: Study) -> tuple[StraightFit, int, int] | None:
        """(the fit, the period where x is 0, the last period drawn)."""
        values = line.since_begin(line.countable(provisional=self.provisional.yes))
        if self.start:
            values = np.where(line.periods < study.grain.span(self.start)[0], np.nan, values)
        if self.end:
            values = np.where(line.periods > study.grain.span(self.end)[1], np.nan, values)
        first = first_known(line.periods, values)
        if first is None:
            return None
        fit = straight_fit(steps_since(line.periods, first), values)
        last = int(line.periods[np.flatnonzero(~np.isnan(values))[-1]])
        return (fit, first, last) if fit else None
