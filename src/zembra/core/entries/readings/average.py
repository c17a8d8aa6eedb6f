"""Moving averages and other rolling statistics."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Annotated, ClassVar

import numpy as np
from pydantic import Field

from zembra.core.calendar.lines import Line
from zembra.core.english import upper_first
from zembra.core.entries.readings.clauses.averages import Exponential, How, PlainMean
from zembra.core.entries.readings.windowed import Windowed
from zembra.core.ledger.evidence import SERIES, count, measure, table
from zembra.core.ledger.lineentry import Account, LineResult, rows_of
from zembra.core.ledger.registry import register
from zembra.core.ledger.shapes import Curve, shape_id
from zembra.core.ledger.state import Study


@register
class Average(Windowed):
    kind: ClassVar[str] = "average"
    title: ClassVar[str] = "Average"
    hint: ClassVar[str] = (
        "Mean, middle, sum, smallest, spread and more over a window; what does not count is passed over."
    )
    rank: ClassVar[int] = 1

    how: Annotated[How, Field(title="what is taken", discriminator="kind")] = PlainMean()

    def template(self) -> str:
        over = "" if isinstance(self.how, Exponential) else " {window}"
        return f"{{how}}{over}, of {{series}}{self.about_tail}."

    def on_line(self, line: Line, study: Study) -> LineResult:
        values = self.counted(line)
        windows = None
        if isinstance(self.how, Exponential):
            found = self.how.along(values, line.cuts)
        else:
            windows = self.window.windows(line, study)
            found = self.how.over(values, windows, self.window.need)
        taken, faded = self.ended(line, found, windows)
        has = ~np.isnan(taken)
        points = int(has.sum())
        curve = Curve(
            id=shape_id(study.entry_id, line.name, "average"),
            entry=study.entry_id,
            series=line.name,
            name=self._named(study),
            kind=self.kind,
            periods=line.periods,
            value=taken,
            faded=faded,
            pale=None if windows is None else ~windows.whole,
        )
        last = float(taken[has][-1]) if points else None
        rows = ((line.name, points, len(line) - points, last),)
        return LineResult(shapes=(curve,), touched=points, rows=rows, warnings=self.stopped(line, taken, study))

    def account(self, made: Sequence[LineResult], study: Study) -> Account:
        exponential = isinstance(self.how, Exponential)
        if not any(effect.touched for effect in made):
            raise self.too_few(self.window.need, study)
        columns = (
            SERIES,
            count("points", "Points"),
            count("too_few", "Too few" if exponential else f"Too few of {self.window.size(study.grain)}"),
            measure("latest", f"Latest {self.how.name}"),
        )
        rows = rows_of(made)
        lowered = () if exponential else self.window.lowered
        return Account("points", (table(upper_first(self._named(study)), columns, rows),), lowered)

    def _named(self, study: Study) -> str:
        if isinstance(self.how, Exponential):
            return self.how.spoken
        return self.window.named(study.grain.singular, self.how.spoken)
