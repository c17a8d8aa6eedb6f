"""Shade the span between two lines."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Annotated, ClassVar

import numpy as np
from pydantic import Field

from zembra.core.calendar.lines import Line
from zembra.core.english import upper_first
from zembra.core.entries.readings.clauses.edges import AgainstNumber, AgainstReading, AgainstSeries, AnyAgainst
from zembra.core.errors import Refusal
from zembra.core.ledger.entry import Group
from zembra.core.ledger.evidence import SERIES, count, measure, table
from zembra.core.ledger.lineentry import Account, LineEntry, LineResult, rows_of
from zembra.core.ledger.registry import register
from zembra.core.ledger.shapes import Area, Curve, Rests, shape_id
from zembra.core.ledger.state import State, Study


@register
class Between(LineEntry):
    kind: ClassVar[str] = "between"
    group: ClassVar[Group] = Group.READINGS
    title: ClassVar[str] = "Shaded between two lines"
    hint: ClassVar[str] = "What lies between two readings, series or numbers; with how often the series is inside."
    rank: ClassVar[int] = 9

    one: Annotated[AnyAgainst, Field(title="first line", discriminator="kind")] = AgainstNumber(number=90)
    other: Annotated[AnyAgainst, Field(title="second line", discriminator="kind")] = AgainstNumber(number=110)
    named: Annotated[str, Field(title="name", max_length=60)] = "between"

    def template(self) -> str:
        return "Shade between {one} and {other}, called {named}, and tell it for {series}."

    def refers_to(self) -> tuple[str, ...]:
        return (*self.one.refers_to(), *self.other.refers_to())

    def others(self, state: State, line: Line) -> tuple[Line, ...]:
        return (*self.one.others(state, line), *self.other.others(state, line))

    def on_line(self, line: Line, study: Study) -> LineResult:
        # of a band the edge that faces the other line
        edges = np.array([*self.one.edges(line, study)[:2], *self.other.edges(line, study)[:2]])
        open_ = np.isnan(edges).any(axis=0)
        lower, upper = edges[:, ~open_].min(axis=0), edges[:, ~open_].max(axis=0)
        if not lower.size:
            raise Refusal(f"The two lines of {line.name} share no {study.grain.singular}.", todo="Choose others.")
        middle = Curve(
            id=shape_id(study.entry_id, line.name, "middle"),
            entry=study.entry_id,
            series=line.name,
            name=self.named or "between",
            kind=self.kind,
            periods=line.periods[~open_],
            value=(lower + upper) / 2,
            drawn=False,
        )
        area = Area(
            id=shape_id(study.entry_id, line.name, "between"),
            entry=study.entry_id,
            series=line.name,
            name=self.named or "between",
            curve_id=middle.id,
            periods=line.periods[~open_],
            lower=lower,
            upper=upper,
        )
        values = line.counted[~open_]
        inside = int(((values >= lower) & (values <= upper)).sum())
        above, below = int((values > upper).sum()), int((values < lower).sum())
        rows = ((line.name, inside, above, below, float((upper - lower).mean())),)
        return LineResult(shapes=(middle, area), touched=inside, rows=rows)

    def account(self, made: Sequence[LineResult], study: Study) -> Account:
        columns = (
            SERIES,
            count("inside", f"{study.grain.plural.capitalize()} between"),
            count("above", "Above both"),
            count("below", "Below both"),
            measure("width", "Mean distance of the two"),
        )
        return Account("between", (table(upper_first(self.named) or "Between", columns, rows_of(made)),))

    @classmethod
    def suggest(cls, state: State) -> Between:
        """Suggest the span between the two newest readings of the first series, or between two series."""
        first = state.lines[0] if state.lines else None
        if first is None:
            return cls()
        drawn = [
            shape.entry
            for shape in state.shapes
            if isinstance(shape, Curve)
            and shape.series == first.name
            and shape.drawn
            and shape.rests is not Rests.PROJECTED
        ]
        entries = list(dict.fromkeys(drawn))
        if len(entries) > 1:
            nearer, other = (AgainstReading(reading=entry) for entry in entries[-2:])
            return cls(series=(first.name,), one=nearer, other=other)
        if len(state.lines) > 1:
            one_series, other_series = (AgainstSeries(other=line.name) for line in state.lines[:2])
            return cls(series=(first.name,), one=one_series, other=other_series)
        known = first.counted[~np.isnan(first.counted)]
        if not known.size:
            return cls()
        low, high = (float(f"{edge:.3g}") for edge in np.percentile(known, (25, 75)))
        return cls(series=(first.name,), one=AgainstNumber(number=low), other=AgainstNumber(number=high))
