"""A band of standard deviations either side of a moving average, over the same window."""

from __future__ import annotations

import math
from collections.abc import Sequence
from typing import Annotated, ClassVar

import numpy as np
from pydantic import Field

from zembra.core.arithmetic.windows import moving_spread
from zembra.core.grammar import Word
from zembra.core.ledger.entry import register
from zembra.core.ledger.evidence import SERIES, count, percent, table
from zembra.core.ledger.lineentry import Made, Told
from zembra.core.ledger.state import Study
from zembra.core.ledger.windowed import Tail, Windowed
from zembra.core.lines import Line
from zembra.core.shapes import Area, Curve, shape_id


@register
class Band(Windowed):
    kind: ClassVar[str] = "band"
    title: ClassVar[str] = "Band"
    hint: ClassVar[str] = "Standard deviations either side of a moving average, over the same window."
    rank: ClassVar[int] = 2

    times: Annotated[float, Field(title="standard deviations", gt=0, le=10), Word(step=0.5)] = 2.0

    def template(self) -> str:
        return (
            "Shade {times} standard deviations (n − 1) either side of the average of {window}, of {series}"
            f"{self.about_tail}."
        )

    @property
    def _level(self) -> float:
        """The coverage of such a band if the spread were normal; what was found stands in Evidence."""
        return round(100 * math.erf(self.times / math.sqrt(2)), 1)

    def on_line(self, line: Line, study: Study) -> Made:
        window = self.window
        mean, faded = self.averaged(line)
        values = line.countable(provisional=self.tail is Tail.COUNTED)
        spread = moving_spread(values, window.length, window.before, window.need, line.cuts)
        lower, upper = mean - self.times * spread, mean + self.times * spread
        judged = ~np.isnan(lower) & ~np.isnan(values)
        inside = int(((values >= lower) & (values <= upper))[judged].sum())
        points = int(judged.sum())
        name = window.named(study.grain.singular, "band")
        middle = Curve(
            id=shape_id(study.by, line.name, "middle"),
            entry=study.by,
            series=line.name,
            name=name,
            kind=self.kind,
            periods=line.periods,
            value=mean,
            faded=faded,
        )
        area = Area(
            id=shape_id(study.by, line.name, "band"),
            entry=study.by,
            series=line.name,
            name=name,
            of=middle.id,
            periods=line.periods,
            lower=lower,
            upper=upper,
            level=self._level,
        )
        share = 100 * inside / points if points else None
        rows = ((line.name, points, inside, share, self._level),)
        return Made(shapes=(middle, area), touched=points, rows=rows, warnings=self.stopped(line, mean, study))

    def told(self, made: Sequence[Made], study: Study) -> Told:
        if not any(one.touched for one in made):
            raise self.too_few(max(2, self.window.need), study)
        columns = (
            SERIES,
            count("judged", "Points judged"),
            count("inside", "Inside"),
            percent("inside_share", "Inside, %"),
            percent("normal_share", "Inside if the spread were normal, %"),
        )
        title = self.window.named(study.grain.singular, "band").capitalize()
        rows = (row for one in made for row in one.rows)
        return Told("points", (table(title, columns, rows),), self.window.lowered)
